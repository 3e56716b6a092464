import { boundsOfArea } from '../../area';
import { intersect } from '../../raster';
import type { MethodDefinition } from '../definition';
import { coverWhere, sourceRect, takeSource } from '../source';

/** Pixels from elsewhere, unchanged. A whole-pixel shift copies exactly, at 8 and 16 bits; turned, scaled, mirrored and
 *  in perspective they are resampled once. */
export const clone: MethodDefinition = {
  id: 'clone',
  version: 1,
  title: 'Clone',
  says: 'Copies detail and light exactly as they are at the source.',
  parameters: [],
  scope: 'tile',
  needsSource: true,
  requiredInput: (mend, output, bounds) => (mend.source ? [sourceRect(mend, output, bounds)] : []),
  affectedOutput: (mend, bounds) => intersect(boundsOfArea(mend.area), bounds),
  evaluate(mend, output, context) {
    const { image, valid } = takeSource(mend, output, context);
    return { image, coverage: coverWhere(context.coverage(output), valid) };
  },
};
