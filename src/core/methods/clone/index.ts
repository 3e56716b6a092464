import { boundsOfArea } from '../../area';
import { intersect, shift } from '../../raster';
import type { MethodDefinition } from '../definition';
import { coverWithin, readShifted } from '../shift-source';

/** Pixels from elsewhere, unchanged. A whole-pixel shift copies exactly, at 8 and 16 bits. */
export const clone: MethodDefinition = {
  id: 'clone',
  version: 1,
  title: 'Clone',
  says: 'Copies detail and light exactly as they are at the source.',
  parameters: [],
  scope: 'tile',
  needsSource: true,
  requiredInput: (mend, output, bounds) =>
    mend.source ? [intersect(shift(output, mend.source.dx, mend.source.dy), bounds)] : [],
  affectedOutput: (mend, bounds) => intersect(boundsOfArea(mend.area), bounds),
  evaluate(mend, output, context) {
    const { image, valid } = readShifted(output, mend.source ?? { dx: 0, dy: 0 }, context);
    return { image, coverage: coverWithin(context.coverage(output), output, valid) };
  },
};
