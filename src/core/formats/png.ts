import { convertIndexedToRgb, decode, encode } from 'fast-png';
import type { Mask } from '../area';
import { InputError, messageOf } from '../errors';
import { checkSize, type Depth, makeRaster, type Raster } from '../raster';

/** Reads a PNG of any colour type as RGBA, at 16 bits when it has 16, else at 8.
 *  @throws InputError `png` when it cannot be read, `size` beyond the limits */
export function decodePng(bytes: Uint8Array): Raster {
  const head = pngHeader(bytes);
  if (!head) throw new InputError('png', 'This file is not a PNG picture.');
  checkSize(head.width, head.height);
  let picture: ReturnType<typeof decode>;
  try {
    picture = decode(bytes);
  } catch (error) {
    throw new InputError('png', `This PNG is damaged: ${messageOf(error)}`);
  }
  const { width, height } = picture;
  let { channels, data } = picture;
  const depth: Depth = picture.depth === 16 ? 16 : 8;
  if (picture.palette) {
    data = convertIndexedToRgb(picture);
    channels = data.length / (width * height);
  } else if (picture.depth < 8) data = spreadBits(data as Uint8Array, width, height, picture.depth);
  const out = makeRaster(width, height, 4, depth);
  const max = depth === 16 ? 65535 : 255;
  const grey = channels < 3;
  const key = picture.transparency;
  for (let p = 0, s = 0, d = 0; p < width * height; p++, s += channels, d += 4) {
    out.data[d] = data[s];
    out.data[d + 1] = data[grey ? s : s + 1];
    out.data[d + 2] = data[grey ? s : s + 2];
    out.data[d + 3] = channels === 2 ? data[s + 1] : channels === 4 ? data[s + 3] : max;
    if (key && channels < 4 && channels !== 2 && isKey(data, s, channels, key)) out.data[d + 3] = 0;
  }
  return out;
}

function isKey(data: ArrayLike<number>, at: number, channels: number, key: Uint16Array): boolean {
  for (let c = 0; c < channels; c++) if (data[at + c] !== key[c]) return false;
  return true;
}

/** Greys of 1, 2 or 4 bits, packed in rows that start on a byte, as 8 bits. */
function spreadBits(data: Uint8Array, width: number, height: number, depth: number): Uint8Array {
  const out = new Uint8Array(width * height);
  const rowBytes = Math.ceil((width * depth) / 8);
  const full = (1 << depth) - 1;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const bit = x * depth;
      const byte = data[y * rowBytes + (bit >> 3)];
      out[y * width + x] = (((byte >> (8 - depth - (bit & 7))) & full) * 255) / full;
    }
  return out;
}

/** Width, height and bits of a PNG without decoding it; null when it is none. */
export function pngHeader(bytes: Uint8Array): { width: number; height: number; depth: number } | null {
  const signature = [137, 80, 78, 71, 13, 10, 26, 10];
  if (bytes.length < 33 || signature.some((v, i) => bytes[i] !== v)) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  return { width: view.getUint32(16), height: view.getUint32(20), depth: bytes[24] };
}

/** Writes a raster as PNG, three channels when nothing is transparent. The same bytes everywhere. */
export function encodePng(raster: Raster, level: 1 | 3 | 6 = 3): Uint8Array {
  const { width, height, depth } = raster;
  const max = depth === 16 ? 65535 : 255;
  let opaque = true;
  for (let i = 3; i < raster.data.length && opaque; i += 4) opaque = raster.data[i] === max;
  let data = raster.data;
  if (opaque) {
    const count = width * height;
    data = depth === 16 ? new Uint16Array(count * 3) : new Uint8Array(count * 3);
    for (let p = 0, s = 0, d = 0; p < count; p++, s += 4, d += 3) {
      data[d] = raster.data[s];
      data[d + 1] = raster.data[s + 1];
      data[d + 2] = raster.data[s + 2];
    }
  }
  return encode({ width, height, depth, channels: opaque ? 3 : 4, data }, { zlib: { level } });
}

/** A mask from the grey (and, where it has one, the alpha) of a PNG. */
export function decodeMask(bytes: Uint8Array): Mask {
  const raster = decodePng(bytes);
  const data = new Uint8Array(raster.width * raster.height);
  const shiftBits = raster.depth === 16 ? 8 : 0;
  for (let i = 0, p = 0; i < data.length; i++, p += 4)
    data[i] = ((raster.data[p] >> shiftBits) * (raster.data[p + 3] >> shiftBits)) / 255;
  return { w: raster.width, h: raster.height, data };
}

export const encodeMask = (mask: Mask): Uint8Array =>
  encode({ width: mask.w, height: mask.h, depth: 8, channels: 1, data: mask.data }, { zlib: { level: 6 } });
