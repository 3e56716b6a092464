import { describe, expect, test } from 'vitest';
import type { StrokeShape } from '../../area';
import { labOfPixels } from '../../colour';
import { strokeShape } from '../../testing/jobs';
import { growScribbles, seenOf } from '..';
import { grainy, likeness, pixelsOf } from '../testing';
import { edgesOutside } from './ring-edges';
import { isRing, liesOnThing, ringsApart } from './rings';

const circle = (x: number, y: number, r: number, radiusPx = 3) =>
  strokeShape(
    Array.from({ length: 25 }, (_, k) => {
      const a = (k / 24) * 2 * Math.PI;
      return [x + r * Math.cos(a), y + r * Math.sin(a)] as const;
    }),
    radiusPx,
  ) as StrokeShape;
const line = (...points: (readonly [number, number])[]) => strokeShape(points, 3) as StrokeShape;

describe('edges beside a ring', () => {
  const disc = (r: number) => {
    const { width, height, data } = grainy(200, 160, (x, y) =>
      Math.hypot(x - 100, y - 80) < r ? [0.7, 0.3, 0.2] : [0.45, 0.5, 0.5],
    );
    return { w: width, h: height, values: labOfPixels(data, width * height) };
  };
  const around = (r: number) => circle(100, 80, r).points.map(([x, y]) => [x, y] as const);

  test('are stronger outside where it lies on the thing, inside where it lies round it, whichever way it was drawn', () => {
    for (const way of [1, -1]) {
      const drawn = (r: number) => (way > 0 ? around(r) : around(r).reverse());
      expect(edgesOutside(disc(50), drawn(36), 3)).toBeGreaterThan(1);
      expect(edgesOutside(disc(50), drawn(62), 3)).toBeLessThan(-1);
    }
  });

  test('are the same where there is nothing to see, and where nothing is seen', () => {
    expect(Math.abs(edgesOutside(disc(0), around(40), 3))).toBeLessThan(0.1);
    const beyond = around(40).map(([x, y]) => [x + 500, y] as const);
    expect(edgesOutside(disc(50), beyond, 3)).toBe(0);
  });
});

describe('closed strokes', () => {
  const [round, within, beyond] = [
    circle(200, 150, 60),
    line([190, 140], [210, 160]),
    line([20, 30], [90, 60]),
  ];

  test('are rings unless they are thicker than what is in them, or open', () => {
    expect(isRing(round)).toBe(true);
    expect(isRing({ ...round, radiusPx: 40 })).toBe(false);
    expect(isRing({ ...round, points: round.points.slice(0, 18) })).toBe(false);
    expect(isRing(within)).toBe(false);
  });

  const spotted = seenOf(
    grainy(400, 300, (x, y) =>
      Math.hypot(x - 200, y - 150) < 30 || Math.hypot(x - 60, y - 60) < 15
        ? [0.2, 0.3, 0.6]
        : [0.5, 0.5, 0.5],
    ),
  );

  test('go round the thing, unless they leave out what was scribbled before', () => {
    expect(ringsApart(spotted, [round])).toEqual({ rings: [round], others: [], loops: [] });
    expect(ringsApart(spotted, [within, round])).toEqual({ rings: [round], others: [within], loops: [] });
    expect(ringsApart(spotted, [beyond, round])).toEqual({ rings: [], others: [beyond, round], loops: [] });
    // Half of it is enough.
    const across = line([190, 140], [300, 140]);
    expect(ringsApart(spotted, [across, round]).rings).toEqual([]);
    // What comes later adds to what was found.
    expect(ringsApart(spotted, [round, beyond])).toEqual({ rings: [round], others: [beyond], loops: [] });
    const another = circle(60, 60, 30);
    expect(ringsApart(spotted, [round, another]).rings).toEqual([round, another]);
  });

  test.each([1, -1])(
    'lie on what they keep within, and round what is in them, whichever way round: %d',
    (way) => {
      // A disc of two colours before a wall and a floor.
      const photo = grainy(400, 300, (x, y) =>
        Math.hypot(x - 200, y - 150) < 80
          ? x + y < 320
            ? [0.7, 0.2, 0.15]
            : [0.75, 0.7, 0.25]
          : y < 190
            ? [0.4, 0.45, 0.45]
            : [0.6, 0.58, 0.55],
      );
      const seen = seenOf(photo);
      const drawn = ({ points, ...rest }: StrokeShape): StrokeShape => ({
        ...rest,
        points: way > 0 ? points : [...points].reverse(),
      });
      const [on, about] = [circle(200, 150, 66), circle(202, 148, 96)].map(drawn);
      expect(liesOnThing(seen, on)).toBe(true);
      expect(liesOnThing(seen, about)).toBe(false);
      expect(ringsApart(seen, [on])).toEqual({ rings: [], others: [on], loops: [on] });
      const isDisc = (x: number, y: number) => Math.hypot(x - 200, y - 150) < 80;
      for (const ring of [on, about]) {
        const got = pixelsOf(growScribbles(seen, { inside: [ring], outside: [] })!, 400, 300);
        expect(likeness(got, 400, isDisc)).toBeGreaterThan(0.9);
      }
    },
  );

  test('lie on what they keep within, however streaked, and deep in it', () => {
    const seen = seenOf(
      grainy(400, 300, (x, y) =>
        Math.hypot(x - 200, y - 150) < 120
          ? (x + y) % 40 < 20
            ? [0.7, 0.2, 0.15]
            : [0.75, 0.7, 0.25]
          : [0.4, 0.45, 0.45],
      ),
    );
    expect(ringsApart(seen, [circle(200, 150, 100)]).rings).toEqual([]);
    expect(ringsApart(seen, [circle(200, 150, 135)]).rings.length).toBe(1);
    const even = seenOf(
      grainy(400, 300, (x, y) => (Math.hypot(x - 200, y - 150) < 120 ? [0.7, 0.2, 0.15] : [0.4, 0.45, 0.45])),
    );
    expect(ringsApart(even, [circle(200, 150, 70)]).rings).toEqual([]);
  });

  test('go round something small, too', () => {
    const seen = seenOf(
      grainy(400, 300, (x, y) => (Math.hypot(x - 220, y - 160) < 32 ? [0.2, 0.3, 0.6] : [0.5, 0.5, 0.5])),
    );
    expect(ringsApart(seen, [circle(200, 150, 110)]).rings.length).toBe(1);
  });

  test('a coil that is scribbled along, its loose end first, is found, and not what lies in it', () => {
    const isCoil = (x: number, y: number) =>
      Math.abs(Math.hypot(x - 200, y - 150) - 60) < 6 || (Math.abs(y - 150) < 6 && x > 30 && x < 140);
    const photo = grainy(400, 300, (x, y) => (isCoil(x, y) ? [0.2, 0.6, 0.3] : [0.5, 0.48, 0.45]));
    const inside = [line([40, 151], [135, 149]), round];
    const got = pixelsOf(growScribbles(seenOf(photo), { inside, outside: [] })!, 400, 300);
    expect(likeness(got, 400, isCoil)).toBeGreaterThan(0.75);
    expect(got[150 * 400 + 200]).toBe(0);
  });
});
