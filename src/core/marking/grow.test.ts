import { describe, expect, test } from 'vitest';
import type { Shape } from '../area';
import { strokeShape } from '../testing/jobs';
import { noisePhoto, paintPhoto } from '../testing/pictures';
import { type Found, growScribbles, seenOf } from '.';
import { isRing } from './grow/rings';
import { grainy, likeness, pixelsOf } from './testing';

describe('growing a scribble', () => {
  const disc = (x: number, y: number) => (x - 200) ** 2 + (y - 150) ** 2 < 70 ** 2;
  const photo = grainy(400, 300, (x, y) =>
    disc(x, y) ? [0.7, 0.2, 0.2] : x < 120 ? [0.2, 0.3, 0.6] : [0.3, 0.5, 0.3],
  );
  const seen = seenOf(photo);
  const stroke = strokeShape(
    [
      [180, 130],
      [220, 170],
    ],
    6,
  ) as never;

  test('finds the thing under it, the same every time', () => {
    const found = growScribbles(seen, { inside: [stroke], outside: [] })!;
    expect(likeness(pixelsOf(found, 400, 300), 400, disc)).toBeGreaterThan(0.93);
    expect(growScribbles(seen, { inside: [stroke], outside: [] })).toEqual(found);
  });

  test('finds the thing within a rough ring', () => {
    const points = Array.from({ length: 40 }, (_, k) => {
      const a = (k / 40) * 2 * Math.PI;
      const r = 92 + 8 * Math.sin(3 * a);
      return [200 + r * Math.cos(a), 150 + r * Math.sin(a)] as const;
    });
    const ring = strokeShape(points, 4) as never;
    expect(isRing(ring)).toBe(true);
    expect(isRing(stroke)).toBe(false);
    const found = growScribbles(seen, { inside: [ring], outside: [] })!;
    expect(likeness(pixelsOf(found, 400, 300), 400, disc)).toBeGreaterThan(0.93);
  });

  test('a hair-thin scribble on something large serves as well', () => {
    const inside = (x: number, y: number) => (x - 640) ** 2 + (y - 480) ** 2 < 260 ** 2;
    const large = seenOf(
      paintPhoto(1280, 960, 8, (x, y) => (inside(x, y) ? [0.7, 0.25, 0.2] : [0.3, 0.45, 0.35])),
    );
    const stroke = strokeShape(
      [
        [500, 420],
        [700, 555],
      ],
      0.7,
    ) as Extract<Shape, { kind: 'stroke' }>;
    const got = pixelsOf(growScribbles(large, { inside: [stroke], outside: [] })!, 1280, 960);
    expect(likeness(got, 1280, inside)).toBeGreaterThan(0.97);
  });

  test('a scribble outside keeps a like thing beside it out', () => {
    const twins = grainy(400, 200, (x, y) =>
      (x - 150) ** 2 + (y - 100) ** 2 < 45 ** 2 || (x - 230) ** 2 + (y - 100) ** 2 < 45 ** 2
        ? [0.7, 0.2, 0.2]
        : [0.3, 0.5, 0.3],
    );
    const inside = [strokeShape([[150, 100]], 12)] as never[];
    const outside = [strokeShape([[240, 100]], 12)] as never[];
    const at = (found: Found | null, x: number, y: number) => pixelsOf(found!, 400, 200)[y * 400 + x];
    const both = growScribbles(seenOf(twins), { inside, outside: [] });
    expect(at(both, 235, 100)).toBe(1);
    const one = growScribbles(seenOf(twins), { inside, outside });
    expect([at(one, 130, 100), at(one, 235, 100)]).toEqual([1, 0]);
  });

  test('what is scribbled is in it, whatever it looks like; beyond the photo there is nothing', () => {
    const plain = seenOf(noisePhoto(120, 90, 3));
    const scribble = strokeShape([[60, 45]], 9) as never;
    const got = pixelsOf(growScribbles(plain, { inside: [scribble], outside: [] })!, 120, 90);
    expect(got[45 * 120 + 60]).toBe(1);
    const beyond = strokeShape([[500, 45]], 9) as never;
    expect(growScribbles(plain, { inside: [beyond], outside: [] })).toBeNull();
  });
});
