import { expect, test } from 'vitest';
import type { Job, Layer } from '../job';
import { makeRandom } from '../random';
import type { Raster } from '../raster';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf } from '../testing/jobs';
import { noisePhoto, paintPhoto } from '../testing/pictures';
import { busyJob, evaluatorOf, render } from './testing';

test('a mend reads what lies below it, or the photo only, as it says', () => {
  const photo = noisePhoto(300, 100, 6);
  const first = mendOf('clone', areaOfShapes([boxShape(100, 0, 50, 50)]), { dx: 100, dy: 0 });
  const second = (reads: 'below' | 'photo') =>
    mendOf('clone', areaOfShapes([boxShape(0, 0, 50, 50)]), { dx: 100, dy: 0 }, { reads });
  const below = render(photo, jobOf(photo, [layerOf([first, second('below')])]));
  const plain = render(photo, jobOf(photo, [layerOf([first, second('photo')])]));
  expect(below.data[0]).toBe(photo.data[200 * 4]);
  expect(plain.data[0]).toBe(photo.data[100 * 4]);
});

test.each([8, 16] as const)(
  'read pixel by pixel it sees what it sees of a rectangle, whatever it reads, at %i bits',
  (depth) => {
    const photo = paintPhoto(520, 400, depth, (x, y) => [0.3, (x % 17) / 16, y / 400, y % 5 ? 1 : 0.4]);
    const job = busyJob(photo);
    const evaluator = evaluatorOf(photo, job);
    const rect = { x: 190, y: 170, w: 211, h: 180 };
    const random = makeRandom(depth);
    const pixels = Int32Array.from({ length: 3000 }, () => random.below(rect.w * rect.h));
    const top = job.layers[1].mends[1];
    const readLayers = [job.layers[0].id];
    for (const reads of ['below', 'layer', 'chosen', 'photo'] as const) {
      const { read, readAlong } = evaluator.contextOf({ ...top, reads, readLayers });
      const { data } = read(rect);
      const wanted = Float32Array.from(
        { length: 4 * pixels.length },
        (_, i) => data[4 * pixels[i >> 2] + (i & 3)],
      );
      expect(readAlong(rect, pixels)).toEqual(wanted);
    }
  },
);

test('told to read chosen layers, a mend sees what these make of the photo, with their own opacity', () => {
  const photo = noisePhoto(300, 100, 8);
  const move = (x: number, dx: number, extra: object = {}) =>
    mendOf('clone', areaOfShapes([boxShape(x, 0, 50, 50)]), { dx, dy: 0 }, { reads: 'photo', ...extra });
  const low = { ...layerOf([move(100, 100)]), opacity: 0.5 };
  const mid = layerOf([move(100, 150)]);
  const reader = (readLayers: string[]) => layerOf([move(0, 100, { reads: 'chosen', readLayers })]);
  const at = (readLayers: string[], layers: Layer[] = [low, mid]) =>
    render(photo, jobOf(photo, [...layers, reader(readLayers)])).data[4 * 20];
  const value = (x: number) => photo.data[4 * x];
  expect(at([])).toBe(value(120));
  expect(at(['a layer that is gone'])).toBe(value(120));
  expect(at([mid.id])).toBe(value(270));
  expect(Math.abs(at([low.id]) - (value(120) + value(220)) / 2)).toBeLessThanOrEqual(1);
  expect(at([low.id, mid.id])).toBe(value(270));
  expect(at([mid.id, low.id], [mid, low])).toBe(render(photo, jobOf(photo, [mid, low])).data[4 * 120]);
  // Above the reader nothing is read, whether it is chosen or not.
  const first = reader([mid.id]);
  expect(render(photo, jobOf(photo, [first, mid])).data[4 * 20]).toBe(value(120));
});

test('told to read its layer only, a mend sees what that layer makes of the photo, whatever other layers do', () => {
  const photo = noisePhoto(300, 100, 6);
  const move = (x: number, dx: number, reads: 'below' | 'layer' = 'below') =>
    mendOf('clone', areaOfShapes([boxShape(x, 0, 50, 50)]), { dx, dy: 0 }, { reads });
  const other = layerOf([move(100, 100)]);
  const own = (reads: 'below' | 'layer') => layerOf([move(60, 180, 'layer'), move(0, 80, reads)]);
  const at = (raster: Raster, x: number) => raster.data[4 * x];
  const alone = render(photo, jobOf(photo, [own('layer')]));
  const above = jobOf(photo, [other, own('layer')]);
  // Columns 80 to 109 come from the layer's own first mend, the rest from the photo: never from the layer below.
  expect(at(render(photo, above), 10)).toBe(at(photo, 270));
  expect(at(render(photo, above), 40)).toBe(at(photo, 120));
  expect(at(render(photo, jobOf(photo, [other, own('below')])), 40)).toBe(at(photo, 220));
  expect(at(alone, 10)).toBe(at(photo, 270));
  // A change in the other layer leaves its key, one in its own does not.
  const key = (job: Job) => {
    const layer = job.layers[job.layers.length - 1];
    return evaluatorOf(photo, job).inputKey(layer.mends[layer.mends.length - 1]);
  };
  const same = jobOf(photo, [layerOf([move(100, 90)]), above.layers[1]]);
  expect(key(same)).toBe(key(above));
  const changed = {
    ...above,
    layers: [
      other,
      {
        ...above.layers[1],
        mends: [{ ...above.layers[1].mends[0], opacity: 0.5 }, above.layers[1].mends[1]],
      },
    ],
  };
  expect(key(changed)).not.toBe(key(above));
});
