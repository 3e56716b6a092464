import { computeFill, type FillProgress } from '../../core/methods/fill/compute';
import { intersect, makeRaster, quantise } from '../../core/raster';
import type { PoolProtocol } from './protocol';

/** Runs one fill request; the same in a browser worker and under Node. */
export function runFill(
  { input, depth }: PoolProtocol['fill']['request'],
  onProgress?: FillProgress,
): PoolProtocol['fill']['reply'] {
  const { plan } = input;
  const { box, owner } = plan;
  const raster = makeRaster(box.w, box.h, 4, depth);
  const pieces = computeFill(input, onProgress);
  pieces.forEach(({ image }, k) => {
    const { rect } = image;
    const part = makeRaster(rect.w, rect.h, 4, depth);
    quantise(image, rect, part, rect);
    const common = intersect(rect, box);
    for (let y = common.y; y < common.y + common.h; y++)
      for (let x = common.x; x < common.x + common.w; x++) {
        const to = (y - box.y) * box.w + x - box.x;
        if (owner[to] !== k) continue;
        const from = 4 * ((y - rect.y) * rect.w + x - rect.x);
        for (let c = 0; c < 4; c++) raster.data[4 * to + c] = part.data[from + c];
      }
  });
  const seenPlane = pieces.find((piece) => piece.seenPlane)?.seenPlane ?? null;
  return { rect: box, data: raster.data, seenPlane };
}
