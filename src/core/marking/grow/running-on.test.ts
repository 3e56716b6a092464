import { describe, expect, test } from 'vitest';
import type { StrokeShape } from '../../area';
import { strokeShape } from '../../testing/jobs';
import { seenOf } from '..';
import { grainy } from '../testing';
import { runningOn } from './running-on';

type Colour = readonly [number, number, number];
const dark: Colour = [0.16, 0.14, 0.12];
/** How far a place lies off a line that slopes a little, which ends at two columns. */
const rodAt = (x: number, y: number, from: number, to: number) =>
  x > from && x < to ? Math.abs(y - (60 + 0.2 * (x - 60))) : Number.POSITIVE_INFINITY;
const along = (x0: number, x1: number, steps = 1) =>
  Array.from({ length: steps + 1 }, (_, k) => {
    const x = x0 + ((x1 - x0) * k) / steps;
    return [x, 60 + 0.2 * (x - 60) + (k % 2)] as const;
  });
const scribble = (points: readonly (readonly [number, number])[], radiusPx = 4) =>
  strokeShape(points, radiusPx) as StrokeShape;

describe('a scribble along something thin', () => {
  const photo = grainy(400, 160, (x, y) =>
    rodAt(x, y, 50, 330) < 1.6 ? dark : x < 290 ? [0.7, 0.75, 0.8] : [0.4, 0.5, 0.25],
  );
  const seen = seenOf(photo);

  test.each([
    ['two points', along(80, 290)],
    ['a hand’s many points', along(80, 290, 40)],
  ])('runs on to both ends of it, before another ground too: %s', (_, points) => {
    const stroke = scribble(points);
    const on = runningOn(seen, stroke);
    const [first, last] = [on.points[0], on.points[on.points.length - 1]];
    expect(Math.abs(first[0] - 50)).toBeLessThan(5);
    expect(Math.abs(last[0] - 330)).toBeLessThan(5);
    for (const [x, y] of [first, last]) expect(Math.abs(y - (60 + 0.2 * (x - 60)))).toBeLessThan(2);
    expect(on.points.slice(1, -1)).toEqual(stroke.points);
  });

  test('runs on by a quarter of its length at most', () => {
    const on = runningOn(seen, scribble(along(150, 200)));
    expect(on.points[0][0]).toBeGreaterThan(150 - 0.25 * 50 - 2);
    expect(on.points[on.points.length - 1][0]).toBeLessThan(200 + 0.25 * 50 + 2);
    expect(on.points.length).toBe(4);
  });

  test('goes on only in the direction in which it ends', () => {
    // From beside the rod onto it: nothing thin lies under where it begins.
    const bent = [[120, 20], [120, 70], ...along(126, 250)] as const;
    const on = runningOn(seen, scribble(bent, 3));
    expect(on.points[0]).toEqual([120, 20, 1]);
    expect(on.points[on.points.length - 1][0]).toBeGreaterThan(255);
  });

  test('stays as it is on something wide, on nothing at all, and where it is a dot', () => {
    const wide = seenOf(grainy(400, 160, (x, y) => (rodAt(x, y, 50, 330) < 15 ? dark : [0.7, 0.75, 0.8])));
    const plain = seenOf(grainy(400, 160, () => [0.7, 0.75, 0.8]));
    for (const [where, points] of [
      [wide, along(80, 290)],
      [plain, along(80, 290)],
      [seen, [[150, 78]] as const],
    ] as const) {
      const stroke = scribble(points, 8);
      expect(runningOn(where, stroke)).toBe(stroke);
    }
  });
});
