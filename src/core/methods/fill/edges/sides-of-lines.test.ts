import fc from 'fast-check';
import { expect, test } from 'vitest';
import { sidesOfLines } from './sides-of-lines';

const [w, h] = [61, 47];
const coordinate = (to: number) => fc.double({ min: 0, max: to, noNaN: true });
const place = fc.tuple(coordinate(w), coordinate(h));

/** How far a pixel lies off a line, to its left. */
const off = ([x0, y0, x1, y1]: readonly number[], p: number): number =>
  ((x1 - x0) * (Math.floor(p / w) - y0) - (y1 - y0) * ((p % w) - x0)) / Math.hypot(x1 - x0, y1 - y0);

test('a line through all parts what lies to its left from what lies to its right', () => {
  fc.assert(
    fc.property(place, place, (a, b) => {
      fc.pre(Math.hypot(a[0] - b[0], a[1] - b[1]) > 2);
      const line = [...a, ...b] as const;
      const sides = sidesOfLines([{ line, ends: false }], w, h, 5);
      const seen: Set<number>[] = [new Set(), new Set()];
      sides.forEach((side, p) => {
        if (Math.abs(off(line, p)) > 2.5) seen[off(line, p) > 0 ? 1 : 0].add(side);
      });
      for (const numbers of seen) expect(numbers.size).toBeLessThan(2);
      if (seen.every(({ size }) => size === 1)) expect(seen[0]).not.toEqual(seen[1]);
    }),
  );
});

test('two that cross part four sides, one that ends by itself none', () => {
  const level = { line: [5, 20, 50, 20], ends: false } as const;
  const steep = { line: [30, 5, 30, 40], ends: false } as const;
  expect(new Set(sidesOfLines([level, steep], w, h, 5)).size).toBe(4);
  expect(new Set(sidesOfLines([{ ...level, ends: true }], w, h, 5)).size).toBe(1);
  expect(new Set(sidesOfLines([], w, h, 5)).size).toBe(1);
});

test('those of a corner meet when they end near enough to each other', () => {
  const corner = (gap: number) =>
    sidesOfLines(
      [
        { line: [0, 20, 30 - gap, 20], ends: true },
        { line: [30, 0, 30, 20 - gap], ends: true },
        { line: [60, 46, 30, 20], ends: true },
      ],
      w,
      h,
      5,
    );
  expect(new Set(corner(0)).size).toBe(3);
  expect(new Set(corner(4)).size).toBe(3);
  expect(new Set(corner(9)).size).toBe(1);
  // Whatever was covered by a line lies on one of the sides now.
  expect(Math.max(...corner(0))).toBe(2);
});
