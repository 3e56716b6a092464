import type { Job, Layer, Mend } from '../job/types';
import { type MethodDefinition, methods } from '../methods';
import { isEmpty, type Rect, tileSize, unite } from '../raster';

/** One thing that happens to the picture on its way up the stack. */
export type Step =
  | {
      readonly kind: 'mend';
      readonly mend: Mend;
      readonly method: MethodDefinition;
      readonly affected: Rect;
      /** Side of the squares, of whole tiles, in which its patch is computed, each by itself; null: in one piece. */
      readonly partSide: number | null;
      readonly layerId: string;
      /** Number of the first step of its layer. */
      readonly opened: number;
    }
  | {
      readonly kind: 'close';
      readonly layer: Layer;
      readonly layerId: string;
      readonly opened: number;
      readonly affected: Rect;
    };

/** A job's steps, from the bottom up: what is hidden or touches nothing has none.
 *  @param draftId  the mend being painted, which has one even while it touches nothing */
export function planSteps(job: Job, bounds: Rect, draftId?: string): Step[] {
  const steps: Step[] = [];
  for (const layer of job.layers) {
    if (!layer.visible || layer.opacity <= 0) continue;
    const opened = steps.length;
    let tiles: Rect[] = [];
    for (const mend of layer.mends) {
      if (!mend.visible || mend.opacity <= 0) continue;
      const method = methods[mend.method];
      if (method.needsSource && !mend.source) continue;
      const affected = method.affectedOutput(mend, bounds);
      // A stroke may begin outside the photo and come in later.
      if (isEmpty(affected) && mend.id !== draftId) continue;
      const partSide = partSideOf(mend, mend.id === draftId);
      steps.push({ kind: 'mend', mend, method, affected, partSide, layerId: layer.id, opened });
      tiles.push(affected);
    }
    if (layer.opacity >= 1 && layer.blend === 'normal') tiles = [];
    if (tiles.length > 0)
      steps.push({ kind: 'close', layer, layerId: layer.id, opened, affected: tiles.reduce(unite) });
  }
  return steps;
}

function partSideOf(mend: Mend, isDraft: boolean): number | null {
  const { scope, partSide } = methods[mend.method];
  if (scope === 'tile') return tileSize;
  // What is painted changes too fast to be measured each time.
  return (!isDraft && partSide?.(mend)) || null;
}
