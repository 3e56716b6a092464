import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { noisePhoto, paintPhoto } from '../testing/pictures';
import {
  blockSize,
  boundsOf,
  buildPyramid,
  checkSize,
  contains,
  emptyRect,
  halve,
  inBlocks,
  intersect,
  isEmpty,
  isOpaque,
  makeFloatImage,
  makeRaster,
  quantise,
  readRaster,
  tileKey,
  tileOfKey,
  tileRect,
  tilesIn,
  unite,
} from '.';

describe('float images', () => {
  test.each([8, 16] as const)(
    'reading and writing %i-bit values gives the same bytes, transparent or not',
    (depth) => {
      const photo = noisePhoto(37, 23, 3, depth);
      const max = depth === 8 ? 255 : 65535;
      for (let i = 3; i < photo.data.length; i += 4)
        photo.data[i] = i % 5 === 0 ? 0 : i % 3 === 0 ? Math.floor(max / 3) : max;
      const image = makeFloatImage(boundsOf(photo));
      readRaster(photo, boundsOf(photo), image);
      const back = makeRaster(37, 23, 4, depth);
      quantise(image, boundsOf(photo), back, { x: 0, y: 0 });
      for (let p = 0; p < photo.data.length; p += 4) {
        expect(back.data[p + 3]).toBe(photo.data[p + 3]);
        if (photo.data[p + 3] > 0)
          expect([...back.data.subarray(p, p + 3)]).toEqual([...photo.data.subarray(p, p + 3)]);
      }
    },
  );
});

describe('pyramid', () => {
  test('a level holds the rounded mean of two by two pixels', () => {
    const photo = noisePhoto(10, 8, 4);
    const half = halve(photo);
    expect([half.width, half.height]).toEqual([5, 4]);
    const sum = [0, 4, 40, 44].reduce((n, i) => n + photo.data[i], 0);
    expect(half.data[0]).toBe((sum + 2) >> 2);
  });

  test('odd sides keep their last row and column, down to one pixel', () => {
    const levels = buildPyramid(noisePhoto(333, 5, 1), 1);
    expect(levels.map((l) => [l.width, l.height])).toEqual([
      [333, 5],
      [167, 3],
      [84, 2],
      [42, 1],
      [21, 1],
      [11, 1],
      [6, 1],
      [3, 1],
      [2, 1],
      [1, 1],
    ]);
  });

  test('transparent pixels lend no colour', () => {
    const photo = paintPhoto(2, 2, 8, (x) => (x === 0 ? [1, 0, 0, 1] : [0, 1, 0, 0]));
    expect([...halve(photo).data]).toEqual([255, 0, 0, 128]);
    expect(isOpaque(photo)).toBe(false);
  });
});

describe('tiles', () => {
  test('blocks hold the pixels of rectangles once each, none beyond them but between those of one block', () => {
    const rects = fc.array(
      fc.record({
        x: fc.integer({ min: 0, max: 200 }),
        y: fc.integer({ min: 0, max: 150 }),
        w: fc.integer({ min: 0, max: 90 }),
        h: fc.integer({ min: 0, max: 90 }),
      }),
      { maxLength: 4 },
    );
    fc.assert(
      fc.property(rects, (list) => {
        const parts = inBlocks(list);
        for (const r of list.filter((one) => !isEmpty(one)))
          for (const [x, y] of [
            [r.x, r.y],
            [r.x + r.w - 1, r.y + r.h - 1],
            [r.x + (r.w >> 1), r.y + (r.h >> 1)],
          ])
            expect(parts.filter((p) => contains(p, { x, y, w: 1, h: 1 }))).toHaveLength(1);
        parts.forEach((part, k) => {
          const block = {
            x: blockSize * Math.floor(part.x / blockSize),
            y: blockSize * Math.floor(part.y / blockSize),
            w: blockSize,
            h: blockSize,
          };
          expect(contains(block, part)).toBe(true);
          const within = list.map((r) => intersect(r, block)).filter((r) => !isEmpty(r));
          expect(part).toEqual(within.reduce(unite, emptyRect));
          for (const other of parts.slice(k + 1)) expect(isEmpty(intersect(part, other))).toBe(true);
        });
      }),
    );
  });

  test('the tiles of a rectangle cover it exactly, within the photo', () => {
    const bounds = { x: 0, y: 0, w: 1000, h: 700 };
    fc.assert(
      fc.property(
        fc.integer({ min: -50, max: 999 }),
        fc.integer({ min: 0, max: 699 }),
        fc.nat(900),
        fc.nat(900),
        (x, y, w, h) => {
          const keys = tilesIn({ x, y, w, h }, bounds);
          for (const key of keys) {
            const { tx, ty } = tileOfKey(key);
            expect(tileKey(tx, ty)).toBe(key);
            const r = tileRect(tx, ty, bounds);
            expect(r.x < x + w && r.x + r.w > x && r.y < y + h && r.y + r.h > y).toBe(true);
          }
          const inside =
            Math.max(0, Math.min(1000, x + w) - Math.max(0, x)) * Math.max(0, Math.min(700, y + h) - y);
          expect(keys.length > 0).toBe(inside > 0);
        },
      ),
    );
  });
});

test.each([
  [0, 10],
  [10.5, 4],
  [16385, 1],
  [10000, 10000],
])('a photo of %d × %d is refused with a sentence that says why', (w, h) => {
  expect(() => checkSize(w, h)).toThrow(/pixel/);
});

test('fifty megapixels are allowed', () => {
  expect(() => checkSize(8660, 5774)).not.toThrow();
});
