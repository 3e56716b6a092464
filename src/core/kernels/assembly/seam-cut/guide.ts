// How unlike a guide the picture is at a shift. AssemblyScript.

import { fh, fw } from './frame';
import { FORBIDDEN } from './prices';

// Sums over 7×7 windows hold 8 i32 a pixel: channels 0 to 4, squared colours, colours times the guide's, and nothing.
const SUMS: usize = 32;

// @ts-ignore: decorator
@inline function clamped(v: i32, end: i32): i32 { return min(end - 1, max(0, v)); }

/** The seven values at each pixel of a row of the picture `a` at a shift, summed over seven columns.
 *  @param y       row of the frame, within it
 *  @param values  scratch of w + 6 pixels
 *  @param out     w pixels */
function sumAcross(a: usize, guide: usize, x0: i32, y: i32, w: i32, dx: i32, dy: i32, values: usize, out: usize): void {
  const row = a + (<usize>(clamped(y + dy, fh) * fw) << 3), own = guide + (<usize>(y * fw) << 3);
  const colours = i64x2(0xffffffffffff, 0);
  for (let x = 0; x < w + 6; x++) {
    const gx = clamped(x0 + x - 3, fw);
    const v = i16x8.extend_low_i8x16_u(v128.load64_zero(row + (<usize>clamped(gx + dx, fw) << 3)));
    const g = i16x8.extend_low_i8x16_u(v128.load64_zero(own + (<usize>gx << 3)));
    const rgb = v128.and(v, colours);
    const squares = i32x4.dot_i16x8_s(rgb, rgb), products = i32x4.dot_i16x8_s(rgb, g);
    const to = values + <usize>x * SUMS;
    v128.store(to, i32x4.extend_low_i16x8_u(v));
    store<i32>(to, i16x8.extract_lane_u(v, 4), 16);
    store<i32>(to, i32x4.extract_lane(squares, 0) + i32x4.extract_lane(squares, 1), 20);
    store<i32>(to, i32x4.extract_lane(products, 0) + i32x4.extract_lane(products, 1), 24);
    store<i32>(to, 0, 28);
  }
  let lo = i32x4.splat(0), hi = i32x4.splat(0);
  for (let x = 0; x < w + 6; x++) {
    const from = values + <usize>x * SUMS;
    lo = i32x4.add(lo, v128.load(from));
    hi = i32x4.add(hi, v128.load(from, 16));
    if (x < 6) continue;
    const to = out + <usize>(x - 6) * SUMS;
    v128.store(to, lo);
    v128.store(to, hi, 16);
    lo = i32x4.sub(lo, v128.load(from - 6 * SUMS));
    hi = i32x4.sub(hi, v128.load(from - 6 * SUMS, 16));
  }
}

/** Bytes of scratch that {@link sumGuide} and {@link addGuideCost} work in, for a box so wide. */
export function guideScratch(w: i32): i32 { return 9 * (w + 6) * <i32>SUMS; }

// Goes on to row y of a box, counted from three above it: from y = 6 on, the sums over the windows of row y − 6 are returned.
// Scratch holds the last seven rows, the columns' sums and a row of values.
function advance(a: usize, guide: usize, x0: i32, y0: i32, y: i32, w: i32, dx: i32, dy: i32, scratch: usize): usize {
  const row = <usize>(w + 6) * SUMS;
  const sums = scratch + 7 * row, own = scratch + <usize>(y % 7) * row;
  const bytes = <usize>w * SUMS;
  if (y == 0) memory.fill(sums, 0, bytes);
  if (y > 6) for (let k: usize = 0; k < bytes; k += 16) v128.store(sums + k, i32x4.sub(v128.load(sums + k), v128.load(own + k)));
  sumAcross(a, guide, x0, clamped(y0 + y - 3, fh), w, dx, dy, sums + row, own);
  for (let k: usize = 0; k < bytes; k += 16) v128.store(sums + k, i32x4.add(v128.load(sums + k), v128.load(own + k)));
  return sums;
}

/** Sums of the guide over the 7×7 windows of a box, for {@link addGuideCost}. `out` holds 8 i32 a node. */
export function sumGuide(guide: usize, x0: i32, y0: i32, w: i32, h: i32, scratch: usize, out: usize): void {
  for (let y = 0; y < h + 6; y++) {
    const sums = advance(guide, guide, x0, y0, y, w, 0, 0, scratch);
    if (y >= 6) memory.copy(out + <usize>((y - 6) * w) * SUMS, sums, <usize>w * SUMS);
  }
}

/** How unlike the guide the picture is at one label's shift, over 7×7 windows: means of colour and texture compared as
 *  they are, the pattern by correlation, so that a guide blurred by votes does not speak for soft sources. Outside the hole the guide
 *  is the picture; what the hole hides is not looked at.
 *  Adds `share` of the root to `out` (i32 a node). `sums` is what {@link sumGuide} gave. */
export function addGuideCost(guide: usize, sums: usize, x0: i32, y0: i32, w: i32, h: i32, dx: i32, dy: i32, out: usize, scratch: usize, featureWeight: f32, share: f32): void {
  const by: f32 = 1.0 / 49.0;
  for (let row = 0; row < h + 6; row++) {
    let there = advance(guide, guide, x0, y0, row, w, dx, dy, scratch);
    if (row < 6) continue;
    let here = sums + <usize>((row - 6) * w) * SUMS, to = out + (<usize>((row - 6) * w) << 2);
    for (let x = 0; x < w; x++, there += SUMS, here += SUMS, to += 4) {
      if (load<i32>(to) >= FORBIDDEN) continue;
      let means: f32 = 0, ga: f32 = 0, sa: f32 = 0, gs: f32 = 0;
      for (let c: usize = 0; c < 12; c += 4) {
        const g = <f32>load<i32>(here + c) * by, s = <f32>load<i32>(there + c) * by;
        means += (g - s) * (g - s);
        ga += g * g; sa += s * s; gs += g * s;
      }
      let features: f32 = 0;
      for (let c: usize = 12; c < 20; c += 4) {
        const d = <f32>(load<i32>(here + c) - load<i32>(there + c)) * by;
        features += d * d;
      }
      const vg = max<f32>(0, <f32>load<i32>(here, 20) * by - ga), vs = max<f32>(0, <f32>load<i32>(there, 20) * by - sa);
      const cov = <f32>load<i32>(there, 24) * by - gs;
      const like = cov / (sqrt<f32>(vg * vs) + <f32>4.0);
      const pattern: f32 = vg * <f32>2.0 * (<f32>1.0 - max<f32>(-1, min<f32>(1, like)));
      store<i32>(to, load<i32>(to) + <i32>(share * sqrt<f32>(means + pattern + featureWeight * features)));
    }
  }
}
