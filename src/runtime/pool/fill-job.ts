import { computeFill, type FillProgress } from '../../core/methods/fill/compute';
import { makeRaster, quantise } from '../../core/raster';
import type { PoolProtocol } from './protocol';

/** Runs one fill request; the same in a browser worker and under Node. */
export function runFill(
  request: PoolProtocol['fill']['request'],
  onProgress?: FillProgress,
): PoolProtocol['fill']['reply'] {
  const { image, hole, output, seed, depth } = request;
  const { image: filled } = computeFill({ image, hole, allowed: null, seed }, onProgress);
  const raster = makeRaster(output.w, output.h, 4, depth);
  quantise(filled, output, raster, output);
  return { data: raster.data };
}
