import { expect, test } from 'vitest';
import { placeWithin } from '.';

/** What is set, in a mask that lies on the photo four times as large. */
const found = (w: number, h: number, is: (x: number, y: number) => boolean) => ({
  mask: {
    w,
    h,
    data: Uint8Array.from({ length: w * h }, (_, i) => (is(i % w, Math.floor(i / w)) ? 255 : 0)),
  },
  x: 100,
  y: 60,
  w: 4 * w,
  h: 4 * h,
});

test('a number stands deep within what it belongs to, near its middle where that is as deep', () => {
  const box = placeWithin(found(41, 21, () => true));
  expect(box[0]).toBeCloseTo(100 + 4 * 20.5, 0);
  expect(box[1]).toBeCloseTo(60 + 4 * 10.5, 0);
  // An angle with one wide and one narrow side: its box’s middle lies outside.
  const [x, y] = placeWithin(found(60, 60, (u, v) => v < 20 || u < 6));
  expect((y - 60) / 4).toBeGreaterThan(8);
  expect((y - 60) / 4).toBeLessThan(12);
  expect((x - 100) / 4).toBeGreaterThan(20);
  expect((x - 100) / 4).toBeLessThan(40);
  expect(placeWithin(found(4, 4, () => false))).toEqual([108, 68]);
});
