import fc from 'fast-check';
import { expect, test } from 'vitest';
import { compose, fromUnitSquare, invert, type PlanePoint, project, stepsAt } from '.';

const quad: PlanePoint[] = [
  [100, 80],
  [420, 95],
  [520, 300],
  [40, 330],
];

test('corners go to corners, and back', () => {
  const m = fromUnitSquare(quad)!;
  const back = invert(m);
  const square = [
    [0, 0],
    [1, 0],
    [1, 1],
    [0, 1],
  ];
  square.forEach(([u, v], i) => {
    const [x, y] = project(m, u, v)!;
    expect(x).toBeCloseTo(quad[i][0], 9);
    expect(y).toBeCloseTo(quad[i][1], 9);
    const [u2, v2] = project(back, x, y)!;
    expect(u2).toBeCloseTo(u, 9);
    expect(v2).toBeCloseTo(v, 9);
  });
});

test('there and back is the identity wherever a point lies before the horizon', () => {
  const m = fromUnitSquare(quad)!;
  const both = compose(invert(m), m);
  fc.assert(
    fc.property(
      fc.double({ min: -0.3, max: 1.5, noNaN: true }),
      fc.double({ min: -0.3, max: 1.5, noNaN: true }),
      (u, v) => {
        const p = project(m, u, v);
        if (!p) return;
        const [a, b] = project(both, u, v)!;
        expect(a).toBeCloseTo(u, 7);
        expect(b).toBeCloseTo(v, 7);
      },
    ),
  );
});

test('straight lines stay straight', () => {
  const m = fromUnitSquare(quad)!;
  const [a, b, c] = [0.1, 0.4, 0.9].map((t) => project(m, t, 0.2 + 0.5 * t)!);
  expect((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])).toBeCloseTo(0, 6);
});

test('steps are the derivatives', () => {
  const m = fromUnitSquare(quad)!;
  const { across, down } = stepsAt(m, 0.3, 0.6)!;
  const e = 1e-6;
  const at = (u: number, v: number) => project(m, u, v)!;
  for (let k = 0; k < 2; k++) {
    expect(across[k]).toBeCloseTo((at(0.3 + e, 0.6)[k] - at(0.3 - e, 0.6)[k]) / (2 * e), 3);
    expect(down[k]).toBeCloseTo((at(0.3, 0.6 + e)[k] - at(0.3, 0.6 - e)[k]) / (2 * e), 3);
  }
});

test('four points that make no plane are refused', () => {
  const swapped = [quad[0], quad[2], quad[1], quad[3]];
  const onLine: PlanePoint[] = [
    [0, 0],
    [10, 0],
    [20, 0],
    [0, 10],
  ];
  expect(fromUnitSquare(swapped)).toBeNull();
  expect(fromUnitSquare(onLine)).toBeNull();
  expect(fromUnitSquare([quad[0], quad[0], quad[2], quad[3]])).toBeNull();
});
