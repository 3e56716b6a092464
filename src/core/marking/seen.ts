import { buildPyramid, type Raster, type Rect } from '../raster';

/** The picture as it is seen, 8-bit, at every halving. Marks are found on it: what was mended is not there any more. */
export interface Seen {
  /** Of level 0. */
  readonly width: number;
  readonly height: number;
  readonly levels: number;
  /** RGBA rows of a part of a level. @param rect  whole pixels of that level, within it */
  region(level: number, rect: Rect): Uint8ClampedArray;
}

/** Where a rectangle of the photo lies in a level, on whole pixels, and no farther than the level reaches. */
export function rectAtLevel(seen: Seen, level: number, rect: Rect): Rect {
  const by = 2 ** level;
  const [width, height] = [Math.ceil(seen.width / by), Math.ceil(seen.height / by)];
  const clamp = (v: number, most: number) => Math.min(most, Math.max(0, v));
  const x0 = clamp(Math.floor(rect.x / by), width);
  const y0 = clamp(Math.floor(rect.y / by), height);
  const x1 = clamp(Math.ceil((rect.x + rect.w) / by), width);
  const y1 = clamp(Math.ceil((rect.y + rect.h) / by), height);
  return { x: x0, y: y0, w: Math.max(0, x1 - x0), h: Math.max(0, y1 - y0) };
}

/** A picture without mends. */
export function seenOf(photo: Raster): Seen {
  const pyramid = buildPyramid(photo);
  return {
    width: photo.width,
    height: photo.height,
    levels: pyramid.length,
    region(level, rect) {
      const { width, data } = pyramid[level];
      const out = new Uint8ClampedArray(rect.w * rect.h * 4);
      for (let y = 0; y < rect.h; y++) {
        const from = 4 * ((rect.y + y) * width + rect.x);
        out.set(data.subarray(from, from + 4 * rect.w), 4 * y * rect.w);
      }
      return out;
    },
  };
}
