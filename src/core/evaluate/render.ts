import { makeRaster, quantise, type Raster, tileOfKey, tileRect, tilesIn } from '../raster';
import type { Evaluator } from './evaluator';

/** The whole finished picture at the photo's size and depth. Untouched tiles are the photo's own bytes.
 *  @param onProgress  share done, 0…1 */
export function renderPicture(
  evaluator: Evaluator,
  photo: Raster,
  onProgress?: (share: number) => void,
): Raster {
  const out = makeRaster(photo.width, photo.height, 4, photo.depth);
  out.data.set(photo.data);
  const tiles = tilesIn(evaluator.bounds, evaluator.bounds);
  tiles.forEach((tile, i) => {
    const { tx, ty } = tileOfKey(tile);
    const rect = tileRect(tx, ty, evaluator.bounds);
    if (!evaluator.untouched(rect)) quantise(evaluator.picture(rect), rect, out, { x: 0, y: 0 });
    onProgress?.((i + 1) / tiles.length);
  });
  return out;
}
