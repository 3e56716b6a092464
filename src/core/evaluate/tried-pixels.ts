import type { TryPixels } from '../job/types';
import {
  copyFloat,
  type Depth,
  type FloatImage,
  intersect,
  isEmpty,
  makeFloatImage,
  type Rect,
  readRaster,
} from '../raster';

/** The pixels of a finished try within a rectangle, transparent outside it. @param depth  of the photo, and so of its tries
 *  @returns null where there is none */
export function triedPixels(tried: TryPixels | undefined, depth: Depth, rect: Rect): FloatImage | null {
  if (!tried) return null;
  const { x, y, w, h, data } = tried;
  const image = makeFloatImage(rect);
  const at = intersect({ x, y, w, h }, rect);
  if (isEmpty(at)) return image;
  const local = makeFloatImage({ x: at.x - x, y: at.y - y, w: at.w, h: at.h });
  readRaster({ width: w, height: h, channels: 4, depth, data }, local.rect, local);
  copyFloat({ rect: at, data: local.data }, image);
  return image;
}
