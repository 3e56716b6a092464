import { describe, expect, test } from 'vitest';
import type { StrokeShape } from '../../area';
import { strokeShape } from '../../testing/jobs';
import { seenOf } from '..';
import { grainy } from '../testing';
import { ontoThinLines } from './thin-lines';

type Colour = readonly [number, number, number];
const dark: Colour = [0.16, 0.14, 0.12];
const light: Colour = [0.7, 0.75, 0.8];
const rodY = (x: number) => 60 + 0.2 * (x - 60);
/** How far a place lies off a line that slopes a little, which ends at two columns. */
const rodAt = (x: number, y: number, from: number, to: number) =>
  x > from && x < to ? Math.abs(y - rodY(x)) : Number.POSITIVE_INFINITY;
/** A stroke along it that strays from it to both sides in turn. */
const along = (x0: number, x1: number, steps = 1, strayPx = 0) =>
  Array.from({ length: steps + 1 }, (_, k) => {
    const x = x0 + ((x1 - x0) * k) / steps;
    return [x, rodY(x) + strayPx * Math.sin(k)] as const;
  });
const scribble = (points: readonly (readonly [number, number])[], radiusPx = 4) =>
  strokeShape(points, radiusPx) as StrokeShape;
const offRod = ({ points }: StrokeShape) => Math.max(...points.map(([x, y]) => Math.abs(y - rodY(x))));

describe('a scribble along something thin', () => {
  const photo = grainy(400, 160, (x, y) =>
    rodAt(x, y, 50, 330) < 1.6 ? dark : x < 290 ? light : [0.4, 0.5, 0.25],
  );
  const seen = seenOf(photo);

  test.each([
    ['two points', along(80, 290)],
    ['a hand’s many points', along(80, 290, 40, 3)],
  ])('is laid onto it and runs on to both its ends, before another ground too: %s', (_, points) => {
    const [on, ...others] = ontoThinLines(seen, scribble(points));
    expect(others).toEqual([]);
    expect(on.points.length).toBe(2);
    const [first, last] = on.points;
    expect(Math.abs(first[0] - 50)).toBeLessThan(5);
    expect(Math.abs(last[0] - 330)).toBeLessThan(5);
    expect(offRod(on)).toBeLessThan(1.5);
    expect(on.radiusPx).toBeLessThan(3);
  });

  test('is laid onto it in a large photo too, where all is five times as large', () => {
    const by = 5;
    const large = seenOf(
      grainy(400 * by, 160 * by, (x, y) => (rodAt(x / by, y / by, 50, 330) < 1.6 ? dark : light)),
    );
    const points = along(80, 290, 40, 3).map(([x, y]) => [by * x, by * y] as const);
    const [on, ...others] = ontoThinLines(large, scribble(points, 4 * by));
    expect(others).toEqual([]);
    for (const [x, y] of on.points) expect(Math.abs(y / by - rodY(x / by))).toBeLessThan(1.5);
    expect(on.points[0][0]).toBeLessThan(55 * by);
    expect(on.points[1][0]).toBeGreaterThan(325 * by);
    expect(on.radiusPx).toBeLessThan(3 * by);
  });

  test('runs on by a quarter of its length at most', () => {
    const [{ points }] = ontoThinLines(seen, scribble(along(150, 200)));
    expect(points[0][0]).toBeGreaterThan(150 - 0.25 * 50 - 2);
    expect(points[1][0]).toBeLessThan(200 + 0.25 * 50 + 2);
  });

  test('keeps those of its parts as they are that lie on nothing thin', () => {
    // From beside the rod onto it, and on along it.
    const bent = [[120, 20], [120, 70], ...along(126, 250)] as const;
    const [down, on, ...others] = ontoThinLines(seen, scribble(bent, 3));
    expect(others).toEqual([]);
    expect(down).toEqual(scribble(bent.slice(0, 2), 3));
    expect(on.points[0][0]).toBeLessThan(130);
    expect(on.points[1][0]).toBeGreaterThan(255);
    expect(offRod(on)).toBeLessThan(1.5);
  });

  test('leaves what stands out beside it, and in places only, to itself', () => {
    const beside = along(80, 290).map(([x, y]) => [x, y + 8] as const);
    const dashed = seenOf(
      grainy(400, 160, (x, y) => (x % 60 < 30 && rodAt(x, y, 50, 330) < 1.6 ? dark : light)),
    );
    for (const [where, points] of [
      [seen, beside],
      [dashed, along(80, 290)],
    ] as const) {
      const stroke = scribble(points);
      expect(ontoThinLines(where, stroke)).toEqual([stroke]);
    }
  });

  test('stays as it is on something wide, on nothing at all, and where it is a dot', () => {
    const wide = seenOf(grainy(400, 160, (x, y) => (rodAt(x, y, 50, 330) < 15 ? dark : light)));
    const plain = seenOf(grainy(400, 160, () => light));
    for (const [where, points] of [
      [wide, along(80, 290)],
      [plain, along(80, 290)],
      [seen, [[150, 78]] as const],
    ] as const) {
      const stroke = scribble(points, 8);
      expect(ontoThinLines(where, stroke)).toEqual([stroke]);
    }
  });
});
