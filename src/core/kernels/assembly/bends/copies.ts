// Bent copies of parts. AssemblyScript.

import { claim } from '../arena';
import { f, n, put, putF } from './memory';
import { bends } from './net';
import { bh, bw, bx, by, dxOf, dyOf, fh, fw, isSource, numberAt, parts, picture, SOURCE } from './parts';

const LOBES: i32 = 3;
const STEPS: f64 = 256;
/** Of Lanczos' window round a point, across and then down. */
const weights = memory.data(2 * 6 * 4);
const low = memory.data(32), high = memory.data(32), sums = memory.data(32);

/** i32 a pixel of a part with room round it: the part's pixel nearest to it; and two lists of such pixels. */
let nearest: usize = 0, front: usize = 0, found: usize = 0;
/** 4 f32 a pixel of the rows below the picture; u8, SOURCE where something is drawn; i32 x and y of where that was taken. */
let copies: usize = 0, roles: usize = 0, origins: usize = 0;

// @ts-ignore: decorator
@inline function round(v: f64): i32 { return <i32>Math.floor(v + 0.5); }

/** @returns where 5 i32 for each part are: the first and last column and row of its pixels in the box, and whether one of them is
 *           bent by so much; 0 when memory is short */
export function extents(leastBendPx: f64): usize {
  const out = claim(20 * parts);
  if (out == 0) return 0;
  for (let part = 0; part < parts; part++) {
    put(out, 5 * part, bw);
    put(out, 5 * part + 1, bh);
    put(out, 5 * part + 2, -1);
    put(out, 5 * part + 3, -1);
    put(out, 5 * part + 4, 0);
  }
  for (let y = 0, i = 0; y < bh; y++)
    for (let x = 0; x < bw; x++, i++) {
      const part = numberAt(i);
      if (part < 0) continue;
      const at = out + <usize>part * 20;
      put(at, 0, min(n(at, 0), x));
      put(at, 1, min(n(at, 1), y));
      put(at, 2, max(n(at, 2), x));
      put(at, 3, max(n(at, 3), y));
      if (isBent(i, leastBendPx)) put(at, 4, 1);
    }
  return out;
}

// @ts-ignore: decorator
@inline function bend(i: i32, c: i32): f64 { return <f64>load<f32>(bends + (<usize>(2 * i + c) << 2)); }
// @ts-ignore: decorator
@inline function isBent(i: i32, leastBendPx: f64): bool { return max(abs(bend(i, 0)), abs(bend(i, 1))) >= leastBendPx; }

/** Makes room for copies in so many rows as wide as the frame, nothing drawn yet.
 *  @param roomPx  what copies go on beyond their part
 *  @returns where the pixels are, 4 f32 each; 0 when memory is short */
export function makeCopies(rows: i32, roomPx: i32): usize {
  const most = (bw + 2 * roomPx) * (bh + 2 * roomPx), size = fw * rows;
  nearest = claim(most << 2); front = claim(most << 2); found = claim(most << 2);
  roles = claim(size); origins = claim(size << 3); copies = claim(size << 4);
  if (!nearest || !front || !found || !roles || !origins || !copies) return 0;
  memory.fill(roles, 0, size);
  memory.fill(origins, 0, <usize>size << 3);
  memory.fill(copies, 0, <usize>size << 4);
  return copies;
}

export function rolesAt(): usize { return roles; }
export function originsAt(): usize { return origins; }

/** Copies a part, with some room round it, bent.
 *  @param wx, wy, ww, wh  its box with the room, in the frame
 *  @param left, top       where that goes, in the rows of the copies
 *  @param table           Lanczos' window of three lobes at distances in 1/256 pixel, f32 */
export function copy(part: i32, wx: i32, wy: i32, ww: i32, wh: i32, left: i32, top: i32, roomPx: i32, leastBendPx: f64, table: usize): void {
  findNearest(part, wx, wy, ww, wh, roomPx);
  const dx = dxOf(part), dy = dyOf(part);
  for (let y = 0, i = 0; y < wh; y++)
    for (let x = 0; x < ww; x++, i++) {
      const k = n(nearest, i);
      if (k < 0) continue;
      const px = wx + x, py = wy + y;
      const isOwn = bx + (k % bw) == px && by + k / bw == py;
      const isFar = isBent(k, leastBendPx);
      let sx = <f64>(px + dx), sy = <f64>(py + dy);
      if (isFar) {
        sx += bend(k, 0);
        sy += bend(k, 1);
      }
      let ox = round(sx), oy = round(sy);
      if (ox < 0 || oy < 0 || ox >= fw || oy >= fh || !isSource(oy * fw + ox)) {
        if (!isOwn) continue;
        // A bend that leads off what may be drawn from is left out.
        ox = px + dx;
        oy = py + dy;
        sx = <f64>ox;
        sy = <f64>oy;
      }
      const q = (top + y) * fw + left + x;
      sharp(sx, sy, copies + (<usize>q << 4), table);
      store<u8>(roles + q, <u8>SOURCE);
      put(origins, 2 * q, ox);
      put(origins, 2 * q + 1, oy);
    }
}

/** The part's pixel nearest to each of a box, as far as the room goes; −1 farther off. */
function findNearest(part: i32, wx: i32, wy: i32, ww: i32, wh: i32, roomPx: i32): void {
  let count = 0;
  for (let y = 0, i = 0; y < wh; y++)
    for (let x = 0; x < ww; x++, i++) {
      const u = wx + x - bx, v = wy + y - by;
      const isOwn = u >= 0 && v >= 0 && u < bw && v < bh && numberAt(v * bw + u) == part;
      put(nearest, i, isOwn ? v * bw + u : -1);
      if (isOwn) put(front, count++, i);
    }
  for (let ring = 0; ring < roomPx; ring++) {
    let next = 0;
    for (let k = 0; k < count; k++) {
      const i = n(front, k), x = i % ww;
      if (x > 0) next = reach(i - 1, i, next);
      if (x < ww - 1) next = reach(i + 1, i, next);
      if (i >= ww) next = reach(i - ww, i, next);
      if (i < ww * wh - ww) next = reach(i + ww, i, next);
    }
    const last = front;
    front = found;
    found = last;
    count = next;
  }
}

/** @returns how many are found now */
function reach(i: i32, from: i32, count: i32): i32 {
  if (n(nearest, i) >= 0) return count;
  put(nearest, i, n(nearest, from));
  put(found, count, i);
  return count + 1;
}

/** The picture between pixels, of what may be drawn from, as core/raster/resample.ts has it. */
function sharp(x: f64, y: f64, out: usize, table: usize): void {
  const nearX = min(fw - 1, max(0, round(x))), nearY = min(fh - 1, max(0, round(y)));
  const near = picture + (<usize>(nearY * fw + nearX) << 4);
  if (abs(x - <f64>nearX) < 1e-4 && abs(y - <f64>nearY) < 1e-4) {
    v128.store(out, v128.load(near));
    return;
  }
  const x0 = <i32>Math.floor(x) - LOBES + 1, y0 = <i32>Math.floor(y) - LOBES + 1;
  for (let k = 0; k < 2 * LOBES; k++) {
    store<f32>(weights + (<usize>k << 2), load<f32>(table + (<usize>round(abs(x - <f64>x0 - <f64>k) * STEPS) << 2)));
    store<f32>(weights + 24 + (<usize>k << 2), load<f32>(table + (<usize>round(abs(y - <f64>y0 - <f64>k) * STEPS) << 2)));
  }
  let total: f64 = 0;
  for (let c = 0; c < 4; c++) {
    putF(sums, c, 0);
    putF(low, c, Infinity);
    putF(high, c, -Infinity);
  }
  for (let v = 0; v < 2 * LOBES; v++) {
    const row = min(fh - 1, max(0, y0 + v)) * fw;
    const byY = <f64>load<f32>(weights + 24 + (<usize>v << 2));
    for (let u = 0; u < 2 * LOBES; u++) {
      const p = row + min(fw - 1, max(0, x0 + u));
      if (!isSource(p)) continue;
      const weight = <f64>load<f32>(weights + (<usize>u << 2)) * byY;
      const at = picture + (<usize>p << 4);
      const isNear = u >= LOBES - 1 && u <= LOBES && v >= LOBES - 1 && v <= LOBES;
      total += weight;
      for (let c = 0; c < 4; c++) {
        const value = <f64>load<f32>(at + (<usize>c << 2));
        putF(sums, c, f(sums, c) + weight * value);
        if (!isNear) continue;
        putF(low, c, min<f64>(f(low, c), value));
        putF(high, c, max<f64>(f(high, c), value));
      }
    }
  }
  if (total < 0.2 || f(low, 3) == Infinity) {
    v128.store(out, v128.load(near));
    return;
  }
  for (let c = 0; c < 4; c++) {
    const room = (f(high, c) - f(low, c)) * 0.25;
    store<f32>(out + (<usize>c << 2), <f32>min<f64>(f(high, c) + room, max<f64>(f(low, c) - room, f(sums, c) / total)));
  }
}
