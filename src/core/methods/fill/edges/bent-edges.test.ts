import { describe, expect, test } from 'vitest';
import { role } from '../frame';
import { fillPicture } from '../testing';
import { bentEdges } from './bent-edges';
import { edgeScene, h, w } from './testing';

/** A small area over the upper right of a circle's rim. */
const circle = { x: 110, y: 120, r: 52 };
const spot = { x: 110 + 52 * Math.SQRT1_2, y: 120 - 52 * Math.SQRT1_2, r: 13 };
const isSpot = (x: number, y: number) => (x - spot.x) ** 2 + (y - spot.y) ** 2 < spot.r ** 2;
const isRound = (x: number, y: number) => (x - circle.x) ** 2 + (y - circle.y) ** 2 < circle.r ** 2;
const found = (isLight: (x: number, y: number) => boolean, seed = 3, isHole = isSpot) => {
  const { image, roles } = edgeScene(isLight, seed, isHole);
  return bentEdges(image, roles, w, h);
};

describe('an edge that bends behind a small area', () => {
  test.each([3, 4, 5])('is found as the circle that it is, to within a pixel; seed %i', (seed) => {
    const [edge, ...others] = found(isRound, seed);
    expect(others).toEqual([]);
    for (const [x, y] of edge.ends)
      expect(Math.abs(Math.hypot(x + 0.5 - circle.x, y + 0.5 - circle.y) - circle.r)).toBeLessThan(1);
    let within = 0;
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const off = edge.placeOf(x, y);
        if (off === null) continue;
        expect(x >= edge.box.x && y >= edge.box.y).toBe(true);
        expect(x < edge.box.x + edge.box.w && y < edge.box.y + edge.box.h).toBe(true);
        const its = Math.hypot(x + 0.5 - circle.x, y + 0.5 - circle.y) - circle.r;
        // Beyond the hole it may be a little off.
        if (isSpot(x, y)) expect(Math.abs(off - its)).toBeLessThan(1);
        within += isSpot(x, y) ? 1 : 0;
      }
    expect(within).toBeGreaterThan(150);
    // Far from the area nothing is known of it.
    expect(edge.placeOf(circle.x - 36, circle.y + 37)).toBeNull();
  });

  test('is there from inside the light as well, and where two of them pass, both are', () => {
    expect(found((x, y) => !isRound(x, y))).toHaveLength(1);
    const ring = (x: number, y: number) => Math.abs(Math.hypot(x - circle.x, y - circle.y) - 50) < 6;
    expect(found(ring)).toHaveLength(2);
  });

  test('is none where it is straight, turns a corner, ends, or is another one behind the area', () => {
    expect(found((x, y) => x + y < 231)).toEqual([]);
    expect(found((x, y) => x < spot.x && y > spot.y)).toEqual([]);
    expect(found((x, y) => isRound(x, y) && x < spot.x)).toEqual([]);
    // Light on the other side.
    expect(found((x, y) => isRound(x, y) === x < spot.x)).toEqual([]);
    // A step of ten pixels behind it.
    const step = (x: number, y: number) =>
      (x - circle.x) ** 2 + (y - circle.y) ** 2 < (x < spot.x ? circle.r + 5 : circle.r - 5) ** 2;
    expect(found(step)).toEqual([]);
    expect(found(() => true)).toEqual([]);
  });

  test('is none where nothing of it lies in the area', () => {
    const below = (x: number, y: number) => isSpot(x + 14, y - 14);
    expect(found(isRound, 3, below)).toEqual([]);
  });
});

test.each([1, 2, 3])('the rim of something round runs on through a small area; seed %i', (seed) => {
  const { image, roles } = edgeScene(isRound, 3, isSpot);
  const hole = roles.map((is) => (is === role.target ? 1 : 0));
  const filled = fillPicture({ image, hole, reach: 40, seed }).image;
  let wrong = 0;
  hole.forEach((v, p) => {
    const off = Math.hypot((p % w) + 0.5 - circle.x, Math.floor(p / w) + 0.5 - circle.y) - circle.r;
    if (v && Math.abs(off) > 1.5 && filled.data[4 * p] > 0.5 !== off < 0) wrong++;
  });
  expect(wrong).toBeLessThan(2);
});
