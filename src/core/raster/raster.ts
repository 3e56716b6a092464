import { InputError } from '../errors';
import type { Rect } from './rect';

export type Depth = 8 | 16;
export type Samples = Uint8Array | Uint16Array;

/** A whole picture in memory: row-major, channels interleaved, colour encoded as in the file and not
 *  premultiplied. `data` may lie on shared memory; nobody writes to it after it was made. */
export interface Raster {
  readonly width: number;
  readonly height: number;
  readonly channels: 1 | 4;
  readonly depth: Depth;
  readonly data: Samples;
}

/** The largest photo that is opened, in pixels, and the longest side. A canvas holds no longer side. */
export const maxPixels = 60_000_000;
export const maxSidePx = 16_384;

export const valueMax = (depth: Depth): number => (depth === 8 ? 255 : 65535);

export const boundsOf = (r: { width: number; height: number }): Rect => ({
  x: 0,
  y: 0,
  w: r.width,
  h: r.height,
});

/** @throws InputError `size` when a side is not a whole number from 1, or the picture is beyond the limits. */
export function checkSize(width: number, height: number): void {
  if (!Number.isInteger(width) || !Number.isInteger(height) || width < 1 || height < 1)
    throw new InputError(
      'size',
      `A photo needs at least one pixel each way; this one is ${width} × ${height}.`,
    );
  if (width > maxSidePx || height > maxSidePx)
    throw new InputError(
      'size',
      `This photo is ${width} × ${height} pixels. The longest side that can be opened is ${maxSidePx} pixels.`,
    );
  if (width * height > maxPixels)
    throw new InputError(
      'size',
      `This photo has ${(width * height * 1e-6).toFixed(1)} megapixels. Up to ${maxPixels / 1e6} can be opened.`,
    );
}

export function makeRaster(
  width: number,
  height: number,
  channels: 1 | 4,
  depth: Depth,
  shared = false,
): Raster {
  const count = width * height * channels;
  if (shared) {
    const buffer = new SharedArrayBuffer(count * (depth / 8));
    return {
      width,
      height,
      channels,
      depth,
      data: depth === 8 ? new Uint8Array(buffer) : new Uint16Array(buffer),
    };
  }
  return {
    width,
    height,
    channels,
    depth,
    data: depth === 8 ? new Uint8Array(count) : new Uint16Array(count),
  };
}

/** True when no pixel is transparent. */
export function isOpaque(raster: Raster): boolean {
  if (raster.channels !== 4) return true;
  const max = valueMax(raster.depth);
  const data = raster.data;
  for (let i = 3; i < data.length; i += 4) if (data[i] !== max) return false;
  return true;
}
