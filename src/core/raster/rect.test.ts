import fc from 'fast-check';
import { expect, test } from 'vitest';
import {
  areaOf,
  contains,
  enclosing,
  grow,
  intersect,
  isEmpty,
  meets,
  mergeRects,
  partOfPlane,
  type Rect,
  shift,
  unite,
} from './rect';

const side = 40;
const rect = fc.record({
  x: fc.integer({ min: 0, max: side - 1 }),
  y: fc.integer({ min: 0, max: side - 1 }),
  w: fc.integer({ min: 0, max: 12 }),
  h: fc.integer({ min: 0, max: 12 }),
});

function paint(rects: readonly Rect[]): Uint8Array {
  const n = side + 12;
  const out = new Uint8Array(n * n);
  for (const r of rects)
    for (let y = r.y; y < r.y + r.h; y++) for (let x = r.x; x < r.x + r.w; x++) out[y * n + x]++;
  return out;
}

test('merged rectangles cover every pixel of the given ones, and no pixel twice', () => {
  fc.assert(
    fc.property(fc.array(rect, { maxLength: 12 }), (rects) => {
      const wanted = paint(rects);
      const got = paint(mergeRects(rects));
      expect(got.every((v, i) => (wanted[i] > 0 ? v === 1 : v <= 1))).toBe(true);
    }),
  );
});

test('with no waste allowed, merged rectangles cover exactly the given ones', () => {
  fc.assert(
    fc.property(fc.array(rect, { maxLength: 12 }), (rects) => {
      const wanted = paint(rects);
      const got = paint(mergeRects(rects, 0));
      expect([...got].every((v, i) => v === (wanted[i] > 0 ? 1 : 0))).toBe(true);
    }),
  );
});

test('merging merged rectangles changes nothing that they cover', () => {
  fc.assert(
    fc.property(fc.array(rect, { maxLength: 8 }), (rects) => {
      const once = mergeRects(rects);
      const twice = mergeRects(once, 0);
      const a = paint(twice);
      expect(paint(once).every((v, i) => v === a[i])).toBe(true);
    }),
  );
});

test('the intersection lies in both, the union holds both', () => {
  fc.assert(
    fc.property(rect, rect, (a, b) => {
      const i = intersect(a, b);
      expect(contains(a, i) && contains(b, i)).toBe(true);
      expect(contains(unite(a, b), a) && contains(unite(a, b), b)).toBe(true);
      expect(meets(a, b)).toBe(!isEmpty(i));
      expect(areaOf(i)).toBe(areaOf(intersect(b, a)));
    }),
  );
});

test('growing and shrinking by the same amount gives the rectangle back; shifting keeps its size', () => {
  fc.assert(
    fc.property(rect, fc.integer({ min: 0, max: 9 }), (r, by) => {
      if (!isEmpty(r)) expect(grow(grow(r, by), -by)).toEqual(r);
      expect(areaOf(shift(r, by, -by))).toBe(areaOf(r));
    }),
  );
});

test('a real-valued box is enclosed by whole pixels', () => {
  expect(enclosing(0.2, 1, 2.1, 3)).toEqual({ x: 0, y: 1, w: 3, h: 2 });
});

test('a part of a plane holds what lies there, and 0 beyond', () => {
  fc.assert(
    fc.property(rect, rect, (all, part) => {
      const plane = Uint8Array.from({ length: areaOf(all) }, (_, i) => 1 + (i % 255));
      const got = partOfPlane(plane, all, part);
      expect(got.length).toBe(areaOf(part));
      for (let i = 0; i < got.length; i++) {
        const [x, y] = [part.x + (i % part.w) - all.x, part.y + Math.floor(i / part.w) - all.y];
        const isThere = x >= 0 && y >= 0 && x < all.w && y < all.h;
        expect(got[i]).toBe(isThere ? plane[y * all.w + x] : 0);
      }
    }),
  );
});
