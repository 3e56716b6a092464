import type { Job, Mend } from '../../core/job';
import { makeRandom } from '../../core/random';
import { makeRaster, type Raster } from '../../core/raster';
import { Engine } from './engine';

const side = 384;
/** So many points, this far apart. */
const points = 30;
const stepPx = 5;
/** After so many, what was asked meanwhile is answered. */
const pointsAtOnce = 2;

/** Strokes that nobody asked for, on a small photo of their own. An engine's worker that has done them has all compiled that a stroke
 *  needs, so that the first one of a job keeps up with the hand as the others do.
 *  @param job     without mends
 *  @param mends   strokes that begin near the photo's top left
 *  @param goesOn  asked again and again, and answered when other work was done: whether nobody paints meanwhile */
export async function rehearseStrokes(
  job: Job,
  mends: readonly Mend[],
  goesOn: () => Promise<boolean>,
): Promise<void> {
  if (!(await goesOn())) return;
  const engine = new Engine(grainyPhoto(), 'rehearsal');
  const [{ id: layerId }] = job.layers;
  engine.setJob(job);
  for (const mend of mends) {
    const [shape] = mend.area.shapes;
    if (shape?.kind !== 'stroke') continue;
    const [[x, y, pressure]] = shape.points;
    engine.beginStroke(mend, layerId);
    for (let k = 0; k < points; k++) {
      if (k % pointsAtOnce === 0 && !(await goesOn())) return;
      engine.extendStroke([[x + stepPx * k, y + stepPx * Math.sqrt(k), pressure]], 0);
    }
    engine.settleStroke(0);
    engine.endStroke();
  }
}

function grainyPhoto(): Raster {
  const random = makeRandom(7);
  const photo = makeRaster(side, side, 4, 8);
  for (let i = 0; i < photo.data.length; i += 4) {
    const v = 90 + 60 * random.next();
    photo.data.set([v, 0.9 * v, 0.8 * v, 255], i);
  }
  return photo;
}
