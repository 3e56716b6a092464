// The area, divided into connected parts that are each copied by one shift, and where these end. AssemblyScript.

import { claim } from '../arena';
import { n, put } from './memory';

const CONTEXT: i32 = 1, TARGET: i32 = 3;
export const SOURCE: i32 = 2;
const JOIN: usize = 16;
/** Beyond a join lies what is known. */
export const KNOWN: i32 = -1;

/** The frame: 4 f32 a pixel, and what it is for, as core/methods/fill/frame.ts has it. */
export let picture: usize = 0, roles: usize = 0, fw: i32 = 0, fh: i32 = 0;
/** The area's box in it. */
export let bx: i32 = 0, by: i32 = 0, bw: i32 = 0, bh: i32 = 0;
/** i32 a pixel of the box: the part that it lies in, −1 outside the area. */
export let number: usize = 0;
/** i32 a part: its label; i32 dx and dy of each. */
let labelOf: usize = 0, shiftOf: usize = 0;
export let parts: i32 = 0;
/** i32 x and y in the frame, the part, and the part beyond, or KNOWN. */
export let joins: usize = 0;
export let joinCount: i32 = 0;

// @ts-ignore: decorator
@inline export function numberAt(i: i32): i32 { return n(number, i); }
// @ts-ignore: decorator
@inline export function dxOf(part: i32): i32 { return n(shiftOf, 2 * part); }
// @ts-ignore: decorator
@inline export function dyOf(part: i32): i32 { return n(shiftOf, 2 * part + 1); }
// @ts-ignore: decorator
@inline export function roleAt(p: i32): i32 { return load<u8>(roles + p); }
// @ts-ignore: decorator
@inline export function isSource(p: i32): bool { return roleAt(p) == SOURCE; }
// @ts-ignore: decorator
@inline export function isKnown(p: i32): bool { const r = roleAt(p); return r == CONTEXT || r == SOURCE; }
// @ts-ignore: decorator
@inline export function joinAt(k: i32): usize { return joins + <usize>k * JOIN; }

/** @param labels  i32 a pixel of the frame
 *  @param shifts  i32 dx and dy of each label
 *  @param numbers i32 a pixel of the box: gets the parts
 *  @param names   i32 a part, as many as the box has pixels: gets their labels
 *  @returns how many parts there are, in the order in which their first pixels come; −1 when memory is short */
export function divide(image: usize, isFor: usize, w: i32, h: i32, x: i32, y: i32, wide: i32, high: i32, labels: usize, shifts: usize, numbers: usize, names: usize): i32 {
  picture = image; roles = isFor; fw = w; fh = h;
  bx = x; by = y; bw = wide; bh = high;
  number = numbers; labelOf = names;
  parts = 0;
  const size = bw * bh;
  const stack = claim(size << 2);
  if (stack == 0) return -1;
  for (let i = 0; i < size; i++) put(number, i, -1);
  for (let first = 0; first < size; first++) {
    const p = frameAt(first);
    if (n(number, first) >= 0 || roleAt(p) != TARGET) continue;
    const own = n(labels, p);
    put(number, first, parts);
    put(stack, 0, first);
    let count = 1;
    while (count > 0) {
      const i = n(stack, --count), u = i % bw;
      if (u > 0) count = visit(i - 1, labels, own, stack, count);
      if (u < bw - 1) count = visit(i + 1, labels, own, stack, count);
      if (i >= bw) count = visit(i - bw, labels, own, stack, count);
      if (i < size - bw) count = visit(i + bw, labels, own, stack, count);
    }
    put(labelOf, parts++, own);
  }
  shiftOf = claim(parts << 3);
  if (shiftOf == 0) return -1;
  for (let part = 0; part < parts; part++) {
    put(shiftOf, 2 * part, n(shifts, 2 * n(labelOf, part)));
    put(shiftOf, 2 * part + 1, n(shifts, 2 * n(labelOf, part) + 1));
  }
  return parts;
}

// @ts-ignore: decorator
@inline function frameAt(i: i32): i32 { return (by + i / bw) * fw + bx + (i % bw); }

/** @returns how many pixels wait now */
function visit(i: i32, labels: usize, own: i32, stack: usize, count: i32): i32 {
  if (n(number, i) >= 0) return count;
  const p = frameAt(i);
  if (roleAt(p) != TARGET || n(labels, p) != own) return count;
  put(number, i, parts);
  put(stack, count, i);
  return count + 1;
}

/** Lists every other pixel that has a neighbour beyond its part, once for each of those.
 *  @returns where they are, 4 i32 each; 0 when memory is short */
export function listJoins(): usize {
  joinCount = 0;
  for (let y = 0; y < bh; y++)
    for (let x = y & 1; x < bw; x += 2) meet(x, y, false);
  joins = claim(max(1, joinCount) * <i32>JOIN);
  if (joins == 0) return 0;
  joinCount = 0;
  for (let y = 0; y < bh; y++)
    for (let x = y & 1; x < bw; x += 2) meet(x, y, true);
  return joins;
}

export function countJoins(): i32 { return joinCount; }

/** No part is beyond. */
const NONE: i32 = -2;

function meet(x: i32, y: i32, keeps: bool): void {
  const part = n(number, y * bw + x);
  if (part < 0) return;
  const left = beyond(x, y, -1, 0, part), right = beyond(x, y, 1, 0, part);
  const above = beyond(x, y, 0, -1, part), below = beyond(x, y, 0, 1, part);
  if (left != NONE) keep(x, y, part, left, keeps);
  if (right != NONE && right != left) keep(x, y, part, right, keeps);
  if (above != NONE && above != left && above != right) keep(x, y, part, above, keeps);
  if (below != NONE && below != left && below != right && below != above) keep(x, y, part, below, keeps);
}

function keep(x: i32, y: i32, part: i32, other: i32, keeps: bool): void {
  if (keeps) {
    const at = joinAt(joinCount);
    store<i32>(at, bx + x);
    store<i32>(at, by + y, 4);
    store<i32>(at, part, 8);
    store<i32>(at, other, 12);
  }
  joinCount++;
}

/** What lies beside a pixel: NONE within the part, or where nothing is known. */
function beyond(x: i32, y: i32, u: i32, v: i32, part: i32): i32 {
  const gx = bx + x + u, gy = by + y + v;
  if (gx < 0 || gy < 0 || gx >= fw || gy >= fh) return NONE;
  const isInBox = x + u >= 0 && y + v >= 0 && x + u < bw && y + v < bh;
  const there = isInBox ? n(number, (y + v) * bw + x + u) : -1;
  if (there == part) return NONE;
  if (there >= 0) return there;
  return isKnown(gy * fw + gx) ? KNOWN : NONE;
}
