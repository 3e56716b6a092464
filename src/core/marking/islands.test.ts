import { describe, expect, test } from 'vitest';
import { noMasks, rasteriseArea, type Shape } from '../area';
import type { Raster } from '../raster';
import { areaOfShapes, boxShape, strokeShape } from '../testing/jobs';
import { cutIslands, type Found, findIslands, seenOf } from '.';
import { grainy, markedOf, pixelsOf } from './testing';

describe('islands', () => {
  const rect = { x: 0, y: 0, w: 200, h: 100 };
  const cover = (shapes: Shape[]) => rasteriseArea(areaOfShapes(shapes), rect, noMasks);
  const whole = (islands: readonly Found[]) => {
    const sum = new Uint8Array(200 * 100);
    for (const island of islands)
      pixelsOf(island, 200, 100).forEach((v, i) => {
        sum[i] += v;
      });
    return sum;
  };

  test('a cut right across parts it in two, which together are all of it', () => {
    const area = cover([boxShape(20, 20, 160, 60)]);
    const islands = cutIslands(
      area,
      cover([
        strokeShape(
          [
            [100, 0],
            [100, 99],
          ],
          2,
        ),
      ]),
      rect,
    );
    expect(islands).toHaveLength(2);
    expect([...whole(islands)]).toEqual(Array.from(area, (v) => (v > 0.5 ? 1 : 0)));
  });

  test('a cut that ends within it parts nothing', () => {
    const area = cover([boxShape(20, 20, 160, 60)]);
    expect(
      cutIslands(
        area,
        cover([
          strokeShape(
            [
              [100, 0],
              [100, 50],
            ],
            2,
          ),
        ]),
        rect,
      ),
    ).toHaveLength(1);
  });

  test('by itself what is compact and of one ground falls into two if it is large, as the outlook advises, and else into none', () => {
    const [w, h] = [420, 380];
    const seen = seenOf(grainy(w, h, () => [0.4, 0.5, 0.3]));
    const found = [300, 90].map((side) => {
      const shapes = [boxShape(50, 40, side, side)];
      const area = rasteriseArea(areaOfShapes(shapes), { x: 0, y: 0, w, h }, noMasks);
      return findIslands(seen, markedOf(shapes), area, { x: 0, y: 0, w, h }).map(({ size }) => size);
    });
    expect(found.map((sizes) => sizes.length)).toEqual([2, 1]);
    expect(found[0].reduce((sum, size) => sum + size, 0)).toBe(300 * 300);
    expect(Math.min(...found[0])).toBeGreaterThan(0.4 * 300 * 300);
  });

  test('by itself a long area falls into pieces, and a change of ground parts it; none is lost', () => {
    const seen = seenOf(grainy(200, 100, (x) => (x < 90 ? [0.2, 0.5, 0.2] : [0.6, 0.6, 0.8])));
    const shapes = [boxShape(20, 40, 160, 20)];
    const islands = findIslands(seen, markedOf(shapes), cover(shapes), rect);
    expect(islands.length).toBeGreaterThan(2);
    expect([...whole(islands)]).toEqual(Array.from(cover(shapes), (v) => (v > 0.5 ? 1 : 0)));
    const across = islands.filter((i) => i.x < 80 && i.x + i.w > 100);
    expect(across).toEqual([]);
  });
});

describe('islands of what stands before two grounds', () => {
  // Grass to the left and a wall to the right of where it stands, and a path below both.
  const yard = grainy(240, 240, (x, y) =>
    y >= 150 ? [0.75, 0.7, 0.6] : x < 120 ? [0.2, 0.5, 0.2] : [0.6, 0.25, 0.15],
  );
  const rect = { x: 0, y: 0, w: 240, h: 240 };

  test('they part where the grounds part beside it: none reaches far from one into the other', () => {
    const shapes = [boxShape(40, 40, 160, 140)];
    const covered = rasteriseArea(areaOfShapes(shapes), rect, noMasks);
    const islands = findIslands(seenOf(yard), markedOf(shapes), covered, rect);
    expect(islands.length).toBeGreaterThanOrEqual(2);
    let wrong = 0;
    for (const island of islands) {
      const counts = [0, 0];
      pixelsOf(island, 240, 240).forEach((v, i) => {
        if (v) counts[Math.floor(i / 240) < 150 ? 0 : 1]++;
      });
      wrong += Math.min(...counts);
    }
    expect(wrong / (160 * 140)).toBeLessThan(0.06);
  });
});

describe('islands where focus falls off', () => {
  /** Detail gets three octaves softer from top to bottom. */
  const falling = grainy(240, 240, (x, y) => {
    const strength = 0.5 * 2 ** (-y / 60);
    const v = 0.45 + strength * (((x * 7 + y * 13) % 5) / 5 - 0.4);
    return [v, v, v];
  });
  const even = grainy(240, 240, (x, y) => {
    const v = 0.45 + 0.2 * (((x * 7 + y * 13) % 5) / 5 - 0.4);
    return [v, v, v];
  });
  const shapes = [boxShape(70, 40, 100, 160)];
  const rect = { x: 0, y: 0, w: 240, h: 240 };
  const covered = rasteriseArea(areaOfShapes(shapes), rect, noMasks);
  const heights = (photo: Raster) =>
    findIslands(seenOf(photo), markedOf(shapes), covered, rect).map((i) => i.h);

  test('bands lie across the way in which it falls; without, the area stays whole', () => {
    expect(heights(even)).toHaveLength(1);
    const bands = heights(falling);
    expect(bands.length).toBeGreaterThanOrEqual(2);
    for (const h of bands) expect(h).toBeLessThan(110);
    expect(bands.reduce((s, h) => s + h, 0)).toBeGreaterThanOrEqual(158);
  });
});
