// Coarser grids from the finest, with the weights of links that the rim cuts short. AssemblyScript.

import { addLevel, claim, claimAsIs, count, EDGE, field, FIXED, FREE, setField } from './levels';

// Weights of a node: left, right, up, down. Negative: the link ends at a fixed zero before it reaches the next node.
// The sum of their sizes is the diagonal.
export function build(): bool {
  const w0 = <i32>field(0, 0), h0 = <i32>field(0, 1), k0 = field(0, 2);
  const wt0 = claim(16); // the finest level has weights 1 or 0 and needs none stored
  setField(0, 5, wt0);
  markEdges(k0, w0, h0);
  while (count < 30) {
    const l = count - 1;
    const w = <i32>field(l, 0), h = <i32>field(l, 1), kind = field(l, 2);
    if (w < 5 && h < 5) break;
    const cw = (w >> 1) + 1, ch = (h >> 1) + 1;
    const n = <usize>cw * ch;
    const ck = claim(n), cu = claimAsIs(n * 16), cf = claimAsIs(n * 16), cwt = claimAsIs(n * 16);
    if (!ck || !cu || !cf || !cwt) return false;
    let free = 0;
    for (let y = 0; y < ch; y++)
      for (let x = 0; x < cw; x++) {
        if (2 * x >= w || 2 * y >= h) continue;
        if (x > 0 && y > 0 && 2 * x + 32 < w && 2 * y + 1 < h) {
          const alike = sixteen(kind + <usize>(2 * y * w + 2 * x), w);
          if (alike) {
            v128.store(ck + <usize>(y * cw + x), i8x16.splat(alike));
            if (alike == FREE) free += 16;
            x += 15;
            continue;
          }
        }
        const k = load<u8>(kind + <usize>(2 * y * w + 2 * x));
        if ((k & 1) == 0) { store<u8>(ck + <usize>(y * cw + x), k); continue; }
        const at = cwt + <usize>(y * cw + x) * 16;
        const i = kind + <usize>(2 * y * w + 2 * x);
        if (k == FREE && load<u8>(i - 1) == FREE && load<u8>(i + 1) == FREE && load<u8>(i - w) == FREE && load<u8>(i + w) == FREE) {
          store<u8>(ck + <usize>(y * cw + x), FREE);
          free++;
          continue;
        }
        let plain = true;
        for (let d = 0; d < 4; d++) {
          const wgt = series(l, 2 * x, 2 * y, d);
          store<f32>(at + d * 4, wgt);
          if (wgt != 1) plain = false;
        }
        store<u8>(ck + <usize>(y * cw + x), plain ? FREE : EDGE);
        free++;
      }
    if (free == 0) break;
    setField(count, 0, cw); setField(count, 1, ch); setField(count, 2, ck); setField(count, 3, cu); setField(count, 4, cf); setField(count, 5, cwt);
    addLevel();
  }
  return true;
}

/** What sixteen coarse points are whose fine ones begin at `at`, if they are all fixed, or all free with free points beside them; else 0. */
function sixteen(at: usize, w: i32): u8 {
  const here = evenOf(at);
  if (i8x16.all_true(i8x16.eq(here, i8x16.splat(FIXED)))) return FIXED;
  const free = i8x16.splat(FREE);
  const across = v128.and(i8x16.eq(evenOf(at - 1), free), i8x16.eq(evenOf(at + 1), free));
  const down = v128.and(i8x16.eq(evenOf(at - w), free), i8x16.eq(evenOf(at + w), free));
  return i8x16.all_true(v128.and(i8x16.eq(here, free), v128.and(across, down))) ? FREE : 0;
}

/** Every other of 32 bytes. */
// @ts-ignore: decorator
@inline export function evenOf(at: usize): v128 { return v128.shuffle<u8>(v128.load(at), v128.load(at, 16), 0, 2, 4, 6, 8, 10, 12, 14, 16, 18, 20, 22, 24, 26, 28, 30); }

/** Tells free points of the finest level whose neighbours are all there from others, sixteen at a time. */
function markEdges(kind: usize, w: i32, h: i32): void {
  const one = i8x16.splat(1), edge = i8x16.splat(EDGE), none = i8x16.splat(0);
  for (let y = 0; y < h; y++) {
    const row = kind + <usize>(y * w);
    const inner = y > 0 && y < h - 1;
    let x = 1;
    if (inner)
      for (; x + 16 < w; x += 16) {
        const at = row + x;
        const here = v128.load(at);
        const missing = v128.or(
          v128.or(i8x16.eq(v128.load(at - 1), none), i8x16.eq(v128.load(at + 1), none)),
          v128.or(i8x16.eq(v128.load(at - w), none), i8x16.eq(v128.load(at + w), none)));
        const free = v128.and(here, one);
        // What is free is 1; what lacks a neighbour becomes an edge.
        v128.store(at, v128.bitselect(v128.bitselect(edge, free, missing), here, i8x16.ne(free, none)));
      }
    else x = w;
    if (!inner) { for (let k = 0; k < w; k++) if (load<u8>(row + k) & 1) store<u8>(row + k, EDGE); continue; }
    if (load<u8>(row) & 1) store<u8>(row, EDGE);
    for (; x < w; x++) {
      const at = row + x;
      if ((load<u8>(at) & 1) == 0) continue;
      const whole = x < w - 1 && load<u8>(at - 1) != 0 && load<u8>(at + 1) != 0 && load<u8>(at - w) != 0 && load<u8>(at + w) != 0;
      store<u8>(at, whole ? FREE : EDGE);
    }
  }
}

/** Weight from a free node towards its neighbour in direction d; 0 when that is away. */
export function weightOf(l: i32, x: i32, y: i32, d: i32): f32 {
  if (l > 0) {
    const i = <usize>(y * <i32>field(l, 0) + x);
    return load<u8>(field(l, 2) + i) == EDGE ? load<f32>(field(l, 5) + i * 16 + d * 4) : 1;
  }
  const w = <i32>field(l, 0), h = <i32>field(l, 1);
  const nx = x + (d == 0 ? -1 : d == 1 ? 1 : 0), ny = y + (d == 2 ? -1 : d == 3 ? 1 : 0);
  if (nx < 0 || ny < 0 || nx >= w || ny >= h) return 0;
  return load<u8>(field(l, 2) + <usize>(ny * w + nx)) == 0 ? 0 : 1;
}

/** All four weights of an edge. */
// @ts-ignore: decorator
@inline export function weightsOf(l: i32, x: i32, y: i32): v128 {
  if (l > 0) return v128.load(field(l, 5) + (<usize>(y * <i32>field(l, 0) + x) << 4));
  let weights = f32x4.splat(weightOf(0, x, y, 0));
  weights = f32x4.replace_lane(weights, 1, weightOf(0, x, y, 1));
  weights = f32x4.replace_lane(weights, 2, weightOf(0, x, y, 2));
  return f32x4.replace_lane(weights, 3, weightOf(0, x, y, 3));
}

/** What an edge's links give it: those that end at a fixed zero, or at nothing, give none, whatever lies there. */
// @ts-ignore: decorator
@inline export function linked(weights: v128, p: usize, row: usize): v128 {
  const there = f32x4.gt(weights, f32x4.splat(0));
  return f32x4.add(
    f32x4.add(
      f32x4.mul(v128.shuffle<f32>(weights, weights, 0, 0, 0, 0), v128.and(v128.shuffle<f32>(there, there, 0, 0, 0, 0), v128.load(p - 16))),
      f32x4.mul(v128.shuffle<f32>(weights, weights, 1, 1, 1, 1), v128.and(v128.shuffle<f32>(there, there, 1, 1, 1, 1), v128.load(p + 16)))),
    f32x4.add(
      f32x4.mul(v128.shuffle<f32>(weights, weights, 2, 2, 2, 2), v128.and(v128.shuffle<f32>(there, there, 2, 2, 2, 2), v128.load(p - row))),
      f32x4.mul(v128.shuffle<f32>(weights, weights, 3, 3, 3, 3), v128.and(v128.shuffle<f32>(there, there, 3, 3, 3, 3), v128.load(p + row)))));
}

/** The sum of their sizes: the diagonal. */
// @ts-ignore: decorator
@inline export function diagonalOf(weights: v128): f32 {
  const sizes = f32x4.abs(weights);
  return f32x4.extract_lane(sizes, 0) + f32x4.extract_lane(sizes, 1) + f32x4.extract_lane(sizes, 2) + f32x4.extract_lane(sizes, 3);
}

/** Two links in a row, scaled so that unit links give a unit link (Shortley & Weller's rule at irregular boundaries). */
function series(l: i32, x: i32, y: i32, d: i32): f32 {
  const a = weightOf(l, x, y, d);
  if (a <= 0) return 2 * a;
  const w = <i32>field(l, 0), kind = field(l, 2);
  const mx = x + (d == 0 ? -1 : d == 1 ? 1 : 0), my = y + (d == 2 ? -1 : d == 3 ? 1 : 0);
  if (load<u8>(kind + <usize>(my * w + mx)) == FIXED) return -2 * a;
  const b = weightOf(l, mx, my, d);
  return b == 0 ? 0 : 2 * a * b / (a + abs<f32>(b));
}
