import type { SourceShift } from '../job/types';
import { copyFloat, type FloatImage, intersect, isEmpty, makeFloatImage, type Rect, shift } from '../raster';
import type { MethodContext } from './definition';

/** The source's pixels brought to the target by a whole-pixel shift, copied exactly.
 *  @returns the pixels for `output`; transparent black where the source lies beyond the photo, and which part that is not */
export function readShifted(
  output: Rect,
  source: SourceShift,
  context: MethodContext,
): { image: FloatImage; valid: Rect } {
  const from = intersect(shift(output, source.dx, source.dy), context.bounds);
  const valid = isEmpty(from) ? from : shift(from, -source.dx, -source.dy);
  if (isEmpty(from)) return { image: makeFloatImage(output), valid };
  const read = context.read(from);
  const moved: FloatImage = { rect: valid, data: read.data };
  if (valid.w === output.w && valid.h === output.h) return { image: moved, valid };
  const image = makeFloatImage(output);
  copyFloat(moved, image);
  return { image, valid };
}

/** Coverage with everything outside `valid` taken away: nothing can be laid where there is nothing to take. */
export function coverWithin(coverage: Float32Array, output: Rect, valid: Rect): Float32Array {
  if (valid.w === output.w && valid.h === output.h) return coverage;
  const out = new Float32Array(coverage.length);
  const r = intersect(output, valid);
  for (let y = r.y; y < r.y + r.h; y++) {
    const i = (y - output.y) * output.w + r.x - output.x;
    out.set(coverage.subarray(i, i + r.w), i);
  }
  return out;
}
