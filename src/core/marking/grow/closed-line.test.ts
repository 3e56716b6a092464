import fc from 'fast-check';
import { expect, test } from 'vitest';
import { hullOf, type Point, sizeOf } from './closed-line';

test('a square is as long and as large as it is, whichever way round', () => {
  const square: Point[] = [
    [0, 0],
    [3, 0],
    [3, 3],
    [0, 3],
  ];
  expect(sizeOf(square)).toEqual({ length: 12, area: 9 });
  expect(sizeOf([...square].reverse())).toEqual({ length: 12, area: -9 });
  expect(sizeOf([])).toEqual({ length: 0, area: 0 });
});

test('a hull holds all points, and turns one way only', () => {
  const coordinate = fc.integer({ min: -40, max: 40 });
  fc.assert(
    fc.property(fc.array(fc.tuple(coordinate, coordinate), { maxLength: 30 }), (points) => {
      const hull = hullOf(points);
      const turn = (k: number, [x, y]: Point) => {
        const [[ax, ay], [bx, by]] = [hull.at(k - 1)!, hull[k]];
        return (bx - ax) * (y - ay) - (by - ay) * (x - ax);
      };
      hull.forEach((corner, k) => {
        expect(points).toContainEqual(corner);
        for (const p of points) expect(turn(k, p)).toBeGreaterThanOrEqual(0);
        if (hull.length > 2) expect(turn(k, hull[(k + 1) % hull.length])).toBeGreaterThan(0);
      });
      expect(sizeOf(hull).area).toBeGreaterThanOrEqual(0);
    }),
  );
});
