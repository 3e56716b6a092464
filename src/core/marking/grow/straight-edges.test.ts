import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { straightEdges } from './straight-edges';

const [w, h] = [420, 300];
type Shape = (x: number, y: number) => boolean;
const maskOf = (shape: Shape) =>
  Uint8Array.from({ length: w * h }, (_, i) => (shape((i % w) + 0.5, Math.floor(i / w) + 0.5) ? 255 : 0));
const differing = (a: Uint8Array, b: Uint8Array) => a.reduce((n, v, i) => n + (v !== b[i] ? 1 : 0), 0);

/** A post that leans a little, with a hole. */
const leftOf = (y: number) => 150 + 0.13 * y;
const post: Shape = (x, y) =>
  y > 10 && y < 290 && x > leftOf(y) && x < leftOf(y) + 60 && !(x > 190 && x < 200 && y > 20 && y < 285);

/** A slow wave along an edge, in pixels. */
const wave = (at: number, size: number) => size * Math.sin(at / 7);

describe('a long edge', () => {
  test('that wavers is drawn straight', () => {
    const wavering = maskOf((x, y) => post(x + wave(y, 1.5), y));
    const truth = maskOf(post);
    const straight = straightEdges(wavering, w, h);
    // Away from its ends, where there is no edge to both sides of a place.
    const middle = [70 * w, 230 * w] as const;
    const before = differing(wavering.slice(...middle), truth.slice(...middle));
    expect(before).toBeGreaterThan(400);
    expect(differing(straight.slice(...middle), truth.slice(...middle))).toBeLessThan(0.25 * before);
    expect(differing(straight, truth)).toBeLessThan(differing(wavering, truth));
  });

  test('that is straight stays where it is', () => {
    const truth = maskOf(post);
    expect(differing(straightEdges(truth, w, h), truth)).toBeLessThan(20);
  });

  test('keeps what stands out from it: a knob, a notch and its corners', () => {
    const knob: Shape = (x, y) => post(x, y) || (x > 120 && x < 170 && y > 100 && y < 112);
    const notched: Shape = (x, y) => knob(x, y) && !(x < 190 && y > 200 && y < 212);
    const truth = maskOf(notched);
    expect(differing(straightEdges(truth, w, h), truth)).toBeLessThan(40);
  });

  test('that bends is none', () => {
    const round = maskOf((x, y) => Math.hypot(x - 210, y - 150) < 120);
    expect(straightEdges(round, w, h)).toEqual(round);
  });

  test('along the picture’s edge is kept', () => {
    const band = maskOf((_, y) => y < 40);
    expect(straightEdges(band, w, h)).toEqual(band);
  });
});

test('nothing, everything and small things come back as they are', () => {
  const random = makeRandom(5);
  const specks = maskOf(() => random.next() < 0.1);
  for (const mask of [maskOf(() => false), maskOf(() => true), maskOf((x, y) => x < 9 && y < 12), specks])
    expect(straightEdges(mask, w, h)).toEqual(mask);
});

test('what is enormous is left as it was found', () => {
  const [wide, high] = [4000, 2100];
  const mask = new Uint8Array(wide * high).map((_, i) =>
    i % wide > 400 + wave(Math.floor(i / wide), 1.5) ? 255 : 0,
  );
  expect(Buffer.from(straightEdges(mask, wide, high)).equals(Buffer.from(mask))).toBe(true);
});
