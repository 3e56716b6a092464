import { describe, expect, test } from 'vitest';
import type { StrokeShape } from '../../area';
import { strokeShape } from '../../testing/jobs';
import { likelyExtent } from './likely-extent';

const rect = { x: 0, y: 0, w: 200, h: 160 };
const stroke = (...points: (readonly [number, number])[]) => strokeShape(points, 4) as StrokeShape;
const circle = (r: number) =>
  stroke(
    ...Array.from({ length: 25 }, (_, k) => {
      const a = (k / 24) * 2 * Math.PI;
      return [100 + r * Math.cos(a), 80 + r * Math.sin(a)] as const;
    }),
  );
const none = { on: [], loops: [], rings: [] };
const at = (extent: Float32Array, x: number, y: number) => extent[y * rect.w + x];

describe('where a thing is likely to lie by what was drawn', () => {
  const zigzag = stroke([80, 60], [120, 60], [80, 80], [120, 80], [80, 100], [120, 100]);

  test('between scribbles it is, and the less the farther off', () => {
    const extent = likelyExtent({ ...none, on: [zigzag] }, rect, 1);
    expect(at(extent, 100, 70)).toBeGreaterThan(0.5);
    expect(at(extent, 128, 80)).toBeLessThan(at(extent, 100, 70));
    for (let x = 124; x < 199; x++) expect(at(extent, x + 1, 80)).toBeLessThanOrEqual(at(extent, x, 80));
    expect(at(extent, 199, 80)).toBeLessThan(-2);
  });

  test('lines say nothing, however they sway', () => {
    for (const line of [
      stroke([20, 80], [180, 90]),
      stroke([20, 80], [60, 86], [100, 78], [140, 85], [180, 80]),
      stroke([50, 50]),
    ])
      expect(likelyExtent({ ...none, on: [line] }, rect, 1).every((v) => v === 0)).toBe(true);
    expect(likelyExtent(none, rect, 1).every((v) => v === 0)).toBe(true);
  });

  test('what a loop on the thing encloses is surer than what lies between scribbles', () => {
    const loop = circle(40);
    const extent = likelyExtent({ ...none, on: [loop], loops: [loop] }, rect, 1);
    const asScribble = likelyExtent({ ...none, on: [loop] }, rect, 1);
    expect(at(extent, 100, 80)).toBeGreaterThan(at(asScribble, 100, 80) + 2);
    expect(at(extent, 150, 80)).toBe(at(asScribble, 150, 80));
  });

  test('in a ring it is in the midst rather than at the rim; beyond it nothing is said', () => {
    const extent = likelyExtent({ ...none, rings: [circle(50)] }, rect, 1);
    expect(at(extent, 100, 80)).toBeGreaterThan(1);
    expect(at(extent, 147, 80)).toBeLessThan(-1);
    expect(at(extent, 160, 80)).toBe(0);
    // A scribble on the thing, near the ring's rim, is not gainsaid.
    const both = likelyExtent({ ...none, rings: [circle(50)], on: [stroke([146, 78], [148, 82])] }, rect, 1);
    expect(at(both, 147, 80)).toBe(0);
    expect(at(both, 100, 80)).toBe(at(extent, 100, 80));
  });

  test('a smaller picture shows the same', () => {
    const drawn = { on: [zigzag], loops: [], rings: [circle(70)] };
    const large = likelyExtent(drawn, rect, 1);
    const small = likelyExtent(drawn, { x: 0, y: 0, w: 100, h: 80 }, 2);
    for (const [x, y] of [
      [100, 80],
      [140, 80],
      [100, 140],
      [60, 60],
    ])
      expect(Math.abs(small[(y / 2) * 100 + x / 2] - at(large, x, y))).toBeLessThan(0.4);
  });
});
