import { noMasks } from '../area';
import type { Job } from '../job';
import type { Raster } from '../raster';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf, strokeShape } from '../testing/jobs';
import { Evaluator, renderPicture } from '.';

/** Nothing is kept beside the job. */
export const noPixels = { masks: noMasks, tries: () => undefined };

export function evaluatorOf(photo: Raster, job: Job, budgetBytes?: number): Evaluator {
  const made = new Evaluator(photo, 'photo', noPixels, budgetBytes);
  made.setJob(job);
  return made;
}

export const render = (photo: Raster, job: Job, budgetBytes?: number) =>
  renderPicture(evaluatorOf(photo, job, budgetBytes), photo);

/** A stack over several tiles: overlapping clones and heals, soft edges, blend modes, layers. */
export function busyJob(photo: Raster): Job {
  return jobOf(photo, [
    layerOf([
      mendOf(
        'clone',
        areaOfShapes([
          strokeShape(
            [
              [200, 220],
              [330, 300],
            ],
            40,
            0.4,
          ),
        ]),
        { dx: -110, dy: 30 },
      ),
      mendOf('heal', areaOfShapes([boxShape(230, 230, 60, 50)], 3, 6), { dx: 120, dy: -40 }),
      mendOf('tap', areaOfShapes([strokeShape([[400, 120]], 12)], 0, 2), null),
    ]),
    layerOf(
      [
        mendOf(
          'clone',
          areaOfShapes([boxShape(240, 180, 120, 150)], 0, 20),
          { dx: 60, dy: 60 },
          { opacity: 0.7, reads: 'photo' },
        ),
        mendOf(
          'heal',
          areaOfShapes([strokeShape([[260, 260]], 30)]),
          { dx: -90, dy: -70 },
          { blend: 'luminosity' },
        ),
      ],
      { opacity: 0.8, blend: 'multiply' },
    ),
  ]);
}
