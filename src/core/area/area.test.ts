import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { contains } from '../raster';
import { areaOfShapes, boxShape, strokeShape } from '../testing/jobs';
import {
  type Area,
  boundsOfArea,
  boxesOfArea,
  moveArea,
  noMasks,
  outlineOf,
  rasteriseArea,
  type Shape,
} from '.';

const at = (coverage: Float32Array, w: number, x: number, y: number) => coverage[y * w + x];

describe('polygons', () => {
  test('agree with testing 16×16 points a pixel', () => {
    const points = [
      [3.2, 2.1],
      [17.8, 5.5],
      [12.3, 18.9],
      [8, 9],
      [2.5, 15.2],
    ] as const;
    const coverage = rasteriseArea(
      areaOfShapes([{ kind: 'polygon', op: 'add', points }]),
      { x: 0, y: 0, w: 20, h: 20 },
      noMasks,
    );
    const inside = (x: number, y: number) => {
      let odd = false;
      points.forEach(([x1, y1], i) => {
        const [x0, y0] = points[(i + points.length - 1) % points.length];
        if (y0 > y !== y1 > y && x < x0 + ((y - y0) / (y1 - y0)) * (x1 - x0)) odd = !odd;
      });
      return odd;
    };
    coverage.forEach((v, i) => {
      let hits = 0;
      for (let k = 0; k < 256; k++)
        if (inside((i % 20) + ((k % 16) + 0.5) / 16, Math.floor(i / 20) + (Math.floor(k / 16) + 0.5) / 16))
          hits++;
      expect(Math.abs(v - hits / 256)).toBeLessThan(0.13);
    });
  });

  test('give the exact chords of four lines a pixel, for whatever outline, in whole or in part', () => {
    // Halves and wholes often: there chords begin and end on the borders of pixels.
    const place = fc.oneof(
      fc.integer({ min: -8, max: 56 }).map((v) => v / 2),
      fc.double({ min: -4, max: 28, noNaN: true }),
    );
    const outline = fc.array(fc.tuple(place, place), { minLength: 3, maxLength: 40 });
    fc.assert(
      fc.property(outline, fc.nat(20), fc.nat(20), (points, x, y) => {
        const rect = { x, y, w: 9, h: 7 };
        const got = rasteriseArea(areaOfShapes([{ kind: 'polygon', op: 'add', points }]), rect, noMasks);
        const wanted = new Float64Array(rect.w * rect.h);
        for (let row = 0; row < 4 * rect.h; row++) {
          const sy = y + Math.floor(row / 4) + ((row % 4) + 0.5) / 4;
          const crossings = points
            .map(([x1, y1], i) => ({ from: points[(i + points.length - 1) % points.length], to: [x1, y1] }))
            .filter(({ from, to }) => from[1] <= sy !== to[1] <= sy)
            .map(({ from: [x0, y0], to: [x1, y1] }) => ({
              at: x0 + ((sy - y0) / (y1 - y0)) * (x1 - x0),
              winding: y1 > y0 ? 1 : -1,
            }))
            .sort((a, b) => a.at - b.at);
          let winding = 0;
          crossings.forEach(({ at: from, winding: by }, k) => {
            winding += by;
            if (winding === 0) return;
            for (let u = 0; u < rect.w; u++)
              wanted[Math.floor(row / 4) * rect.w + u] +=
                Math.max(0, Math.min(crossings[k + 1].at, x + u + 1) - Math.max(from, x + u)) / 4;
          });
        }
        got.forEach((v, i) => {
          expect(v).toBeCloseTo(Math.min(1, wanted[i]), 5);
        });
      }),
    );
  });

  test('an outline left open closes by itself, and a loop drawn twice stays marked', () => {
    const ring = [
      [5, 5],
      [15, 5],
      [15, 15],
      [5, 15],
    ] as const;
    const open = rasteriseArea(
      areaOfShapes([{ kind: 'polygon', op: 'add', points: ring }]),
      { x: 0, y: 0, w: 20, h: 20 },
      noMasks,
    );
    const twice = rasteriseArea(
      areaOfShapes([{ kind: 'polygon', op: 'add', points: [...ring, ...ring] }]),
      { x: 0, y: 0, w: 20, h: 20 },
      noMasks,
    );
    expect(at(open, 20, 10, 10)).toBe(1);
    expect(twice).toEqual(open);
  });
});

describe('combining', () => {
  test('a ring: what is subtracted inside is not marked', () => {
    const area = areaOfShapes([boxShape(2, 2, 16, 16), { ...boxShape(7, 7, 6, 6), op: 'subtract' }]);
    const coverage = rasteriseArea(area, { x: 0, y: 0, w: 20, h: 20 }, noMasks);
    expect(at(coverage, 20, 9, 9)).toBe(0);
    expect(at(coverage, 20, 4, 9)).toBe(1);
    expect(outlineOf(area, noMasks)).toHaveLength(2);
  });

  test('separate parts each get an outline', () => {
    expect(outlineOf(areaOfShapes([boxShape(2, 2, 5, 5), boxShape(20, 2, 5, 5)]), noMasks)).toHaveLength(2);
  });

  test('an outline runs along the edge of what is marked', () => {
    const [ring] = outlineOf(areaOfShapes([boxShape(10, 20, 30, 15)]), noMasks);
    const xs = ring.map((p) => p[0]);
    const ys = ring.map((p) => p[1]);
    expect(Math.min(...xs)).toBeCloseTo(10, 0);
    expect(Math.max(...xs)).toBeCloseTo(40, 0);
    expect(Math.min(...ys)).toBeCloseTo(20, 0);
    expect(Math.max(...ys)).toBeCloseTo(35, 0);
  });

  test('what is added later covers what was subtracted before', () => {
    const area = areaOfShapes([
      boxShape(0, 0, 10, 10),
      { ...boxShape(0, 0, 10, 10), op: 'subtract' },
      boxShape(3, 3, 2, 2),
    ]);
    const coverage = rasteriseArea(area, { x: 0, y: 0, w: 10, h: 10 }, noMasks);
    expect(coverage.reduce((n, v) => n + v, 0)).toBe(4);
  });
});

describe('margin and feather', () => {
  test('a margin grows round: every pixel within it is marked, none beyond', () => {
    const coverage = rasteriseArea(
      areaOfShapes([boxShape(40, 40, 20, 20)], 15),
      { x: 0, y: 0, w: 100, h: 100 },
      noMasks,
    );
    for (let y = 0; y < 100; y++)
      for (let x = 0; x < 100; x++) {
        const dx = Math.max(40.5 - x - 0.5, x + 0.5 - 59.5, 0);
        const dy = Math.max(40.5 - y - 0.5, y + 0.5 - 59.5, 0);
        const past = Math.hypot(dx, dy) - 0.5 - 15;
        expect(at(coverage, 100, x, y)).toBeCloseTo(Math.min(1, Math.max(0, 0.5 - past)), 4);
      }
  });

  test('a negative margin shrinks', () => {
    const coverage = rasteriseArea(
      areaOfShapes([boxShape(10, 10, 20, 20)], -4),
      { x: 0, y: 0, w: 40, h: 40 },
      noMasks,
    );
    expect(at(coverage, 40, 12, 20)).toBe(0);
    expect(at(coverage, 40, 14, 20)).toBe(1);
  });

  test('a feather falls from full to nothing over its width', () => {
    const coverage = rasteriseArea(
      areaOfShapes([boxShape(20, 0, 20, 60)], 0, 10),
      { x: 0, y: 0, w: 60, h: 60 },
      noMasks,
    );
    const row = Array.from({ length: 14 }, (_, k) => at(coverage, 60, 39 + k, 30));
    expect(row[0]).toBe(1);
    for (let k = 1; k < row.length; k++) expect(row[k]).toBeLessThanOrEqual(row[k - 1]);
    expect(row[11]).toBe(0);
    expect(row[5]).toBeGreaterThan(0.3);
  });
});

const anyShape: fc.Arbitrary<Shape> = fc.oneof(
  fc.record({
    kind: fc.constant('box' as const),
    op: fc.constantFrom('add' as const, 'subtract' as const),
    x: fc.double({ min: -10, max: 50, noNaN: true }),
    y: fc.double({ min: -10, max: 50, noNaN: true }),
    w: fc.double({ min: 0, max: 40, noNaN: true }),
    h: fc.double({ min: 0, max: 40, noNaN: true }),
  }),
  fc.record({
    kind: fc.constant('stroke' as const),
    op: fc.constantFrom('add' as const, 'subtract' as const),
    radiusPx: fc.double({ min: 0.5, max: 15, noNaN: true }),
    hardness: fc.double({ min: 0, max: 1, noNaN: true }),
    points: fc.array(
      fc.tuple(fc.integer({ min: 0, max: 60 }), fc.integer({ min: 0, max: 60 }), fc.constantFrom(0.4, 1)),
      { minLength: 1, maxLength: 4 },
    ),
  }),
);
const anyArea: fc.Arbitrary<Area> = fc.record({
  shapes: fc.array(anyShape, { minLength: 1, maxLength: 4 }),
  marginPx: fc.integer({ min: -6, max: 12 }),
  featherPx: fc.integer({ min: 0, max: 9 }),
});

test('a pixel’s coverage does not depend on the rectangle asked for, and is 0 outside the bounds', () => {
  fc.assert(
    fc.property(
      anyArea,
      fc.integer({ min: -20, max: 60 }),
      fc.integer({ min: -20, max: 60 }),
      (area, x, y) => {
        const whole = { x: -40, y: -40, w: 150, h: 150 };
        const all = rasteriseArea(area, whole, noMasks);
        const part = { x, y, w: 13, h: 9 };
        const some = rasteriseArea(area, part, noMasks);
        const same = (v: number, i: number) =>
          v === all[(y + Math.floor(i / 13) + 40) * 150 + x + (i % 13) + 40];
        expect(some.every(same)).toBe(true);
        const b = boundsOfArea(area);
        const outside = (i: number) => {
          const px = (i % 150) - 40;
          const py = Math.floor(i / 150) - 40;
          return px < b.x || py < b.y || px >= b.x + b.w || py >= b.y + b.h;
        };
        expect(all.every((v, i) => v === 0 || !outside(i))).toBe(true);
      },
    ),
    { numRuns: 40 },
  );
});

describe('the boxes of an area', () => {
  const refined = fc.record({
    smoothPx: fc.constantFrom(0, 3),
    fillHoles: fc.boolean(),
    featherSide: fc.constantFrom('outside' as const, 'inside' as const, 'both' as const),
  });

  test('hold all that is covered, and nothing beyond its bounds', () => {
    fc.assert(
      fc.property(anyArea, refined, (plain, more) => {
        const area = { ...plain, ...more };
        const bounds = boundsOfArea(area);
        const boxes = boxesOfArea(area);
        expect(boxes.every((box) => contains(bounds, box))).toBe(true);
        const rect = { x: -40, y: -40, w: 150, h: 150 };
        const isIn = (i: number) =>
          boxes.some((box) => contains(box, { x: (i % 150) - 40, y: Math.floor(i / 150) - 40, w: 1, h: 1 }));
        expect(rasteriseArea(area, rect, noMasks).every((v, i) => v === 0 || isIn(i))).toBe(true);
      }),
      { numRuns: 60 },
    );
  });

  test('follow a long stroke, whose own box is nearly empty', () => {
    const path = Array.from({ length: 400 }, (_, k) => [10 * k, 7 * k] as const);
    const area = areaOfShapes([strokeShape(path, 12)], 4, 3);
    const boxes = boxesOfArea(area);
    const { w, h } = boundsOfArea(area);
    expect(boxes.reduce((sum, box) => sum + box.w * box.h, 0)).toBeLessThan(0.08 * w * h);
    for (const [x, y] of path)
      expect(boxes.some((box) => contains(box, { x: x - 12, y: y - 12, w: 24, h: 24 }))).toBe(true);
  });
});

test('moving an area moves its coverage', () => {
  fc.assert(
    fc.property(anyArea, (area) => {
      const a = rasteriseArea(area, { x: 0, y: 0, w: 60, h: 60 }, noMasks);
      const b = rasteriseArea(moveArea(area, 7, -3), { x: 7, y: -3, w: 60, h: 60 }, noMasks);
      expect(a.every((v, i) => Math.abs(b[i] - v) < 1e-4)).toBe(true);
    }),
    { numRuns: 30 },
  );
});

test('a mask marks by its pixels; empty and full ones too', () => {
  const area = areaOfShapes([{ kind: 'mask', op: 'add', x: 5, y: 6, w: 2, h: 2, maskId: 'm' }]);
  const masks = () => ({ w: 2, h: 2, data: Uint8Array.from([0, 255, 51, 255]) });
  const coverage = rasteriseArea(area, { x: 4, y: 5, w: 4, h: 4 }, masks);
  expect([...coverage].map((v) => Math.round(v * 10))).toEqual([
    0, 0, 0, 0, 0, 0, 10, 0, 0, 2, 10, 0, 0, 0, 0, 0,
  ]);
  expect(() => rasteriseArea(area, { x: 4, y: 5, w: 4, h: 4 }, noMasks)).toThrow(/mask m/);
});
