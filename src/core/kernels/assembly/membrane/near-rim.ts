// Cycles whose finer levels work near the rim only. AssemblyScript.

import { diagonalOf, linked, weightsOf } from './build';
import { restrict, sweep } from './cycle';
import { between, claim, claimAsIs, cornersOf, count, crossOf, DEEP, EDGE, field, firstRun, FIXED, FREE, giveBack, greatest, lastRun, OWN, rowAbove, rowBelow, runFrom, runTo, setField, SHORE, top } from './levels';

/** Marks what lies deep on every level that has a coarser one, and starts all others with the rim's mean. @returns 1 when there is any on the finest, −1 when memory is short */
export function deepen(): i32 {
  let any = 0;
  let start = f32x4.splat(0);
  for (let l = 0; l < count - 1; l++) {
    const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2);
    const keep = top;
    const n = <usize>w * h;
    const near = nearRim(kind, w, h);
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

/** Makes room for how far a level's points move, and clears it and the values beside them: what is not worked on is 0, and stays. */
function clearBeside(l: i32): bool {
  const w = <i32>field(l, 0), h = <i32>field(l, 1), u = field(l, 3);
  const before = claimAsIs(<usize>(w * h) << 4);
  if (!before) return false;
  setField(l, 6, before);
  for (let y = 0; y < h; y++)
    for (let r = firstRun(l, y), runs = lastRun(l, y); r < runs; r++) {
      const from = max(0, runFrom(l, r) - 1), n = <usize>(min(w, runTo(l, r) + 1) - from) << 4;
      for (let row = max(0, y - 1), end = min(h, y + 2); row < end; row++) {
        const i = <usize>(row * w + from) << 4;
        memory.fill(before + i, 0, n);
        memory.fill(u + i, 0, n);
      }
    }
  return true;
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
  // Steps of 1, 1, 2 and 2 reach six.
  for (let way = 0; way < 2; way++) {
    const stride: usize = way ? w : 1;
    for (let k = 0; k < 4; k++) {
      const step = stride * (k == 0 ? 1 : k == 1 ? 1 : k == 2 ? 2 : 2);
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
  for (let y = 0; y < h; y++) {
    const above = rowAbove(before, cw, y), below = rowBelow(before, cw, ch, y);
    for (let r = firstRun(l, y), runs = lastRun(l, y); r < runs; r++)
    for (let x = runFrom(l, r), end = runTo(l, r); x < end; x++) {
      const i = <usize>(y * w + x);
      const k = load<u8>(kind + i);
      const p = u + (i << 4);
      if (k < DEEP) { if (k & 1) v128.store(p, f32x4.add(v128.load(p), between(above, below, cw, x))); }
      else v128.store(p, harmonic(cu, cw, x, y));
    }
  }
  change = max(greatest(largest), change);
  return change + sweep(l);
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
        if (x + 16 <= w && !v128.any_true(i8x16.ge_u(v128.load(row + x), deep))) { x += 15; continue; }
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

/** The same for sixteen deep points in a row, two by two: one in line with the coarser level's columns, one between them. */
function addSixteen(pixels: usize, x: i32, y: i32, share: f64): void {
  const cw = <i32>field(1, 0), cu = field(1, 3);
  if (x & 1) plus(pixels, harmonic(cu, cw, x, y), share);
  const first = x & 1, pairs = first ? 7 : 8;
  pixels += <usize>first << 4;
  const row = <usize>cw << 4;
  let at = cu + (<usize>((y >> 1) * cw + ((x + 1) >> 1)) << 4);
  if (y & 1)
    // What lies above and below a point, and at its corners.
    for (let k = 0, left = f32x4.add(v128.load(at), v128.load(at + row)), before = f32x4.add(v128.load(at - 16), v128.load(at + row - 16)); k < pairs; k++, at += 16, pixels += 32) {
      const right = f32x4.add(v128.load(at + 16), v128.load(at + row + 16));
      plus(pixels, f32x4.add(f32x4.mul(f32x4.splat(0.375), left), f32x4.mul(f32x4.splat(0.0625), f32x4.add(before, right))), share);
      plus(pixels + 16, f32x4.mul(f32x4.splat(0.25), f32x4.add(left, right)), share);
      before = left;
      left = right;
    }
  else
    for (let k = 0, left = v128.load(at), outer = f32x4.add(v128.load(at - row), v128.load(at + row)); k < pairs; k++, at += 16, pixels += 32) {
      const right = v128.load(at + 16), further = f32x4.add(v128.load(at - row + 16), v128.load(at + row + 16));
      plus(pixels, left, share);
      plus(pixels + 16, f32x4.add(f32x4.mul(f32x4.splat(0.375), f32x4.add(left, right)), f32x4.mul(f32x4.splat(0.0625), f32x4.add(outer, further))), share);
      left = right;
      outer = further;
    }
  if (first) plus(pixels, harmonic(cu, cw, x + 15, y), share);
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
