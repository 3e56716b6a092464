import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { makeRandom } from '../random';
import { type FloatImage, gaussianBlur, makeFloatImage, sampleFootprint, sampleMean, sampleSharp } from '.';

function noise(w: number, h: number, seed: number): FloatImage {
  const random = makeRandom(seed);
  const image = makeFloatImage({ x: 0, y: 0, w, h });
  for (let i = 0; i < image.data.length; i += 4)
    image.data.set([random.next(), random.next(), random.next(), 1], i);
  return image;
}

const sharp = (image: FloatImage, x: number, y: number, usable: Uint8Array | null = null) => {
  const out = new Float32Array(4);
  sampleSharp(image, x, y, usable, out, 0);
  return out;
};

const lanczos = (x: number) => {
  if (x === 0) return 1;
  if (Math.abs(x) >= 3) return 0;
  const a = Math.PI * x;
  return (3 * Math.sin(a) * Math.sin(a / 3)) / (a * a);
};

describe('sharp sampling', () => {
  const image = noise(40, 30, 1);

  test('whole positions are copied exactly', () => {
    for (const [x, y] of [
      [0, 0],
      [39, 29],
      [17, 11],
    ])
      expect(sharp(image, x, y)).toEqual(image.data.slice(4 * (y * 40 + x), 4 * (y * 40 + x) + 4));
  });

  test('between pixels it is the sum of Lanczos weights, within the neighbours’ range and a quarter more', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 4, max: 34, noNaN: true }),
        fc.double({ min: 4, max: 24, noNaN: true }),
        (x, y) => {
          const [x0, y0] = [Math.floor(x), Math.floor(y)];
          if (Math.abs(x - Math.round(x)) < 0.01 && Math.abs(y - Math.round(y)) < 0.01) return;
          let [sum, total, low, high] = [0, 0, 1, 0];
          for (let v = y0 - 2; v <= y0 + 3; v++)
            for (let u = x0 - 2; u <= x0 + 3; u++) {
              const weight = lanczos(x - u) * lanczos(y - v);
              const value = image.data[4 * (v * 40 + u)];
              sum += weight * value;
              total += weight;
              if (u < x0 || u > x0 + 1 || v < y0 || v > y0 + 1) continue;
              low = Math.min(low, value);
              high = Math.max(high, value);
            }
          const room = (high - low) / 4;
          const wanted = Math.min(high + room, Math.max(low - room, sum / total));
          expect(sharp(image, x, y)[0]).toBeCloseTo(wanted, 1.7);
        },
      ),
    );
  });

  test('pixels that must not be touched count for nothing', () => {
    const poisoned = { ...image, data: image.data.slice() };
    const usable = new Uint8Array(40 * 30).fill(1);
    for (let y = 0; y < 30; y++)
      for (let x = 22; x < 40; x++) {
        usable[y * 40 + x] = 0;
        poisoned.data.fill(1e6, 4 * (y * 40 + x), 4 * (y * 40 + x) + 3);
      }
    for (const x of [19.4, 20.3, 20.7]) expect(Math.max(...sharp(poisoned, x, 12.6, usable))).toBeLessThan(2);
  });

  test('a bold edge rings by no more than a quarter of its height', () => {
    const edge = makeFloatImage({ x: 0, y: 0, w: 40, h: 30 });
    for (let i = 0; i < 1200; i++) edge.data.fill(i % 40 < 20 ? 0.2 : 0.8, 4 * i, 4 * i + 4);
    for (let x = 14; x < 26; x += 0.13) {
      const [v] = sharp(edge, x, 15.5);
      expect(v).toBeGreaterThan(0.2 - 0.151);
      expect(v).toBeLessThan(0.8 + 0.151);
    }
  });
});

test('mean sampling averages its footprint', () => {
  const image = noise(64, 64, 2);
  const out = new Float32Array(4);
  sampleMean(image, 30, 30, 1, null, out, 0);
  expect(out[0]).toBeCloseTo(image.data[4 * (30 * 64 + 30)], 6);
  sampleMean(image, 31.5, 31.5, 8, null, out, 0);
  let sum = 0;
  for (let y = 28; y < 36; y++) for (let x = 28; x < 36; x++) sum += image.data[4 * (y * 64 + x)];
  expect(out[0]).toBeCloseTo(sum / 64, 6);
  // What is not usable has no share.
  const usable = new Uint8Array(64 * 64);
  sampleMean(image, 30.4, 30, 1, usable, out, 0);
  expect(out[0]).toBeCloseTo(sum / 64, 6);
  usable[30 * 64 + 31] = 1;
  sampleMean(image, 30.4, 30, 1, usable, out, 0);
  expect(out[0]).toBe(image.data[4 * (30 * 64 + 31)]);
});

describe('sampling over a footprint', () => {
  const over = (
    image: FloatImage,
    x: number,
    y: number,
    across: readonly [number, number],
    down: readonly [number, number],
    usable: Uint8Array | null = null,
  ) => {
    const out = new Float32Array(4);
    sampleFootprint(image, x, y, across, down, usable, out, 0);
    return out;
  };

  test('of a pixel’s size it is sharp sampling', () => {
    const image = noise(40, 30, 3);
    for (const [x, y] of [
      [17, 11],
      [20.3, 14.8],
    ])
      expect(over(image, x, y, [1.1, 0.2], [-0.3, 0.9])).toEqual(sharp(image, x, y));
  });

  test('what is too fine to be seen in the smaller picture vanishes, along the direction that gets smaller alone', () => {
    const [w, h] = [80, 80];
    const stripes = (isAcross: boolean) => {
      const image = makeFloatImage({ x: 0, y: 0, w, h });
      for (let i = 0; i < w * h; i++) {
        const phase = isAcross ? i % w : Math.floor(i / w);
        image.data.fill(0.5 + 0.4 * Math.sin((2 * Math.PI * phase) / 2.6), 4 * i, 4 * i + 4);
      }
      return image;
    };
    const spread = (image: FloatImage) => {
      const values = Array.from(
        { length: 30 },
        (_, k) => over(image, 30 + 0.37 * k, 25 + k, [0, 0.9], [2.9, 0])[0],
      );
      return Math.max(...values) - Math.min(...values);
    };
    expect(spread(stripes(true))).toBeLessThan(0.1);
    expect(spread(stripes(false))).toBeGreaterThan(0.5);
  });

  test('grain that is made smaller is no stronger than that of a photo as soft as any', () => {
    const [w, h] = [240, 240];
    const photo = noise(w, h, 4);
    gaussianBlur(photo.data, w, h, 0.5);
    const stepsOf = (at: (x: number, y: number) => number) => {
      let sum = 0;
      for (let k = 0; k < 40; k++) for (let j = 0; j < 40; j++) sum += (at(k + 1, j) - at(k, j)) ** 2;
      return Math.sqrt(sum / 1600);
    };
    const own = stepsOf((x, y) => photo.data[4 * ((60 + y) * w + 60 + x)]);
    const smaller = stepsOf((x, y) => over(photo, 40 + 3 * x, 40 + 3 * y, [3, 0], [0, 3])[0]);
    expect(smaller).toBeLessThan(own);
  });

  test('pixels that must not be touched count for nothing', () => {
    const image = makeFloatImage({ x: 0, y: 0, w: 30, h: 30 });
    const usable = new Uint8Array(900).fill(1);
    for (let i = 0; i < 900; i++) {
      if (i % 30 > 17) usable[i] = 0;
      image.data.fill(i % 30 > 17 ? 1e6 : 0.25, 4 * i, 4 * i + 4);
    }
    expect(over(image, 15, 15, [3, 0], [0, 2], usable)[0]).toBeCloseTo(0.25, 5);
  });
});
