// Nearest-neighbour patches for fill, on pictures of 8 bytes a pixel (colour, texture features, padding). AssemblyScript;
// see core/methods/fill for the contract and the papers. All positions are pixel indices y·w + x.

export { claim, release } from './arena';

// @ts-ignore: decorator
@inline function wide(a: usize): v128 { return i16x8.extend_low_i8x16_u(v128.load64_zero(a)); }

let bonus: usize = 0;

/** What is taken off a source's distance, i32 a pixel; 0 takes off nothing. */
export function favour(table: usize): void { bonus = table; }

let kinds: usize = 0, layout: usize = 0, kindCount: i32 = 0, layoutRow: usize = 0;

/** What is added to a source's distance for its kind, by the target's row; 0 adds nothing.
 *  @param kind   u8 a pixel
 *  @param table  i32 for each kind, row after row of targets */
export function keepLayout(kind: usize, table: usize, count: i32): void { kinds = kind; layout = table; kindCount = count; layoutRow = 0; }

// @ts-ignore: decorator
@inline function toRowOf(p: i32, w: i32): void { if (layout) layoutRow = layout + (<usize>(p / w * kindCount) << 2); }

/** How much the colours vary within each usable patch: the sum of squares about the mean, times `share`.
 *  @param columns  16 bytes for each of w pixels: sums over the patch's rows of red, green, blue and their squares */
export function variation(img: usize, w: i32, n: i32, usable: usize, r: i32, share: f32, columns: usize, out: usize): void {
  const side = 2 * r + 1, h = n / w;
  const pixels = <f32>(side * side);
  memory.fill(columns, 0, <usize>w << 4);
  memory.fill(out, 0, <usize>n << 2);
  for (let bottom = 0; bottom < h; bottom++) {
    for (let x = 0; x < w; x++) {
      const at = columns + (<usize>x << 4);
      let sums = i32x4.add(v128.load(at), moments(img + (<usize>(bottom * w + x) << 3)));
      if (bottom >= side) sums = i32x4.sub(sums, moments(img + (<usize>((bottom - side) * w + x) << 3)));
      v128.store(at, sums);
    }
    if (bottom < side - 1) continue;
    const row = (bottom - r) * w;
    let sums = i32x4.splat(0);
    for (let right = 0; right < w; right++) {
      sums = i32x4.add(sums, v128.load(columns + (<usize>right << 4)));
      if (right >= side) sums = i32x4.sub(sums, v128.load(columns + (<usize>(right - side) << 4)));
      const q = row + right - r;
      if (right < side - 1 || !load<u8>(usable + <usize>q)) continue;
      const red = <f32>i32x4.extract_lane(sums, 0), green = <f32>i32x4.extract_lane(sums, 1), blue = <f32>i32x4.extract_lane(sums, 2);
      const v: f32 = <f32>i32x4.extract_lane(sums, 3) - (red * red + green * green + blue * blue) / pixels;
      store<i32>(out + (<usize>q << 2), <i32>(share * v));
    }
  }
}

// @ts-ignore: decorator
@inline function moments(p: usize): v128 {
  const a = <i32>load<u8>(p), b = <i32>load<u8>(p, 1), c = <i32>load<u8>(p, 2);
  return i32x4.replace_lane(i32x4.replace_lane(i32x4.replace_lane(i32x4.splat(a * a + b * b + c * c), 0, a), 1, b), 2, c);
}

/** Sum of squared differences of two patches of side 2r+1, less the source's bonus; stops early once it exceeds `limit`. */
function distance(img: usize, w: i32, p: i32, q: i32, r: i32, limit: i32): i32 {
  let a = img + (<usize>(p - r * w - r) << 3), b = img + (<usize>(q - r * w - r) << 3);
  const row = <usize>w << 3;
  const side = 2 * r + 1;
  let total: i32 = bonus ? -load<i32>(bonus + (<usize>q << 2)) : 0;
  if (layoutRow) total += load<i32>(layoutRow + (<usize>load<u8>(kinds + <usize>q) << 2));
  let sum = i32x4.splat(0);
  for (let y = 0; y < side; y++) {
    let x = 0;
    for (; x + 1 < side; x += 2) {
      const va = v128.load(a + (<usize>x << 3)), vb = v128.load(b + (<usize>x << 3));
      const lo = i16x8.sub(i16x8.extend_low_i8x16_u(va), i16x8.extend_low_i8x16_u(vb));
      const hi = i16x8.sub(i16x8.extend_high_i8x16_u(va), i16x8.extend_high_i8x16_u(vb));
      sum = i32x4.add(sum, i32x4.add(i32x4.dot_i16x8_s(lo, lo), i32x4.dot_i16x8_s(hi, hi)));
    }
    if (x < side) {
      const d = i16x8.sub(wide(a + (<usize>x << 3)), wide(b + (<usize>x << 3)));
      sum = i32x4.add(sum, i32x4.dot_i16x8_s(d, d));
    }
    a += row;
    b += row;
    // Not after every row: to ask takes as long as half a row.
    if ((y & 1) == 0) continue;
    total += i32x4.extract_lane(sum, 0) + i32x4.extract_lane(sum, 1) + i32x4.extract_lane(sum, 2) + i32x4.extract_lane(sum, 3);
    if (total >= limit) return total;
    sum = i32x4.splat(0);
  }
  return total + i32x4.extract_lane(sum, 0) + i32x4.extract_lane(sum, 1) + i32x4.extract_lane(sum, 2) + i32x4.extract_lane(sum, 3);
}

/** As core/methods/fill/frame.ts has it. */
const FAR_ACROSS: f32 = 20000;
let ruleIndex: usize = 0, homeX: usize = 0, homeY: usize = 0, across: usize = 0, ruleTable: usize = 0;

/** Directions that sources must keep to; `index` 0 lifts them.
 *  @param index  u8 a pixel: 0 = free, else the rule's number
 *  @param x, y   f32 a pixel, or 0: where its content lies
 *  @param lines  f32 a pixel, or 0: where it lies across the lines of ruled ground
 *  @param table  f32 normal x, normal y, slack and period for each rule; the period is below 0 where the rule is not of ruled ground */
export function keepRules(index: usize, x: usize, y: usize, lines: usize, table: usize): void {
  ruleIndex = index; homeX = x; homeY = y; across = lines; ruleTable = table;
}

// @ts-ignore: decorator
@inline function ruleOf(p: i32): i32 { return ruleIndex ? <i32>load<u8>(ruleIndex + <usize>p) : 0; }

function keeps(rule: i32, w: i32, p: i32, q: i32): bool {
  const t = ruleTable + <usize>(rule - 1) * 16;
  const period = load<f32>(t, 12);
  if (period >= 0) {
    let d = load<f32>(across + (<usize>q << 2)) - load<f32>(across + (<usize>p << 2));
    if (abs<f32>(d) >= FAR_ACROSS) return false;
    if (period > 0) d -= period * nearest<f32>(d / period);
    return abs<f32>(d) <= load<f32>(t, 8);
  }
  let dx: f32, dy: f32;
  if (homeX) {
    dx = load<f32>(homeX + (<usize>q << 2)) - load<f32>(homeX + (<usize>p << 2));
    dy = load<f32>(homeY + (<usize>q << 2)) - load<f32>(homeY + (<usize>p << 2));
  } else { dx = <f32>(q % w - p % w); dy = <f32>(q / w - p / w); }
  return abs<f32>(load<f32>(t) * dx + load<f32>(t, 4) * dy) <= load<f32>(t, 8);
}

/** Fills in the cost of every target's present source. */
export function score(img: usize, w: i32, targets: usize, n: i32, nnf: usize, cost: usize, r: i32): void {
  for (let k = 0; k < n; k++) {
    const p = load<i32>(targets + (<usize>k << 2));
    const q = load<i32>(nnf + (<usize>p << 2));
    toRowOf(p, w);
    store<i32>(cost + (<usize>p << 2), q < 0 ? i32.MAX_VALUE : distance(img, w, p, q, r, i32.MAX_VALUE));
  }
}

let changes: i32 = 0;
let seed: u32 = 1;
// @ts-ignore: decorator
@inline function chance(): u32 {
  seed ^= seed << 13;
  seed ^= seed >> 17;
  seed ^= seed << 5;
  return seed;
}

// @ts-ignore: decorator
@inline function attempt(img: usize, w: i32, size: i32, usable: usize, nnf: usize, cost: usize, r: i32, p: i32, q: i32): void {
  if (q < 0 || q >= size || load<u8>(usable + <usize>q) == 0) return;
  const rule = ruleOf(p);
  if (rule && !keeps(rule, w, p, q)) return;
  const at = <usize>p << 2;
  if (load<i32>(nnf + at) == q) return;
  const best = load<i32>(cost + at);
  const d = distance(img, w, p, q, r, best);
  if (d < best) {
    store<i32>(cost + at, d);
    store<i32>(nnf + at, q);
    changes++;
  }
}

/** One pass of propagation and random search over the targets, forwards or backwards.
 *  @param nnf  source of each target, −1 where the pixel is no target
 *  @returns how often a better source was found */
export function pass(img: usize, w: i32, h: i32, targets: usize, n: i32, usable: usize, nnf: usize, cost: usize, r: i32, backwards: bool, window: i32, start: u32): i32 {
  const size = w * h;
  seed = start | 1;
  changes = 0;
  const step = backwards ? 1 : -1;
  for (let k = 0; k < n; k++) {
    const p = load<i32>(targets + (<usize>(backwards ? n - 1 - k : k) << 2));
    const a = p + step, b = p + step * w;
    toRowOf(p, w);
    if (a >= 0 && a < size) {
      const s = load<i32>(nnf + (<usize>a << 2));
      if (s >= 0) attempt(img, w, size, usable, nnf, cost, r, p, s - step);
    }
    if (b >= 0 && b < size) {
      const s = load<i32>(nnf + (<usize>b << 2));
      if (s >= 0) attempt(img, w, size, usable, nnf, cost, r, p, s - step * w);
    }
    for (let reach = window; reach >= 1; reach >>= 1) {
      const s = load<i32>(nnf + (<usize>p << 2));
      if (s < 0) break;
      const sx = s % w, sy = s / w;
      let x = sx, y = sy;
      const rule = ruleOf(p);
      if (rule) {
        // Along the rule's line, with a pixel's play, and to another line of ruled ground.
        const t = ruleTable + <usize>(rule - 1) * 16;
        const period = load<f32>(t, 12);
        const along = <f32>(<i32>(chance() % <u32>(2 * reach + 1)) - reach);
        x += <i32>nearest<f32>(-load<f32>(t, 4) * along) + <i32>(chance() % 3) - 1;
        y += <i32>nearest<f32>(load<f32>(t) * along) + <i32>(chance() % 3) - 1;
        if (period > 0) {
          const lines = <f32>(<i32>(chance() % 7) - 3) * period;
          x += <i32>nearest<f32>(load<f32>(t) * lines);
          y += <i32>nearest<f32>(load<f32>(t, 4) * lines);
        }
      } else {
        x += <i32>(chance() % <u32>(2 * reach + 1)) - reach;
        y += <i32>(chance() % <u32>(2 * reach + 1)) - reach;
      }
      if (x < 0 || y < 0 || x >= w || y >= h) continue;
      attempt(img, w, size, usable, nnf, cost, r, p, y * w + x);
    }
  }
  return changes;
}

/** New colours of the hole's pixels: the weighted mean of what the patches over each of them say.
 *  @param weight  f32 for each pixel that is a target
 *  @param out     8 f32 a hole pixel, in the order of `holes` */
export function vote(img: usize, w: i32, h: i32, holes: usize, n: i32, nnf: usize, weight: usize, r: i32, out: usize): void {
  for (let k = 0; k < n; k++) {
    const q = load<i32>(holes + (<usize>k << 2));
    const qx = q % w, qy = q / w;
    let a = f32x4.splat(0), b = f32x4.splat(0);
    let total: f32 = 0;
    for (let dy = max(-r, -qy); dy <= min(r, h - 1 - qy); dy++)
      for (let dx = max(-r, -qx); dx <= min(r, w - 1 - qx); dx++) {
        const shift = dy * w + dx;
        const s = load<i32>(nnf + (<usize>(q + shift) << 2));
        if (s < 0) continue;
        const wt = load<f32>(weight + (<usize>(q + shift) << 2));
        const v = wide(img + (<usize>(s - shift) << 3));
        const m = f32x4.splat(wt);
        a = f32x4.add(a, f32x4.mul(m, f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(v))));
        b = f32x4.add(b, f32x4.mul(m, f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_u(v))));
        total += wt;
      }
    const by = f32x4.splat(total > 0 ? 1 / total : 0);
    v128.store(out + (<usize>k << 5), f32x4.mul(a, by));
    v128.store(out + (<usize>k << 5) + 16, f32x4.mul(b, by));
  }
  const half = f32x4.splat(0.5);
  for (let k = 0; k < n; k++) {
    const q = <usize>load<i32>(holes + (<usize>k << 2));
    const lo = i32x4.trunc_sat_f32x4_s(f32x4.add(v128.load(out + (<usize>k << 5)), half));
    const hi = i32x4.trunc_sat_f32x4_s(f32x4.add(v128.load(out + (<usize>k << 5) + 16), half));
    const words = i16x8.narrow_i32x4_s(lo, hi);
    v128.store64_lane(img + (q << 3), i8x16.narrow_i16x8_u(words, words), 0);
  }
}

/** The source whose patch agrees best with what is known of the patch round p. @param scratch  24 bytes for each pixel of
 *  a patch. @returns −1 when there is no source. */
export function bestByKnown(img: usize, w: i32, h: i32, known: usize, sources: usize, n: i32, p: i32, r: i32, scratch: usize): i32 {
  const px = p % w, py = p / w;
  const rule = ruleOf(p);
  toRowOf(p, w);
  // What is known: where it lies from p in bytes, and its values in 16 bits.
  const side = 2 * r + 1;
  const values = scratch + <usize>(((side * side + 1) & ~1) << 3);
  let count = 0;
  for (let dy = max(-r, -py); dy <= min(r, h - 1 - py); dy++)
    for (let dx = max(-r, -px); dx <= min(r, w - 1 - px); dx++) {
      const shift = dy * w + dx;
      if (load<u8>(known + <usize>(p + shift)) == 0) continue;
      store<i32>(scratch + (<usize>count << 2), shift << 3);
      v128.store(values + (<usize>count << 4), wide(img + (<usize>(p + shift) << 3)));
      count++;
    }
  let best = i32.MAX_VALUE, found = -1;
  for (let k = 0; k < n; k++) {
    const q = load<i32>(sources + (<usize>k << 2));
    if (rule && !keeps(rule, w, p, q)) continue;
    const at = img + (<usize>q << 3);
    let total: i32 = layoutRow ? load<i32>(layoutRow + (<usize>load<u8>(kinds + <usize>q) << 2)) / (side * side) * count : 0;
    for (let j = 0; j < count && total < best; ) {
      const end = min(count, j + CHECKED);
      let sum = i32x4.splat(0);
      for (; j < end; j++) {
        const d = i16x8.sub(v128.load(values + (<usize>j << 4)), wide(at + <usize>load<i32>(scratch + (<usize>j << 2))));
        sum = i32x4.add(sum, i32x4.dot_i16x8_s(d, d));
      }
      total += i32x4.extract_lane(sum, 0) + i32x4.extract_lane(sum, 1) + i32x4.extract_lane(sum, 2) + i32x4.extract_lane(sum, 3);
    }
    if (total < best) { best = total; found = q; }
  }
  return found;
}

/** The least distance of p's patch to those of a list, leaving out what lies within `apart` rows and columns.
 *  @returns the largest number when there is none */
export function nearestPatch(img: usize, w: i32, p: i32, list: usize, n: i32, apart: i32, r: i32): i32 {
  let least = i32.MAX_VALUE;
  for (let k = 0; k < n; k++) {
    const q = load<i32>(list + (<usize>k << 2));
    if (liesNear(p, q, w, apart)) continue;
    least = min(least, distance(img, w, p, q, r, least));
  }
  return least;
}

/** Whether so many patches of a list differ from p's by at most `limit`, leaving out what lies within `apart` rows and columns. */
export function isAmong(img: usize, w: i32, p: i32, list: usize, n: i32, apart: i32, r: i32, limit: i32, wanted: i32): bool {
  let count = 0;
  for (let k = 0; k < n && count < wanted; k++) {
    const q = load<i32>(list + (<usize>k << 2));
    if (!liesNear(p, q, w, apart) && distance(img, w, p, q, r, limit + 1) <= limit) count++;
  }
  return count >= wanted;
}

// @ts-ignore: decorator
@inline function liesNear(p: i32, q: i32, w: i32, apart: i32): bool { return apart > 0 && max(abs(q % w - p % w), abs(q / w - p / w)) <= apart; }

// After so many pixels of a patch it is asked whether the rest is worth while.
const CHECKED: i32 = 12;
