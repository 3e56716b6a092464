import { describe, expect, test } from 'vitest';
import { noMasks, rasteriseArea } from '../../area';
import { areaOfShapes } from '../../testing/jobs';
import { findSpan, seenOf } from '..';
import { grainy } from '../testing';

describe('span', () => {
  /** A wire that sags by 18 pixels, 5 wide, before a ground that changes. */
  const wireY = (x: number) => 60 + 18 * (1 - ((x - 300) / 300) ** 2);
  const photo = grainy(600, 200, (x, y) => {
    const ground = [0.55 + 0.2 * Math.sin(x / 90), 0.6, 0.7] as const;
    const dark = Math.min(1, Math.max(0, 3 - Math.abs(y - wireY(x))));
    const second = Math.min(1, Math.max(0, 3 - Math.abs(y - wireY(x) - 40)));
    const d = Math.max(dark, second);
    return ground.map((v) => v * (1 - 0.7 * d)) as unknown as [number, number, number];
  });
  const seen = seenOf(photo);
  const clicks = [
    [20, wireY(20) + 4],
    [580, wireY(580) - 3],
  ] as const;

  test('finds middle and width under rough clicks, with the sag', () => {
    const [stroke] = findSpan(seen, clicks, { lines: 1, bends: true });
    for (const [x, y] of stroke.points) expect(Math.abs(y - wireY(x))).toBeLessThan(1.2);
    expect(stroke.radiusPx).toBeGreaterThan(2.2);
    expect(stroke.radiusPx).toBeLessThan(5.5);
    expect(Math.min(...stroke.points.map((p) => p[0]))).toBeLessThan(30);
  });

  test('finds the one beside it too; told that it is straight, it is', () => {
    const both = findSpan(seen, clicks, { lines: 2, bends: true });
    expect(both).toHaveLength(2);
    for (const [x, y] of both[1].points) expect(Math.abs(y - wireY(x) - 40)).toBeLessThan(1.5);
    const [straight] = findSpan(
      seen,
      [
        [250, wireY(250)],
        [350, wireY(350)],
      ],
      { lines: 1, bends: false },
    );
    const [a, b] = [straight.points[0], straight.points[straight.points.length - 1]];
    for (const [x, y] of straight.points)
      expect(Math.abs(y - (a[1] + ((x - a[0]) / (b[0] - a[0])) * (b[1] - a[1])))).toBeLessThan(0.6);
  });

  test.each([
    [9, 22],
    [9, 16],
    [5, 12],
    [3, 8],
  ])(
    'of wires %i wide that run %i apart the clicked one is found, and the other one as its own',
    (wide, apart) => {
      const middle = (x: number) => 80.5 + x / 60;
      const pair = grainy(600, 200, (x, y) => {
        const on = [0, apart].map((by) => wide / 2 + 0.5 - Math.abs(y - middle(x) + 0.5 - by));
        const d = Math.min(1, Math.max(0, ...on));
        return [0.35 - 0.25 * d, 0.55 - 0.43 * d, 0.75 - 0.45 * d];
      });
      // Off the wire's middle, once towards the other one.
      const clicks = [
        [20, middle(20) + 3],
        [580, middle(580) - 2],
      ] as const;
      const found = findSpan(seenOf(pair), clicks, { lines: 2, bends: true });
      expect(found).toHaveLength(2);
      found.forEach(({ points, radiusPx }, k) => {
        expect(radiusPx).toBeGreaterThan(wide / 2);
        expect(radiusPx).toBeLessThan(wide / 2 + 2.5);
        for (const [x, y] of points) expect(Math.abs(y - middle(x) - k * apart)).toBeLessThan(1.2);
      });
      const [alone] = findSpan(seenOf(pair), clicks, { lines: 1, bends: true });
      expect(alone).toEqual(found[0]);
    },
  );

  test('a pole is found with its lit and its shaded side, and no more of the ground than before', () => {
    // From 90 to 102 lit, from there to 118 shaded.
    const pole = grainy(200, 500, (x) =>
      x >= 90 && x < 102 ? [0.8, 0.7, 0.55] : x >= 102 && x < 118 ? [0.22, 0.2, 0.18] : [0.4, 0.45, 0.3],
    );
    const lines = findSpan(
      seenOf(pole),
      [
        [96, 10],
        [96, 490],
      ],
      { lines: 1, bends: false },
    );
    const marked = rasteriseArea(areaOfShapes(lines, 0, 0), { x: 0, y: 250, w: 200, h: 1 }, noMasks);
    const on = [...marked.keys()].filter((x) => marked[x] >= 0.5);
    expect(on[0]).toBeGreaterThan(84);
    expect(on[0]).toBeLessThanOrEqual(90);
    expect(on[on.length - 1]).toBeGreaterThanOrEqual(117);
    expect(on[on.length - 1]).toBeLessThan(124);
  });

  test('three clicks lead round a corner; where there is no line there is none', () => {
    const bent = grainy(300, 300, (x, y) => {
      const on = (x < 150 && Math.abs(y - 50) < 3) || (x >= 147 && x < 153 && y >= 50);
      return on ? [0.1, 0.1, 0.1] : [0.6, 0.6, 0.6];
    });
    const [stroke] = findSpan(
      seenOf(bent),
      [
        [10, 50],
        [150, 50],
        [150, 290],
      ],
      { lines: 1, bends: true },
    );
    const covered = rasteriseArea(areaOfShapes([stroke], 2), { x: 0, y: 0, w: 300, h: 300 }, noMasks);
    for (const [x, y] of [
      [40, 50],
      [140, 50],
      [150, 80],
      [150, 270],
    ])
      expect(covered[y * 300 + x]).toBe(1);
    const empty = seenOf(grainy(300, 100, () => [0.5, 0.5, 0.5]));
    expect(
      findSpan(
        empty,
        [
          [20, 50],
          [280, 50],
        ],
        { lines: 1, bends: true },
      ),
    ).toEqual([]);
  });
});
