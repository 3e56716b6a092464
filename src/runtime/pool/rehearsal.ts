import { unsteered } from '../../core/methods/fill/compute';
import { planPieces } from '../../core/methods/fill/pieces';
import { makeRandom } from '../../core/random';
import { makeFloatImage } from '../../core/raster';
import type { PoolProtocol } from './protocol';

const side = 240;
const hole = { from: 90, to: 150 };

/** A small fill that nobody asked for: light and dark strips with grain and a hole in their middle. A worker that has done
 *  it has all of fill compiled, so that the first fill of a job takes no longer than the others. */
export function rehearsal(): PoolProtocol['fill']['request'] {
  const random = makeRandom(7);
  const rect = { x: 0, y: 0, w: side, h: side };
  const image = makeFloatImage(rect);
  const marked = new Uint8Array(side * side);
  for (let y = 0, i = 0; y < side; y++)
    for (let x = 0; x < side; x++, i++) {
      const light = (y % 60 < 30 ? 0.35 : 0.6) + 0.1 * random.next();
      image.data.set([light, 0.9 * light, 0.7 * light, 1], 4 * i);
      if (Math.min(x, y) >= hole.from && Math.max(x, y) < hole.to) marked[i] = 1;
    }
  const plan = planPieces(marked, rect, rect, 1);
  const windows = plan.pieces.map(() => ({ image, allowed: null, pending: null, beside: null }));
  return { input: { plan, windows, steering: unsteered, seed: 1 }, depth: 8 };
}
