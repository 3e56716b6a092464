import { distanceWasm, keptKernel } from '../kernels';

interface Kernel {
  release(): void;
  claim(bytes: number): number;
  squaredDistance(
    set: number,
    w: number,
    h: number,
    out: number,
    column: number,
    vertex: number,
    from: number,
    nothing: number,
  ): void;
}

const distanceKernel = keptKernel<Kernel>(distanceWasm);

/** Squared Euclidean distance of each pixel centre to the nearest pixel centre that is set.
 *
 *  @param set  w×h, non-zero = set; not mutated
 *  @returns w×h float64-exact whole numbers in a Float32Array when below 2²⁴, {@link farAway} where nothing is set
 *  @throws RangeError when memory is short
 *  Degenerate: nothing set gives farAway everywhere; everything set gives zeros. Cost O(w·h).
 *  Source: Felzenszwalb & Huttenlocher 2012, Distance Transforms of Sampled Functions, doi:10.4086/toc.2012.v008a019,
 *  section 2.1 (lower envelope of parabolas); the columns are scanned twice instead, which is the same for 0/∞ input.
 */
export function squaredDistance(set: Uint8Array, w: number, h: number): Float32Array {
  const { kernel, buffer, at } = distanceKernel([w * h, 4 * w * h, 4 * w, 4 * w, 8 * (w + 1)]);
  const [setAt, out, column, vertex, from] = at;
  new Uint8Array(buffer, setAt, w * h).set(set);
  kernel.squaredDistance(setAt, w, h, out, column, vertex, from, farAway);
  return new Float32Array(buffer, out, w * h).slice();
}

/** Stands for "nothing is set anywhere". */
export const farAway = 1e12;
