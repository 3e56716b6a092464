import fc from 'fast-check';
import { expect, test } from 'vitest';
import { instantiateKernel, thinLinesWasm } from '../../../kernels';
import { makeRandom } from '../../../random';
import type { ThinLineKernel } from './thin-lines';

const k = instantiateKernel<ThinLineKernel>(thinLinesWasm);
const [w, h, reach, away, gap, stretch] = [46, 40, 20, 3, 2, 5];

/** A picture of chance with some of it unknown, in the kernel's memory. */
function scene(seed: number) {
  const random = makeRandom(seed);
  const px = Float32Array.from({ length: 3 * w * h }, () => 255 * random.next());
  const known = Uint8Array.from({ length: w * h }, () => (random.next() < 0.97 ? 1 : 0));
  k.release();
  const [pxAt, knownAt, greyAt] = [12 * w * h, w * h, 4 * w * h].map(k.claim);
  new Float32Array(k.memory.buffer, pxAt, px.length).set(px);
  new Uint8Array(k.memory.buffer, knownAt, known.length).set(known);
  k.begin(pxAt, knownAt, w, h, greyAt, reach, away, gap, stretch);
  const greyOf = (x: number, y: number) => {
    const p = y * w + x;
    return known[p] ? Math.fround((px[3 * p] + 2 * px[3 * p + 1] + px[3 * p + 2]) / 4) : Number.NaN;
  };
  return { random, greyOf };
}

const seeds = fc.integer({ min: 1, max: 1e6 });

test('stretches of a line stand out by the mean of what lies between pixels on it, less that on both sides or one', () => {
  fc.assert(
    fc.property(seeds, fc.constantFrom(-1, 0, 1), fc.constantFrom(-1, 1), (seed, side, way) => {
      const { random, greyOf } = scene(seed);
      const valueAt = (x: number, y: number) => {
        const [i, j] = [Math.floor(x), Math.floor(y)];
        if (i < 0 || j < 0 || i >= w - 1 || j >= h - 1) return Number.NaN;
        const [u, v] = [x - i, y - j];
        return (
          (1 - u) * (1 - v) * greyOf(i, j) +
          u * (1 - v) * greyOf(i + 1, j) +
          (1 - u) * v * greyOf(i, j + 1) +
          u * v * greyOf(i + 1, j + 1)
        );
      };
      const angle = random.next() * Math.PI;
      const [ux, uy] = [Math.cos(angle), Math.sin(angle)];
      const [ox, oy, start] = [w * random.next(), h * random.next(), 8 * random.next()];
      const out = k.claim(64);
      const count = k.dips(ox, oy, ux, uy, start, way, side, out);
      const wanted: number[] = [];
      for (let from = gap; from + stretch <= reach + 1; from += stretch) {
        const dips: number[] = [];
        for (let s = from; s < from + stretch; s++) {
          const [x, y] = [ox + ux * (start + way * s), oy + uy * (start + way * s)];
          const [left, right] = [-1, 1].map((of) => valueAt(x - of * uy * away, y + of * ux * away));
          const beside = side === 0 ? (left + right) / 2 : side < 0 ? left : right;
          if (!Number.isNaN(valueAt(x, y) - beside)) dips.push(valueAt(x, y) - beside);
        }
        if (2 * dips.length > stretch) wanted.push(dips.reduce((sum, v) => sum + v, 0) / dips.length);
      }
      expect(count).toBe(wanted.length);
      wanted.forEach((v, n) => {
        expect(new Float64Array(k.memory.buffer, out, count)[n]).toBeCloseTo(v, 6);
      });
    }),
    { numRuns: 80 },
  );
});

test('of the lines in one direction those are told that stand out on both sides of the hole, alike', () => {
  const [leastCrossed, mostUneven, weakShare, fewest] = [4, 8, 0.4, 2];
  let some = 0;
  fc.assert(
    fc.property(seeds, (seed) => {
      const { random, greyOf } = scene(seed);
      const rim: number[] = [];
      for (let y = 15; y < 25; y++)
        for (let x = 17; x < 29; x++) if (x % 11 === 6 || y % 9 === 6) rim.push(x, y);
      const [mx, my, radius] = [22.5, 19.5, 9];
      const angle = random.next() * Math.PI;
      const [ux, uy] = [Math.cos(angle), Math.sin(angle)];
      const rimAt = k.claim(4 * rim.length);
      new Int32Array(k.memory.buffer, rimAt, rim.length).set(rim);
      const [room, out] = [k.claim(8 * (2 * radius + 1) + 64), k.claim(32 * (2 * radius + 1))];
      const count = k.across(
        rimAt,
        rim.length / 2,
        mx,
        my,
        radius,
        ux,
        uy,
        leastCrossed,
        mostUneven,
        weakShare,
        fewest,
        room,
        out,
      );
      const found = new Float64Array(k.memory.buffer, out, 4 * count);
      /** As the kernel's, but to the end of the line, and by sorting. */
      const strength = (x0: number, y0: number, vx: number, vy: number): number => {
        const means: number[] = [];
        let [lighter, darker] = [0, 0];
        for (let from = gap; from <= reach + 1 - stretch; from += stretch) {
          const dips: number[] = [];
          for (let s = from; s < from + stretch; s++) {
            const [x, y] = [x0 + vx * s + 0.5, y0 + vy * s + 0.5];
            if (x < away || y < away || x >= w - away || y >= h - away) break;
            const at = (n: number) => greyOf(Math.floor(x - n * vy * away), Math.floor(y + n * vx * away));
            const dip = at(0) - (at(-1) + at(1)) / 2;
            if (!Number.isNaN(dip)) dips.push(dip);
          }
          if (2 * dips.length <= stretch) continue;
          const mean = dips.reduce((sum, v) => sum + v, 0) / dips.length;
          means.push(mean);
          if (mean > 0) lighter++;
          else darker++;
        }
        const mayBeWeak = Math.floor((weakShare * (reach + 1 - gap)) / stretch);
        if (means.length < fewest || (lighter > mayBeWeak && darker > mayBeWeak)) return 0;
        means.sort((a, b) => a - b);
        const weak = Math.floor(weakShare * means.length);
        if (means[weak] > 0) return means[weak];
        return Math.min(0, means[means.length - 1 - weak]);
      };
      const wanted: number[] = [];
      for (let n = -radius; n <= radius; n++) {
        const alongs: number[] = [];
        for (let r = 0; r < rim.length; r += 2) {
          const [x, y] = [rim[r] - mx, rim[r + 1] - my];
          const off = ux * y - uy * x;
          if (n >= Math.floor(off) && n <= Math.ceil(off)) alongs.push(Math.fround(ux * x + uy * y));
        }
        const [from, to] = [Math.min(...alongs), Math.max(...alongs)];
        if (!(to - from >= leastCrossed)) continue;
        const [x, y] = [mx - uy * n, my + ux * n];
        const before = strength(x + ux * from, y + uy * from, -ux, -uy);
        const behind = strength(x + ux * to, y + uy * to, ux, uy);
        const ratio = Math.abs(before / behind);
        if (before * behind > 0 && ratio <= mostUneven && 1 / ratio <= mostUneven)
          wanted.push(n, from, to, Math.min(Math.abs(before), Math.abs(behind)));
      }
      some += wanted.length;
      expect(found.length).toBe(wanted.length);
      wanted.forEach((v, n) => {
        expect(found[n]).toBeCloseTo(v, 3);
      });
    }),
    { numRuns: 60 },
  );
  expect(some).toBeGreaterThan(100);
});
