// What pixels next to a join have in common with those beyond it. Pictures and fields: 4 f32 a pixel. AssemblyScript; see
// core/methods/fill/finish/follow-grain.ts for the contract.

export { claim, release } from './arena';

const CONTEXT: u8 = 1, SOURCE: u8 = 2, TARGET: u8 = 3;
/** The pixels up to two steps from one. */
const NEIGHBOURS: i32 = 12;

// The frame.
let data: usize = 0, roles: usize = 0, w: i32 = 0, h: i32 = 0;
// A box in it, with all that is to be filled and two pixels round it: what follows is of this.
let left: i32 = 0, top: i32 = 0, bw: i32 = 0, bh: i32 = 0;
let label: usize = 0, field: usize = 0, carried: usize = 0;
/** u8: what is known or done; where `carried` is known for the piece in hand; what had its turn. */
let finished: usize = 0, reached: usize = 0, queued: usize = 0;

// @ts-ignore: decorator
@inline function f(at: usize, i: i32): f64 { return <f64>load<f32>(at + (<usize>i << 2)); }
// @ts-ignore: decorator
@inline function put(at: usize, i: i32, v: f64): void { store<f32>(at + (<usize>i << 2), <f32>v); }
// @ts-ignore: decorator
@inline function d(at: usize, i: i32): f64 { return load<f64>(at + (<usize>i << 3)); }
// @ts-ignore: decorator
@inline function n(at: usize, i: i32): i32 { return load<i32>(at + (<usize>i << 2)); }
// @ts-ignore: decorator
@inline function isSet(at: usize, i: i32): bool { return load<u8>(at + <usize>i) != 0; }
// @ts-ignore: decorator
@inline function isKnown(p: i32): bool { const role = load<u8>(roles + <usize>p); return role == CONTEXT || role == SOURCE; }

export function frame(picture: usize, itsRoles: usize, width: i32, height: i32): void {
  data = picture; roles = itsRoles; w = width; h = height;
}

/** Brightness of sources, four times as large, in a box of the frame; NaN elsewhere. @param out  f32 */
export function brightness(x0: i32, y0: i32, width: i32, height: i32, out: usize): void {
  for (let y = 0, k = 0; y < height; y++)
    for (let x = 0; x < width; x++, k++) {
      const p = (y0 + y) * w + x0 + x, i = 4 * p;
      put(out, k, load<u8>(roles + <usize>p) == SOURCE ? f(data, i) + 2 * f(data, i + 1) + f(data, i + 2) : NaN);
    }
}

/** The median of the steps between pixels so far apart, across and down, in bins of 4 / bins; every so many pixels.
 *  @param counts  room of u32 for each bin */
export function medianStep(luma: usize, width: i32, height: i32, lag: i32, every: i32, bins: i32, counts: usize): i32 {
  memory.fill(counts, 0, <usize>bins << 2);
  let total = 0;
  for (let y = 0; y < height - lag; y += every)
    for (let x = 0; x < width - lag; x += every) {
      const i = y * width + x;
      for (let way = 0; way < 2; way++) {
        const step = f(luma, i + (way == 0 ? lag : lag * width)) - f(luma, i);
        if (isNaN(step)) continue;
        const bin = counts + (<usize>min(bins - 1, <i32>floor(abs(step) * <f64>(bins >> 2) + 0.5)) << 2);
        store<u32>(bin, load<u32>(bin) + 1);
        total++;
      }
    }
  let median = 0;
  for (let below = n(counts, 0); 2 * below < total; below += n(counts, median)) median++;
  return median;
}

/** @param itsLabel  i32 a pixel of the box
 *  @param its        field of the box
 *  @param room       a field, and three u8 a pixel */
export function box(x: i32, y: i32, width: i32, height: i32, itsLabel: usize, its: usize, room: usize): void {
  left = x; top = y; bw = width; bh = height;
  label = itsLabel; field = its; carried = room;
  const count = <usize>(bw * bh);
  finished = room + (count << 4);
  reached = finished + count;
  queued = reached + count;
  memory.fill(finished, 0, 3 * count);
}

/** Sorts the pixels that are to be filled by their labels.
 *  @param starts   labels + 1 i32: where the pixels of each begin; @param members  i32, pixels of the box */
export function sort(labels: i32, starts: usize, members: usize): void {
  memory.fill(starts, 0, <usize>(labels + 1) << 2);
  for (let pass = 0; pass < 2; pass++) {
    for (let y = 0, k = 0; y < bh; y++)
      for (let x = 0; x < bw; x++, k++) {
        const p = (top + y) * w + left + x;
        if (isKnown(p)) store<u8>(finished + <usize>k, 1);
        if (load<u8>(roles + <usize>p) != TARGET) continue;
        const at = starts + (<usize>n(label, k) << 2);
        // First they are counted; then each start moves to where its label ends, which is where the next begins.
        if (pass == 1) store<i32>(members + (<usize>load<i32>(at) << 2), k);
        store<i32>(at, load<i32>(at) + 1);
      }
    if (pass == 1) break;
    for (let own = 0, before = 0; own <= labels; own++) {
      const count = n(starts, own);
      store<i32>(starts + (<usize>own << 2), before);
      before += count;
    }
  }
  for (let own = labels; own > 0; own--) store<i32>(starts + (<usize>own << 2), n(starts, own - 1));
  store<i32>(starts, 0);
}

let weights: usize = 0, known: usize = 0, between: usize = 0, toPixel: usize = 0, matrix: usize = 0;

/** @param covariances  12 × 12 f64 between the neighbours, and 12 with their pixel
 *  @param room          12 · 13 f64; 12 f32 for each of 2¹² patterns of neighbours, and u8 */
export function weigh(covariances: usize, room: usize): void {
  between = covariances;
  toPixel = between + <usize>(NEIGHBOURS * NEIGHBOURS * 8);
  matrix = room;
  weights = matrix + <usize>(NEIGHBOURS * (NEIGHBOURS + 1) * 8);
  known = weights + <usize>((NEIGHBOURS << NEIGHBOURS) * 4);
  memory.fill(known, 0, <usize>1 << NEIGHBOURS);
}

/** Where the neighbours are, row by row. */
// @ts-ignore: decorator
@inline function across(k: i32): i32 { return k == 0 || k == 11 ? 0 : k < 4 ? k - 2 : k < 6 ? k - 6 : k < 8 ? k - 5 : k - 9; }
// @ts-ignore: decorator
@inline function down(k: i32): i32 { return k == 0 ? -2 : k < 4 ? -1 : k < 8 ? 0 : k < 11 ? 1 : 2; }

/** Weights of neighbours for their pixel, by which of them say something. */
function weightsOf(pattern: i32): usize {
  const out = weights + (<usize>(pattern * NEIGHBOURS) << 2);
  if (isSet(known, pattern)) return out;
  store<u8>(known + <usize>pattern, 1);
  memory.fill(out, 0, NEIGHBOURS << 2);
  const count = popcnt(pattern), side = count + 1;
  for (let a = 0, left = pattern; a < count; a++, left &= left - 1) {
    const i = ctz(left);
    for (let b = 0, right = pattern; b < count; b++, right &= right - 1) store<f64>(matrix + (<usize>(a * side + b) << 3), d(between, i * NEIGHBOURS + ctz(right)));
    store<f64>(matrix + (<usize>(a * side + count) << 3), d(toPixel, i));
  }
  solve(count);
  for (let a = 0, left = pattern; a < count; a++, left &= left - 1) put(out, ctz(left), d(matrix, a * side + count));
  return out;
}

// @ts-ignore: decorator
@inline function less(i: i32, v: f64): void { store<f64>(matrix + (<usize>i << 3), d(matrix, i) - v); }

/** Gaussian elimination with pivots of rows of n + 1 numbers, the last of which becomes the solution. */
function solve(count: i32): void {
  const side = count + 1;
  for (let k = 0; k < count; k++) {
    let pivot = k;
    for (let r = k + 1; r < count; r++) if (abs(d(matrix, r * side + k)) > abs(d(matrix, pivot * side + k))) pivot = r;
    if (pivot != k)
      for (let j = k; j <= count; j++) {
        const v = d(matrix, k * side + j);
        store<f64>(matrix + (<usize>(k * side + j) << 3), d(matrix, pivot * side + j));
        store<f64>(matrix + (<usize>(pivot * side + j) << 3), v);
      }
    for (let r = k + 1; r < count; r++) {
      const by = d(matrix, r * side + k) / d(matrix, k * side + k);
      for (let j = k; j <= count; j++) less(r * side + j, by * d(matrix, k * side + j));
    }
  }
  for (let k = count - 1; k >= 0; k--) {
    for (let j = k + 1; j < count; j++) less(k * side + count, d(matrix, k * side + j) * d(matrix, j * side + count));
    const at = matrix + (<usize>(k * side + count) << 3);
    store<f64>(at, load<f64>(at) / d(matrix, k * side + k));
  }
}

let most: f64 = 0;

// @ts-ignore: decorator
@inline function clipped(v: f64): f64 { return min<f64>(most, max<f64>(-most, v)); }

function touchesFinished(x: i32, y: i32): bool {
  const k = y * bw + x;
  return (x > 0 && isSet(finished, k - 1)) || (x < bw - 1 && isSet(finished, k + 1)) || (y > 0 && isSet(finished, k - bw)) || (y < bh - 1 && isSet(finished, k + bw));
}

/** Carries into the pixels of a label, up to so many steps from what is finished, what lies there less what the piece would have there.
 *  @param shifts  2 i32 a label
 *  @param limit   larger differences are cut to this
 *  @param rings   room of i32 for each of its pixels */
export function follow(own: i32, starts: usize, members: usize, shifts: usize, limit: f64, mostRings: i32, rings: usize): void {
  most = limit;
  const dx = n(shifts, 2 * own), dy = n(shifts, 2 * own + 1), shift = dy * w + dx;
  const first = n(starts, own), end = n(starts, own + 1);
  let count = 0;
  for (let m = first; m < end; m++) {
    const k = n(members, m);
    if (!touchesFinished(k % bw, k / bw)) continue;
    store<i32>(rings + (<usize>count << 2), k);
    count++;
  }
  for (let m = 0; m < count; m++) store<u8>(queued + <usize>n(rings, m), 1);
  let from = 0;
  for (let ring = 0; ring < mostRings && from < count; ring++) {
    const to = count;
    for (let m = from; m < to; m++) carry(n(rings, m), dx, dy, shift, shifts);
    for (let m = from; m < to; m++) store<u8>(reached + <usize>n(rings, m), 1);
    if (ring + 1 == mostRings) break;
    for (let m = from; m < to; m++) {
      const k = n(rings, m), x = k % bw, y = k / bw;
      if (x > 0) count = queue(k - 1, own, rings, count);
      if (x < bw - 1) count = queue(k + 1, own, rings, count);
      if (y > 0) count = queue(k - bw, own, rings, count);
      if (y < bh - 1) count = queue(k + bw, own, rings, count);
    }
    from = to;
  }
  for (let m = 0; m < count; m++) {
    const k = n(rings, m);
    for (let c = 4 * k; c < 4 * k + 3; c++) put(field, c, f(field, c) + f(carried, c));
    store<u8>(reached + <usize>k, 0);
  }
  for (let m = first; m < end; m++) store<u8>(finished + <usize>n(members, m), 1);
}

function queue(k: i32, own: i32, rings: usize, count: i32): i32 {
  if (n(label, k) != own || isSet(queued, k)) return count;
  store<u8>(queued + <usize>k, 1);
  store<i32>(rings + (<usize>count << 2), k);
  return count + 1;
}

function carry(k: i32, dx: i32, dy: i32, shift: i32, shifts: usize): void {
  const x = left + (k % bw), y = top + k / bw;
  // Which of its neighbours say something: reached ones, and finished ones that the piece goes on to.
  let pattern = 0;
  for (let i = 0; i < NEIGHBOURS; i++) {
    const nx = x + across(i), ny = y + down(i);
    if (nx < 0 || ny < 0 || nx >= w || ny >= h) continue;
    const q = (ny - top) * bw + nx - left;
    if (isSet(reached, q)) pattern |= 1 << i;
    else if (isSet(finished, q)) {
      const sx = nx + dx, sy = ny + dy;
      if (sx >= 0 && sy >= 0 && sx < w && sy < h && isKnown(ny * w + nx + shift)) pattern |= 1 << i;
    }
  }
  const its = weightsOf(pattern);
  const own = 4 * k;
  let red: f64 = 0, green: f64 = 0, blue: f64 = 0;
  for (let rest = pattern; rest != 0; rest &= rest - 1) {
    const i = ctz(rest);
    const q = k + down(i) * bw + across(i), at = 4 * q;
    const weight = f(its, i);
    if (isSet(reached, q)) {
      red += weight * f(carried, at);
      green += weight * f(carried, at + 1);
      blue += weight * f(carried, at + 2);
      continue;
    }
    // What is there, corrected, less what the piece would have there, corrected as at its own pixel.
    const p = (y + down(i)) * w + x + across(i);
    const there = 4 * (isKnown(p) ? p : p + n(shifts, 2 * n(label, q) + 1) * w + n(shifts, 2 * n(label, q)));
    const continued = 4 * (p + shift);
    red += weight * clipped(f(data, there) + f(field, at) - f(data, continued) - f(field, own));
    green += weight * clipped(f(data, there + 1) + f(field, at + 1) - f(data, continued + 1) - f(field, own + 1));
    blue += weight * clipped(f(data, there + 2) + f(field, at + 2) - f(data, continued + 2) - f(field, own + 2));
  }
  put(carried, own, red);
  put(carried, own + 1, green);
  put(carried, own + 2, blue);
}
