import { describe, expect, test } from 'vitest';
import { boundsOfArea, noMasks, rasteriseArea } from '../../core/area';
import { noSteer, transact, undoOn } from '../../core/job';
import { aboutOf } from '../../core/methods';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf, strokeShape } from '../../core/testing/jobs';
import { noisePhoto } from '../../core/testing/pictures';
import { emptySource, sourceAt, takenBefore, varied } from './brush-source';
import { movedMend, movedSource, turnedSource } from './move-mend';
import { joinable, joinMends, mendBelow, partsOf, splitMend } from './parts';
import { initialState } from './state';

const { next } = initialState;

describe('where a brush takes from', () => {
  const set = { ...emptySource, at: { x: 100, y: 50 } };

  test('from the point set, at a distance that later strokes keep', () => {
    expect(sourceAt(emptySource, { x: 10, y: 20 }, next)).toBeNull();
    expect(sourceAt(set, { x: 10, y: 20 }, next)).toEqual({ dx: 90, dy: 30 });
    const fixed = { ...set, fixed: { dx: 90, dy: 30, about: [10, 20] as const } };
    expect(sourceAt(fixed, { x: 40, y: 20 }, next)).toEqual({ dx: 90, dy: 30 });
    expect(sourceAt(fixed, { x: 40, y: 20 }, { ...next, keepsDistance: false })).toEqual({ dx: 60, dy: 30 });
  });

  test('on a rail the source keeps to its direction', () => {
    const rail = { angleDeg: 0, slackPx: 0 };
    expect(sourceAt(set, { x: 10, y: 20 }, { ...next, rail })).toEqual({ dx: 90, dy: 0 });
  });

  test('turned, it turns about where the first stroke began', () => {
    const turned = { ...set, turnDeg: 30, fixed: { dx: 90, dy: 30, about: [10, 20] as const } };
    expect(sourceAt(turned, { x: 40, y: 25 }, next)).toMatchObject({ turnDeg: 30, about: [10, 20] });
  });

  test('strokes vary within the limits given, and every other one is mirrored', () => {
    const vary = { jitterPx: 12, mirror: true, walk: false };
    for (const chance of [
      [0, 1],
      [0.3, 0.5],
      [0.9, 0.99],
    ] as const) {
      const { dx, dy, mirror } = varied({ dx: 90, dy: 30 }, vary, 1, chance);
      expect(Math.hypot(dx - 90, dy - 30)).toBeLessThanOrEqual(13);
      expect(mirror).toBe(true);
    }
    expect(varied({ dx: 90, dy: 30 }, vary, 2, [0, 0])).toEqual({ dx: 90, dy: 30 });
  });

  test('a place that was taken from before is known again', () => {
    const earlier = [
      { from: { x: 100, y: 100 }, sizePx: 40 },
      { from: { x: 110, y: 104 }, sizePx: 40 },
      { from: { x: 200, y: 100 }, sizePx: 40 },
    ];
    expect(takenBefore({ x: 104, y: 100 }, 40, earlier)).toBe(2);
    expect(takenBefore({ x: 104, y: 300 }, 40, earlier)).toBe(0);
  });
});

describe('moving and turning', () => {
  const mend = mendOf('clone', areaOfShapes([boxShape(100, 100, 40, 20)]), { dx: 60, dy: 10 });

  test('a moved mend takes its source along, and what it turns about', () => {
    const turned = { ...mend, source: { dx: 60, dy: 10, turnDeg: 20, about: [120, 110] as const } };
    const moved = { ...turned, ...movedMend(turned, 7, -3) };
    expect(boundsOfArea(moved.area)).toMatchObject({ x: 107, y: 97 });
    expect(moved.source).toMatchObject({ dx: 60, dy: 10, about: [127, 107] });
  });

  test('a source on a rail slides along it only', () => {
    const railed = { ...mend, steer: { ...noSteer, rail: { angleDeg: 0, slackPx: 4 } } };
    expect(movedSource(railed, 15, 40)).toMatchObject({ dx: 75, dy: 0 });
    expect(movedSource(mend, 15, 40)).toMatchObject({ dx: 75, dy: 50 });
  });

  test('the handle turns what is laid on the other way, and twice as far out makes it half as large', () => {
    const [ax, ay] = aboutOf(mend);
    const middle = { x: ax + 60, y: ay + 10 };
    const grip = { kind: 'turn', mendId: mend.id, x: middle.x, y: middle.y - 50 } as const;
    const quarter = turnedSource(mend, grip, 50, 50);
    expect(quarter).toMatchObject({ turnDeg: -90, scale: 1 });
    expect(turnedSource(mend, grip, 0, -50)).toMatchObject({ turnDeg: 0, scale: 0.5 });
  });
});

describe('splitting and joining', () => {
  test('a long stroke falls into pieces that share their ends and cover what the whole did', () => {
    const points = Array.from({ length: 101 }, (_, i) => [10 * i, 50] as const);
    const parts = partsOf(areaOfShapes([strokeShape(points, 20)]));
    expect(parts.length).toBe(7);
    const ends = parts.map(({ shapes: [s] }) => (s.kind === 'stroke' ? [s.points[0], s.points.at(-1)] : []));
    for (let i = 1; i < ends.length; i++) expect(ends[i][0]).toEqual(ends[i - 1][1]);
    expect(ends[0][0]![0]).toBe(0);
    expect(ends.at(-1)![1]![0]).toBe(1000);
  });

  test('split, then joined again, the area is the same', () => {
    const photo = noisePhoto(60, 40, 1);
    const mend = mendOf('heal', areaOfShapes([boxShape(5, 5, 10, 10), boxShape(30, 5, 10, 10)]), {
      dx: 0,
      dy: 20,
    });
    const split = splitMend(mend)!;
    const { job } = transact(jobOf(photo, [layerOf([mend])]), split.command)!;
    expect(job.layers[0].mends).toHaveLength(2);
    const [below, upper] = job.layers[0].mends;
    expect(joinable(job, [upper.id, below.id])).toEqual([below, upper]);
    expect(mendBelow(job, upper.id)).toBe(below);
    expect(joinable(job, [below.id])).toBeNull();
    expect(mendBelow(job, below.id)).toBeNull();
    const joined = transact(job, joinMends([below, upper]))!.job;
    expect(joined.layers[0].mends).toHaveLength(1);
    expect(joined.layers[0].mends[0].area.shapes).toEqual(mend.area.shapes);
  });

  test('what was still to go for any of the joined is still to go for all, once they are one', () => {
    const later = (x: number) => areaOfShapes([boxShape(x, 20, 10, 10)]);
    const island = (x: number, pending: ReturnType<typeof later> | null) =>
      mendOf('fill', areaOfShapes([boxShape(x, 5, 10, 10)]), null, { pending });
    const joinedOf = (mends: ReturnType<typeof island>[]) =>
      transact(jobOf(noisePhoto(60, 40, 1), [layerOf(mends)]), joinMends(mends))!.job.layers[0].mends[0];
    const [first, last] = [island(5, later(40)), island(30, null)];
    expect(joinedOf([first, last]).pending?.shapes).toEqual(later(40).shapes);
    expect(joinedOf([island(5, null), last]).pending).toBeNull();
  });

  test('the parts of a fill each have a try of their own, in the same step', () => {
    const fill = mendOf('fill', areaOfShapes([boxShape(5, 5, 10, 10), boxShape(30, 5, 10, 10)]), null, {
      tries: [{ id: 'old', seed: 1 }],
      chosenTry: 'old',
    });
    const { job } = transact(jobOf(noisePhoto(60, 40, 1), [layerOf([fill])]), splitMend(fill)!.command)!;
    const [below, upper] = job.layers[0].mends;
    expect(new Set([below.chosenTry, upper.chosenTry, 'old']).size).toBe(3);
    const [joined] = transact(job, joinMends([below, upper]))!.job.layers[0].mends;
    expect(joined.tries).toHaveLength(2);
    expect(joined.chosenTry).toBe(joined.tries[1].id);
  });

  test('several are joined at once, and what was taken away from one is not taken from the others', () => {
    const bar = (x: number) => boxShape(x, 5, 10, 10);
    const away = { ...bar(12), op: 'subtract' as const };
    const mends = [[bar(5)], [bar(10), away], [bar(14)]].map((shapes) =>
      mendOf('heal', areaOfShapes(shapes), { dx: 0, dy: 20 }),
    );
    const job = jobOf(noisePhoto(60, 40, 1), [layerOf(mends)]);
    const ids = mends.map((m) => m.id);
    expect(joinable(job, ids)).toEqual(mends);
    const { job: joined, transaction } = transact(job, joinMends(mends))!;
    const [only] = joined.layers[0].mends;
    expect(joined.layers[0].mends).toHaveLength(1);
    const rect = { x: 0, y: 0, w: 60, h: 40 };
    const parts = mends.map((m) => rasteriseArea(m.area, rect, noMasks));
    expect(Array.from(rasteriseArea(only.area, rect, noMasks))).toEqual(
      Array.from(parts[0], (v, i) => Math.max(v, parts[1][i], parts[2][i])),
    );
    expect(undoOn(joined, transaction)).toEqual(job);
    const other = { ...mends[2], area: { ...mends[2].area, shapes: [bar(14), away] } };
    expect(
      joinable(jobOf(noisePhoto(60, 40, 1), [layerOf([mends[1], other])]), [ids[1], ids[2]]),
    ).not.toBeNull();
    const third = {
      ...other,
      area: { ...other.area, shapes: [bar(14), { ...bar(20), op: 'subtract' as const }] },
    };
    expect(joinable(jobOf(noisePhoto(60, 40, 1), [layerOf([mends[1], third])]), [ids[1], ids[2]])).toBeNull();
  });

  test('one short piece cannot be split', () => {
    expect(splitMend(mendOf('clone', areaOfShapes([strokeShape([[5, 5]], 10)])))).toBeNull();
  });
});
