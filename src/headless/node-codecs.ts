import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import decodeJpeg, { init as initJpegDecoder } from '@jsquash/jpeg/decode.js';
import encodeJpeg, { init as initJpegEncoder } from '@jsquash/jpeg/encode.js';
import decodeWebp, { init as initWebpDecoder } from '@jsquash/webp/decode.js';
import encodeWebp, { init as initWebpEncoder } from '@jsquash/webp/encode.js';
import exifr from 'exifr';
import { InputError, messageOf } from '../core/errors';
import { decodePng, orient, pngHeader } from '../core/formats';
import { checkSize, type Raster } from '../core/raster';
import type { LossyCodecs } from '../runtime/codecs/flat-picture';

const require = createRequire(import.meta.url);

/** The codecs' modules as files: under Node nothing is fetched. */
async function moduleOf(packageName: string, file: string): Promise<WebAssembly.Module> {
  const folder = join(require.resolve(`${packageName}/package.json`), '..');
  return WebAssembly.compile(await readFile(join(folder, 'codec', file)));
}

type Init = (module: WebAssembly.Module) => Promise<unknown>;
const ready = new Map<string, Promise<unknown>>();

function once(packageName: string, file: string, init: Init): Promise<unknown> {
  const known = ready.get(file) ?? moduleOf(packageName, file).then(init);
  ready.set(file, known);
  return known;
}

export const nodeCodecs: LossyCodecs = {
  async jpeg(picture, quality) {
    await once('@jsquash/jpeg', 'enc/mozjpeg_enc.wasm', initJpegEncoder as Init);
    return encodeJpeg(picture, { quality });
  },
  async webp(picture, quality) {
    await once('@jsquash/webp', 'enc/webp_enc_simd.wasm', initWebpEncoder as Init);
    return encodeWebp(picture, { quality });
  },
};

/** Decodes PNG, JPEG or WebP as the browser does, turned by its EXIF orientation.
 *  @throws InputError `empty`, `not-a-photo`, `png` or `size` */
export async function decodePicture(bytes: Uint8Array): Promise<Raster> {
  if (bytes.length === 0) throw new InputError('empty', 'The photo is empty: it has 0 bytes.');
  if (pngHeader(bytes)) return decodePng(bytes);
  const jpeg = bytes[0] === 0xff && bytes[1] === 0xd8;
  const webp = String.fromCharCode(...bytes.subarray(8, 12)) === 'WEBP';
  if (!jpeg && !webp)
    throw new InputError(
      'not-a-photo',
      'This file cannot be read as a photo. Without a browser, PNG, JPEG and WebP can be opened.',
    );
  try {
    const buffer = bytes.slice().buffer;
    if (jpeg) await once('@jsquash/jpeg', 'dec/mozjpeg_dec.wasm', initJpegDecoder as Init);
    else await once('@jsquash/webp', 'dec/webp_dec.wasm', initWebpDecoder as Init);
    const { width, height, data } = jpeg ? await decodeJpeg(buffer) : await decodeWebp(buffer);
    checkSize(width, height);
    const raster: Raster = { width, height, channels: 4, depth: 8, data: new Uint8Array(data.buffer) };
    return jpeg ? orient(raster, (await exifr.orientation(buffer).catch(() => undefined)) ?? 1) : raster;
  } catch (error) {
    if (error instanceof InputError) throw error;
    throw new InputError('not-a-photo', `This photo is damaged: ${messageOf(error)}`);
  }
}
