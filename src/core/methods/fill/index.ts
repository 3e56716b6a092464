import { boundsOfArea } from '../../area';
import type { Mend } from '../../job/types';
import { grow, intersect, isEmpty, makeFloatImage, type Rect } from '../../raster';
import { type MethodDefinition, type ParameterDefinition, parameterOf } from '../definition';

/** How far the search may look, in sides of the area's box. */
const reach: ParameterDefinition = {
  key: 'reach',
  label: 'Reach',
  unit: '×',
  min: 0.5,
  max: 4,
  step: 0.1,
  initial: 1,
};

/** From the surroundings: what lies round the area is continued into it. */
export const fill: MethodDefinition = {
  id: 'fill',
  version: 1,
  title: 'Fill',
  says: 'Continues what lies round the area into it.',
  parameters: [reach],
  scope: 'kept',
  needsSource: false,
  requiredInput: (mend, _output, bounds) => [fillWindow(mend, bounds)],
  affectedOutput: (mend, bounds) => intersect(boundsOfArea(mend.area), bounds),
  evaluate(_mend, output, context) {
    const chosen = context.chosen(output);
    if (!chosen) return { image: makeFloatImage(output), coverage: new Float32Array(output.w * output.h) };
    const coverage = context.coverage(output);
    // A try was computed for the area as it was then; where the area has grown since, there is nothing to lay on.
    for (let i = 0; i < coverage.length; i++) if (chosen.data[4 * i + 3] === 0) coverage[i] = 0;
    return { image: chosen, coverage };
  },
};

/** The part of the photo that a fill reads: the area's box and room round it on all sides. */
export function fillWindow(mend: Mend, bounds: Rect): Rect {
  const box = intersect(boundsOfArea(mend.area), bounds);
  if (isEmpty(box)) return box;
  const room = Math.max(60, Math.ceil(Math.max(box.w, box.h) * parameterOf(mend, reach)));
  return intersect(grow(box, room), bounds);
}
