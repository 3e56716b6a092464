import { encodePng } from '../src/core/formats';
import type { Raster } from '../src/core/raster';
import { paintPhoto, texturedPhoto } from '../src/core/testing/pictures';
import { nodeCodecs } from '../src/headless/node-codecs';
import { pixelOf } from './bench-page';

/** Photos that the journeys open: made here, so that their every pixel is known. */

export interface PhotoFile {
  readonly name: string;
  readonly mimeType: string;
  readonly buffer: Buffer;
}

export const pngFile = (name: string, raster: Raster): PhotoFile => ({
  name,
  mimeType: 'image/png',
  buffer: Buffer.from(encodePng(raster)),
});

/** A texture with a bright square on it, 40 px at (200, 150). */
export function spottedPhoto(width = 640, height = 480): Raster {
  const photo = texturedPhoto(width, height, 12);
  for (let y = 150; y < 190; y++) photo.data.fill(255, (y * width + 200) * 4, (y * width + 240) * 4);
  return photo;
}

/** Left half dark blue, right half light orange: one look tells which way up it is. */
export const halvesPhoto = (width: number, height: number): Raster =>
  paintPhoto(width, height, 8, (x) => (x < width / 2 ? [0.05, 0.1, 0.4] : [0.9, 0.7, 0.3]));

/** A JPEG with an EXIF orientation. */
export async function jpegFile(name: string, raster: Raster, orientation = 1): Promise<PhotoFile> {
  const { width, height } = raster;
  const data = new Uint8ClampedArray(raster.data);
  const jpeg = Buffer.from(
    await nodeCodecs.jpeg({ width, height, data, colorSpace: 'srgb' } as ImageData, 95),
  );
  const tiff = Buffer.from([
    0x4d,
    0x4d,
    0,
    42,
    0,
    0,
    0,
    8,
    0,
    1,
    1,
    0x12,
    0,
    3,
    0,
    0,
    0,
    1,
    0,
    orientation,
    0,
    0,
    0,
    0,
    0,
    0,
  ]);
  const body = Buffer.concat([Buffer.from('Exif\0\0', 'latin1'), tiff]);
  const head = Buffer.from([0xff, 0xe1, (body.length + 2) >> 8, (body.length + 2) & 255]);
  return {
    name,
    mimeType: 'image/jpeg',
    buffer: Buffer.concat([jpeg.subarray(0, 2), head, body, jpeg.subarray(2)]),
  };
}

/** A gradient of 300 × 200, red above and blue below. */
export const avifFile = (name: string): PhotoFile => ({
  name,
  mimeType: 'image/avif',
  buffer: Buffer.from(
    'AAAAHGZ0eXBhdmlmAAAAAGF2aWZtaWYxbWlhZgAAAOptZXRhAAAAAAAAACFoZGxyAAAAAAAAAABwaWN0AAAAAAAAAAAAAAAA' +
      'AAAAAA5waXRtAAAAAAABAAAAImlsb2MAAAAAREAAAQABAAAAAAEOAAEAAAAAAAAAaQAAACNpaW5mAAAAAAABAAAAFWluZmUC' +
      'AAAAAAEAAGF2MDEAAAAAamlwcnAAAABLaXBjbwAAABNjb2xybmNseAACAAIABoAAAAAMYXYxQ4EADAAAAAAUaXNwZQAAAAAA' +
      'AAEsAAAAyAAAABBwaXhpAAAAAAMICAgAAAAXaXBtYQAAAAAAAAABAAEEgYIDhAAAAHFtZGF0EgAKBxgh5XjsCEAyXESAAKKK' +
      'KEC1Ky0QeRaKhCKsrzBTTV2H+bLufbJ0rfsdIznh6FrayecqJNfiedlTcMj7BKvVAvZbiwaa+u6nMpwQ3gV5mQizYM2zOa3w' +
      'KkenCf3i7N1dFRF41p9g',
    'base64',
  ),
});

export async function webpFile(name: string, raster: Raster): Promise<PhotoFile> {
  const { width, height } = raster;
  const data = new Uint8ClampedArray(raster.data);
  const webp = await nodeCodecs.webp({ width, height, data, colorSpace: 'srgb' } as ImageData, 95);
  return { name, mimeType: 'image/webp', buffer: Buffer.from(webp) };
}

/** Grey with grain; dark from column 400 on. */
export function darkRight(): Raster {
  const grain = texturedPhoto(640, 480, 5);
  return paintPhoto(640, 480, 8, (x, y) => {
    const v = 0.12 * (grain.data[(y * 640 + x) * 4] / 255) + (x < 400 ? 0.55 : 0.05);
    return [v, v, v];
  });
}

/** How many white pixels are where {@link spottedPhoto} has its spot. */
export function white(picture: Raster): number {
  let count = 0;
  for (let y = 140; y < 200; y++)
    for (let x = 190; x < 250; x++) if (pixelOf(picture, x, y).every((v) => v > 250)) count++;
  return count;
}
