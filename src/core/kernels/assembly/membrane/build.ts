// Coarser grids from the finest, with the weights of links that the rim cuts short. AssemblyScript.

import { addLevel, claim, count, EDGE, field, FIXED, FREE, setField } from './levels';

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
    const ck = claim(n), cu = claim(n * 16), cf = claim(n * 16), cwt = claim(n * 16);
    if (!ck || !cu || !cf || !cwt) return false;
    let free = 0;
    for (let y = 0; y < ch; y++)
      for (let x = 0; x < cw; x++) {
        if (2 * x >= w || 2 * y >= h) continue;
        const k = load<u8>(kind + <usize>(2 * y * w + 2 * x));
        if ((k & 1) == 0) { store<u8>(ck + <usize>(y * cw + x), k); continue; }
        const at = cwt + <usize>(y * cw + x) * 16;
        const i = kind + <usize>(2 * y * w + 2 * x);
        if (k == FREE && load<u8>(i - 1) == FREE && load<u8>(i + 1) == FREE && load<u8>(i - w) == FREE && load<u8>(i + w) == FREE) {
          v128.store(at, f32x4.splat(1));
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
  if (l > 0) return load<f32>(field(l, 5) + <usize>(y * <i32>field(l, 0) + x) * 16 + d * 4);
  const w = <i32>field(l, 0), h = <i32>field(l, 1);
  const nx = x + (d == 0 ? -1 : d == 1 ? 1 : 0), ny = y + (d == 2 ? -1 : d == 3 ? 1 : 0);
  if (nx < 0 || ny < 0 || nx >= w || ny >= h) return 0;
  return load<u8>(field(l, 2) + <usize>(ny * w + nx)) == 0 ? 0 : 1;
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
