import { expect, test } from 'vitest';
import { mayTake } from './frame';
import { shrink } from './levels';
import { refineMap } from './refine';
import { boxHole, frameOf, noisy } from './testing';

const [w, h] = [160, 100];
const hole = boxHole(w, h, 60, 30, 40, 40);

test('a doubled shift is brought back to its place across ruled ground', () => {
  // Lines a little closer to each other on the left: nine and a half pixels, not ten.
  const period = 10;
  const across = Float32Array.from({ length: w * h }, (_, p) => {
    const x = p % w;
    return x < 60 ? 60 + ((x - 60) * 10) / 9.5 : x;
  });
  const index = new Uint8Array(w * h).fill(1);
  const list = [{ nx: 1, ny: 0, slack: 1.5, period }];
  const fine = { ...frameOf(noisy(w, h, 4), hole), rules: { index, list, home: null, across } };
  const coarse = shrink(fine);
  const label = new Int32Array(coarse.w * coarse.h).fill(-1);
  coarse.hole.forEach((v, p) => {
    if (v) label[p] = 0;
  });
  // From 44 pixels to the left: 43 would be whole periods for what lies in the middle.
  const { shifts, label: refined } = refineMap(fine, coarse, { shifts: [{ dx: -22, dy: 0 }], label });
  let [off, count] = [0, 0];
  hole.forEach((v, p) => {
    if (!v) return;
    const { dx, dy } = shifts[refined[p]];
    expect(mayTake(fine, p, dx, dy)).toBe(true);
    const d = across[p + dy * w + dx] - across[p];
    off += Math.abs(d - period * Math.round(d / period));
    count++;
  });
  expect(off / count).toBeLessThan(0.8);
});

test('without rules a shift is doubled as it is', () => {
  const fine = frameOf(noisy(w, h, 4), hole);
  const coarse = shrink(fine);
  const label = coarse.hole.reduce(
    (out, v, p) => {
      out[p] = v ? 0 : -1;
      return out;
    },
    new Int32Array(coarse.w * coarse.h),
  );
  const { shifts, label: refined } = refineMap(fine, coarse, { shifts: [{ dx: -22, dy: 3 }], label });
  hole.forEach((v, p) => {
    if (v) expect(shifts[refined[p]]).toEqual({ dx: -44, dy: 6 });
  });
});
