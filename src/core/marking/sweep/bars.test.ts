import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { partsOf, standingOut } from './bars';

const [w, h] = [83, 71];
const random = makeRandom(4);
const values = Float32Array.from(
  { length: w * h },
  (_, i) => 40 + ((i % w) / 4) * random.next() + 9 * random.next(),
);
const within = (v: number, most: number) => Math.min(most, Math.max(0, v));

/** The mean of what there is of a square. */
function meanAt(x: number, y: number, r: number): number {
  let [sum, count] = [0, 0];
  for (let v = Math.max(0, y - r); v <= Math.min(h - 1, y + r); v++)
    for (let u = Math.max(0, x - r); u <= Math.min(w - 1, x + r); u++) {
      sum += values[v * w + u];
      count++;
    }
  return sum / count;
}

/** In plain loops: the least, over four directions, of what a square exceeds the greater of both its sides by. */
function barAt(x: number, y: number, r: number, sign: number): number {
  const d = 2 * r + 1;
  const s = Math.max(1, Math.round(d * Math.SQRT1_2));
  const at = (dx: number, dy: number) => sign * meanAt(within(x + dx, w - 1), within(y + dy, h - 1), r);
  const sides = [
    [d, 0],
    [0, d],
    [s, s],
    [s, -s],
  ].map(([dx, dy]) => Math.max(at(dx, dy), at(-dx, -dy)));
  return at(0, 0) - Math.min(...sides);
}

describe('what stands out', () => {
  test.each([1, 2])('is what plain loops find, lighter and darker, at half sides of %i', (r) => {
    const found = standingOut(values, w, h, r, [1, -1]);
    found.forEach(({ bars }, k) => {
      for (let y = 0; y < h; y++)
        for (let x = 0; x < w; x++) expect(bars[y * w + x]).toBeCloseTo(barAt(x, y, r, k ? -1 : 1), 3);
    });
    const [dark] = standingOut(values, w, h, r, [-1]);
    expect(dark).toEqual(found[1]);
  });

  test('counts in what is usual in the blocks round about, smoothly from block to block', () => {
    const [{ bars, deviations }] = standingOut(values, w, h, 1, [1]);
    const usual = (bx: number, by: number) => {
      const list: number[] = [];
      for (let y = 64 * by; y < Math.min(h, 64 * by + 64); y += 2)
        for (let x = 64 * bx; x < Math.min(w, 64 * bx + 64); x += 2) list.push(bars[y * w + x]);
      list.sort((a, b) => a - b);
      const middle = list[list.length >> 1];
      return { middle, spread: Math.max(0.1, list[Math.floor(list.length * 0.97)] - middle) };
    };
    const blocks = [usual(0, 0), usual(1, 0), usual(0, 1), usual(1, 1)];
    for (const [x, y] of [
      [0, 0],
      [31, 31],
      [40, 70],
      [82, 3],
      [64, 64],
    ]) {
      const share = (v: number) => Math.min(1, Math.max(0, (v + 0.5) / 64 - 0.5));
      const [u, v] = [share(x), share(y)];
      const weights = [(1 - u) * (1 - v), u * (1 - v), (1 - u) * v, u * v];
      const mix = (of: 'middle' | 'spread') => weights.reduce((s, k, i) => s + k * blocks[i][of], 0);
      const wanted = (bars[y * w + x] - mix('middle')) / mix('spread');
      expect(deviations[y * w + x]).toBeCloseTo(wanted, 3);
    }
  });

  test('parts hang together, none lies in two, and each is strongest where it says', () => {
    const [{ bars, deviations }] = standingOut(values, w, h, 1, [1]);
    const parts = partsOf(deviations, bars, w, h, 1);
    expect(parts.length).toBeGreaterThan(3);
    const all = parts.flatMap(({ pixels }) => pixels);
    expect(new Set(all).size).toBe(all.length);
    for (const { pixels, peak } of parts) {
      expect(Math.max(...pixels.map((i) => bars[i]))).toBe(bars[peak]);
      const isBeside = (i: number) =>
        pixels.some(
          (j) =>
            j !== i &&
            Math.max(Math.abs((i % w) - (j % w)), Math.abs(Math.floor(i / w) - Math.floor(j / w))) === 1,
        );
      if (pixels.length > 1) expect(pixels.every(isBeside)).toBe(true);
    }
  });
});
