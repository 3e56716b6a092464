import { boundsOfArea } from '../../area';
import type { Mend } from '../../job/types';
import { type FloatImage, grow, intersect, isEmpty, type Rect, shift } from '../../raster';
import {
  type MethodContext,
  type MethodDefinition,
  type ParameterDefinition,
  type Patch,
  parameterOf,
} from '../definition';
import { coverWithin, readShifted } from '../shift-source';
import { fitTone } from './fit-tone';

export const toneFit: ParameterDefinition = {
  key: 'toneFit',
  label: 'Tone fit',
  unit: '%',
  min: 0,
  max: 100,
  step: 1,
  initial: 100,
};

/** The rectangle a heal works on: the area and the rim one pixel round it. */
export const healOutput = (mend: Mend, bounds: Rect): Rect =>
  intersect(grow(boundsOfArea(mend.area), 1), bounds);

/** The source's texture with the target's tone. */
export const heal: MethodDefinition = {
  id: 'heal',
  version: 1,
  title: 'Heal',
  says: 'Takes the texture of the source and fits its tone to what lies round the area.',
  parameters: [toneFit],
  scope: 'whole',
  needsSource: true,
  requiredInput: (mend, output, bounds) =>
    mend.source ? [output, intersect(shift(output, mend.source.dx, mend.source.dy), bounds)] : [],
  affectedOutput: healOutput,
  evaluate: (mend, output, context) =>
    healFrom(mend.source ?? { dx: 0, dy: 0 }, output, context, parameterOf(mend, toneFit) / 100),
};

/** Heals `output` from one shift. */
export function healFrom(
  source: { dx: number; dy: number },
  output: Rect,
  context: MethodContext,
  strength: number,
): Patch {
  const shifted = readShifted(output, source, context);
  const image: FloatImage = { rect: output, data: shifted.image.data };
  const coverage = coverWithin(context.coverage(output), output, shifted.valid);
  if (!isEmpty(shifted.valid))
    fitTone(image, context.read(output), coverage, shifted.valid, context.bounds, strength);
  return { image, coverage };
}
