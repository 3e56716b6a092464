import { describe, expect, test } from 'vitest';
import { outlookOf, seenOf } from '.';
import { itsLikeBeside } from './its-like';
import { grainy, likeness, markedOf, pixelsOf } from './testing';

type Colour = readonly [number, number, number];
type Place = (x: number, y: number) => boolean;
const [w, h] = [480, 320];
const ball =
  (cx: number, r: number): Place =>
  (x, y) =>
    Math.hypot(x - cx, y - 170) < r;
const [left, right] = [ball(152, 62), ball(276, 58)];
/** Streaked in two colours, dark along the rim as round things are. */
const fruit =
  (cx: number, r: number) =>
  (x: number, y: number): Colour => {
    const shade = Math.hypot(x - cx, y - 170) > 0.9 * r ? 0.45 : 1;
    return (x + y) % 44 < 22
      ? [0.75 * shade, 0.2 * shade, 0.15 * shade]
      : [0.8 * shade, 0.75 * shade, 0.25 * shade];
  };
const cloth = (_: number, y: number): Colour => (y < 120 ? [0.35, 0.4, 0.42] : [0.62, 0.6, 0.55]);
const scene = (isThere: Place, own = fruit(276, 58), other = fruit(152, 62), ground = cloth) =>
  seenOf(grainy(w, h, (x, y) => (right(x, y) ? own(x, y) : isThere(x, y) ? other(x, y) : ground(x, y))));

const roundRight = (r: number) =>
  Array.from({ length: 24 }, (_, k) => {
    const a = (k / 24) * 2 * Math.PI;
    return [276 + r * Math.cos(a), 170 + r * Math.sin(a)] as const;
  });
const marked = markedOf([{ kind: 'polygon', op: 'add', points: roundRight(64) }]);
const beyondMark: (is: Place) => Place = (is) => (x, y) => is(x, y) && Math.hypot(x - 276, y - 170) >= 64;

describe('one of its kind that touches what is marked', () => {
  const two = scene(left);

  test('is found whole, and ends there', () => {
    const [found, ...more] = itsLikeBeside(two, marked);
    expect(more).toEqual([]);
    expect(found.ends).toBe(true);
    expect(likeness(pixelsOf(found, w, h), w, beyondMark(left))).toBeGreaterThan(0.8);
  });

  test('does not end there when half of it was marked as well', () => {
    const both = markedOf([
      { kind: 'polygon', op: 'add', points: roundRight(64) },
      { kind: 'box', op: 'add', x: 130, y: 130, w: 100, h: 80 },
    ]);
    expect(itsLikeBeside(two, both).every(({ ends }) => !ends)).toBe(true);
  });

  test('is found on both sides, and when it stands on ground of nearly its colours that goes on', () => {
    const third: Place = (x, y) => Math.hypot(x - 400, y - 170) < 62;
    const three = scene((x, y) => left(x, y) || third(x, y));
    expect(itsLikeBeside(three, marked)).toHaveLength(2);
    const onTiles = scene(left, undefined, undefined, (x, y) => {
      if (y < 150) return [0.35, 0.4, 0.42];
      const tile = (Math.floor(x / 40) + Math.floor(y / 30)) % 2;
      return tile ? [0.6, 0.34, 0.2] : [0.66, 0.38, 0.22];
    });
    const [found] = itsLikeBeside(onTiles, marked);
    expect(likeness(pixelsOf(found, w, h), w, beyondMark(left))).toBeGreaterThan(0.7);
  });

  test('is not what is of another kind, stands apart, or is but a ground that has the colours of what is marked', () => {
    const blue = (): Colour => [0.2, 0.3, 0.7];
    expect(itsLikeBeside(scene(left, undefined, blue), marked)).toEqual([]);
    expect(itsLikeBeside(scene(ball(70, 50)), marked)).toEqual([]);
    expect(
      itsLikeBeside(
        scene(() => false),
        marked,
      ),
    ).toEqual([]);
    expect(
      itsLikeBeside(
        scene((_, y) => y > 200),
        marked,
      ),
    ).toEqual([]);
  });

  test('is not looked for beside lines, nor beside what has no colours of its own', () => {
    const line = markedOf([
      {
        kind: 'stroke',
        op: 'add',
        radiusPx: 6,
        hardness: 1,
        points: [
          [60, 60, 1],
          [300, 260, 1],
        ],
      },
    ]);
    expect(itsLikeBeside(two, line)).toEqual([]);
    const nothing = markedOf([{ kind: 'box', op: 'add', x: 380, y: 200, w: 70, h: 70 }]);
    expect(itsLikeBeside(two, nothing)).toEqual([]);
  });
});

test('where one of its kind stands next to it, nothing else that touches it is left out, and without it that is told of', () => {
  const post: Place = (x, y) => x > 260 && x < 292 && y > 228 && y < 282;
  const blue = (): Colour => [0.1, 0.3, 0.6];
  const besideIn = (isThere: Place) =>
    outlookOf(
      scene(
        (x, y) => isThere(x, y) || post(x, y),
        undefined,
        (x, y) => (post(x, y) ? blue() : fruit(152, 62)(x, y)),
      ),
      marked,
      null,
    )!.beside!;
  const withBoth = besideIn(left);
  expect(withBoth.standsNext).toBe(true);
  expect(withBoth.y + withBoth.h).toBeLessThan(245);
  const alone = besideIn(() => false);
  expect(alone.standsNext).toBe(false);
  expect(alone.y + alone.h).toBeGreaterThan(260);
});
