// Joins at which two sides that went together no longer do so when they are bent. AssemblyScript.

import { claim } from '../arena';
import { f, n, put } from './memory';
import { bends } from './net';
import { bw, bh, bx, by, dxOf, dyOf, fh, fw, isKnown, joinAt, joinCount, KNOWN, numberAt, picture } from './parts';

/** i32 a square: its first stretch, −1; i32 a stretch: the next one in its square, its part, what is beyond. */
let first: usize = 0, next: usize = 0, partOf: usize = 0, otherOf: usize = 0, stretches: i32 = 0;
/** f64 a stretch: how unlike its sides were, how much more they are, and in how many places. */
let before: usize = 0, more: usize = 0, places: usize = 0;
/** i32 a join: its stretch; and the list of those that are worse. */
let stretchOf: usize = 0, worse: usize = 0;

// @ts-ignore: decorator
@inline function add(at: usize, i: i32, v: f64): void { store<f64>(at + (<usize>i << 3), f(at, i) + v); }

/** The pixel there, −1 when it is not known. */
function knownAt(x: i32, y: i32): i32 {
  if (x < 0 || y < 0 || x >= fw || y >= fh) return -1;
  return isKnown(y * fw + x) ? y * fw + x : -1;
}

/** The mean squared difference of two pixels in squared 8-bit steps; NaN when one of them is not known. */
function unlike(p: i32, q: i32): f64 {
  if (p < 0 || q < 0) return NaN;
  const a = picture + (<usize>p << 4), b = picture + (<usize>q << 4);
  let sum: f64 = 0;
  for (let c: usize = 0; c < 12; c += 4) {
    const d = 255 * (<f64>load<f32>(a + c) - <f64>load<f32>(b + c));
    sum += d * d;
  }
  return sum / 3;
}

/** A pixel's bend in whole pixels. @param c  0 across, 1 down */
function bendAt(x: i32, y: i32, c: i32): i32 {
  return <i32>Math.floor(<f64>load<f32>(bends + (<usize>(2 * ((y - by) * bw + x - bx) + c) << 2)) + 0.5);
}

/** Makes room; joins of the same two parts are judged together within squares. @returns false when memory is short */
export function makeStretches(stretchPx: i32): bool {
  const columns = fw / stretchPx + 1, squares = columns * (fh / stretchPx + 1), most = max(1, joinCount);
  first = claim(squares << 2);
  next = claim(most << 2); partOf = claim(most << 2); otherOf = claim(most << 2);
  before = claim(most << 3); more = claim(most << 3); places = claim(most << 3);
  stretchOf = claim(most << 2); worse = claim(most << 2);
  if (!first || !next || !partOf || !otherOf || !before || !more || !places || !stretchOf || !worse) return false;
  for (let i = 0; i < squares; i++) put(first, i, -1);
  stretches = 0;
  for (let k = 0; k < joinCount; k++) {
    const at = joinAt(k), part = load<i32>(at, 8), other = load<i32>(at, 12);
    const square = (load<i32>(at, 4) / stretchPx) * columns + load<i32>(at) / stretchPx;
    let stretch = n(first, square);
    while (stretch >= 0 && (n(partOf, stretch) != part || n(otherOf, stretch) != other)) stretch = n(next, stretch);
    if (stretch < 0) {
      stretch = stretches++;
      put(next, stretch, n(first, square));
      put(first, square, stretch);
      put(partOf, stretch, part);
      put(otherOf, stretch, other);
    }
    put(stretchOf, k, stretch);
  }
  return true;
}

/** @param together, mostMore  squared 8-bit steps a pixel: what went together, and what may be added
 *  @returns where the numbers of such joins are, i32; how many are at {@link countWorse} */
export function listWorse(together: f64, mostMore: f64): usize {
  const bytes = <usize>stretches << 3;
  memory.fill(before, 0, bytes);
  memory.fill(more, 0, bytes);
  memory.fill(places, 0, bytes);
  for (let k = 0; k < joinCount; k++) {
    const at = joinAt(k), x = load<i32>(at), y = load<i32>(at, 4), stretch = n(stretchOf, k);
    compare(x, y, x - 1, y, load<i32>(at, 8), load<i32>(at, 12), stretch);
    compare(x, y, x + 1, y, load<i32>(at, 8), load<i32>(at, 12), stretch);
    compare(x, y, x, y - 1, load<i32>(at, 8), load<i32>(at, 12), stretch);
    compare(x, y, x, y + 1, load<i32>(at, 8), load<i32>(at, 12), stretch);
  }
  worseCount = 0;
  for (let k = 0; k < joinCount; k++) {
    const s = n(stretchOf, k);
    if (f(before, s) <= together * f(places, s) && f(more, s) > mostMore * f(places, s)) put(worse, worseCount++, k);
  }
  return worse;
}

let worseCount: i32 = 0;
export function countWorse(): i32 { return worseCount; }

/** At the first pixel beyond a join: what is there, and what the part would bring there. */
function compare(x: i32, y: i32, qx: i32, qy: i32, part: i32, other: i32, stretch: i32): void {
  const u = qx - bx, v = qy - by;
  if ((u < 0 || v < 0 || u >= bw || v >= bh ? -1 : numberAt(v * bw + u)) != other) return;
  const mx = qx + dxOf(part), my = qy + dyOf(part);
  let tx = qx, ty = qy, bentX = 0, bentY = 0;
  if (other != KNOWN) {
    tx += dxOf(other);
    ty += dyOf(other);
    bentX = bendAt(qx, qy, 0);
    bentY = bendAt(qx, qy, 1);
  }
  const was = unlike(knownAt(mx, my), knownAt(tx, ty));
  const is = unlike(knownAt(mx + bendAt(x, y, 0), my + bendAt(x, y, 1)), knownAt(tx + bentX, ty + bentY));
  if (isNaN(was + is)) return;
  add(before, stretch, was);
  add(more, stretch, is - was);
  add(places, stretch, 1);
}
