import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { emptyRect, unite } from '../raster';
import { areaOfShapes, strokeShape } from '../testing/jobs';
import { addStroke, noMasks, rasteriseArea, type Shape, type StrokeShape } from '.';

const at = (coverage: Float32Array, w: number, x: number, y: number) => coverage[y * w + x];

/** Coverage of one pixel, from all segments. */
function plainly({ points, radiusPx, hardness, pressureTo }: StrokeShape, x: number, y: number): number {
  let most = 0;
  points.forEach(([bx, by, bp], k) => {
    const [ax, ay, ap] = points[Math.max(0, k - 1)];
    const long = (bx - ax) ** 2 + (by - ay) ** 2;
    const t = long > 0 ? Math.min(1, Math.max(0, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / long)) : 0;
    const pressure = ap + (bp - ap) * t;
    const outer = (pressureTo === 'size' ? radiusPx * pressure : radiusPx) + 0.5;
    const hard = pressureTo === 'softness' ? hardness * pressure : hardness;
    const inner = Math.min(outer - 1, (outer - 0.5) * hard);
    const away = Math.hypot(x - ax - t * (bx - ax), y - ay - t * (by - ay));
    const u = Math.min(1, Math.max(0, (outer - away) / (outer - inner)));
    most = Math.max(most, u * u * (3 - 2 * u) * (pressureTo === 'opacity' ? pressure : 1));
  });
  return most;
}

describe('strokes', () => {
  test('coverage does not depend on how many points the pointer delivered', () => {
    const few = areaOfShapes([
      strokeShape(
        [
          [10.25, 20],
          [90.25, 50],
        ],
        12,
        0.3,
      ),
    ]);
    const many = areaOfShapes([
      strokeShape(
        Array.from({ length: 41 }, (_, i) => [10.25 + 2 * i, 20 + (30 * i) / 40] as const),
        12,
        0.3,
      ),
    ]);
    const rect = { x: 0, y: 0, w: 110, h: 80 };
    const a = rasteriseArea(few, rect, noMasks);
    const b = rasteriseArea(many, rect, noMasks);
    expect(a.every((v, i) => Math.abs(b[i] - v) < 1e-4)).toBe(true);
  });

  test('coverage is the greatest along the path of the profile, step by step or at once, in blocks or whole', () => {
    // As pointers tell them: in fractions of a pixel, but not in smaller ones.
    const place = (most: number) => fc.integer({ min: -40, max: 8 * most }).map((v) => v / 8);
    const pressure = fc.constantFrom(1, 1, 1, 0.5, 0.8125, 0.0625, 0);
    const path = fc.array(fc.tuple(place(75), place(55), pressure), { minLength: 1, maxLength: 6 });
    const targets = fc.constantFrom('size', 'opacity', 'softness');
    fc.assert(
      fc.property(
        path,
        targets,
        fc.double({ min: 0.25, max: 25, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (points, pressureTo, radiusPx, hardness) => {
          const stroke = { kind: 'stroke', op: 'add', radiusPx, hardness, pressureTo, points } as const;
          const rect = { x: 0, y: 0, w: 70, h: 50 };
          const whole = new Float32Array(70 * 50);
          addStroke(stroke, 0, rect, rect, whole);
          const inSteps = new Float32Array(70 * 50);
          points.forEach((_, k) => {
            const so = { ...stroke, points: points.slice(0, k + 1) };
            const before = inSteps.slice();
            const rose = [0, 1].map((half) =>
              addStroke(so, Math.max(0, k - 1), { x: 0, y: 25 * half, w: 70, h: 25 }, rect, inSteps),
            );
            // What rose is told, to the pixel.
            const changed = [...inSteps.keys()].filter((i) => inSteps[i] !== before[i]);
            const told = changed.map((i) => ({ x: i % 70, y: Math.floor(i / 70), w: 1, h: 1 }));
            expect(told.reduce(unite, emptyRect)).toEqual(rose.reduce(unite, emptyRect));
          });
          expect(inSteps).toEqual(whole);
          const off = whole.map((v, i) =>
            Math.abs(v - plainly(stroke, (i % 70) + 0.5, Math.floor(i / 70) + 0.5)),
          );
          expect(Math.max(...off)).toBeLessThan(3e-5);
        },
      ),
      { numRuns: 40 },
    );
  });

  test('a brush of two thousand pixels on a line as long as a photo is as exact as 8 bits can tell', () => {
    const stroke = {
      ...strokeShape([[10.3, 20.7]], 1000, 0.98),
      points: [
        [10.3, 20.7, 1],
        [8000.1, 3100.4, 1],
      ],
    } as StrokeShape;
    const rect = { x: 4000, y: 500, w: 64, h: 2300 };
    const out = new Float32Array(rect.w * rect.h);
    addStroke(stroke, 0, rect, rect, out);
    const off = out.map((v, i) =>
      Math.abs(v - plainly(stroke, 4000.5 + (i % 64), 500.5 + Math.floor(i / 64))),
    );
    expect(off.reduce((a, b) => Math.max(a, b))).toBeLessThan(5e-4);
    expect(new Set(out).size).toBeGreaterThan(1000);
  });

  test('a hard dab covers the disc: its sum is the disc’s area within one percent', () => {
    const coverage = rasteriseArea(
      areaOfShapes([strokeShape([[50, 50]], 20)]),
      { x: 0, y: 0, w: 100, h: 100 },
      noMasks,
    );
    const sum = coverage.reduce((n, v) => n + v, 0);
    expect(Math.abs(sum / (Math.PI * 400) - 1)).toBeLessThan(0.01);
  });

  test('a soft dab falls steadily from its middle to its edge', () => {
    const coverage = rasteriseArea(
      areaOfShapes([strokeShape([[50.5, 50.5]], 30, 0)]),
      { x: 0, y: 0, w: 100, h: 100 },
      noMasks,
    );
    for (let x = 50; x < 82; x++)
      expect(at(coverage, 100, x + 1, 50)).toBeLessThanOrEqual(at(coverage, 100, x, 50));
    expect(at(coverage, 100, 50, 50)).toBeGreaterThan(0.99);
    expect(at(coverage, 100, 82, 50)).toBe(0);
  });

  test('pressure scales the radius', () => {
    const shape: Shape = { kind: 'stroke', op: 'add', radiusPx: 20, hardness: 1, points: [[50, 50, 0.5]] };
    const coverage = rasteriseArea(areaOfShapes([shape]), { x: 0, y: 0, w: 100, h: 100 }, noMasks);
    expect(at(coverage, 100, 58, 50)).toBe(1);
    expect(at(coverage, 100, 62, 50)).toBe(0);
  });

  test('told so, pressure scales the coverage or the hardness, and leaves the radius', () => {
    const pressed = (pressureTo: 'opacity' | 'softness') =>
      rasteriseArea(
        areaOfShapes([
          { kind: 'stroke', op: 'add', radiusPx: 20, hardness: 1, points: [[50, 50, 0.5]], pressureTo },
        ]),
        { x: 0, y: 0, w: 100, h: 100 },
        noMasks,
      );
    const opacity = pressed('opacity');
    for (const x of [50, 58, 68]) expect(at(opacity, 100, x, 50)).toBe(0.5);
    const softness = pressed('softness');
    expect(at(softness, 100, 58, 50)).toBe(1);
    expect(at(softness, 100, 65, 50)).toBeGreaterThan(0.1);
    expect(at(softness, 100, 65, 50)).toBeLessThan(0.7);
  });
});
