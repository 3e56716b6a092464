// Cycles whose finer levels work near the rim only. AssemblyScript.

import { diagonalOf, evenOf, linked, weightsOf } from './build';
import { sweep, sweepAndRestrict, sweepRows } from './cycle';
import { between, claim, claimAsIs, cornersOf, count, crossOf, DEEP, EDGE, field, firstRun, FIXED, FREE, giveBack, greatest, lastRun, OWN, rowAbove, rowBelow, runFrom, runTo, setField, SHORE, top } from './levels';

/** Marks what lies deep on every level that has a coarser one, and starts all others with the rim's mean. @returns 1 when there is any on the finest, −1 when memory is short */
export function deepen(): i32 {
  let any = 0;
  let start = f32x4.splat(0);
  for (let l = 0; l < count - 1; l++) {
    const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2);
    const n = <usize>w * h;
    if (!markRim(l)) return -1;
    const keep = top;
    const near = nearRim(field(l, 8), w, h);
    if (!near) return -1;
    if (markDeep(kind, near, w, n) && l == 0) any = 1;
    giveBack(keep);
    if (l > 0) markOwn(l);
    if (!findRuns(l)) return -1;
    if (l == 0) start = meanBesideRuns();
    else if (!clearBeside(l)) return -1;
    fillRuns(l, start);
  }
  if (count > 1) markOwn(count - 1);
  if (!findRuns(count - 1) || (count > 1 && !clearBeside(count - 1))) return -1;
  fillRuns(count - 1, start);
  return any;
}

/** Makes room for how far a level's points move, and clears it wherever the finer level looks: what is not worked on does not move.
 *  Values beside those that are worked on are cleared too: a link may end there, at a rim that is as far off. */
function clearBeside(l: i32): bool {
  const w = <i32>field(l, 0), h = <i32>field(l, 1), u = field(l, 3);
  const before = claimAsIs(<usize>(w * h) << 4);
  if (!before) return false;
  setField(l, 6, before);
  for (let y = 0, fine = <i32>field(l - 1, 1); y < fine; y++)
    for (let r = firstRun(l - 1, y), runs = lastRun(l - 1, y); r < runs; r++)
      for (let row = y >> 1, end = min(h - 1, (y + 1) >> 1); row <= end; row++) clear(before, w, row, runFrom(l - 1, r) >> 1, (runTo(l - 1, r) >> 1) + 1);
  for (let y = 0; y < h; y++)
    for (let r = firstRun(l, y), runs = lastRun(l, y); r < runs; r++)
      for (let row = max(0, y - 1), end = min(h, y + 2); row < end; row++) clear(u, w, row, runFrom(l, r) - 1, runTo(l, r) + 1);
  return true;
}

function clear(values: usize, w: i32, y: i32, from: i32, to: i32): void {
  from = max(0, from);
  memory.fill(values + (<usize>(y * w + from) << 4), 0, <usize>(min(w, to) - from) << 4);
}

/** The mean of the fixed points at the ends of the finest level's runs: about that of the rim. */
function meanBesideRuns(): v128 {
  const w = <i32>field(0, 0), h = <i32>field(0, 1), kind = field(0, 2), u = field(0, 3);
  let sum = f32x4.splat(0), seen = 0;
  for (let y = 0; y < h; y++)
    for (let r = firstRun(0, y), runs = lastRun(0, y); r < runs; r++)
      for (let side = 0; side < 2; side++) {
        const x = side ? runTo(0, r) : runFrom(0, r) - 1;
        const i = <usize>(y * w + x);
        if (x < 0 || x >= w || load<u8>(kind + i) != FIXED) continue;
        sum = f32x4.add(sum, v128.load(u + (i << 4)));
        seen++;
      }
  return f32x4.mul(sum, f32x4.splat(seen > 0 ? 1 / <f32>seen : 0));
}

function fillRuns(l: i32, value: v128): void {
  const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2), u = field(l, 3);
  for (let y = 0; y < h; y++)
    for (let r = firstRun(l, y), runs = lastRun(l, y); r < runs; r++)
      for (let x = runFrom(l, r), end = runTo(l, r); x < end; x++) v128.store(u + (<usize>(y * w + x) << 4), value);
}

/** Bytes that are not 0 where a point is not free all round, or one of those that it stands for on the finer level is not: a coarser
 *  level sees no single fixed point that lies between its own. @returns false when memory is short */
function markRim(l: i32): bool {
  const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2);
  const n = <usize>w * h;
  const rim = claimAsIs(n + 16);
  if (!rim) return false;
  setField(l, 8, rim);
  const free = i8x16.splat(FREE);
  for (let i: usize = 0; i < n; i += 16) v128.store(rim + i, i8x16.ne(v128.load(kind + i), free));
  if (l == 0) return true;
  const fw = <i32>field(l - 1, 0), fh = <i32>field(l - 1, 1), fine = field(l - 1, 8);
  // What lies at the grid's edge is not free all round anyway.
  for (let y = 1; 2 * y + 1 < fh; y++)
    for (let x = 1; 2 * x + 1 < fw; x++) {
      const at = fine + <usize>(2 * y * fw + 2 * x), to = rim + <usize>(y * w + x);
      if (2 * x + 33 < fw) {
        const above = v128.or(evenOf(at - 1 - fw), v128.or(evenOf(at - fw), evenOf(at + 1 - fw)));
        const here = v128.or(evenOf(at - 1), v128.or(evenOf(at), evenOf(at + 1)));
        const below = v128.or(evenOf(at - 1 + fw), v128.or(evenOf(at + fw), evenOf(at + 1 + fw)));
        v128.store(to, v128.or(v128.load(to), v128.or(above, v128.or(here, below))));
        x += 15;
      } else if (isBeside(at, fw)) store<u8>(to, 255);
    }
  return true;
}

/** Bytes that are 255 where a marked point lies within `shallow` rows and columns, with room before
 *  and after. The first and last points of a row never are free all round, so that it does not matter that rows run into
 *  each other. 0 when memory is short. */
function nearRim(rim: usize, w: i32, h: i32): usize {
  const n = <usize>w * h;
  const room = <usize>(shallow * w + 32) & ~15;
  let from = claim(2 * room + n + 16), to = claim(2 * room + n + 16);
  if (!from || !to) return 0;
  from += room;
  to += room;
  memory.copy(from, rim, n);
  // What lay behind the last point is none.
  memory.fill(from + n, 0, 16);
  // Steps of 1, 2 and 3 reach six.
  for (let way = 0; way < 2; way++) {
    const stride: usize = way ? w : 1;
    for (let k = 1; k <= 3; k++) {
      const step = stride * k;
      for (let i: usize = 0; i < n; i += 16) v128.store(to + i, v128.or(v128.load(from + i), v128.or(v128.load(from + i - step), v128.load(from + i + step))));
      memory.fill(to + n, 0, 16);
      const t = from; from = to; to = t;
    }
  }
  return from;
}

function isBeside(at: usize, w: i32): bool {
  for (let row = at - w - 1; row <= at + w - 1; row += w) if (load<u8>(row) || load<u8>(row + 1) || load<u8>(row + 2)) return true;
  return false;
}

/** Marks what is not near as deep, and as shore beside what is. @returns whether there is any */
function markDeep(kind: usize, near: usize, w: i32, n: usize): bool {
  const deep = i8x16.splat(DEEP), shore = i8x16.splat(SHORE);
  let any = false;
  for (let i: usize = 0; i < n; i += 16) {
    const at = near + i;
    const here = v128.load(at);
    if (i8x16.all_true(here)) continue;
    const above = at - w, below = at + w;
    const beside = v128.or(
      v128.or(v128.or(v128.load(at - 1), v128.load(at + 1)), v128.or(v128.load(above), v128.load(below))),
      v128.or(v128.or(v128.load(above - 1), v128.load(above + 1)), v128.or(v128.load(below - 1), v128.load(below + 1))));
    const marks = v128.bitselect(shore, deep, beside);
    if (i + 16 <= n) {
      any = true;
      v128.store(kind + i, v128.bitselect(v128.load(kind + i), marks, here));
    } else
      for (let k: usize = 0; i + k < n; k++)
        if (load<u8>(at + k) == 0) {
          any = true;
          store<u8>(kind + i + k, isBeside(at + k, w) ? SHORE : DEEP);
        }
  }
  return any;
}

function reachesDeep(at: usize, w: i32): bool {
  for (let row = at - w - 1; row <= at + w - 1; row += w) if (load<u8>(row) >= DEEP || load<u8>(row + 1) >= DEEP || load<u8>(row + 2) >= DEEP) return true;
  return false;
}

/** Marks the points of a level that the finer one does not reach with all of their surroundings. */
function markOwn(l: i32): void {
  const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2);
  const fw = <i32>field(l - 1, 0), fine = field(l - 1, 2);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const j = kind + <usize>(y * w + x);
      if (x + 16 <= w && !v128.any_true(i8x16.eq(v128.load(j), i8x16.splat(FREE)))) { x += 15; continue; }
      if (load<u8>(j) != FREE) continue;
      if (reachesDeep(fine + <usize>(2 * y * fw + 2 * x), fw)) store<u8>(j, OWN);
    }
}

/** Lists where the points lie that a level works on, or that it needs: for each row the number of its first run, then runs
 *  as pairs of columns. */
function findRuns(l: i32): bool {
  const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2);
  // Room for every other point to be a run; what is not needed of it is given back.
  const at = claimAsIs(<usize>(h + 1 + ((w + 1) & ~1) * h) << 2);
  if (!at) return false;
  setField(l, 7, at);
  const first = at + (<usize>(h + 1) << 2);
  let next = first;
  for (let y = 0; y < h; y++) {
    store<i32>(at + (<usize>y << 2), <i32>((next - first) >> 3));
    next = runsOf(kind + <usize>(y * w), w, next);
  }
  store<i32>(at + (<usize>h << 2), <i32>((next - first) >> 3));
  giveBack(next);
  return true;
}

/** Lists the runs of a row from `into` on. Sixteen points that are all alike are passed at once. @returns where the list ends */
function runsOf(row: usize, w: i32, into: usize): usize {
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
    if (here == open) continue;
    store<i32>(into, x);
    into += 4;
    open = here;
  }
  if (!open) return into;
  store<i32>(into, w);
  return into + 4;
}

/** From so many points on, leaving out what is deep costs less than finding it. */
export const worthwhile: i32 = 40_000;

/** A rim's detail of a certain size fades inwards within about that length, so that behind so many points of a level,
 *  half as fine will do. */
const shallow: i32 = 6;

/** Deep points are worked on like all others. */
export function surface(): void {
  for (let l = 0; l < count; l++) {
    const n = <usize>(<i32>field(l, 0) * <i32>field(l, 1)), kind = field(l, 2);
    setField(l, 7, 0);
    for (let i: usize = 0; i < n; i++) if (load<u8>(kind + i) >= OWN) store<u8>(kind + i, FREE);
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
    return f32x4.sub(f32x4.mul(f32x4.splat(4), here), crossOf(p, row));
  const weights = weightsOf(l, x, y);
  return f32x4.sub(f32x4.mul(f32x4.splat(diagonalOf(weights)), here), linked(weights, p, row));
}

let isSlow: bool = false;

/** Whether the coarser levels are to be worked on twice in a cycle: it is dearer, and settles rims that they hardly see. */
export function workTwice(is: bool): void { isSlow = is; }

/** A V-cycle in which every level holds full values (Brandt 1977, section 4: MLAT), so that levels need not reach
 *  everywhere. @returns the greatest change */
export function cycleAdaptive(l: i32): f32 {
  if (l == count - 1) {
    let change: f32 = 0;
    for (let k = 0; k < 80; k++) { change = sweep(l); if (change < 1e-8) break; }
    return change;
  }
  if (!sweepAndRestrict(l)) return 0;
  const h = <i32>field(l, 1);
  const cw = <i32>field(l + 1, 0), ch = <i32>field(l + 1, 1), ck = field(l + 1, 2), cu = field(l + 1, 3), cf = field(l + 1, 4), before = field(l + 1, 6);
  inject(l);
  for (let y = 0; y < ch; y++)
    for (let r = firstRun(l + 1, y), runs = lastRun(l + 1, y); r < runs; r++)
    for (let x = runFrom(l + 1, r), end = runTo(l + 1, r); x < end; x++) {
      const j = <usize>(y * cw + x);
      v128.store(before + (j << 4), v128.load(cu + (j << 4)));
      const k = load<u8>(ck + j);
      if (k == FREE || k == EDGE) v128.store(cf + (j << 4), f32x4.add(v128.load(cf + (j << 4)), leftSide(l + 1, x, y)));
    }
  let change = cycleAdaptive(l + 1);
  if (l >= 2 && isSlow) change = cycleAdaptive(l + 1);
  let largest = f32x4.splat(0);
  for (let y = 0; y < ch; y++)
    for (let r = firstRun(l + 1, y), runs = lastRun(l + 1, y); r < runs; r++)
    for (let x = runFrom(l + 1, r), end = runTo(l + 1, r); x < end; x++) {
      const j = <usize>(y * cw + x) << 4;
      const moved = f32x4.sub(v128.load(cu + j), v128.load(before + j));
      v128.store(before + j, moved);
      largest = f32x4.pmax(largest, f32x4.abs(moved));
    }
  change = max(greatest(largest), change);
  // A sweep follows a row behind.
  largest = f32x4.splat(0);
  for (let y = 0; y <= h + 1; y++) {
    if (y < h) correctRow(l, y, before);
    if (y > 0) largest = sweepRows(l, y - 1, largest);
  }
  return change + greatest(largest);
}

/** Moves the points of a row as the coarser level's moved, and gives those next to deep ones what that level says. */
function correctRow(l: i32, y: i32, moves: usize): void {
  const w = <i32>field(l, 0), kind = field(l, 2), u = field(l, 3);
  const cw = <i32>field(l + 1, 0), ch = <i32>field(l + 1, 1), cu = field(l + 1, 3);
  const above = rowAbove(moves, cw, y), below = rowBelow(moves, cw, ch, y);
  for (let r = firstRun(l, y), runs = lastRun(l, y); r < runs; r++)
  for (let x = runFrom(l, r), end = runTo(l, r); x < end; x++) {
    const i = <usize>(y * w + x);
    const k = load<u8>(kind + i);
    const p = u + (i << 4);
    if (k < DEEP) { if (k & 1) v128.store(p, f32x4.add(v128.load(p), between(above, below, cw, x))); }
    else v128.store(p, harmonic(cu, cw, x, y));
  }
}

/** A fine point that lies so deep that all coarse points round it are free: what Laplace's equation says of it, by the star of its
 *  neighbours or of its corners, up to the fourth power of the distance. */
// @ts-ignore: decorator
@inline function harmonic(coarse: usize, cw: i32, x: i32, y: i32): v128 {
  const row = <usize>cw << 4;
  const at = coarse + (<usize>((y >> 1) * cw + (x >> 1)) << 4);
  if (x & y & 1) return f32x4.mul(f32x4.splat(0.25), f32x4.add(f32x4.add(v128.load(at), v128.load(at + 16)), f32x4.add(v128.load(at + row), v128.load(at + row + 16))));
  if (!((x | y) & 1)) return v128.load(at);
  const along: usize = x & 1 ? 16 : row, across: usize = x & 1 ? row : 16;
  return f32x4.add(
    f32x4.mul(f32x4.splat(0.375), f32x4.add(v128.load(at), v128.load(at + along))),
    f32x4.mul(f32x4.splat(0.0625), f32x4.add(f32x4.add(v128.load(at - across), v128.load(at - across + along)), f32x4.add(v128.load(at + across), v128.load(at + across + along)))));
}

/** Deep points of a level, and before them those of all coarser ones, take what the next coarser one found. */
export function fillDeep(last: i32): void {
  const deep = i8x16.splat(DEEP);
  for (let l = count - 2; l >= last; l--) {
    const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2), u = field(l, 3);
    const cw = <i32>field(l + 1, 0), cu = field(l + 1, 3);
    for (let y = 0; y < h; y++) {
      const row = kind + <usize>(y * w), to = u + (<usize>(y * w) << 4);
      for (let x = 0; x < w; x++) {
        if (x + 16 <= w) {
          const isDeep = i8x16.ge_u(v128.load(row + x), deep);
          const all = i8x16.all_true(isDeep);
          if (all) fillSixteen(to + (<usize>x << 4), cu, cw, x, y);
          if (all || !v128.any_true(isDeep)) { x += 15; continue; }
        }
        if (load<u8>(row + x) < DEEP) continue;
        v128.store(to + (<usize>x << 4), harmonic(cu, cw, x, y));
      }
    }
  }
}

/** Adds a share of the field to the pixels of free points, within what colours may be; what is deep is looked up in the next coarser
 *  level. @param from  the first of n points */
export function addShare(pixels: usize, from: i32, n: i32, share: f64): void {
  const w = <i32>field(0, 0), kind = field(0, 2), u = field(0, 3);
  const none = i8x16.splat(0), one = i8x16.splat(1), deep = i8x16.splat(DEEP);
  let x = from % w, y = from / w;
  for (let i = from; i < from + n; i++, x++, pixels += 16) {
    if (x == w) { x = 0; y++; }
    if (x + 16 <= w && i + 16 <= from + n) {
      const kinds = v128.load(kind + i);
      const isDeep = i8x16.all_true(i8x16.ge_u(kinds, deep));
      if (isDeep) addSixteen(pixels, x, y, share);
      if (isDeep || i8x16.all_true(i8x16.eq(v128.and(kinds, one), none))) { i += 15; x += 15; pixels += 240; continue; }
    }
    const k = load<u8>(kind + i);
    if (k & 1) plus(pixels, k >= DEEP ? harmonic(field(1, 3), <i32>field(1, 0), x, y) : v128.load(u + (<usize>i << 4)), share);
  }
}

/** Sixteen deep points in a row take what the next coarser level found. */
function fillSixteen(to: usize, coarse: usize, cw: i32, x: i32, y: i32): void { sixteenDeep(to, coarse, cw, x, y, false, 1); }

/** A share of that is added to sixteen pixels. */
function addSixteen(pixels: usize, x: i32, y: i32, share: f64): void { sixteenDeep(pixels, field(1, 3), <i32>field(1, 0), x, y, true, share); }

/** {@link harmonic} of sixteen points in a row, two by two: one in line with the coarser level's columns, one between them.
 *  @param adds  whether a share of it is added to what is there, or it is put there */
// @ts-ignore: decorator
@inline function sixteenDeep(to: usize, coarse: usize, cw: i32, x: i32, y: i32, adds: bool, share: f64): void {
  if (x & 1) put(to, harmonic(coarse, cw, x, y), adds, share);
  const first = x & 1, pairs = first ? 7 : 8;
  to += <usize>first << 4;
  const row = <usize>cw << 4;
  let at = coarse + (<usize>((y >> 1) * cw + ((x + 1) >> 1)) << 4);
  if (y & 1)
    // What lies above and below a point, and at its corners.
    for (let k = 0, left = f32x4.add(v128.load(at), v128.load(at + row)), before = f32x4.add(v128.load(at - 16), v128.load(at + row - 16)); k < pairs; k++, at += 16, to += 32) {
      const right = f32x4.add(v128.load(at + 16), v128.load(at + row + 16));
      put(to, f32x4.add(f32x4.mul(f32x4.splat(0.375), left), f32x4.mul(f32x4.splat(0.0625), f32x4.add(before, right))), adds, share);
      put(to + 16, f32x4.mul(f32x4.splat(0.25), f32x4.add(left, right)), adds, share);
      before = left;
      left = right;
    }
  else
    for (let k = 0, left = v128.load(at), outer = f32x4.add(v128.load(at - row), v128.load(at + row)); k < pairs; k++, at += 16, to += 32) {
      const right = v128.load(at + 16), further = f32x4.add(v128.load(at - row + 16), v128.load(at + row + 16));
      put(to, left, adds, share);
      put(to + 16, f32x4.add(f32x4.mul(f32x4.splat(0.375), f32x4.add(left, right)), f32x4.mul(f32x4.splat(0.0625), f32x4.add(outer, further))), adds, share);
      left = right;
      outer = further;
    }
  if (first) put(to, harmonic(coarse, cw, x + 15, y), adds, share);
}

// @ts-ignore: decorator
@inline function put(to: usize, value: v128, adds: bool, share: f64): void {
  if (adds) plus(to, value, share);
  else v128.store(to, value);
}

// @ts-ignore: decorator
@inline function plus(pixel: usize, more: v128, share: f64): void {
  const own = v128.load(pixel), alpha = v128.shuffle<f32>(own, own, 3, 3, 3, 3);
  const sum = share == 1 ? f32x4.add(own, more) : plusShare(own, more, share);
  const within = f32x4.pmin(alpha, f32x4.pmax(f32x4.splat(0), sum));
  v128.store(pixel, v128.shuffle<f32>(within, own, 0, 1, 2, 7));
}

/** In 64 bits, so that it is the same as in plain code. */
function plusShare(own: v128, more: v128, share: f64): v128 {
  const by = f64x2.splat(share);
  const lo = f64x2.add(f64x2.promote_low_f32x4(own), f64x2.mul(by, f64x2.promote_low_f32x4(more)));
  const hi = f64x2.add(f64x2.promote_low_f32x4(v128.shuffle<f32>(own, own, 2, 3, 2, 3)), f64x2.mul(by, f64x2.promote_low_f32x4(v128.shuffle<f32>(more, more, 2, 3, 2, 3))));
  return v128.shuffle<f32>(f32x4.demote_f64x2_zero(lo), f32x4.demote_f64x2_zero(hi), 0, 1, 4, 5);
}
