import { describe, expect, test } from 'vitest';
import { outlookOf, seenOf } from '.';
import { type Beside, thingsBeside } from './beside';
import { goingOn } from './going-on';
import { rimOfSight, sightOf } from './sight';
import { grainy, markedOf, pixelsOf } from './testing';
import { touchingParts } from './touching';

type Colour = readonly [number, number, number];
const [red, yellow]: Colour[] = [
  [0.75, 0.2, 0.15],
  [0.8, 0.75, 0.25],
];
const [w, h] = [480, 320];
const ball = (cx: number, r: number) => (x: number, y: number) => Math.hypot(x - cx, y - 170) < r;
const [left, right] = [ball(152, 72), ball(276, 58)];
const streaked = (x: number, y: number): Colour => ((x + y) % 44 < 22 ? red : yellow);
const cloth = (_: number, y: number): Colour => (y < 120 ? [0.35, 0.4, 0.42] : [0.62, 0.6, 0.55]);

/** What is marked: all within a polygon round the right ball. */
const around = Array.from({ length: 24 }, (_, k) => {
  const a = (k / 24) * 2 * Math.PI;
  return [276 + 60 * Math.cos(a), 170 + 60 * Math.sin(a)] as const;
});
const mark = markedOf([{ kind: 'polygon', op: 'add', points: around }]);
const sceneOf = (colour: (x: number, y: number) => Colour) => seenOf(grainy(w, h, colour));
const besideOf = (seen: ReturnType<typeof seenOf>): Beside | null => {
  const sight = sightOf(seen, mark, 1.2, 24_000)!;
  return thingsBeside(seen, mark, sight, rimOfSight(sight), [], [], null);
};

describe('something of several colours that touches what is marked', () => {
  const two = sceneOf((x, y) => (left(x, y) || right(x, y) ? streaked(x, y) : cloth(x, y)));

  /** The marked one is dark along its rim. */
  const shaded = sceneOf((x, y) => {
    if (right(x, y)) return ball(276, 53)(x, y) ? streaked(x, y) : [0.3, 0.14, 0.1];
    return left(x, y) ? streaked(x, y) : cloth(x, y);
  });

  test('is found, and what lies round it is not', () => {
    const found = besideOf(two)!;
    const got = pixelsOf(found, w, h);
    let [both, either] = [0, 0];
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const [is, has] = [left(x, y), got[y * w + x] > 0];
        if (is && has) both++;
        if (is || has) either++;
      }
    expect(both / either).toBeGreaterThan(0.8);
  });

  test('is outlined as it is seen at full size, as far off all along', () => {
    const got = pixelsOf(besideOf(two)!, w, h);
    const reached = Array.from({ length: 61 }, (_, k) => {
      const a = ((100 + 160 * (k / 60)) * Math.PI) / 180;
      let r = 60;
      while (got[Math.floor(170 + (r + 0.5) * Math.sin(a)) * w + Math.floor(152 + (r + 0.5) * Math.cos(a))])
        r += 0.5;
      return r - 72;
    });
    expect(Math.max(...reached) - Math.min(...reached)).toBeLessThan(3);
  });

  test('stands next to it when it ends there, not when some of it was marked as well', () => {
    expect(besideOf(shaded)!.standsNext).toBe(true);
    // Nothing parts these two.
    expect(besideOf(two)!.standsNext).toBe(false);
    const farther = markedOf([
      { kind: 'polygon', op: 'add', points: around },
      { kind: 'box', op: 'add', x: 200, y: 140, w: 40, h: 60 },
    ]);
    const sight = sightOf(shaded, farther, 1.2, 24_000)!;
    expect(thingsBeside(shaded, farther, sight, rimOfSight(sight), [], [], null)!.standsNext).toBe(false);
  });

  test('does not stand next to it when nothing but a soft shade parts it from what is marked', () => {
    // A bar of two colours that fades away within the area.
    const fading = sceneOf((x, y) => {
      const bar = x > 90 && x < 290 && y > 130 && y < 205 ? (y < 168 ? red : yellow) : cloth(x, y);
      const share = Math.min(1, Math.max(0, (290 - x) / 90));
      const plain = cloth(x, y);
      return [0, 1, 2].map((c) => plain[c] + share * (bar[c] - plain[c])) as unknown as Colour;
    });
    const found = besideOf(fading);
    expect(found).not.toBeNull();
    expect(found!.standsNext).toBe(false);
  });

  test('goes on within the area as far as no edge parts it from what is marked', () => {
    const sight = sightOf(shaded, mark, 1.2, 24_000)!;
    const { w: cols } = sight.rect;
    const leftOf = (isPart: (x: number, y: number) => boolean) =>
      [...sight.inside.keys()].filter((i) => {
        const [x, y] = [
          (sight.rect.x + (i % cols)) * sight.by,
          (sight.rect.y + Math.floor(i / cols)) * sight.by,
        ];
        return !sight.inside[i] && isPart(x, y);
      });
    const ball = goingOn(sight, leftOf(left));
    expect(ball.reach * sight.by).toBeLessThan(8);
    expect(ball.link).toBeLessThan(0.2);
    // The cloth below goes on right up to the marked ball's own outline; there is none in it.
    const plain = sightOf(
      sceneOf(() => [0.62, 0.6, 0.55]),
      mark,
      1.2,
      24_000,
    )!;
    expect(goingOn(plain, leftOf(left)).link).toBeGreaterThan(0.4);
  });

  test('is told of in the outlook', () => {
    expect(outlookOf(two, mark, null)!.suggestions.map(({ what }) => what)).toContain('beside');
  });

  test('is not there when nothing touches it, nor when all that does is ground that goes on', () => {
    const alone = sceneOf((x, y) => (right(x, y) ? streaked(x, y) : cloth(x, y)));
    expect(besideOf(alone)).toBeNull();
    const beforeBricks = sceneOf((x, y) =>
      right(x, y)
        ? streaked(x, y)
        : x < 225
          ? Math.floor(x / 16) % 2 === Math.floor(y / 10) % 2
            ? [0.55, 0.3, 0.25]
            : [0.75, 0.7, 0.68]
          : cloth(x, y),
    );
    expect(besideOf(beforeBricks)).toBeNull();
  });

  test('is not told again when it is avoided already', () => {
    const sight = sightOf(two, mark, 1.2, 24_000)!;
    expect(thingsBeside(two, mark, sight, rimOfSight(sight), [], [], (x, y) => !left(x, y))).toBeNull();
  });
});

test('an even rim has no parts of its own, nor has one that is of many colours all round', () => {
  const plain = sightOf(
    sceneOf(() => yellow),
    mark,
    1.2,
    24_000,
  )!;
  expect(touchingParts(plain, rimOfSight(plain))).toEqual([]);
  const all = sightOf(sceneOf(streaked), mark, 1.2, 24_000)!;
  expect(touchingParts(all, rimOfSight(all))).toEqual([]);
});
