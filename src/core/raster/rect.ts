/** A half-open rectangle of whole pixels in document space: x…x+w, y…y+h. Empty when w or h is 0. */
export interface Rect {
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
}

export const emptyRect: Rect = { x: 0, y: 0, w: 0, h: 0 };

export const isEmpty = (r: Rect): boolean => r.w <= 0 || r.h <= 0;

/** The smallest whole-pixel rectangle that holds the given real-valued box. */
export function enclosing(x0: number, y0: number, x1: number, y1: number): Rect {
  const x = Math.floor(x0);
  const y = Math.floor(y0);
  return { x, y, w: Math.max(0, Math.ceil(x1) - x), h: Math.max(0, Math.ceil(y1) - y) };
}

export function intersect(a: Rect, b: Rect): Rect {
  const x = Math.max(a.x, b.x);
  const y = Math.max(a.y, b.y);
  const w = Math.min(a.x + a.w, b.x + b.w) - x;
  const h = Math.min(a.y + a.h, b.y + b.h) - y;
  return w > 0 && h > 0 ? { x, y, w, h } : emptyRect;
}

export const meets = (a: Rect, b: Rect): boolean => !isEmpty(intersect(a, b));

/** The smallest rectangle that holds both; an empty one counts for nothing. */
export function unite(a: Rect, b: Rect): Rect {
  if (isEmpty(a)) return isEmpty(b) ? emptyRect : b;
  if (isEmpty(b)) return a;
  const x = Math.min(a.x, b.x);
  const y = Math.min(a.y, b.y);
  return { x, y, w: Math.max(a.x + a.w, b.x + b.w) - x, h: Math.max(a.y + a.h, b.y + b.h) - y };
}

export function grow(r: Rect, by: number): Rect {
  if (isEmpty(r)) return emptyRect;
  const w = r.w + 2 * by;
  const h = r.h + 2 * by;
  return w > 0 && h > 0 ? { x: r.x - by, y: r.y - by, w, h } : emptyRect;
}

export const shift = (r: Rect, dx: number, dy: number): Rect => ({
  x: r.x + dx,
  y: r.y + dy,
  w: r.w,
  h: r.h,
});

export const contains = (outer: Rect, inner: Rect): boolean =>
  isEmpty(inner) ||
  (inner.x >= outer.x &&
    inner.y >= outer.y &&
    inner.x + inner.w <= outer.x + outer.w &&
    inner.y + inner.h <= outer.y + outer.h);

export const areaOf = (r: Rect): number => (isEmpty(r) ? 0 : r.w * r.h);

export const sameRect = (a: Rect, b: Rect): boolean =>
  a.x === b.x && a.y === b.y && a.w === b.w && a.h === b.h;

/** `a` without `b`, as at most four rectangles that do not overlap. */
function subtractRect(a: Rect, b: Rect): Rect[] {
  const c = intersect(a, b);
  if (isEmpty(c)) return isEmpty(a) ? [] : [a];
  const parts: Rect[] = [
    { x: a.x, y: a.y, w: a.w, h: c.y - a.y },
    { x: a.x, y: c.y + c.h, w: a.w, h: a.y + a.h - (c.y + c.h) },
    { x: a.x, y: c.y, w: c.x - a.x, h: c.h },
    { x: c.x + c.w, y: c.y, w: a.x + a.w - (c.x + c.w), h: c.h },
  ];
  return parts.filter((p) => !isEmpty(p));
}

/** Rectangles that cover the same pixels as the given ones without overlapping, so that no pixel is worked on
 *  twice. Two that meet are joined when their common box wastes at most `waste` of its pixels. */
export function mergeRects(rects: readonly Rect[], waste = 0.25): Rect[] {
  const joined: Rect[] = [];
  for (const rect of rects) {
    if (isEmpty(rect)) continue;
    let current = rect;
    for (let i = 0; i < joined.length; ) {
      const other = joined[i];
      const box = unite(current, other);
      const covered = areaOf(current) + areaOf(other) - areaOf(intersect(current, other));
      const exact = covered === areaOf(box);
      if (exact || (meets(grow(current, 1), other) && covered >= (1 - waste) * areaOf(box))) {
        current = box;
        joined.splice(i, 1);
        i = 0;
      } else i++;
    }
    joined.push(current);
  }
  const disjoint: Rect[] = [];
  for (const rect of joined) {
    let parts = [rect];
    for (const done of disjoint) parts = parts.flatMap((part) => subtractRect(part, done));
    disjoint.push(...parts);
  }
  return disjoint;
}

/** A part of something that has a number for each pixel of a rectangle: the caller's own, 0 beyond the rectangle. */
export function partOfPlane<T extends Float32Array | Uint8Array>(plane: T, rect: Rect, part: Rect): T {
  const out = new (plane.constructor as new (length: number) => T)(part.w * part.h);
  const { x, y, w, h } = intersect(rect, part);
  for (let row = y; row < y + h; row++) {
    const from = (row - rect.y) * rect.w + x - rect.x;
    out.set(plane.subarray(from, from + w), (row - part.y) * part.w + x - part.x);
  }
  return out;
}
