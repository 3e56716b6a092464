// Multigrid for Laplace's equation on four interleaved float channels (one v128 a pixel). See core/solve/membrane.ts
// for the contract and the papers; this is AssemblyScript and holds only the loops.

import { build } from './membrane/build';
import { conjugate, plainCycles } from './membrane/conjugate';
import { cycle, smooth } from './membrane/cycle';
import { claimAsIs, field, openLevels, setField } from './membrane/levels';
import { cycleAdaptive, deepen, fillDeep, surface, worthwhile } from './membrane/near-rim';
import { meanOfRim, spread } from './membrane/start';

/** Makes room for a grid, which holds anything; the caller then writes kinds (w·h bytes) at the returned offset and values behind them at
 *  `valuesAt()`, and the source term at `sourceAt()` if there is one. 0 when memory is short. */
export function begin(w: i32, h: i32, withSource: bool): usize {
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

export function valuesAt(): usize { return field(0, 3); }
export function sourceAt(): usize { return field(0, 4); }

/** Runs cycles until nothing moves by more than `tolerance`. @returns cycles, negative when not converged, 0 when memory is short. */
export function run(tolerance: f32, maxCycles: i32): i32 {
  if (!build()) return 0;
  smooth(1);
  if (!field(0, 4) && <i32>field(0, 0) * <i32>field(0, 1) >= worthwhile) {
    const found = deepen(meanOfRim());
    if (found < 0) return 0;
    if (found > 0) {
      for (let k = 1; k <= min(maxCycles, plainCycles); k++)
        if (cycleAdaptive(0) <= tolerance) {
          fillDeep();
          return k;
        }
      surface();
    }
  }
  if (!spread()) return 0;
  for (let k = 1; k <= min(maxCycles, plainCycles); k++) if (cycle(0) <= tolerance) return k;
  // Where fixed points are strewn about, the coarse grids miss them and cycles alone may even diverge.
  if (maxCycles <= plainCycles) return -maxCycles;
  smooth(2);
  if (!spread()) return 0;
  return conjugate(tolerance, maxCycles);
}
