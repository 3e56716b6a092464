import { describe, expect, test } from 'vitest';
import type { StrokeShape } from '../../area';
import { strokeShape } from '../../testing/jobs';
import { growScribbles, seenOf } from '..';
import { grainy, likeness, pixelsOf } from '../testing';
import { isRing, ringsApart } from './rings';

const circle = (x: number, y: number, r: number, radiusPx = 3) =>
  strokeShape(
    Array.from({ length: 25 }, (_, k) => {
      const a = (k / 24) * 2 * Math.PI;
      return [x + r * Math.cos(a), y + r * Math.sin(a)] as const;
    }),
    radiusPx,
  ) as StrokeShape;
const line = (...points: (readonly [number, number])[]) => strokeShape(points, 3) as StrokeShape;

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

  test('go round the thing, unless they leave out what was scribbled before', () => {
    expect(ringsApart([round])).toEqual({ rings: [round], others: [] });
    expect(ringsApart([within, round])).toEqual({ rings: [round], others: [within] });
    expect(ringsApart([beyond, round])).toEqual({ rings: [], others: [beyond, round] });
    // Half of it is enough.
    const across = line([190, 140], [300, 140]);
    expect(ringsApart([across, round]).rings).toEqual([]);
    // What comes later adds to what was found.
    expect(ringsApart([round, beyond])).toEqual({ rings: [round], others: [beyond] });
    const another = circle(60, 60, 30);
    expect(ringsApart([round, another]).rings).toEqual([round, another]);
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
