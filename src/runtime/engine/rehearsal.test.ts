import { expect, it, vi } from 'vitest';
import { areaOfShapes, jobOf, layerOf, mendOf, strokeShape } from '../../core/testing/jobs';
import { noisePhoto } from '../../core/testing/pictures';
import { Engine } from './engine';
import { rehearseStrokes } from './rehearsal';

const area = areaOfShapes([strokeShape([[90, 80]], 60, 0.5)]);
const mends = (['clone', 'heal'] as const).map((method) => mendOf(method, area, { dx: 70, dy: 90 }));
const job = jobOf(noisePhoto(40, 30), [layerOf([])]);

it('strokes are rehearsed to their end, and let other work in between', async () => {
  const extended = vi.spyOn(Engine.prototype, 'extendStroke');
  let asked = 0;
  await rehearseStrokes(job, mends, async () => ++asked > 0);
  // Each point is painted: it changes pixels that would be shown.
  expect(extended.mock.results.map(({ value }) => value.length > 0)).toEqual(new Array(60).fill(true));
  expect(asked).toBe(31);
  extended.mockRestore();
});

it('nothing more is rehearsed once somebody paints', async () => {
  const extended = vi.spyOn(Engine.prototype, 'extendStroke');
  let asked = 0;
  await rehearseStrokes(job, mends, async () => ++asked < 3);
  expect(extended).toHaveBeenCalledTimes(2);
  await rehearseStrokes(job, mends, async () => false);
  expect(extended).toHaveBeenCalledTimes(2);
  extended.mockRestore();
});
