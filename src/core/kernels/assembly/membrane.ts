// Multigrid for Laplace's equation on four interleaved float channels (one v128 a pixel). See core/solve/membrane.ts
// for the contract and the papers; this is AssemblyScript and holds only the loops.

import { build } from './membrane/build';
import { conjugate, plainCycles } from './membrane/conjugate';
import { cycle, smooth } from './membrane/cycle';
import { claimAsIs, field, openLevels, setField } from './membrane/levels';
import { addShare, cycleAdaptive, deepen, fillDeep, surface, workTwice, worthwhile } from './membrane/near-rim';
import { listRim, spread } from './membrane/start';

/** Makes room for a grid, which holds anything; the caller then writes kinds (w·h bytes) at the returned offset and values behind them at
 *  `valuesAt()`, and the source term at `sourceAt()` if there is one. 0 when memory is short. */
export function begin(w: i32, h: i32, withSource: bool): usize {
  isOpen = false;
  if (!openLevels()) return 0;
  const n = <usize>w * h;
  const kind = claimAsIs(n);
  const u = claimAsIs(n * 16);
  if (!kind || !u) return 0;
  setField(0, 0, w);
  setField(0, 1, h);
  setField(0, 2, kind);
  setField(0, 3, u);
  const f: usize = withSource ? claimAsIs(n * 16) : 0;
  if (withSource && !f) return 0;
  setField(0, 4, f);
  return kind;
}

/** Makes room for kinds, from which the rim is to be listed. 0 when memory is short. */
export function beginKinds(n: i32): usize { return openLevels() ? claimAsIs(n) : 0; }

/** Fixed points beside free ones of w × h kinds: i32, how many, and their numbers. 0 when memory is short. */
export function rimOf(kind: usize, w: i32, h: i32): usize { return listRim(kind, w, h); }

/** Whether the finest level's deep points still hold nothing. */
let isOpen: bool = false;

/** A cycle after which more than this share is left of what the one before moved is a slow one. */
const slowly: f32 = 0.15;

/** Of the tolerance, so much may be left to gain where there is no source term. */
const leftOver: f32 = 0.3;

/** What is left to gain if cycles go on as the last two did; the first one starts from too far off to tell. */
function left(change: f32, last: f32, k: i32): f32 {
  if (k < 3) return change;
  const ratio = max(<f32>0.05, min(change / last, <f32>0.9));
  return (change * ratio) / (1 - ratio);
}

/** Where the values lie; after a run, all of them hold. */
export function valuesAt(): usize {
  if (isOpen) fillDeep(0);
  isOpen = false;
  return field(0, 3);
}

/** Makes room for some pixels, four f32 each, to be handed to `add`. 0 when memory is short. */
export function roomFor(pixels: i32): usize { return claimAsIs(<usize>pixels << 4); }

/** Adds a share of what a run found to pixels: of n points from `from` on. */
export function add(pixels: usize, from: i32, n: i32, share: f64): void { addShare(pixels, from, n, share); }

export function sourceAt(): usize { return field(0, 4); }

/** Runs cycles until hardly anything of `tolerance` is left to gain or, with a source term, nothing moves by more. @returns cycles, negative when not converged, 0 when memory is short. */
export function run(tolerance: f32, maxCycles: i32): i32 {
  isOpen = false;
  if (!build()) return 0;
  smooth(1);
  if (!field(0, 4) && <i32>field(0, 0) * <i32>field(0, 1) >= worthwhile) {
    const found = deepen();
    if (found < 0) return 0;
    if (found > 0) {
      workTwice(false);
      let last = f32.MAX_VALUE;
      for (let k = 1; k <= min(maxCycles, plainCycles); k++) {
        const change = cycleAdaptive(0);
        if (left(change, last, k) <= tolerance * leftOver) {
          fillDeep(1);
          isOpen = true;
          return k;
        }
        if (change > slowly * last) workTwice(true);
        last = change;
      }
      surface();
    }
  }
  if (!spread()) return 0;
  let last = f32.MAX_VALUE;
  for (let k = 1; k <= min(maxCycles, plainCycles); k++) {
    const change = cycle(0);
    if (field(0, 4) ? change <= tolerance : left(change, last, k) <= tolerance * leftOver) return k;
    last = change;
  }
  // Where fixed points are strewn about, the coarse grids miss them and cycles alone may even diverge.
  if (maxCycles <= plainCycles) return -maxCycles;
  smooth(2);
  if (!spread()) return 0;
  return conjugate(tolerance, maxCycles);
}
