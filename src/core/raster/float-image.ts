import type { Raster } from './raster';
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
  for (let y = r.y; y < r.y + r.h; y++) {
    const s = (y * raster.width + r.x) * 4;
    const d = ((y - into.rect.y) * into.rect.w + r.x - into.rect.x) * 4;
    if (raster.depth === 8) readRow8(raster.data as Uint8Array, s, into.data, d, r.w);
    else readRow16(raster.data as Uint16Array, s, into.data, d, r.w);
  }
}

const eighths = Float32Array.from({ length: 256 }, (_, v) => v / 255);

/** One function a depth: a loop that sees several array types runs several times slower. */
function readRow8(src: Uint8Array, s: number, out: Float32Array, d: number, count: number): void {
  for (let end = d + 4 * count; d < end; s += 4, d += 4) {
    const alpha = src[s + 3];
    if (alpha === 255) {
      out[d] = eighths[src[s]];
      out[d + 1] = eighths[src[s + 1]];
      out[d + 2] = eighths[src[s + 2]];
      out[d + 3] = 1;
    } else {
      const a = alpha / 255;
      out[d] = (src[s] / 255) * a;
      out[d + 1] = (src[s + 1] / 255) * a;
      out[d + 2] = (src[s + 2] / 255) * a;
      out[d + 3] = a;
    }
  }
}

function readRow16(src: Uint16Array, s: number, out: Float32Array, d: number, count: number): void {
  for (let end = d + 4 * count; d < end; s += 4, d += 4) {
    const a = src[s + 3] / 65535;
    out[d] = (src[s] / 65535) * a;
    out[d + 1] = (src[s + 1] / 65535) * a;
    out[d + 2] = (src[s + 2] / 65535) * a;
    out[d + 3] = a;
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
  for (let y = r.y; y < r.y + r.h; y++) {
    const s = ((y - image.rect.y) * image.rect.w + r.x - image.rect.x) * 4;
    const d = ((y - origin.y) * into.width + r.x - origin.x) * 4;
    if (into.depth === 8) writeRow8(image.data, s, into.data as Uint8Array, d, r.w);
    else writeRow16(image.data, s, into.data as Uint16Array, d, r.w);
  }
}

function writeRow8(src: Float32Array, s: number, out: Uint8Array, d: number, count: number): void {
  for (let end = d + 4 * count; d < end; s += 4, d += 4) {
    const a = src[s + 3];
    const k = a >= 1 ? 255 : a > 0 ? 255 / a : 0;
    out[d] = rounded(src[s] * k, 255);
    out[d + 1] = rounded(src[s + 1] * k, 255);
    out[d + 2] = rounded(src[s + 2] * k, 255);
    out[d + 3] = rounded(a * 255, 255);
  }
}

function writeRow16(src: Float32Array, s: number, out: Uint16Array, d: number, count: number): void {
  for (let end = d + 4 * count; d < end; s += 4, d += 4) {
    const a = src[s + 3];
    const k = a >= 1 ? 65535 : a > 0 ? 65535 / a : 0;
    out[d] = rounded(src[s] * k, 65535);
    out[d + 1] = rounded(src[s + 1] * k, 65535);
    out[d + 2] = rounded(src[s + 2] * k, 65535);
    out[d + 3] = rounded(a * 65535, 65535);
  }
}

function rounded(v: number, max: number): number {
  const r = v + 0.5;
  if (r <= 0) return 0;
  return r >= max ? max : r | 0;
}
