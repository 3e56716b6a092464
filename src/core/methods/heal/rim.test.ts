import fc from 'fast-check';
import { expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { makeFloatImage } from '../../raster';
import { coloursAlong, evened, rimPlaces } from './rim';

test('a rim is what lies right beside, and evened colours are means along it, as a slow search finds them', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 9 }), fc.nat(999), (reach, seed) => {
      const random = makeRandom(seed);
      const rect = { x: 7, y: -3, w: 23, h: 17 };
      const image = makeFloatImage(rect);
      image.data.forEach((_, i) => {
        image.data[i] = random.next();
      });
      const coverage = Float32Array.from({ length: rect.w * rect.h }, () => (random.next() < 0.2 ? 1 : 0));
      const valid = Uint8Array.from(coverage, () => (random.next() < 0.9 ? 1 : 0));
      const rim = rimPlaces(rect, coverage, valid);
      const isRim = (x: number, y: number) => {
        const at = (u: number, v: number) =>
          u >= 0 && v >= 0 && u < rect.w && v < rect.h && coverage[v * rect.w + u] > 0;
        const isNext = at(x - 1, y) || at(x + 1, y) || at(x, y - 1) || at(x, y + 1);
        return isNext && !at(x, y) && valid[y * rect.w + x] === 1;
      };
      let k = 0;
      const means = evened(coloursAlong(rim, image), rim, reach);
      for (let y = 0; y < rect.h; y++)
        for (let x = 0; x < rect.w; x++) {
          if (!isRim(x, y)) continue;
          expect([rim.xs[k], rim.ys[k]]).toEqual([x, y]);
          const near: number[] = [];
          for (let v = Math.max(0, y - reach); v <= Math.min(rect.h - 1, y + reach); v++)
            for (let u = Math.max(0, x - reach); u <= Math.min(rect.w - 1, x + reach); u++)
              if (isRim(u, v)) near.push(v * rect.w + u);
          for (let c = 0; c < 3; c++)
            expect(means[c][k]).toBeCloseTo(
              near.reduce((sum, i) => sum + image.data[4 * i + c], 0) / near.length,
              9,
            );
          k++;
        }
      expect(rim.xs.length).toBe(k);
    }),
    { numRuns: 40 },
  );
});
