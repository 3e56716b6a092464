import { describe, expect, test } from 'vitest';
import { agreesWith, isLineOf } from './lines-of-ground';
import type { RuledGround } from './ruled-ground';
import type { SeenEdge } from './straight-edges';

/** Lines at an angle, on all of a picture or on a part of its rows. */
const groundAt = (deg: number, rows: readonly [number, number] = [-1e4, 1e4]): RuledGround => {
  const [ux, uy] = [Math.cos((deg * Math.PI) / 180), Math.sin((deg * Math.PI) / 180)];
  return {
    ux,
    uy,
    period: 20,
    placeOf: (x, y) => (y >= rows[0] && y <= rows[1] ? { across: ux * y - uy * x, isRegular: true } : null),
  };
};

const edge = (...line: [number, number, number, number]): SeenEdge => ({ line, ends: false });
const level = (y: number) => edge(0, y, 300, y);

describe('ground whose lines', () => {
  test('run with the edges agrees with them, and those are lines of it', () => {
    const ground = groundAt(0.3);
    expect(agreesWith(ground, [level(10), level(50), level(90)], 3)).toBe(true);
    expect(isLineOf(ground, level(50), 3)).toBe(true);
  });

  test('turn away by a degree from most of the edges is none', () => {
    const ground = groundAt(1);
    expect(agreesWith(ground, [level(10), level(50), level(90)], 3)).toBe(false);
    expect(isLineOf(ground, level(50), 3)).toBe(false);
    // By 1° on 300 pixels.
    const along = edge(0, 20, 300, 20 + 300 * Math.tan(Math.PI / 180));
    expect(agreesWith(ground, [level(10), along], 3)).toBe(true);
    expect(isLineOf(ground, along, 3)).toBe(true);
  });

  test('are crossed by an edge, or lie beside it, have nothing to do with it', () => {
    const across = edge(100, 0, 140, 300);
    expect(agreesWith(groundAt(0), [across], 3)).toBe(true);
    expect(isLineOf(groundAt(0), across, 3)).toBe(false);
    const below = groundAt(1, [100, 200]);
    expect(agreesWith(below, [level(50)], 3)).toBe(true);
    expect(isLineOf(below, level(50), 3)).toBe(false);
  });
});
