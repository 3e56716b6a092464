import { encodePng } from '../../core/formats';
import { makeRaster, type Raster } from '../../core/raster';
import type { FlatFormat } from '../engine/protocol';

/** The two codecs that are WebAssembly; browser and Node load their modules differently but run the same code. */
export interface LossyCodecs {
  jpeg(picture: ImageData, quality: number): Promise<ArrayBuffer>;
  webp(picture: ImageData, quality: number): Promise<ArrayBuffer>;
}

/** Writes a finished picture as a file. The same bytes in the browser and under Node.
 *  PNG keeps 16 bits and transparency; JPEG has neither: transparency is laid on white. WebP keeps transparency. */
export async function encodeFlat(
  picture: Raster,
  format: FlatFormat,
  codecs: LossyCodecs,
): Promise<Uint8Array<ArrayBuffer>> {
  if (format.kind === 'png') return encodePng(picture) as Uint8Array<ArrayBuffer>;
  const eight = toImageData(picture, format.kind === 'jpeg');
  const bytes =
    format.kind === 'jpeg'
      ? await codecs.jpeg(eight, format.quality)
      : await codecs.webp(eight, format.quality);
  return new Uint8Array(bytes);
}

function toImageData(picture: Raster, onWhite: boolean): ImageData {
  const { width, height } = picture;
  const eight = picture.depth === 8 ? picture : makeRaster(width, height, 4, 8);
  if (picture.depth === 16)
    for (let i = 0; i < eight.data.length; i++) eight.data[i] = Math.round(picture.data[i] / 257);
  const data = new Uint8ClampedArray(eight.data.length);
  data.set(eight.data);
  if (onWhite)
    for (let i = 0; i < data.length; i += 4) {
      const a = data[i + 3];
      if (a === 255) continue;
      for (let c = 0; c < 3; c++) data[i + c] = (data[i + c] * a + 255 * (255 - a)) / 255;
      data[i + 3] = 255;
    }
  return { width, height, data, colorSpace: 'srgb' } as ImageData;
}
