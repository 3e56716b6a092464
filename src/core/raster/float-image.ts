import { type Raster, valueMax } from './raster';
import { intersect, isEmpty, type Rect } from './rect';

/** Pixels being computed: RGBA float32, encoded values, premultiplied by alpha, 1 = full.
 *  `rect` says where they lie in the document. */
export interface FloatImage {
  readonly rect: Rect;
  readonly data: Float32Array;
}

export const makeFloatImage = (rect: Rect): FloatImage => ({
  rect,
  data: new Float32Array(rect.w * rect.h * 4),
});

/** Reads a rectangle of an 8- or 16-bit raster into a float image; `at` (within `into.rect`) must lie in the raster.
 *  Exact: writing the same values back with {@link quantise} gives the same bytes. */
export function readRaster(raster: Raster, at: Rect, into: FloatImage): void {
  const r = intersect(at, into.rect);
  if (isEmpty(r)) return;
  const scale = 1 / valueMax(raster.depth);
  const { data, width } = raster;
  for (let y = r.y; y < r.y + r.h; y++) {
    let s = (y * width + r.x) * 4;
    let d = ((y - into.rect.y) * into.rect.w + r.x - into.rect.x) * 4;
    for (let x = 0; x < r.w; x++, s += 4, d += 4) {
      const a = data[s + 3] * scale;
      const k = a === 1 ? scale : scale * a;
      into.data[d] = data[s] * k;
      into.data[d + 1] = data[s + 1] * k;
      into.data[d + 2] = data[s + 2] * k;
      into.data[d + 3] = a;
    }
  }
}

/** Copies the common part of two float images. */
export function copyFloat(from: FloatImage, into: FloatImage, at: Rect = from.rect): void {
  const r = intersect(intersect(from.rect, at), into.rect);
  if (isEmpty(r)) return;
  for (let y = r.y; y < r.y + r.h; y++) {
    const s = ((y - from.rect.y) * from.rect.w + r.x - from.rect.x) * 4;
    const d = ((y - into.rect.y) * into.rect.w + r.x - into.rect.x) * 4;
    into.data.set(from.data.subarray(s, s + r.w * 4), d);
  }
}

/** Writes float pixels, un-premultiplied and rounded, into a raster whose top left lies at `origin` in the document. */
export function quantise(image: FloatImage, at: Rect, into: Raster, origin: { x: number; y: number }): void {
  const r = intersect(at, image.rect);
  if (isEmpty(r)) return;
  const max = valueMax(into.depth);
  const out = into.data;
  for (let y = r.y; y < r.y + r.h; y++) {
    let s = ((y - image.rect.y) * image.rect.w + r.x - image.rect.x) * 4;
    let d = ((y - origin.y) * into.width + r.x - origin.x) * 4;
    for (let x = 0; x < r.w; x++, s += 4, d += 4) {
      const a = image.data[s + 3];
      const k = a >= 1 ? max : a > 0 ? max / a : 0;
      for (let c = 0; c < 3; c++) {
        const v = image.data[s + c] * k + 0.5;
        out[d + c] = v <= 0 ? 0 : v >= max ? max : v | 0;
      }
      const v = a * max + 0.5;
      out[d + 3] = v <= 0 ? 0 : v >= max ? max : v | 0;
    }
  }
}
