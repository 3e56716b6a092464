import { describe, expect, test } from 'vitest';
import type { StrokeShape } from '../../area';
import { strokeShape } from '../../testing/jobs';
import { evenWidth } from './even-width';

/** Where the picture lies in the photo. */
const [x0, y0] = [30, 20];
const [w, h] = [400, 200];
const rodY = (x: number) => 70 + 0.15 * x;
type Shape = (x: number, y: number) => boolean;
const maskOf = (shape: Shape) =>
  Uint8Array.from({ length: w * h }, (_, i) =>
    shape(x0 + (i % w) + 0.5, y0 + Math.floor(i / w) + 0.5) ? 255 : 0,
  );
const rod: Shape = (x, y) => x > 60 && x < 390 && Math.abs(y - rodY(x)) < 4;
const box =
  (cx: number, half: number, above: number, below: number): Shape =>
  (x, y) =>
    Math.abs(x - cx) < half && y > rodY(x) - above && y < rodY(x) + below;
/** A rod of one lightness, and so much more of it elsewhere. */
const groundOf = (lighter: number) => ({
  x: x0,
  y: y0,
  w,
  h,
  values: Float32Array.from({ length: 3 * w * h }, (_, k) => {
    const i = Math.floor(k / 3);
    if (k % 3 > 0) return 0;
    return rod(x0 + (i % w) + 0.5, y0 + Math.floor(i / w) + 0.5) ? 30 : 30 + lighter;
  }),
});
const along = (strayPx: number, from = 70, to = 380) =>
  strokeShape(
    Array.from({ length: 41 }, (_, k) => {
      const x = from + ((to - from) * k) / 40;
      return [x, rodY(x) + strayPx * Math.sin(k)] as const;
    }),
    4,
  ) as StrokeShape;
const nothingSaid = () => false;
const differing = (a: Uint8Array, b: Uint8Array) => a.reduce((n, v, i) => n + (v !== b[i] ? 1 : 0), 0);
const evened = (
  shape: Shape,
  lighter = 0,
  stroke = along(2.5),
  isSaid: (i: number) => boolean = nothingSaid,
) => evenWidth(maskOf(shape), groundOf(lighter), [stroke], isSaid);

/** Splinters may be left where something hangs over. */
const splinters = 0.2;

describe('what clings to a rod', () => {
  const truth = maskOf(rod);
  const leaf: Shape = (x, y) => rod(x, y) || box(200, 12, 9, 0)(x, y);
  const patch: Shape = (x, y) => rod(x, y) || box(240, 20, 30, 25)(x, y);

  test('is taken away where it is small, whatever its colour, on either side', () => {
    expect(differing(maskOf(leaf), truth)).toBeGreaterThan(100);
    expect(differing(evened(leaf), truth)).toBeLessThan(splinters * differing(maskOf(leaf), truth));
    const below: Shape = (x, y) => rod(x, y) || box(150, 12, 0, 9)(x, y);
    expect(differing(evened(below, 40), truth)).toBeLessThan(splinters * differing(maskOf(below), truth));
  });

  test('is taken away where it is large and of another colour only', () => {
    expect(differing(evened(patch, 40), truth)).toBeLessThan(splinters * differing(maskOf(patch), truth));
    expect(evened(patch, 10)).toEqual(maskOf(patch));
  });

  test('stays where it was scribbled over', () => {
    const at = 206 - x0 + w * (Math.floor(rodY(206)) - 7 - y0);
    expect(maskOf(leaf)[at]).toBe(255);
    expect(evened(leaf, 40, along(0), (i) => i === at)).toEqual(maskOf(leaf));
  });

  test('stays where it reaches far out, goes on for long, or to an end', () => {
    const board: Shape = (x, y) => rod(x, y) || box(240, 30, 60, 60)(x, y);
    const long: Shape = (x, y) => rod(x, y) || box(240, 70, 12, 0)(x, y);
    const end: Shape = (x, y) => rod(x, y) || box(370, 25, 25, 25)(x, y);
    for (const shape of [board, long, end]) expect(evened(shape, 40)).toEqual(maskOf(shape));
  });
});

test('what is not thin, tapers or sags keeps its shape', () => {
  const wide: Shape = (x, y) =>
    (x > 60 && x < 390 && Math.abs(y - rodY(x)) < 20) || box(200, 12, 26, 0)(x, y);
  const taper: Shape = (x, y) => x > 60 && x < 390 && Math.abs(y - rodY(x)) < 2 + (x - 60) / 60;
  const sag = (x: number) => rodY(x) + 5 * Math.sin((Math.PI * (x - 60)) / 330);
  const sagging: Shape = (x, y) => x > 60 && x < 390 && Math.abs(y - sag(x)) < 3;
  for (const shape of [wide, taper, sagging]) expect(evened(shape, 40, along(1))).toEqual(maskOf(shape));
});

test('what bends to and fro keeps its shape, and so does what is a little uneven for how thick it is', () => {
  const swayed = (x: number) => rodY(x) + 3.5 * Math.sin((3 * Math.PI * (x - 60)) / 330);
  const swaying: Shape = (x, y) => x > 60 && x < 390 && Math.abs(y - swayed(x)) < 3;
  const stroke = strokeShape(
    Array.from({ length: 41 }, (_, k) => [70 + 7.75 * k, swayed(70 + 7.75 * k)] as const),
    4,
  ) as StrokeShape;
  expect(evened(swaying, 40, stroke)).toEqual(maskOf(swaying));
  const uneven: Shape = (x, y) =>
    x > 60 && x < 390 && Math.abs(y - rodY(x)) < (Math.abs(x - 200) < 8 || Math.abs(x - 300) < 8 ? 11.7 : 10);
  expect(evened(uneven, 40)).toEqual(maskOf(uneven));
});

test('strokes that leave the picture, dots and no strokes change nothing', () => {
  const mask = maskOf(rod);
  const far = strokeShape(
    [
      [-200, 10],
      [-40, 12],
    ],
    4,
  ) as StrokeShape;
  const dot = strokeShape([[200, rodY(200)]], 4) as StrokeShape;
  expect(evenWidth(mask, groundOf(0), [far, dot], nothingSaid)).toEqual(mask);
  expect(evenWidth(mask, groundOf(0), [], nothingSaid)).toEqual(mask);
});
