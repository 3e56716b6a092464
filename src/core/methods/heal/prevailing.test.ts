import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { prevailing } from './prevailing';
import type { AlongRim, Rim } from './rim';

/** Round a circle of 40 pixels, and how large a part of it each point has behind it. */
const count = 240;
const angles = Array.from({ length: count }, (_, k) => (2 * Math.PI * k) / count);
const rim: Rim = {
  rect: { x: 0, y: 0, w: 100, h: 100 },
  xs: angles.map((a) => 50 + 40 * Math.cos(a)),
  ys: angles.map((a) => 50 + 40 * Math.sin(a)),
};
const valued = (value: (k: number, c: number) => number): AlongRim =>
  [0, 1, 2].map((c) => angles.map((_, k) => value(k, c)));

describe('what prevails along a rim', () => {
  test('is a level', () => {
    const d = valued((_, c) => 0.1 * c - 0.2);
    for (const off of prevailing(d, rim, 0.05)(d)) expect(off).toBeLessThan(1e-9);
  });

  test('follows light that falls off, with some reserve', () => {
    const d = valued((k) => 0.003 * (rim.xs[k] - 50) - 0.001 * (rim.ys[k] - 50));
    const offLevel = Math.max(...d[0].map((v) => Math.sqrt(3) * Math.abs(v)));
    expect(Math.max(...prevailing(d, rim, 0.1)(d))).toBeLessThan(0.6 * offLevel);
  });

  test.each([0.2, 0.35, 0.45])('is not moved by what lies far off it on a share of %f', (share) => {
    const random = makeRandom(4);
    const isElsewhere = (k: number) => k < share * count;
    const d = valued((k) => (isElsewhere(k) ? 0.6 : 0.05) + 0.04 * (random.next() - 0.5));
    prevailing(
      d,
      rim,
      0.1,
    )(d).forEach((off, k) => {
      if (isElsewhere(k)) expect(off).toBeGreaterThan(0.7);
      else expect(off).toBeLessThan(0.2);
    });
  });

  test('of two halves it is the one that is changed less', () => {
    for (const least of [0, 1]) {
      const d = valued((k) => (Math.floor((2 * k) / count) === least ? 0.1 : -0.5));
      prevailing(
        d,
        rim,
        0.05,
      )(d).forEach((off, k) => {
        if (Math.floor((2 * k) / count) === least) expect(off).toBeLessThan(0.05);
        else expect(off).toBeGreaterThan(0.9);
      });
    }
  });
});
