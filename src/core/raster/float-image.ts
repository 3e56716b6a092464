import type { Raster } from './raster';
import { intersect, isEmpty, type Rect } from './rect';
import { rows, rowsOf } from './rows';

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
  const { kernel, bytes, words, pixels } = rows();
  const is8 = raster.depth === 8;
  const stored = is8 ? bytes : words;
  for (const { x, y, w, h } of rowsOf(intersect(at, into.rect), into.rect)) {
    for (let row = 0; row < h; row++) {
      const s = ((y + row) * raster.width + x) * 4;
      stored.set(raster.data.subarray(s, s + 4 * w), 4 * row * w);
    }
    if (is8) kernel.read8(bytes.byteOffset, w * h, pixels.byteOffset);
    else kernel.read16(words.byteOffset, w * h, pixels.byteOffset);
    into.data.set(pixels.subarray(0, 4 * w * h), indexOf(into.rect, x, y) * 4);
  }
}

/** One pixel of a raster as {@link readRaster} gives it. @param at  where its four numbers go */
export function readPixel(
  { data, width, depth }: Raster,
  x: number,
  y: number,
  into: Float32Array,
  at: number,
): void {
  const i = 4 * (y * width + x);
  const most = depth === 8 ? 255 : 65535;
  const alpha = data[i + 3] / most;
  for (let c = 0; c < 3; c++) into[at + c] = (data[i + c] / most) * alpha;
  into[at + 3] = alpha;
}

const indexOf = (rect: Rect, x: number, y: number) => (y - rect.y) * rect.w + x - rect.x;

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
  const { kernel, bytes, words, pixels } = rows();
  const rounded = into.depth === 8 ? bytes : words;
  for (const { x, y, w, h } of rowsOf(intersect(at, image.rect), image.rect)) {
    const s = indexOf(image.rect, x, y) * 4;
    pixels.set(image.data.subarray(s, s + 4 * w * h));
    if (into.depth === 8) kernel.write8(pixels.byteOffset, w * h, bytes.byteOffset);
    else kernel.write16(pixels.byteOffset, w * h, words.byteOffset);
    for (let row = 0; row < h; row++)
      into.data.set(
        rounded.subarray(4 * row * w, 4 * (row + 1) * w),
        ((y + row - origin.y) * into.width + x - origin.x) * 4,
      );
  }
}
