import { boundsOfArea } from '../../area';
import type { Mend, StopLine } from '../../job/types';
import { grow, intersect, type Rect } from '../../raster';
import { type MethodContext, type MethodDefinition, type Patch, parameterOf } from '../definition';
import { coverWhere, sourceRect, type Taken, takeSource } from '../source';
import { fitTone } from './fit-tone';
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
  'version' | 'parameters' | 'scope' | 'needsSource' | 'requiredInput' | 'affectedOutput' | 'evaluate'
> = {
  version: 2,
  parameters: [toneFit, texture],
  scope: 'whole',
  needsSource: true,
  requiredInput: (mend, output, bounds) => (mend.source ? [output, sourceRect(mend, output, bounds)] : []),
  affectedOutput: healOutput,
  evaluate: (mend, output, context) => healFrom(mend, takeSource(mend, output, context), output, context),
};

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
  fitTone(image, context.read, coverage, held, context.bounds, {
    tone: parameterOf(mend, toneFit) / 100,
    texture: parameterOf(mend, texture) / 100,
    stops: rasteriseStops(mend.stops, output),
    coarseness: context.isPreview ? coarsenessFor(output) : 1,
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

/** What is dragged must follow the hand: the larger it is, the coarser the grid its tone is fitted on. */
const coarsenessFor = ({ w, h }: Rect): number =>
  Math.min(8, Math.max(1, Math.round(Math.sqrt(w * h) / 100)));

/** Where a mend's rim seems to touch something else. */
export function stopsFor(mend: Mend, context: MethodContext): StopLine[] {
  const output = healOutput(mend, context.bounds);
  if (output.w === 0) return [];
  const { image, valid } = takeSource(mend, output, context);
  return likelyStops(image, context.read(output), context.coverage(output), valid);
}
