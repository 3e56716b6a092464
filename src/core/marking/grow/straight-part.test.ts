import fc from 'fast-check';
import { expect, test } from 'vitest';
import { straightParts } from './straight-part';

const numbersOf = (...given: Parameters<typeof straightParts>) =>
  straightParts(...given).map(({ from, to }) => [from, to]);

const stroke = (...points: readonly (readonly [number, number])[]) =>
  points.map(([x, y]) => [x, y, 1] as const);

test('a stroke with a corner is two straight parts', () => {
  const points = stroke([0, 0], [20, 1], [40, -1], [60, 0], [60, 30], [61, 60]);
  expect(numbersOf(points, 2, 40)).toEqual([
    [0, 3],
    [3, 5],
  ]);
});

test('a hand that strays to both sides goes straight', () => {
  const points = stroke(...Array.from({ length: 41 }, (_, k) => [5 * k, 2.9 * Math.sin(k)] as const));
  const [{ from, to, start, end }, ...others] = straightParts(points, 3.5, 40);
  expect([from, others.length]).toEqual([0, 0]);
  expect(to).toBeGreaterThanOrEqual(39);
  for (const [, y] of [start, end]) expect(Math.abs(y)).toBeLessThan(0.7);
});

test('a slow hand leaves many points, and they say the same', () => {
  const slow = stroke(...Array.from({ length: 3001 }, (_, k) => [k / 10, 2 * Math.sin(k / 40)] as const));
  const [{ from, to, start, end }, ...others] = straightParts(slow, 4, 40);
  expect([from, to, others.length]).toEqual([0, 3000, 0]);
  for (const [, y] of [start, end]) expect(Math.abs(y)).toBeLessThan(0.7);
});

test('short parts are none', () => {
  const points = stroke([0, 0], [60, 0], [60, 10], [0, 10]);
  expect(numbersOf(points, 2, 40)).toEqual([
    [0, 1],
    [2, 3],
  ]);
  expect(straightParts(points, 2, 100)).toEqual([]);
  expect(straightParts(stroke([3, 3]), 2, 1)).toEqual([]);
  expect(straightParts(stroke([3, 3], [3, 3]), 2, 1)).toEqual([]);
});

test('parts follow each other, are long enough and have no point farther off than the radius', () => {
  const coordinate = fc.double({ min: 0, max: 100, noNaN: true });
  fc.assert(
    fc.property(
      fc.array(fc.tuple(coordinate, coordinate), { minLength: 1, maxLength: 30 }),
      fc.double({ min: 0.5, max: 20, noNaN: true }),
      fc.double({ min: 1, max: 60, noNaN: true }),
      (given, radius, least) => {
        const points = stroke(...given);
        let before = 0;
        for (const { from, to, start, end } of straightParts(points, radius, least)) {
          expect(from).toBeGreaterThanOrEqual(before);
          expect(to).toBeGreaterThan(from);
          before = to;
          const [dx, dy] = [end[0] - start[0], end[1] - start[1]];
          const length = Math.hypot(dx, dy);
          expect(length).toBeGreaterThanOrEqual(least);
          // What is left out for lying near another point is at most half a radius farther off.
          for (const [x, y] of points.slice(from, to + 1))
            expect(Math.abs(dx * (y - start[1]) - dy * (x - start[0])) / length).toBeLessThanOrEqual(
              1.5 * radius + 1e-6,
            );
        }
      },
    ),
  );
});
