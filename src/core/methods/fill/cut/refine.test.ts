import { expect, test } from 'vitest';
import { nearestSource } from '../frame';
import { shrink } from '../levels';
import { boxHole, frameOf, noisy } from '../testing';
import { refineMap } from './refine';

const [w, h] = [160, 100];
const hole = boxHole(w, h, 60, 30, 40, 40);

test('a doubled shift is brought back to its place across ruled ground', () => {
  const across = Float32Array.from({ length: w * h }, (_, p) => p % w);
  const index = new Uint8Array(w * h).fill(1);
  const list = [{ nx: 1, ny: 0, slack: 1.5, period: 10 }];
  const fine = { ...frameOf(noisy(w, h, 4), hole), rules: { index, list, across } };
  const coarse = shrink(fine);
  // Thirty-four pixels to the left, and what could not be taken from there: thirty would be whole periods.
  const label = coarse.hole.reduce(
    (out, v, p) => {
      out[p] = v ? (p % coarse.w < 35 ? 0 : 1) : -1;
      return out;
    },
    new Int32Array(coarse.w * coarse.h),
  );
  const { shifts, label: refined } = refineMap(fine, coarse, {
    shifts: [
      { dx: -17, dy: 3 },
      { dx: 26, dy: 0 },
    ],
    label,
  });
  hole.forEach((v, p) => {
    if (v) expect(shifts[refined[p]]).toEqual(p % w < 70 ? { dx: -30, dy: 6 } : { dx: 50, dy: 0 });
  });
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

test('the nearest source is the nearest of all, the first of those as near', () => {
  const frame = frameOf(noisy(61, 43, 4), boxHole(61, 43, 20, 10, 22, 24));
  const source = frame.source.map((v, p) => ((p * 7919) % 13 === 0 ? v : 0));
  for (const of of [
    frame,
    { ...frame, source },
    { ...frame, source: source.map((v, p) => (p > 2500 ? v : 0)) },
  ])
    for (const p of [22 * 61 + 30, 10 * 61 + 20, 33 * 61 + 41]) {
      let [best, least] = [-1, Number.POSITIVE_INFINITY];
      of.source.forEach((v, q) => {
        const d = ((q % 61) - (p % 61)) ** 2 + (Math.floor(q / 61) - Math.floor(p / 61)) ** 2;
        if (v && d < least) [best, least] = [q, d];
      });
      expect(nearestSource(of, p)).toBe(best);
    }
  expect(nearestSource({ ...frame, source: new Uint8Array(61 * 43) }, 700)).toBe(-1);
});
