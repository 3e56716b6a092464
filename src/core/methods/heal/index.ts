import { boundsOfArea } from '../../area';
import type { Mend, StopLine } from '../../job/types';
import { copyFloat, grow, intersect, makeFloatImage, type Rect, sameRect, squaresOf } from '../../raster';
import { type MethodContext, type MethodDefinition, type Patch, parameterOf } from '../definition';
import { coverWhere, sourceRect, type Taken, takeSource } from '../source';
import { fitTone } from './fit-tone';
import { partsOf } from './long-strokes';
import { paintedHeal } from './painted-heal';
import { texture, toneFit } from './parameters';

import { likelyStops, rasteriseStops } from './stop-lines';

export { texture, toneFit };

/** The rectangle a heal works on: the area and the rim one pixel round it. */
export const healOutput = (mend: Mend, bounds: Rect): Rect =>
  intersect(grow(boundsOfArea(mend.area), 1), bounds);

/** What methods that fit tone to a source have in common. */
export const fitted: Pick<
  MethodDefinition,
  | 'version'
  | 'parameters'
  | 'scope'
  | 'partSide'
  | 'needsSource'
  | 'requiredInput'
  | 'affectedOutput'
  | 'evaluate'
> = {
  version: 6,
  parameters: [toneFit, texture],
  scope: 'whole',
  needsSource: true,
  partSide: ({ area }) => partsOf(area)?.side ?? null,
  requiredInput(mend, output, bounds) {
    const window = windowOf(mend, output, bounds);
    return mend.source ? [window, sourceRect(mend, window, bounds)] : [];
  },
  affectedOutput: healOutput,
  evaluate(mend, output, context) {
    const wide = windowOf(mend, output, context.bounds);
    if (sameRect(wide, output)) return healFrom(mend, takeSource(mend, output, context), output, context);
    const patch = { image: makeFloatImage(output), coverage: context.coverage(output) };
    if (patch.coverage.every((v) => v <= 0)) return patch;
    const window = intersect(grow(coveredIn(wide, context.coverage(wide)), 1), wide);
    const { image, coverage } = healFrom(mend, takeSource(mend, window, context), window, context);
    copyFloat(image, patch.image);
    patch.coverage.fill(0);
    const common = intersect(window, output);
    for (let y = common.y; y < common.y + common.h; y++) {
      const from = (y - window.y) * window.w + common.x - window.x;
      const to = (y - output.y) * output.w + common.x - output.x;
      patch.coverage.set(coverage.subarray(from, from + common.w), to);
    }
    return patch;
  },
};

/** The smallest part of a rectangle that holds all that is covered. */
function coveredIn({ x, y, w, h }: Rect, coverage: Float32Array): Rect {
  let [x0, y0, x1, y1] = [w, h, -1, -1];
  for (let v = 0; v < h; v++)
    for (let u = 0; u < w; u++) {
      if (coverage[v * w + u] <= 0) continue;
      x0 = Math.min(x0, u);
      x1 = Math.max(x1, u);
      y0 = Math.min(y0, v);
      y1 = v;
    }
  return x1 < 0 ? { x, y, w: 0, h: 0 } : { x: x + x0, y: y + y0, w: x1 - x0 + 1, h: y1 - y0 + 1 };
}

/** What is healed to get a part: with room round it, where a long stroke is healed in parts. */
function windowOf(mend: Mend, output: Rect, bounds: Rect): Rect {
  const parts = partsOf(mend.area);
  return parts ? intersect(grow(output, parts.reach), healOutput(mend, bounds)) : output;
}

/** The source's texture with the target's tone. */
export const heal: MethodDefinition = {
  ...fitted,
  id: 'heal',
  title: 'Heal',
  says: 'Takes the texture of the source and fits its tone to what lies round the area.',
  underBrush: (mend) => paintedHeal(mend),
};

/** Heals `output` from what was taken for it. */
export function healFrom(mend: Mend, { image, valid }: Taken, output: Rect, context: MethodContext): Patch {
  const coverage = coverWhere(context.coverage(output), valid);
  const held = withoutPending(valid, coverage, context.pending(output));
  fitTone(image, context, coverage, held, context.bounds, {
    tone: parameterOf(mend, toneFit) / 100,
    texture: parameterOf(mend, texture) / 100,
    stops: rasteriseStops(mend.stops, output),
    coarseness: context.isPreview ? coarsenessFor(mend, output) : 1,
  });
  return { image: { rect: output, data: image.data }, coverage };
}

/** Tone is taken from no part of the rim that is still to go. */
function withoutPending(
  valid: Uint8Array | null,
  coverage: Float32Array,
  pending: Uint8Array | null,
): Uint8Array | null {
  if (!pending) return valid;
  return pending.map((isPending, i) => ((isPending && coverage[i] <= 0) || valid?.[i] === 0 ? 0 : 1));
}

/** What is dragged must follow the hand: the larger it is, the coarser the grid its tone is fitted on; one grid for all parts. */
function coarsenessFor({ area }: Mend, { w, h }: Rect): number {
  const side = partsOf(area)?.side ?? Math.sqrt(w * h);
  return Math.min(8, Math.max(1, Math.round(side / 100)));
}

/** Side of the squares in which the rim of a long stroke is looked at. */
const stopsSide = 1024;

/** Where a mend's rim seems to touch something else.
 *  @param isAsked  whether somebody looks for it; what is offered unasked must be surer */
export function stopsFor(mend: Mend, context: MethodContext, isAsked: boolean): StopLine[] {
  const whole = healOutput(mend, context.bounds);
  if (whole.w === 0) return [];
  return (partsOf(mend.area) ? squaresOf(whole, stopsSide) : [whole]).flatMap((part) => {
    const coverage = context.coverage(part);
    if (coverage.every((v) => v <= 0)) return [];
    const { image, valid } = takeSource(mend, part, context);
    return likelyStops(image, context.read(part), coverage, valid, isAsked);
  });
}
