import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { makeRandom } from '../random';
import { type FloatImage, makeFloatImage, sampleMean, sampleSharp } from '.';

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
  sampleMean(image, 30, 30, 1, out, 0);
  expect(out[0]).toBeCloseTo(image.data[4 * (30 * 64 + 30)], 6);
  sampleMean(image, 31.5, 31.5, 8, out, 0);
  let sum = 0;
  for (let y = 28; y < 36; y++) for (let x = 28; x < 36; x++) sum += image.data[4 * (y * 64 + x)];
  expect(out[0]).toBeCloseTo(sum / 64, 6);
});
