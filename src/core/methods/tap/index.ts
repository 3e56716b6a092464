import type { Mend, SourceShift } from '../../job/types';
import { grow, intersect, type Rect } from '../../raster';
import { type MethodContext, type MethodDefinition, parameterOf } from '../definition';
import { healFrom, healOutput, toneFit } from '../heal';
import { rankSources, searchReach } from './find-source';

/** A spot repair that finds its own source. Once it has one, it heals from there until it is told otherwise. */
export const tap: MethodDefinition = {
  id: 'tap',
  version: 1,
  title: 'Tap',
  says: 'Finds a source for a speck by itself and heals from there.',
  parameters: [toneFit],
  scope: 'whole',
  needsSource: false,
  requiredInput: (mend, output, bounds) =>
    mend.source
      ? [output, intersect({ ...output, x: output.x + mend.source.dx, y: output.y + mend.source.dy }, bounds)]
      : [intersect(grow(output, searchReach(output)), bounds)],
  affectedOutput: healOutput,
  evaluate(mend, output, context) {
    const source = mend.source ?? sourcesFor(mend, context)[0];
    // Nowhere to take from (the photo is hardly larger than the spot): leave the picture as it is.
    if (!source) return { image: context.read(output), coverage: new Float32Array(output.w * output.h) };
    return healFrom(source, output, context, parameterOf(mend, toneFit) / 100);
  },
};

/** The shifts that suit a mend's area best, best first. */
export function sourcesFor(mend: Mend, context: MethodContext): SourceShift[] {
  const spot: Rect = healOutput(mend, context.bounds);
  if (spot.w === 0) return [];
  return rankSources(context.read, context.bounds, spot, context.coverage(spot));
}
