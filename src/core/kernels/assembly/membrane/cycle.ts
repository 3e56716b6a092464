// V-cycles over all points: relaxation, residuals, and the way between levels. AssemblyScript.

import { diagonalOf, linked, weightsOf } from './build';
import { between, claim, cornersOf, count, crossOf, EDGE, field, firstRun, FREE, giveBack, greatest, lastRun, OWN, rowAbove, rowBelow, runFrom, runTo, top } from './levels';

/** Red points are moved by so much of what their equation asks: somewhat more than all settles a cycle's rest sooner (Yavneh 1996,
 *  doi:10.1137/0917013). Black ones are moved by all of it, so that nothing is left over there. */
const further: f32 = 1.15;

/** Relaxes the points of one colour in a row. @returns the greatest changes so far */
function relaxRow(l: i32, y: i32, colour: i32, largest: v128): v128 {
  const w = <i32>field(l, 0), kind = field(l, 2), u = field(l, 3), f = field(l, 4);
  const row = <usize>w << 4;
  const quarter = f32x4.splat(0.25), by = f32x4.splat(colour == 0 ? further : 1);
  for (let r = firstRun(l, y), runs = lastRun(l, y); r < runs; r++)
  for (let x = runFrom(l, r) + ((runFrom(l, r) + y + colour) & 1), end = runTo(l, r); x < end; x += 2) {
    const i = <usize>(y * w + x);
    const k = load<u8>(kind + i);
    if (k == FREE) {
      const p = u + (i << 4);
      let sum = crossOf(p, row);
      if (f) sum = f32x4.add(sum, v128.load(f + (i << 4)));
      const old = v128.load(p);
      const moved = f32x4.mul(by, f32x4.sub(f32x4.mul(sum, quarter), old));
      largest = f32x4.pmax(largest, f32x4.abs(moved));
      v128.store(p, f32x4.add(old, moved));
    } else if (k == OWN) {
      const p = u + (i << 4);
      const v = f32x4.add(f32x4.mul(f32x4.splat(0.2), crossOf(p, row)), f32x4.mul(f32x4.splat(0.05), cornersOf(p, row)));
      largest = f32x4.pmax(largest, f32x4.abs(f32x4.sub(v, v128.load(p))));
      v128.store(p, v);
    } else if (k == EDGE) {
      const p = u + (i << 4);
      const weights = weightsOf(l, x, y), diagonal = diagonalOf(weights);
      if (diagonal == 0) continue;
      let sum = linked(weights, p, row);
      if (f) sum = f32x4.add(sum, v128.load(f + (i << 4)));
      const v = f32x4.mul(sum, f32x4.splat(1 / diagonal));
      largest = f32x4.pmax(largest, f32x4.abs(f32x4.sub(v, v128.load(p))));
      v128.store(p, v);
    }
  }
  return largest;
}

/** One red-black sweep. The black points of a row follow as soon as the red ones round it are done: the same result as
 *  colour after colour over the whole grid, while the rows are still in the cache. */
export function sweep(l: i32): f32 {
  const h = <i32>field(l, 1);
  let largest = f32x4.splat(0);
  for (let y = 0; y <= h; y++) largest = sweepRows(l, y, largest);
  return greatest(largest);
}

/** A step of a sweep: the red points of a row, and the black ones of the row above it. @param y  0 to the number of rows */
export function sweepRows(l: i32, y: i32, largest: v128): v128 {
  if (y < <i32>field(l, 1)) largest = relaxRow(l, y, 0, largest);
  return y > 0 ? relaxRow(l, y - 1, 1, largest) : largest;
}

/** Clears what the residuals of a row are in. */
function forgetRow(l: i32, y: i32, out: usize): void {
  if (y < 0 || y >= <i32>field(l, 1)) return;
  for (let r = firstRun(l, y), runs = lastRun(l, y); r < runs; r++) {
    const from = runFrom(l, r);
    memory.fill(out + (<usize>from << 4), 0, <usize>(runTo(l, r) - from) << 4);
  }
}

/** What is left over at each point that a level works on, and 0 at others beside them; beyond the grid there is none.
 *  @param step  2: only at red points, after a sweep of the finest level, which leaves nothing at black ones */
export function residualRow(l: i32, y: i32, out: usize, step: i32 = 1): void {
  const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2), u = field(l, 3), f = field(l, 4);
  const row = <usize>w << 4;
  if (y < 0 || y >= h) return;
  const four = f32x4.splat(4);
  for (let r = firstRun(l, y), runs = lastRun(l, y); r < runs; r++)
  for (let x = runFrom(l, r) + ((runFrom(l, r) + y) & (step - 1)), end = runTo(l, r); x < end; x += step) {
    const i = <usize>(y * w + x);
    const k = load<u8>(kind + i);
    let rest = f32x4.splat(0);
    const p = u + (i << 4);
    if (k == FREE) {
      rest = f32x4.sub(crossOf(p, row), f32x4.mul(four, v128.load(p)));
      if (f) rest = f32x4.add(rest, v128.load(f + (i << 4)));
    } else if (k == OWN) {
      rest = f32x4.mul(f32x4.splat(<f32>(1 / 6.0)), f32x4.sub(f32x4.add(f32x4.mul(four, crossOf(p, row)), cornersOf(p, row)), f32x4.mul(f32x4.splat(20), v128.load(p))));
    } else if (k == EDGE) {
      const weights = weightsOf(l, x, y);
      rest = f32x4.sub(linked(weights, p, row), f32x4.mul(f32x4.splat(diagonalOf(weights)), v128.load(p)));
      if (f) rest = f32x4.add(rest, v128.load(f + (i << 4)));
    }
    v128.store(out + (<usize>x << 4), rest);
  }
}

/** A sweep that brings what it leaves over to the coarser level, row by row, as soon as the rows round it hold. @returns false when memory is short */
export function sweepAndRestrict(l: i32): bool {
  const w = <i32>field(l, 0), h = <i32>field(l, 1), ch = <i32>field(l + 1, 1);
  const keep = top;
  // Four rows of residuals, one after the other.
  const lines = claim(<usize>w << 6);
  if (!lines) return false;
  let largest = f32x4.splat(0);
  for (let y = 0, next = 0; y <= h; y++) {
    largest = sweepRows(l, y, largest);
    const held = y < h ? y - 1 : h;
    for (; next < ch && min(2 * next + 2, h) <= held; next++) restrictRow(l, next, lines);
  }
  giveBack(keep);
  return true;
}

/** @param lines  four rows of residuals: row y in line y % 4 */
function restrictRow(l: i32, y: i32, lines: usize): void {
  const step = l == 0 ? 2 : 1;
  const w = <i32>field(l, 0);
  const cw = <i32>field(l + 1, 0), ck = field(l + 1, 2), cf = field(l + 1, 4);
  const line = <usize>w << 4;
  const a = lines + line * ((2 * y + 3) & 3), b = lines + line * ((2 * y) & 3), c = lines + line * ((2 * y + 1) & 3);
  forgetRow(l, 2 * y - 4, b);
  forgetRow(l, 2 * y - 3, c);
  residualRow(l, 2 * y, b, step);
  residualRow(l, 2 * y + 1, c, step);
  const two = f32x4.splat(2), quarter = f32x4.splat(0.25);
  for (let r = firstRun(l + 1, y), runs = lastRun(l + 1, y); r < runs; r++)
  for (let x = runFrom(l + 1, r), end = runTo(l + 1, r); x < end; x++) {
    const j = <usize>(y * cw + x);
    if ((load<u8>(ck + j) & 1) == 0) continue;
    const at = <usize>(2 * x) << 4;
    let sum = f32x4.mul(two, f32x4.add(f32x4.add(v128.load(a + at), v128.load(c + at)), f32x4.mul(two, v128.load(b + at))));
    if (x > 0) sum = f32x4.add(sum, f32x4.add(f32x4.add(v128.load(a + at - 16), v128.load(c + at - 16)), f32x4.mul(two, v128.load(b + at - 16))));
    if (2 * x + 1 < w) sum = f32x4.add(sum, f32x4.add(f32x4.add(v128.load(a + at + 16), v128.load(c + at + 16)), f32x4.mul(two, v128.load(b + at + 16))));
    v128.store(cf + (j << 4), f32x4.mul(sum, quarter));
  }
}

function correct(l: i32): f32 {
  const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2), u = field(l, 3);
  const cw = <i32>field(l + 1, 0), ch = <i32>field(l + 1, 1), e = field(l + 1, 3);
  let largest = f32x4.splat(0);
  for (let y = 0; y < h; y++) {
    const above = rowAbove(e, cw, y), below = rowBelow(e, cw, ch, y);
    for (let x = 0; x < w; x++) {
      const i = <usize>(y * w + x);
      if ((load<u8>(kind + i) & 1) == 0) continue;
      const d = between(above, below, cw, x);
      const p = u + (i << 4);
      v128.store(p, f32x4.add(v128.load(p), d));
      largest = f32x4.pmax(largest, f32x4.abs(d));
    }
  }
  return greatest(largest);
}

let smoothings: i32 = 1;

/** How often a level is smoothed on the way down, and on the way up. */
export function smooth(times: i32): void { smoothings = times; }

export function cycle(l: i32): f32 {
  if (l == count - 1) {
    let change: f32 = 0;
    for (let k = 0; k < 80; k++) { change = sweep(l); if (change < 1e-8) break; }
    return change;
  }
  for (let k = 1; k < smoothings; k++) sweep(l);
  if (!sweepAndRestrict(l)) return 0;
  memory.fill(field(l + 1, 3), 0, <usize>(<i32>field(l + 1, 0) * <i32>field(l + 1, 1)) << 4);
  cycle(l + 1);
  const corrected = correct(l);
  let last: f32 = 0;
  for (let k = 0; k < smoothings; k++) last = sweep(l);
  return corrected + last;
}
