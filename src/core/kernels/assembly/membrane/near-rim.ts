// Cycles whose finer levels work near the rim only. AssemblyScript.

import { weightOf } from './build';
import { restrict, sweep } from './cycle';
import { between, claim, count, DEEP, EDGE, field, firstRun, FREE, giveBack, greatest, lastRun, runFrom, runTo, setField, SHORE, top } from './levels';

/** Marks what lies deep on every level that has a coarser one. @returns 1 when there is any on the finest, −1 when memory is short */
export function deepen(): i32 {
  let any = 0;
  for (let l = 0; l < count - 1; l++) {
    const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2);
    const keep = top;
    const near = claim(<usize>w * h);
    if (!near) return -1;
    // Within `shallow` of a point that is not free all round: along rows, then along columns.
    for (let y = 0; y < h; y++) {
      const row = <usize>(y * w);
      let last = -shallow - 1;
      for (let x = 0; x < w; x++) {
        if (load<u8>(kind + row + x) != FREE) last = x;
        if (x - last <= shallow) store<u8>(near + row + x, 1);
      }
      last = w + shallow + 1;
      for (let x = w - 1; x >= 0; x--) {
        if (load<u8>(kind + row + x) != FREE) last = x;
        if (last - x <= shallow) store<u8>(near + row + x, 1);
      }
    }
    const rows = claim(<usize>w * 4);
    if (!rows) return -1;
    // Each column's distance to the last near row, from above and then from below; what stays far both ways is deep.
    for (let x = 0; x < w; x++) store<i32>(rows + (<usize>x << 2), -shallow - 1);
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const i = <usize>(y * w + x), at = rows + (<usize>x << 2);
        if (load<u8>(near + i) == 1) store<i32>(at, y);
        else if (y - load<i32>(at) <= shallow) store<u8>(near + i, 2);
      }
    for (let x = 0; x < w; x++) store<i32>(rows + (<usize>x << 2), h + shallow + 1);
    for (let y = h - 1; y >= 0; y--)
      for (let x = 0; x < w; x++) {
        const i = <usize>(y * w + x), at = rows + (<usize>x << 2);
        if (load<u8>(near + i) == 1) store<i32>(at, y);
        else if (load<i32>(at) - y <= shallow) store<u8>(near + i, 2);
      }
    for (let i: usize = 0; i < <usize>w * h; i++)
      if (load<u8>(near + i) == 0) {
        store<u8>(kind + i, DEEP);
        if (l == 0) any = 1;
      }
    for (let y = 1; y < h - 1; y++)
      for (let x = 1; x < w - 1; x++) {
        const i = <usize>(y * w + x);
        if (load<u8>(kind + i) == DEEP && (load<u8>(near + i - 1) || load<u8>(near + i + 1) || load<u8>(near + i - w) || load<u8>(near + i + w))) store<u8>(kind + i, SHORE);
      }
    giveBack(keep);
    if (!findRuns(l)) return -1;
    const before = claim(<usize>(<i32>field(l + 1, 0) * <i32>field(l + 1, 1)) << 4);
    if (!before) return -1;
    setField(l + 1, 6, before);
    // To begin with, coarse points have what the fine ones have.
    inject(l, true);
  }
  if (!findRuns(count - 1)) return -1;
  return any;
}

/** Lists where the points lie that a level works on, or that it needs: for each row the number of its first run, then runs
 *  as pairs of columns. */
function findRuns(l: i32): bool {
  const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2);
  let runs = 0;
  for (let y = 0; y < h; y++)
    for (let x = 0, open = false; x < w; x++) {
      const k = load<u8>(kind + <usize>(y * w + x));
      const here = (k & 1) == 1 && k != DEEP;
      if (here && !open) runs++;
      open = here;
    }
  const at = claim(<usize>(h + 1 + 2 * runs) << 2);
  if (!at) return false;
  setField(l, 7, at);
  runs = 0;
  for (let y = 0; y < h; y++) {
    store<i32>(at + (<usize>y << 2), runs);
    for (let x = 0, open = false; x < w; x++) {
      const k = load<u8>(kind + <usize>(y * w + x));
      const here = (k & 1) == 1 && k != DEEP;
      const pair = at + (<usize>(h + 1 + 2 * runs) << 2);
      if (here && !open) store<i32>(pair, x);
      if (!here && open) { store<i32>(pair + 4, x); runs++; }
      if (here && x == w - 1) { store<i32>(pair + 4, w); runs++; }
      open = here;
    }
  }
  store<i32>(at + (<usize>h << 2), runs);
  return true;
}

/** From so many points on, leaving out what is deep costs less than finding it. */
export const worthwhile: i32 = 40_000;

/** A rim's detail of a certain size fades inwards within about that length, so that behind so many points of a level,
 *  half as fine will do. */
const shallow: i32 = 12;

/** Deep points are worked on like all others. */
export function surface(): void {
  for (let l = 0; l < count; l++) {
    const n = <usize>(<i32>field(l, 0) * <i32>field(l, 1)), kind = field(l, 2);
    setField(l, 7, 0);
    for (let i: usize = 0; i < n; i++) if (load<u8>(kind + i) >= DEEP) store<u8>(kind + i, FREE);
  }
}

/** Brings values to the coarser level; to points under deep ones only when `all` is set. */
function inject(l: i32, all: bool): void {
  const w = <i32>field(l, 0), kind = field(l, 2), u = field(l, 3);
  const cw = <i32>field(l + 1, 0), ch = <i32>field(l + 1, 1), ck = field(l + 1, 2), cu = field(l + 1, 3);
  for (let y = 0; y < ch; y++)
    for (let r = firstRun(l + 1, y); r < lastRun(l + 1, y); r++)
    for (let x = runFrom(l + 1, r); x < runTo(l + 1, r); x++) {
      const j = <usize>(y * cw + x);
      if ((load<u8>(ck + j) & 1) == 0) continue;
      const i = <usize>(2 * y * w + 2 * x);
      if (all || load<u8>(kind + i) < DEEP) v128.store(cu + (j << 4), v128.load(u + (i << 4)));
    }
}

/** The sum of links at a free point, times its value, less what its neighbours give: the left side of its equation. */
function leftSide(l: i32, x: i32, y: i32): v128 {
  const w = <i32>field(l, 0), u = field(l, 3);
  const row = <usize>w << 4;
  const i = <usize>(y * w + x), p = u + (i << 4);
  const here = v128.load(p);
  if (load<u8>(field(l, 2) + i) != EDGE)
    return f32x4.sub(f32x4.mul(f32x4.splat(4), here), f32x4.add(f32x4.add(v128.load(p - 16), v128.load(p + 16)), f32x4.add(v128.load(p - row), v128.load(p + row))));
  let sum = f32x4.splat(0);
  for (let d = 0; d < 4; d++) {
    const wt = weightOf(l, x, y, d);
    if (wt < 0) sum = f32x4.sub(sum, f32x4.mul(f32x4.splat(wt), here));
    if (wt <= 0) continue;
    const q = d == 0 ? p - 16 : d == 1 ? p + 16 : d == 2 ? p - row : p + row;
    sum = f32x4.add(sum, f32x4.mul(f32x4.splat(wt), f32x4.sub(here, v128.load(q))));
  }
  return sum;
}

/** A V-cycle in which every level holds full values (Brandt 1977, section 4: MLAT), so that levels need not reach
 *  everywhere. @returns the greatest change */
export function cycleAdaptive(l: i32): f32 {
  if (l == count - 1) {
    let change: f32 = 0;
    for (let k = 0; k < 80; k++) { change = sweep(l); if (change < 1e-8) break; }
    return change;
  }
  sweep(l);
  if (!restrict(l)) return 0;
  const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2), u = field(l, 3);
  const cw = <i32>field(l + 1, 0), ch = <i32>field(l + 1, 1), ck = field(l + 1, 2), cu = field(l + 1, 3), cf = field(l + 1, 4), before = field(l + 1, 6);
  inject(l, false);
  for (let y = 0; y < ch; y++)
    for (let r = firstRun(l + 1, y); r < lastRun(l + 1, y); r++)
    for (let x = runFrom(l + 1, r); x < runTo(l + 1, r); x++) {
      const j = <usize>(y * cw + x);
      v128.store(before + (j << 4), v128.load(cu + (j << 4)));
      const k = load<u8>(ck + j);
      if (k != FREE && k != EDGE) continue;
      const i = <usize>(2 * y * w + 2 * x);
      // Where the finer level does not reach, the equation is the coarse level's own.
      const whole = k == EDGE || (load<u8>(kind + i - w - 1) < DEEP && load<u8>(kind + i - w + 1) < DEEP && load<u8>(kind + i + w - 1) < DEEP && load<u8>(kind + i + w + 1) < DEEP);
      v128.store(cf + (j << 4), whole ? f32x4.add(v128.load(cf + (j << 4)), leftSide(l + 1, x, y)) : f32x4.splat(0));
    }
  let change = cycleAdaptive(l + 1);
  let largest = f32x4.splat(0);
  for (let y = 0; y < ch; y++)
    for (let r = firstRun(l + 1, y); r < lastRun(l + 1, y); r++)
    for (let x = runFrom(l + 1, r); x < runTo(l + 1, r); x++) {
      const j = <usize>(y * cw + x) << 4;
      const moved = f32x4.sub(v128.load(cu + j), v128.load(before + j));
      v128.store(before + j, moved);
      largest = f32x4.max(largest, f32x4.abs(moved));
    }
  for (let y = 0; y < h; y++)
    for (let r = firstRun(l, y); r < lastRun(l, y); r++)
    for (let x = runFrom(l, r); x < runTo(l, r); x++) {
      const i = <usize>(y * w + x);
      const k = load<u8>(kind + i);
      const p = u + (i << 4);
      if (k == FREE || k == EDGE) v128.store(p, f32x4.add(v128.load(p), between(before, cw, ch, x, y)));
      else if (k == SHORE) v128.store(p, between(cu, cw, ch, x, y));
    }
  change = max(greatest(largest), change);
  return change + sweep(l);
}

/** Deep points take what the coarser level found, from the coarsest to the finest. */
export function fillDeep(): void {
  for (let l = count - 2; l >= 0; l--) {
    const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2), u = field(l, 3);
    const cw = <i32>field(l + 1, 0), ch = <i32>field(l + 1, 1), cu = field(l + 1, 3);
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const i = <usize>(y * w + x);
        if (load<u8>(kind + i) >= DEEP) v128.store(u + (i << 4), between(cu, cw, ch, x, y));
      }
  }
}
