import { expect, test } from 'vitest';
import { makeFloatImage } from '../../raster';
import { FirstAnswer } from './first-answer';

const pixel = ({ w, data }: { w: number; data: Uint8ClampedArray }, x: number, y: number) => [
  ...data.subarray(4 * (y * w + x), 4 * (y * w + x) + 4),
];

test('a sketch is laid over all that it is of, what is finished goes over it, the rest is transparent', () => {
  const answer = new FirstAnswer({ x: 10, y: 20, w: 40, h: 30 });
  const sketch = makeFloatImage({ x: 3, y: 5, w: 2, h: 2 });
  sketch.data.set([0.8, 0, 0, 1, 0, 0.8, 0, 1, 0, 0, 0, 0, 0, 0, 0.4, 0.5]);
  const first = answer.with(sketch, { x: 12, y: 20, w: 8, h: 8 });
  expect(first).toMatchObject({ rect: { x: 10, y: 20, w: 40, h: 30 }, w: 40, h: 30 });
  expect(pixel(first, 2, 0)).toEqual([204, 0, 0, 255]);
  expect(pixel(first, 9, 3)).toEqual([0, 204, 0, 255]);
  expect(pixel(first, 3, 5)).toEqual([0, 0, 0, 0]);
  expect(pixel(first, 6, 4)).toEqual([0, 0, 204, 128]);
  expect(pixel(first, 10, 0)).toEqual([0, 0, 0, 0]);
  const part = makeFloatImage({ x: 14, y: 21, w: 2, h: 1 });
  part.data.set([0.2, 0.4, 0.6, 1, 0, 0, 0, 0]);
  const second = answer.with(part);
  expect(pixel(second, 4, 1)).toEqual([51, 102, 153, 255]);
  expect(pixel(second, 5, 1)).toEqual([204, 0, 0, 255]);
  expect(pixel(first, 4, 1)).toEqual([204, 0, 0, 255]);
});

test('of something large it is small, and its rectangle holds the whole', () => {
  const answer = new FirstAnswer({ x: 0, y: 0, w: 2000, h: 1001 });
  const part = makeFloatImage({ x: 1990, y: 990, w: 10, h: 11 });
  part.data.fill(1);
  const shown = answer.with(part);
  expect(Math.max(shown.w, shown.h)).toBeLessThanOrEqual(640);
  expect(shown.rect.w).toBeGreaterThanOrEqual(2000);
  expect(shown.rect.h).toBeGreaterThanOrEqual(1001);
  expect(pixel(shown, shown.w - 1, shown.h - 1)).toEqual([255, 255, 255, 255]);
  expect(pixel(shown, 0, 0)).toEqual([0, 0, 0, 0]);
});
