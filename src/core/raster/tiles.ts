import { emptyRect, intersect, isEmpty, type Rect, unite } from './rect';

/** Side of a tile in pixels. 256² float RGBA is 1 MiB: small enough to keep, large enough to pay its overhead. */
export const tileSize = 256;

/** Tile coordinates packed into one number, so that a plain Map can be keyed by them. */
export const tileKey = (tx: number, ty: number): number => ty * 65536 + tx;

export const tileOfKey = (key: number): { tx: number; ty: number } => ({
  tx: key % 65536,
  ty: Math.floor(key / 65536),
});

/** The pixels of a tile that lie within the photo. */
export function tileRect(tx: number, ty: number, bounds: Rect): Rect {
  return intersect({ x: tx * tileSize, y: ty * tileSize, w: tileSize, h: tileSize }, bounds);
}

/** Keys of all tiles that a rectangle touches, row by row. */
export function tilesIn(rect: Rect, bounds: Rect): number[] {
  const r = intersect(rect, bounds);
  if (isEmpty(r)) return [];
  const keys: number[] = [];
  const x1 = Math.floor((r.x + r.w - 1) / tileSize);
  const y1 = Math.floor((r.y + r.h - 1) / tileSize);
  for (let ty = Math.floor(r.y / tileSize); ty <= y1; ty++)
    for (let tx = Math.floor(r.x / tileSize); tx <= x1; tx++) keys.push(tileKey(tx, ty));
  return keys;
}

/** What changes while a stroke is painted is told in parts that lie within squares of so many pixels: a brush changes little
 *  beside what it covers, and buffers of that size come from memory that has been used before. */
export const blockSize = 128;

/** The pixels of some rectangles, which may overlap, as rectangles that do not: within each square of {@link blockSize}
 *  the smallest that holds all that lies in it. Row by row. */
export function inBlocks(rects: readonly Rect[]): Rect[] {
  const parts = new Map<number, Rect>();
  for (const r of rects) {
    if (isEmpty(r)) continue;
    const x1 = Math.floor((r.x + r.w - 1) / blockSize);
    const y1 = Math.floor((r.y + r.h - 1) / blockSize);
    for (let by = Math.floor(r.y / blockSize); by <= y1; by++)
      for (let bx = Math.floor(r.x / blockSize); bx <= x1; bx++) {
        const block = { x: bx * blockSize, y: by * blockSize, w: blockSize, h: blockSize };
        const key = tileKey(bx, by);
        parts.set(key, unite(parts.get(key) ?? emptyRect, intersect(block, r)));
      }
  }
  return [...parts].sort((a, b) => a[0] - b[0]).map(([, part]) => part);
}

/** A rectangle in squares from its top left on, row by row; the last ones are cut off by its edges. */
export function squaresOf(rect: Rect, side: number): Rect[] {
  const out: Rect[] = [];
  for (let y = rect.y; y < rect.y + rect.h; y += side)
    for (let x = rect.x; x < rect.x + rect.w; x += side)
      out.push(intersect({ x, y, w: side, h: side }, rect));
  return out;
}
