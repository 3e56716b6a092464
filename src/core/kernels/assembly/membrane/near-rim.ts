// Cycles whose finer levels work near the rim only. AssemblyScript.

import { weightOf } from './build';
import { restrict, sweep } from './cycle';
import { between, claim, count, DEEP, EDGE, field, firstRun, FREE, giveBack, greatest, lastRun, runFrom, runTo, setField, SHORE, top } from './levels';

/** Marks what lies deep on every level that has a coarser one, and starts all others with a value. @returns 1 when there is any on the finest, −1 when memory is short */
export function deepen(start: v128): i32 {
  let any = 0;
  for (let l = 0; l < count - 1; l++) {
    const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2);
    const keep = top;
    const n = <usize>w * h;
    const near = nearRim(kind, w, h);
    if (!near) return -1;
    if (markDeep(kind, near, w, n) && l == 0) any = 1;
    giveBack(keep);
    if (!findRuns(l)) return -1;
    fillRuns(l, start);
    const before = claim(<usize>(<i32>field(l + 1, 0) * <i32>field(l + 1, 1)) << 4);
    if (!before) return -1;
    setField(l + 1, 6, before);
  }
  if (!findRuns(count - 1)) return -1;
  fillRuns(count - 1, start);
  return any;
}

function fillRuns(l: i32, value: v128): void {
  const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2), u = field(l, 3);
  for (let y = 0; y < h; y++)
    for (let r = firstRun(l, y), runs = lastRun(l, y); r < runs; r++)
      for (let x = runFrom(l, r), end = runTo(l, r); x < end; x++) v128.store(u + (<usize>(y * w + x) << 4), value);
}

/** Bytes that are 255 where a point that is not free all round lies within `shallow` rows and columns, with room before
 *  and after. The first and last points of a row never are free all round, so that it does not matter that rows run into
 *  each other. 0 when memory is short. */
function nearRim(kind: usize, w: i32, h: i32): usize {
  const n = <usize>w * h;
  const room = <usize>(shallow * w + 32) & ~15;
  let from = claim(2 * room + n + 16), to = claim(2 * room + n + 16);
  if (!from || !to) return 0;
  from += room;
  to += room;
  const free = i8x16.splat(FREE);
  for (let i: usize = 0; i < n; i += 16) v128.store(from + i, i8x16.ne(v128.load(kind + i), free));
  // What lay behind the last point is none.
  memory.fill(from + n, 0, 16);
  // Steps of 1, 2, 4 and 5 reach twelve.
  for (let way = 0; way < 2; way++) {
    const stride: usize = way ? w : 1;
    for (let k = 0; k < 4; k++) {
      const step = stride * (k == 0 ? 1 : k == 1 ? 2 : k == 2 ? 4 : 5);
      for (let i: usize = 0; i < n; i += 16) v128.store(to + i, v128.or(v128.load(from + i), v128.or(v128.load(from + i - step), v128.load(from + i + step))));
      memory.fill(to + n, 0, 16);
      const t = from; from = to; to = t;
    }
  }
  return from;
}

/** Marks what is not near as deep, and as shore beside what is. @returns whether there is any */
function markDeep(kind: usize, near: usize, w: i32, n: usize): bool {
  const deep = i8x16.splat(DEEP), shore = i8x16.splat(SHORE);
  let any = false;
  for (let i: usize = 0; i < n; i += 16) {
    const at = near + i;
    const here = v128.load(at);
    if (i8x16.all_true(here)) continue;
    const beside = v128.or(v128.or(v128.load(at - 1), v128.load(at + 1)), v128.or(v128.load(at - w), v128.load(at + w)));
    const marks = v128.bitselect(shore, deep, beside);
    if (i + 16 <= n) {
      any = true;
      v128.store(kind + i, v128.bitselect(v128.load(kind + i), marks, here));
    } else
      for (let k: usize = 0; i + k < n; k++)
        if (load<u8>(at + k) == 0) {
          any = true;
          store<u8>(kind + i + k, load<u8>(at + k - 1) || load<u8>(at + k + 1) || load<u8>(at + k - w) || load<u8>(at + k + w) ? SHORE : DEEP);
        }
  }
  return any;
}

/** Lists where the points lie that a level works on, or that it needs: for each row the number of its first run, then runs
 *  as pairs of columns. */
function findRuns(l: i32): bool {
  const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2);
  let runs = 0;
  for (let y = 0; y < h; y++) runs += runsOf(kind + <usize>(y * w), w, 0);
  const at = claim(<usize>(h + 1 + 2 * runs) << 2);
  if (!at) return false;
  setField(l, 7, at);
  runs = 0;
  for (let y = 0; y < h; y++) {
    store<i32>(at + (<usize>y << 2), runs);
    runs += runsOf(kind + <usize>(y * w), w, at + (<usize>(h + 1 + 2 * runs) << 2));
  }
  store<i32>(at + (<usize>h << 2), runs);
  return true;
}

/** Counts the runs of a row, and lists them unless `into` is 0. Sixteen points that are all alike are passed at once. */
function runsOf(row: usize, w: i32, into: usize): i32 {
  let runs = 0;
  let open = false;
  const one = i8x16.splat(1), none = i8x16.splat(0), deep = i8x16.splat(DEEP);
  for (let x = 0; x < w; x++) {
    if (x + 16 <= w) {
      const kinds = v128.load(row + x);
      const here = v128.andnot(i8x16.ne(v128.and(kinds, one), none), i8x16.eq(kinds, deep));
      if (open ? i8x16.all_true(here) : !v128.any_true(here)) { x += 15; continue; }
    }
    const k = load<u8>(row + x);
    const here = (k & 1) == 1 && k != DEEP;
    if (here && !open) {
      if (into) store<i32>(into + (<usize>runs << 3), x);
      runs++;
    }
    if (!here && open && into) store<i32>(into + (<usize>(runs - 1) << 3) + 4, x);
    open = here;
  }
  if (open && into) store<i32>(into + (<usize>(runs - 1) << 3) + 4, w);
  return runs;
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

/** Brings values to the coarser level, but to points under deep ones. */
function inject(l: i32): void {
  const w = <i32>field(l, 0), kind = field(l, 2), u = field(l, 3);
  const cw = <i32>field(l + 1, 0), ch = <i32>field(l + 1, 1), ck = field(l + 1, 2), cu = field(l + 1, 3);
  for (let y = 0; y < ch; y++)
    for (let r = firstRun(l + 1, y), runs = lastRun(l + 1, y); r < runs; r++)
    for (let x = runFrom(l + 1, r), end = runTo(l + 1, r); x < end; x++) {
      const j = <usize>(y * cw + x);
      if ((load<u8>(ck + j) & 1) == 0) continue;
      const i = <usize>(2 * y * w + 2 * x);
      if (load<u8>(kind + i) < DEEP) v128.store(cu + (j << 4), v128.load(u + (i << 4)));
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
  inject(l);
  for (let y = 0; y < ch; y++)
    for (let r = firstRun(l + 1, y), runs = lastRun(l + 1, y); r < runs; r++)
    for (let x = runFrom(l + 1, r), end = runTo(l + 1, r); x < end; x++) {
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
    for (let r = firstRun(l + 1, y), runs = lastRun(l + 1, y); r < runs; r++)
    for (let x = runFrom(l + 1, r), end = runTo(l + 1, r); x < end; x++) {
      const j = <usize>(y * cw + x) << 4;
      const moved = f32x4.sub(v128.load(cu + j), v128.load(before + j));
      v128.store(before + j, moved);
      largest = f32x4.pmax(largest, f32x4.abs(moved));
    }
  for (let y = 0; y < h; y++)
    for (let r = firstRun(l, y), runs = lastRun(l, y); r < runs; r++)
    for (let x = runFrom(l, r), end = runTo(l, r); x < end; x++) {
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
  const quarter = f32x4.splat(0.25);
  const deep = i8x16.splat(DEEP);
  for (let l = count - 2; l >= 0; l--) {
    const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2), u = field(l, 3);
    const cw = <i32>field(l + 1, 0), ch = <i32>field(l + 1, 1), cu = field(l + 1, 3);
    for (let y = 0; y < h; y++) {
      const above = cu + (<usize>((y >> 1) * cw) << 4), below = cu + (<usize>(min(ch - 1, (y + 1) >> 1) * cw) << 4);
      const row = kind + <usize>(y * w), to = u + (<usize>(y * w) << 4);
      for (let x = 0; x < w; x++) {
        if (x + 16 <= w && !v128.any_true(i8x16.ge_u(v128.load(row + x), deep))) { x += 15; continue; }
        if (load<u8>(row + x) < DEEP) continue;
        const left = <usize>(x >> 1) << 4, right = <usize>min(cw - 1, (x + 1) >> 1) << 4;
        v128.store(to + (<usize>x << 4), f32x4.mul(quarter, f32x4.add(
          f32x4.add(v128.load(above + left), v128.load(above + right)),
          f32x4.add(v128.load(below + left), v128.load(below + right)))));
      }
    }
  }
}
