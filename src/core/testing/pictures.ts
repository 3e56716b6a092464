import { makeRandom } from '../random';
import {
  copyFloat,
  type Depth,
  type FloatImage,
  makeFloatImage,
  makeRaster,
  type Raster,
  type Rect,
  valueMax,
} from '../raster';

/** Pictures for tests: seeded, so that every run sees the same. */

export function noisePhoto(width: number, height: number, seed = 1, depth: Depth = 8): Raster {
  const random = makeRandom(seed);
  return paintPhoto(width, height, depth, () => [random.next(), random.next(), random.next()]);
}

/** Waves of a few scales with fine grain: smooth enough to be healed, varied enough to be told apart. */
export function texturedPhoto(width: number, height: number, seed = 1, depth: Depth = 8): Raster {
  const random = makeRandom(seed);
  return paintPhoto(width, height, depth, (x, y) => {
    const slow = 0.5 + 0.2 * Math.sin(x / 31) * Math.cos(y / 47);
    const fast = 0.08 * Math.sin(x / 3.1 + Math.sin(y / 9));
    const grain = 0.03 * (random.next() - 0.5);
    return [slow + fast + grain, slow * 0.9 + fast + grain, 0.8 - slow * 0.5 + grain];
  });
}

/** Colours 0…1 by place. */
export function paintPhoto(
  width: number,
  height: number,
  depth: Depth,
  at: (x: number, y: number) => readonly [number, number, number, number?],
): Raster {
  const raster = makeRaster(width, height, 4, depth);
  const max = valueMax(depth);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i += 4) {
      const [r, g, b, a = 1] = at(x, y);
      raster.data.set([r * max + 0.5, g * max + 0.5, b * max + 0.5, a * max + 0.5], i);
    }
  return raster;
}

/** Gives parts of an image, as methods read them. */
export const partsOf =
  (image: FloatImage) =>
  (rect: Rect): FloatImage => {
    const part = makeFloatImage(rect);
    copyFloat(image, part);
    return part;
  };

/** An image as methods read it: parts of it, and pixels of parts. */
export function readsOf(image: FloatImage) {
  const read = partsOf(image);
  return {
    read,
    readAlong: (rect: Rect, pixels: Int32Array): Float32Array => {
      const { data } = read(rect);
      return Float32Array.from({ length: 4 * pixels.length }, (_, i) => data[4 * pixels[i >> 2] + (i & 3)]);
    },
  };
}

/** How many samples differ, and by how much at most. */
export function differences(a: ArrayLike<number>, b: ArrayLike<number>): { count: number; most: number } {
  let count = a.length === b.length ? 0 : Math.abs(a.length - b.length);
  let most = 0;
  for (let i = 0; i < Math.min(a.length, b.length); i++) {
    if (a[i] === b[i]) continue;
    count++;
    most = Math.max(most, Math.abs(a[i] - b[i]));
  }
  return { count, most };
}

/** Makes pictures whose every pixel has a little grain, each picture other grain. */
export function grainyPhotos(seed: number) {
  const random = makeRandom(seed);
  return (w: number, h: number, at: (x: number, y: number) => readonly [number, number, number]): Raster =>
    paintPhoto(w, h, 8, (x, y) => {
      const n = (random.next() - 0.5) * 0.03;
      const [r, g, b] = at(x, y);
      return [r + n, g + n, b + n];
    });
}
