import { InputError } from '../errors';
import { instantiateKernel, membraneWasm } from '../kernels';
import { mostAtOnce } from '../raster';

/** What a grid point is to the membrane. `away` is not there at all: no tone crosses its sides. */
export const point = { away: 0, free: 1, fixed: 2 } as const;

export interface MembraneOptions {
  /** Of full scale; default 1e-3. Without a source term cycles end when three tenths of this are left to gain, as the last two
   *  tell: less than a tenth of an 8-bit step. With one, when no value moves by more than this. */
  readonly tolerance?: number;
  /** At most so many V-cycles; default 60. */
  readonly maxCycles?: number;
  /** w×h×4: right-hand side at free points, Σ(u − neighbour) = source (Poisson's equation); default 0 everywhere. */
  readonly source?: Float32Array;
}

export interface MembraneOutcome {
  readonly cycles: number;
  readonly converged: boolean;
}

/** The largest grid that is solved, in points: memory is about 40 bytes a point. */
export const maxMembranePoints = 8_000_000;

interface MembraneKernel {
  begin(w: number, h: number, withSource: number): number;
  beginKinds(n: number): number;
  rimOf(kind: number, w: number, h: number): number;
  valuesAt(): number;
  roomFor(pixels: number): number;
  add(pixels: number, from: number, n: number, share: number): void;
  sourceAt(): number;
  run(tolerance: number, maxCycles: number): number;
}

let kernel: (MembraneKernel & { memory: WebAssembly.Memory }) | null = null;

/** Spreads the values of fixed points smoothly over the free ones: solves Laplace's equation with Dirichlet values at
 *  fixed neighbours and no flow (Neumann) towards points that are away or beyond the grid.
 *
 *  @param kind    w×h: {@link point}; not mutated
 *  @param values  w×h×4 float32; values at fixed points are read, those at free points are written. Free points that
 *                 reach no fixed point get the average of all rim values, 0 when there are none.
 *  @returns how it ended; non-convergence within `maxCycles` is told, not thrown
 *  @throws InputError `too-large` beyond {@link maxMembranePoints}, or when memory is short
 *  Degenerate: no free point changes nothing. Cost O(w·h) a cycle, 3 to 6 cycles.
 *  Source: Brandt 1977, Multi-Level Adaptive Solutions to Boundary-Value Problems, doi:10.1090/S0025-5718-1977-0431719-X
 *  (V(1,1)-cycles, V(2,2) or W-cycles when these converge slowly; full weighting, bilinear interpolation, red-black Gauss–Seidel,
 *  somewhat overrelaxed);
 *  links that a coarse grid cuts short at the rim weighted after Shortley & Weller 1938, doi:10.1063/1.1710426. On large
 *  grids without a source term a level works only within six of its points from the rim: what is finer has faded there
 *  (Brandt's section 4: local refinement in a full approximation scheme). Deeper than that, the equation is that of the nine-point
 *  star, which harmonic functions fulfil to a high order (Rosser 1975, doi:10.1016/0898-1221(75)90035-8), so that little depends
 *  on how coarse a level is: the difference is below a tenth of an 8-bit step. Else the start is by pull-push, Gortler, Grzeszczuk,
 *  Szeliski & Cohen 1996, The Lumigraph,
 *  doi:10.1145/237170.237200, section 3.4. The equation is that of Pérez, Gangnet & Blake 2003, Poisson Image Editing,
 *  doi:10.1145/1201775.882269, eq. 4, in the unknown f − g.
 */
export function solveMembrane(
  w: number,
  h: number,
  kind: Uint8Array,
  values: Float32Array,
  options: MembraneOptions = {},
): MembraneOutcome {
  if (w * h === 0) return { cycles: 0, converged: true };
  const grid = openMembrane(w, h, options.source);
  grid.kind.set(kind);
  grid.values.set(values);
  const outcome = grid.solve(options);
  values.set(grid.values);
  return outcome;
}

/** Fixed points beside free ones, in reading order: no others matter to the membrane.
 *  @param kind  w×h: {@link point}
 *  @throws InputError `too-large` when memory is short */
export function rimPoints(w: number, h: number, kind: Uint8Array): Int32Array {
  if (w * h === 0) return new Int32Array(0);
  kernel ??= instantiateKernel<MembraneKernel>(membraneWasm);
  const kindAt = kernel.beginKinds(w * h);
  if (kindAt === 0) throw tooLarge(w, h);
  new Uint8Array(kernel.memory.buffer, kindAt, w * h).set(kind);
  const rimAt = kernel.rimOf(kindAt, w, h);
  if (rimAt === 0) throw tooLarge(w, h);
  const [count] = new Int32Array(kernel.memory.buffer, rimAt, 1);
  return new Int32Array(kernel.memory.buffer, rimAt + 4, count).slice();
}

/** A grid in the solver's own memory, to be filled in and read where it lies; good until the next one is opened. */
export interface MembraneGrid {
  /** w×h: {@link point}; all of it is to be written. */
  readonly kind: Uint8Array;
  /** w×h×4: to be written where points are fixed and beside free ones, or all over; holds all of them once it is solved. */
  readonly values: Float32Array;
  /** Adds a share of what was found to the pixels of free points, within what colours may be: 0…alpha, which stays.
   *  @param pixels  w×h×4, premultiplied; changed in place. Cheaper than taking `values`: not all of them need be written out. */
  add(pixels: Float32Array, share: number): void;
  /** As {@link solveMembrane} does; once. What `kind` holds then is the solver's own. */
  solve(options?: Pick<MembraneOptions, 'tolerance' | 'maxCycles'>): MembraneOutcome;
}

/** {@link solveMembrane} without copies. @throws InputError `too-large` */
export function openMembrane(w: number, h: number, source?: Float32Array): MembraneGrid {
  if (w * h > maxMembranePoints) throw tooLarge(w, h);
  kernel ??= instantiateKernel<MembraneKernel>(membraneWasm);
  const own = kernel;
  const kindAt = own.begin(w, h, source ? 1 : 0);
  if (kindAt === 0) throw tooLarge(w, h);
  if (source) new Float32Array(own.memory.buffer, own.sourceAt(), w * h * 4).set(source);
  return {
    kind: new Uint8Array(own.memory.buffer, kindAt, w * h),
    // Memory that grows moves: views are made where they are needed.
    get values() {
      const at = own.valuesAt();
      return new Float32Array(own.memory.buffer, at, w * h * 4);
    },
    add(pixels, share) {
      const at = own.roomFor(mostAtOnce);
      if (at === 0) throw tooLarge(w, h);
      const part = new Float32Array(own.memory.buffer, at, 4 * mostAtOnce);
      for (let from = 0; from < w * h; from += mostAtOnce) {
        const n = Math.min(mostAtOnce, w * h - from);
        part.set(pixels.subarray(4 * from, 4 * (from + n)));
        own.add(at, from, n, share);
        pixels.set(part.subarray(0, 4 * n), 4 * from);
      }
    },
    solve({ tolerance = 1e-3, maxCycles = 60 } = {}) {
      const outcome = own.run(tolerance, maxCycles);
      if (outcome === 0) throw tooLarge(w, h);
      if (own.memory.buffer.byteLength > keepBytes) kernel = null;
      return { cycles: Math.abs(outcome), converged: outcome > 0 };
    },
  };
}

/** WebAssembly memory never shrinks, so an instance that grew beyond this is let go. */
const keepBytes = 96 << 20;

const tooLarge = (w: number, h: number): InputError =>
  new InputError(
    'too-large',
    `An area ${w} × ${h} pixels wide is too large to fit its tone in one piece. Mend it in several parts.`,
  );
