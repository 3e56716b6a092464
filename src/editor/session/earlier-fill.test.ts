import { expect, test } from 'vitest';
import { noMasks } from '../../core/area';
import { noSteer } from '../../core/job';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf } from '../../core/testing/jobs';
import { noisePhoto } from '../../core/testing/pictures';
import { fillToRepeat, firstPassOf, withSettingsOf } from './earlier-fill';
import { steerDragged } from './steering';

const photo = noisePhoto(40, 40, 1);
const fillAt = (x: number, y: number, side: number, more = {}) =>
  mendOf('fill', areaOfShapes([boxShape(x, y, side, side)]), null, { params: { reach: 1 }, ...more });
const jobWith = (...mends: ReturnType<typeof mendOf>[]) => jobOf(photo, [layerOf(mends)]);

test('a second pass is a smaller mark on or right beside what a visible fill covers, the topmost of them', () => {
  const [under, over] = [fillAt(100, 100, 100), fillAt(120, 120, 90)];
  const small = fillAt(150, 150, 12);
  expect(firstPassOf(jobWith(under, over), small, noMasks)).toBe(over);
  expect(firstPassOf(jobWith(under, { ...over, visible: false }), small, noMasks)).toBe(under);
  expect(firstPassOf(jobWith(under), fillAt(205, 150, 12), noMasks)).toBe(under);
  expect(firstPassOf(jobWith(under), fillAt(225, 150, 12), noMasks)).toBeNull();
  expect(firstPassOf(jobWith(under), fillAt(90, 90, 140), noMasks)).toBeNull();
  expect(firstPassOf(jobWith({ ...under, method: 'heal' }), small, noMasks)).toBeNull();
});

test('another thing beside a fill is no second pass over it, unless much of it lies on that', () => {
  const job = jobWith(fillAt(100, 100, 100));
  expect(firstPassOf(job, fillAt(200, 120, 70), noMasks)).toBeNull();
  expect(firstPassOf(job, fillAt(170, 120, 70), noMasks)).toBeNull();
  expect(firstPassOf(job, fillAt(150, 120, 70), noMasks)).not.toBeNull();
});

test('a fill of scattered parts does not claim the room between them', () => {
  const scattered = mendOf('fill', areaOfShapes([boxShape(0, 0, 20, 20), boxShape(900, 900, 20, 20)]));
  expect(firstPassOf(jobWith(scattered), fillAt(450, 450, 30), noMasks)).toBeNull();
  expect(firstPassOf(jobWith(scattered), fillAt(905, 905, 6), noMasks)).toBe(scattered);
});

test('it takes the settings and looks as far as the first pass did', () => {
  const first = fillAt(0, 0, 100, {
    params: { reach: 1.5, mirror: 1 },
    steer: { ...noSteer, lines: [[0, 0, 9, 9]] },
  });
  const second = withSettingsOf(fillAt(40, 40, 10), first);
  expect(second.params).toEqual({ reach: 15, mirror: 1 });
  expect(second.steer).toBe(first.steer);
  // A number that can be read: 2.3, not 2.3000000000000003.
  expect(withSettingsOf(fillAt(40, 40, 44), first).params.reach).toBe(3.5);
  expect(withSettingsOf(fillAt(40, 40, 66), first).params.reach).toBe(2.3);
});

test('what is repeated is the fill filled last, as it is now; without one the topmost', () => {
  const [a, b, heal] = [
    fillAt(0, 0, 9),
    fillAt(20, 0, 9),
    mendOf('heal', areaOfShapes([boxShape(1, 1, 2, 2)])),
  ];
  expect(fillToRepeat(jobWith(a, b, heal), a.id)).toBe(a);
  expect(fillToRepeat(jobWith(a, b, heal), 'gone')).toBe(b);
  expect(fillToRepeat(jobWith(a, b, heal), heal.id)).toBe(b);
  expect(fillToRepeat(jobWith(heal), null)).toBeNull();
});

test('dragging a corner or a line’s end moves that one only', () => {
  const plane = [
    [0, 0],
    [10, 0],
    [10, 10],
    [0, 10],
  ] as const;
  const mend = fillAt(0, 0, 5, {
    steer: {
      ...noSteer,
      plane,
      lines: [
        [1, 1, 5, 5],
        [2, 2, 6, 6],
      ],
    },
  });
  const corner = steerDragged(mend, { kind: 'corner', mendId: mend.id, index: 2 }, 3, -4);
  expect(corner.plane).toEqual([plane[0], plane[1], [13, 6], plane[3]]);
  const end = steerDragged(mend, { kind: 'line-end', mendId: mend.id, index: 1, end: 0 }, 3, -4);
  expect(end.lines).toEqual([
    [1, 1, 5, 5],
    [5, -2, 6, 6],
  ]);
});
