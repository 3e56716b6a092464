// Rows of pixels: from bytes to floats and back, one laid over another, and tone fitted to them. AssemblyScript; the contracts are
// in core/raster/float-image.ts, core/blend/composite.ts and core/methods/heal/tone-grid.ts. Pixels are RGBA, premultiplied as floats.
// What is kept is computed in 64 bits, so that it is the same as in plain code.

export { claim, release } from './arena';

// @ts-ignore: decorator
@inline function single(v: f64, most: f64, alpha: f64): f32 { return <f32>(v / most * alpha); }

/** 1/255 in two parts: the sum of their products with a byte, each in 32 bits, is the nearest number to the byte over 255, and sooner
 *  found than by division. */
const most255th: f32 = 1.0 / 256.0, rest255th: f32 = 1.0 / 65280.0;

export function read8(from: usize, n: i32, to: usize): void {
  const end = from + (<usize>n << 2), opaque = i32x4.splat(0xff000000);
  for (; from + 16 <= end; from += 16, to += 64) {
    const four = v128.load(from);
    if (i32x4.all_true(i32x4.eq(v128.and(four, opaque), opaque))) {
      const first = i16x8.extend_low_i8x16_u(four), last = i16x8.extend_high_i8x16_u(four);
      v128.store(to, over255(i32x4.extend_low_i16x8_u(first)));
      v128.store(to, over255(i32x4.extend_high_i16x8_u(first)), 16);
      v128.store(to, over255(i32x4.extend_low_i16x8_u(last)), 32);
      v128.store(to, over255(i32x4.extend_high_i16x8_u(last)), 48);
    } else for (let k: usize = 0; k < 4; k++) readOne(from + (k << 2), to + (k << 4));
  }
  for (; from < end; from += 4, to += 16) readOne(from, to);
}

// @ts-ignore: decorator
@inline function over255(v: v128): v128 {
  const f = f32x4.convert_i32x4_u(v);
  return f32x4.add(f32x4.mul(f, f32x4.splat(most255th)), f32x4.mul(f, f32x4.splat(rest255th)));
}

// @ts-ignore: decorator
@inline function readOne(from: usize, to: usize): void { straight(load<u8>(from), load<u8>(from, 1), load<u8>(from, 2), load<u8>(from, 3), 255, to); }

export function read16(from: usize, n: i32, to: usize): void {
  for (let end = from + (<usize>n << 3); from < end; from += 8, to += 16)
    straight(load<u16>(from), load<u16>(from, 2), load<u16>(from, 4), load<u16>(from, 6), 65535, to);
}

// @ts-ignore: decorator
@inline function straight(r: u16, g: u16, b: u16, alpha: u16, most: f64, to: usize): void {
  const a = <f64>alpha / most;
  store<f32>(to, single(r, most, a));
  store<f32>(to, single(g, most, a), 4);
  store<f32>(to, single(b, most, a), 8);
  store<f32>(to, <f32>a, 12);
}

/** Un-premultiplied, rounded and kept within what may be: four whole numbers. */
// @ts-ignore: decorator
@inline function whole(from: usize, most: f64): v128 {
  const v = v128.load(from);
  const a = <f64>f32x4.extract_lane(v, 3);
  const k = a >= 1 ? most : a > 0 ? most / a : 0;
  const half = f64x2.splat(0.5);
  const lo = f64x2.mul(f64x2.promote_low_f32x4(v), f64x2.splat(k));
  const hi = f64x2.mul(f64x2.promote_low_f32x4(v128.shuffle<f32>(v, v, 2, 3, 2, 3)), f64x2.replace_lane(f64x2.splat(k), 1, most));
  const first = i32x4.trunc_sat_f64x2_u_zero(f64x2.add(lo, half)), last = i32x4.trunc_sat_f64x2_u_zero(f64x2.add(hi, half));
  return i32x4.min_u(v128.shuffle<i32>(first, last, 0, 1, 4, 5), i32x4.splat(<i32>most));
}

export function write8(from: usize, n: i32, to: usize): void {
  const end = to + (<usize>n << 2);
  for (; to + 16 <= end; from += 64, to += 16) if (!writeFour(from, to)) for (let k: usize = 0; k < 4; k++) writeOne(from + (k << 4), to + (k << 2));
  for (; to < end; from += 16, to += 4) writeOne(from, to);
}

// @ts-ignore: decorator
@inline function writeOne(from: usize, to: usize): void {
  const v = whole(from, 255);
  const words = i16x8.narrow_i32x4_u(v, v);
  v128.store32_lane(to, i8x16.narrow_i16x8_u(words, words), 0);
}

/** Four opaque pixels in 32 bits, unless one is so near to a half that these might round it the other way. @returns whether it did */
// @ts-ignore: decorator
@inline function writeFour(from: usize, to: usize): bool {
  const a = v128.load(from), b = v128.load(from, 16), c = v128.load(from, 32), d = v128.load(from, 48);
  const alphas = v128.shuffle<f32>(v128.shuffle<f32>(a, b, 3, 7, 3, 7), v128.shuffle<f32>(c, d, 3, 7, 3, 7), 0, 1, 4, 5);
  if (!i32x4.all_true(f32x4.ge(alphas, f32x4.splat(1)))) return false;
  const most = f32x4.splat(255);
  const pa = f32x4.mul(a, most), pb = f32x4.mul(b, most), pc = f32x4.mul(c, most), pd = f32x4.mul(d, most);
  const ra = f32x4.nearest(pa), rb = f32x4.nearest(pb), rc = f32x4.nearest(pc), rd = f32x4.nearest(pd);
  const clear = v128.and(v128.and(isClear(pa, ra), isClear(pb, rb)), v128.and(isClear(pc, rc), isClear(pd, rd)));
  if (!i32x4.all_true(clear)) return false;
  const first = i16x8.narrow_i32x4_s(i32x4.trunc_sat_f32x4_s(ra), i32x4.trunc_sat_f32x4_s(rb));
  const last = i16x8.narrow_i32x4_s(i32x4.trunc_sat_f32x4_s(rc), i32x4.trunc_sat_f32x4_s(rd));
  v128.store(to, i8x16.narrow_i16x8_u(first, last));
  return true;
}

// @ts-ignore: decorator
@inline function isClear(v: v128, rounded: v128): v128 { return f32x4.lt(f32x4.abs(f32x4.sub(v, rounded)), f32x4.splat(0.4999)); }

export function write16(from: usize, n: i32, to: usize): void {
  for (let end = to + (<usize>n << 3); to < end; from += 16, to += 8) {
    const v = whole(from, 65535);
    v128.store64_lane(to, i16x8.narrow_i32x4_u(v, v), 0);
  }
}

/** Crosses a backdrop over to what is laid on it. @param coverage  f32 a pixel */
export function lay(backdrop: usize, patch: usize, coverage: usize, n: i32, opacity: f64): void {
  for (let end = coverage + (<usize>n << 2); coverage < end; coverage += 4, backdrop += 16, patch += 16) {
    const c = <f64>load<f32>(coverage) * opacity;
    if (c <= 0) continue;
    const over = v128.load(patch);
    if (c >= 1) {
      v128.store(backdrop, over);
      continue;
    }
    const under = v128.load(backdrop), share = f64x2.splat(c);
    const lo = mixed(f64x2.promote_low_f32x4(under), f64x2.promote_low_f32x4(over), share);
    const hi = mixed(f64x2.promote_low_f32x4(v128.shuffle<f32>(under, under, 2, 3, 2, 3)), f64x2.promote_low_f32x4(v128.shuffle<f32>(over, over, 2, 3, 2, 3)), share);
    v128.store(backdrop, v128.shuffle<f32>(f32x4.demote_f64x2_zero(lo), f32x4.demote_f64x2_zero(hi), 0, 1, 4, 5));
  }
}

// @ts-ignore: decorator
@inline function mixed(under: v128, over: v128, share: v128): v128 { return f64x2.add(under, f64x2.mul(f64x2.sub(over, under), share)); }

/** What coverage makes of n points: 1 where it is above 0, 2 elsewhere; sixteen at a time, so that some behind them are written too. */
export function covered(coverage: usize, n: i32, to: usize): void {
  const none = f32x4.splat(0), two = i8x16.splat(2);
  for (let end = to + <usize>n; to < end; to += 16, coverage += 64) {
    const a = i16x8.narrow_i32x4_s(f32x4.gt(v128.load(coverage), none), f32x4.gt(v128.load(coverage, 16), none));
    const b = i16x8.narrow_i32x4_s(f32x4.gt(v128.load(coverage, 32), none), f32x4.gt(v128.load(coverage, 48), none));
    v128.store(to, i8x16.add(two, i8x16.narrow_i16x8_s(a, b)));
  }
}

/** Adds a field's share to free pixels, within what colours may be.
 *  @param field  4 f32 a pixel, the fourth without meaning
 *  @param kind   u8 a pixel: 1 is free */
export function add(pixels: usize, field: usize, kind: usize, n: i32, share: f64): void {
  const by = f64x2.splat(share);
  for (let end = kind + <usize>n; kind < end; kind++, pixels += 16, field += 16) {
    if (load<u8>(kind) != 1) continue;
    const own = v128.load(pixels), more = v128.load(field);
    const lo = f64x2.add(f64x2.promote_low_f32x4(own), f64x2.mul(by, f64x2.promote_low_f32x4(more)));
    const hi = f64x2.add(f64x2.promote_low_f32x4(v128.shuffle<f32>(own, own, 2, 3, 2, 3)), f64x2.mul(by, f64x2.promote_low_f32x4(v128.shuffle<f32>(more, more, 2, 3, 2, 3))));
    const sum = v128.shuffle<f32>(f32x4.demote_f64x2_zero(lo), f32x4.demote_f64x2_zero(hi), 0, 1, 4, 5);
    const alpha = f32x4.extract_lane(own, 3);
    v128.store(pixels, f32x4.replace_lane(f32x4.pmin(f32x4.splat(alpha), f32x4.pmax(f32x4.splat(0), sum)), 3, alpha));
  }
}

/** Adds to each covered pixel of some rows what lies between four cells, within what colours may be.
 *  @param valid  u8 a pixel, or 0
 *  @param cells  4 f32 each, the fourth 0; a row of them is `wide`
 *  @param across, down  i32 a column, a row of pixels: the number of the first cell, beyond which there is another one
 *  @param right, below  f32 a column, a row of pixels: how far it is on the way to the next one
 *  @param mixed  room for a row of cells */
export function fit(source: usize, coverage: usize, valid: usize, w: i32, h: i32, cells: usize, wide: i32, across: usize, right: usize, down: usize, below: usize, tone: f32, mixed: usize): void {
  const row = <usize>wide << 4;
  for (let y: usize = 0; y < <usize>h; y++) {
    const top = cells + <usize>load<i32>(down + (y << 2)) * row;
    const v = v128.load32_splat(below + (y << 2));
    for (let c: usize = 0; c < row; c += 16) {
      const a = v128.load(top + c);
      v128.store(mixed + c, f32x4.mul(f32x4.splat(tone), f32x4.add(a, f32x4.mul(v, f32x4.sub(v128.load(top + c + row), a)))));
    }
    for (let x: usize = 0; x < <usize>w; x++, source += 16, coverage += 4) {
      if (load<f32>(coverage) <= 0 || (valid && load<u8>(valid + y * w + x) == 0)) continue;
      const at = mixed + (<usize>load<i32>(across + (x << 2)) << 4);
      const a = v128.load(at), b = v128.load(at, 16);
      const own = v128.load(source);
      const sum = f32x4.add(own, f32x4.add(a, f32x4.mul(v128.load32_splat(right + (x << 2)), f32x4.sub(b, a))));
      v128.store(source, f32x4.pmin(f32x4.splat(f32x4.extract_lane(own, 3)), f32x4.pmax(f32x4.splat(0), sum)));
    }
  }
}

/** Adds the differences of some rows' pixels to the cells of one row.
 *  @param column  i32 a column of pixels: its cell
 *  @param counts  i32 a cell: uncovered pixels so far
 *  @param covered u8 a cell: 1 where any pixel is covered
 *  @param sums    4 f32 a cell */
export function gather(source: usize, target: usize, coverage: usize, valid: usize, w: i32, h: i32, column: usize, counts: usize, covered: usize, sums: usize): void {
  let i: usize = 0;
  for (let y = 0; y < h; y++)
    for (let x: usize = 0; x < <usize>w; x++, i++) {
      if (valid && load<u8>(valid + i) == 0) continue;
      const cell = <usize>load<i32>(column + (x << 2));
      if (load<f32>(coverage + (i << 2)) > 0) {
        store<u8>(covered + cell, 1);
        continue;
      }
      store<i32>(counts + (cell << 2), load<i32>(counts + (cell << 2)) + 1);
      const sum = sums + (cell << 4);
      v128.store(sum, f32x4.add(v128.load(sum), f32x4.sub(v128.load(target + (i << 4)), v128.load(source + (i << 4)))));
    }
}

let ax: f64 = 0, ay: f64 = 0, ex: f64 = 0, ey: f64 = 0, ra: f64 = 0, rb: f64 = 0, hardness: f64 = 0, pa: f64 = 0, pb: f64 = 0;
let pressureTo: i32 = 0, goesOn: bool = false;

/** A segment of a stroke: see addStroke in core/area/brush.ts.
 *  @param to  what pressure goes to: 0 size, 1 opacity, 2 softness
 *  @param on  whether what is nearest to its beginning is covered already */
export function segment(x: f64, y: f64, byX: f64, byY: f64, radiusA: f64, radiusB: f64, hard: f64, pressureA: f64, pressureB: f64, to: i32, on: bool): void {
  ax = x; ay = y; ex = byX; ey = byY;
  ra = radiusA; rb = radiusB; hardness = hard; pa = pressureA; pb = pressureB; pressureTo = to; goesOn = on;
}

// @ts-ignore: decorator
@inline function all(v: f64): v128 { return f32x4.splat(<f32>v); }

/** How far from the path a stroke covers fully. */
// @ts-ignore: decorator
@inline function fullAt(radius: v128, outer: v128, pressed: v128, hard: v128): v128 {
  const share = pressureTo == 2 ? f32x4.mul(hard, pressed) : hard;
  return f32x4.pmin(f32x4.sub(outer, f32x4.splat(1)), f32x4.mul(radius, share));
}

/** Raises the coverage of w × h pixels, the first of which is (x0, y0), to the segment's. Four at a time, so that some behind a row
 *  are read and written as they are.
 *  @param stride  pixels from a row to the next
 *  @param rose    i32 left, top, right, bottom of what rose; made wider
 *  @returns whether any did */
export function raise(coverage: usize, stride: i32, x0: i32, y0: i32, w: i32, h: i32, rose: usize): bool {
  let left = i32.MAX_VALUE, top = i32.MAX_VALUE, right = i32.MIN_VALUE, bottom = i32.MIN_VALUE;
  const none = f32x4.splat(0), one = f32x4.splat(1), lanes = i32x4(0, 1, 2, 3), steps = f32x4(0, 1, 2, 3);
  const byX = all(ex), byY = all(ey), length2 = all(ex * ex + ey * ey);
  const isDab = ex == 0 && ey == 0, isEven = ra == rb && pa == pb;
  const hard = all(hardness);
  let radius = all(ra), outer = f32x4.add(radius, f32x4.splat(0.5)), pressed = all(pa), full = fullAt(radius, outer, pressed, hard);
  let full2 = f32x4.mul(full, f32x4.abs(full)), soft = f32x4.sub(outer, full);
  const reach = max(ra, rb) + 1;
  const first = min<f64>(ax, ax + ex), last = max<f64>(ax, ax + ex), upper = min<f64>(0, ey), lower = max<f64>(0, ey);
  for (let y = y0; y < y0 + h; y++, coverage += <usize>stride << 2) {
    const py = <f64>y + 0.5 - ay;
    // Only so much of a row can lie within reach, and ahead of where the segment goes on from.
    const apart = max<f64>(0, max<f64>(py - lower, upper - py));
    if (apart >= reach) continue;
    const half = sqrt<f64>(reach * reach - apart * apart);
    let from = first - half, to = last + half;
    if (goesOn && ex > 0) from = max(from, ax - py * ey / ex - 1);
    if (goesOn && ex < 0) to = min(to, ax - py * ey / ex + 1);
    const start = <i32>max<f64>(x0, floor(from)), end = <i32>min<f64>(x0 + w, ceil(to));
    const up = all(py * ey), down = all(py), down2 = f32x4.mul(down, down);
    let foremost = 0, foremostAt = i32.MAX_VALUE, hindmost = 0, hindmostAt = 0;
    for (let x = start, at = coverage + (<usize>(start - x0) << 2); x < end; x += 4, at += 16) {
      const old = v128.load(at);
      let open = f32x4.lt(old, one);
      if (x + 4 > end) open = v128.and(open, i32x4.gt_s(i32x4.splat(end - x), lanes));
      if (!v128.any_true(open)) continue;
      const px = f32x4.add(all(<f64>x + 0.5 - ax), steps);
      let away2: v128;
      if (isDab) away2 = f32x4.add(f32x4.mul(px, px), down2);
      else {
        const along = f32x4.add(f32x4.mul(px, byX), up);
        const ahead = f32x4.gt(along, none), beyond = f32x4.ge(along, length2);
        if (goesOn) {
          open = v128.and(open, ahead);
          if (!v128.any_true(open)) continue;
        }
        // How far along the segment each one's nearest point lies, 0…1.
        let t = v128.and(ahead, one);
        if (v128.any_true(v128.andnot(ahead, beyond))) t = v128.and(ahead, v128.bitselect(one, f32x4.div(along, length2), beyond));
        const dx = f32x4.sub(px, f32x4.mul(t, byX)), dy = f32x4.sub(down, f32x4.mul(t, byY));
        away2 = f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy));
        if (!isEven) {
          radius = f32x4.add(all(ra), f32x4.mul(all(rb - ra), t));
          outer = f32x4.add(radius, f32x4.splat(0.5));
          pressed = f32x4.add(all(pa), f32x4.mul(all(pb - pa), t));
          full = fullAt(radius, outer, pressed, hard);
          full2 = f32x4.mul(full, f32x4.abs(full));
          soft = f32x4.sub(outer, full);
        }
      }
      let v = one;
      if (v128.any_true(f32x4.gt(away2, full2))) {
        const away = f32x4.sqrt(away2);
        open = v128.and(open, f32x4.lt(away, outer));
        if (!v128.any_true(open)) continue;
        const u = f32x4.pmin(one, f32x4.div(f32x4.sub(outer, away), soft));
        v = f32x4.mul(f32x4.mul(u, u), f32x4.sub(f32x4.splat(3), f32x4.add(u, u)));
      }
      if (pressureTo == 1) v = f32x4.mul(v, pressed);
      v = v128.and(v, open);
      const which = i32x4.bitmask(f32x4.gt(v, old));
      if (which == 0) continue;
      v128.store(at, f32x4.pmax(old, v));
      if (foremost == 0) {
        foremost = which;
        foremostAt = x;
      }
      hindmost = which;
      hindmostAt = x;
    }
    if (foremost == 0) continue;
    left = min(left, foremostAt + ctz(foremost));
    right = max(right, hindmostAt + 32 - clz(hindmost));
    top = min(top, y);
    bottom = y + 1;
  }
  if (right < left) return false;
  store<i32>(rose, min(load<i32>(rose), left));
  store<i32>(rose, min(load<i32>(rose, 4), top), 4);
  store<i32>(rose, max(load<i32>(rose, 8), right), 8);
  store<i32>(rose, max(load<i32>(rose, 12), bottom), 12);
  return true;
}
