import { expect, test } from 'vitest';
import { noMasks } from '../area';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf } from '../testing/jobs';
import { noisePhoto } from '../testing/pictures';
import { type Job, type Mend, topmostAt } from '.';

const photo = noisePhoto(100, 80);

test('on top at a point is the last visible mend of the last visible layer whose area covers it', () => {
  const at = (id: string, x: number): Mend => ({
    ...mendOf('heal', areaOfShapes([boxShape(x, 20, 20, 20)])),
    id,
  });
  const lower = layerOf([at('a', 10), at('b', 20)]);
  const upper = layerOf([at('c', 30)]);
  const on = (job: Job, x: number) => topmostAt(job, { x, y: 25.5 }, noMasks);
  const job = jobOf(photo, [lower, upper]);
  expect([5, 15, 25, 35, 45].map((x) => on(job, x))).toEqual([null, 'a', 'b', 'c', 'c']);
  expect(on(jobOf(photo, [lower, { ...upper, visible: false }]), 35)).toBe('b');
  const withoutB = { ...lower, mends: lower.mends.map((m) => (m.id === 'b' ? { ...m, visible: false } : m)) };
  expect(on(jobOf(photo, [withoutB, upper]), 25)).toBe('a');
  expect(topmostAt(job, { x: 25, y: 60 }, noMasks)).toBeNull();
});
