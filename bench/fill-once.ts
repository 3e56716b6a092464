import { type Mask, trimMask } from '../src/core/area';
import { Evaluator, renderPicture } from '../src/core/evaluate';
import type { FillProgress } from '../src/core/methods/fill/compute';
import type { Raster, Rect } from '../src/core/raster';
import { areaOfShapes, jobOf, layerOf, mendOf } from '../src/core/testing/jobs';
import { Engine } from '../src/runtime/engine/engine';
import { runFill } from '../src/runtime/pool/fill-job';

export interface FilledOnce {
  readonly picture: Raster;
  /** Photo in size: 1 where it was filled. */
  readonly inside: Uint8Array;
  readonly rect: Rect;
  readonly tookMs: number;
  readonly pixels: number;
}

/** The photo with what masks of its size show filled as the application does it with its first settings, on one core. */
export function fillOnce(
  photo: Raster,
  wanted: readonly Mask[],
  marginPx: number,
  onProgress?: FillProgress,
): FilledOnce {
  const masks = wanted.map((mask, k) => ({ id: `m${k}`, ...trimMask(mask) }));
  const shapes = masks.map(
    ({ id, x, y, mask }) => ({ kind: 'mask', op: 'add', x, y, w: mask.w, h: mask.h, maskId: id }) as const,
  );
  const mend = mendOf('fill', areaOfShapes(shapes, marginPx, 0), null, {
    tries: [{ id: 't', seed: 1 }],
    chosenTry: 't',
  });
  const engine = new Engine(photo, 'photo');
  const held = masks.map(({ id, mask }) => ({ id, mask }));
  engine.addPixels([], held);
  engine.setJob(jobOf(photo, [layerOf([mend])]));
  const start = performance.now();
  const { input, inputKey } = engine.fillInput(mend, 't');
  const { rect, data } = runFill({ input, depth: 8 }, onProgress);
  const tookMs = performance.now() - start;
  const sources = {
    masks: (id: string) => held.find((m) => m.id === id)?.mask,
    tries: () => ({ tryId: 't', ...rect, data, inputKey }),
  };
  const evaluator = new Evaluator(photo, 'photo', sources);
  evaluator.setJob(jobOf(photo, [layerOf([mend])]));
  const inside = new Uint8Array(photo.width * photo.height);
  let pixels = 0;
  input.plan.owner.forEach((owner, i) => {
    if (owner < 0) return;
    inside[(rect.y + Math.floor(i / rect.w)) * photo.width + rect.x + (i % rect.w)] = 1;
    pixels++;
  });
  return { picture: renderPicture(evaluator, photo), inside, rect, tookMs, pixels };
}
