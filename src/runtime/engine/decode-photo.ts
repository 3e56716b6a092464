import { InputError, messageOf } from '../../core/errors';
import { decodePng, pngHeader } from '../../core/formats';
import { checkSize, makeRaster, type Raster } from '../../core/raster';

/** What can be opened, for file choosers and messages. */
const readable = 'JPEG, PNG, WebP and AVIF pictures can be opened.';

/** Decodes a photo to RGBA, turned by its EXIF orientation and converted to sRGB by the browser. PNG with transparency
 *  or 16 bits is read by our own reader, since a canvas would round both.
 *  @param onPreview  gets a small picture as soon as there is one
 *  @throws InputError `empty`, `not-a-photo`, `png` or `size` */
export async function decodePhoto(file: Blob, onPreview: (preview: ImageBitmap) => void): Promise<Raster> {
  if (file.size === 0) throw new InputError('empty', 'This file is empty: it has 0 bytes.');
  const head = new Uint8Array(await file.slice(0, 64).arrayBuffer());
  const png = pngHeader(head);
  if (png) checkSize(png.width, png.height);
  const exact = png !== null && (png.depth === 16 || head[25] === 4 || head[25] === 6);
  const bitmap = await decodeByBrowser(file);
  try {
    checkSize(bitmap.width, bitmap.height);
    const by = Math.min(1, 1600 / Math.max(bitmap.width, bitmap.height));
    onPreview(
      await createImageBitmap(bitmap, {
        resizeWidth: Math.max(1, Math.round(bitmap.width * by)),
        resizeHeight: Math.max(1, Math.round(bitmap.height * by)),
        resizeQuality: 'low',
      }),
    );
    return exact ? decodePng(new Uint8Array(await file.arrayBuffer())) : readPixels(bitmap);
  } finally {
    bitmap.close();
  }
}

async function decodeByBrowser(file: Blob): Promise<ImageBitmap> {
  try {
    return await createImageBitmap(file);
  } catch (error) {
    throw new InputError(
      'not-a-photo',
      `This file cannot be read as a photo. ${readable} (${messageOf(error)})`,
    );
  }
}

/** Strips of this many rows keep the canvas small: a second copy of a 50-megapixel photo would cost 200 MB. */
const stripRows = 512;

function readPixels(bitmap: ImageBitmap): Raster {
  const { width, height } = bitmap;
  const photo = makeRaster(width, height, 4, 8, globalThis.crossOriginIsolated === true);
  const canvas = new OffscreenCanvas(width, Math.min(stripRows, height));
  const context = canvas.getContext('2d', { willReadFrequently: true });
  if (!context) throw new Error('This browser gives no canvas to read the photo with.');
  for (let y = 0; y < height; y += stripRows) {
    const rows = Math.min(stripRows, height - y);
    context.clearRect(0, 0, width, rows);
    context.drawImage(bitmap, 0, y, width, rows, 0, 0, width, rows);
    photo.data.set(context.getImageData(0, 0, width, rows).data, y * width * 4);
  }
  return photo;
}
