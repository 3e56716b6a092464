import { expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import { pixelBytes } from '../frame';
import { meanColours } from './means';

test.each([
  [1, 1, 0],
  [1, 1, 3],
  [9, 4, 2],
  [13, 17, 3],
  [5, 6, 40],
])('of %i × %i pixels with radius %i are those of plain code', (w, h, radius) => {
  const random = makeRandom(w * h + radius);
  const img = Uint8Array.from({ length: w * h * pixelBytes }, () => random.below(256));
  for (const counted of [null, Uint8Array.from({ length: w * h }, () => random.below(2))]) {
    const means = meanColours(img, w, h, radius, counted);
    for (let y = 0, p = 0; y < h; y++)
      for (let x = 0; x < w; x++, p++) {
        const near: number[] = [];
        for (let q = 0; q < w * h; q++) {
          const away = Math.max(Math.abs((q % w) - x), Math.abs(Math.floor(q / w) - y));
          if (away <= radius && (!counted || counted[q])) near.push(q);
        }
        for (let c = 0; c < 3; c++) {
          const sum = near.reduce((s, q) => s + img[q * pixelBytes + c], 0);
          expect(means[3 * p + c]).toBeCloseTo(near.length > 0 ? sum / near.length : 0, 3);
        }
      }
  }
});
