// Levels of the picture that fill works on: colours, texture features, halving. AssemblyScript; see core/methods/fill/frame.ts
// for the contract. Pictures go through row by row, so that memory grows with their width alone.

import { claim } from './arena';

export { claim, release } from './arena';

let w: i32 = 0, h: i32 = 0, r: i32 = 0, ring: i32 = 0;
let input: usize = 0, roles: usize = 0, colours: usize = 0, luma: usize = 0, content: usize = 0, holes: usize = 0, sources: usize = 0, rows: usize = 0, sums: usize = 0;
let gain: f64 = 0;

// What is summed: how often a step is known, its size across, its size down.
const VALUES: i32 = 3;

/** Begins a picture. @returns false when memory is short */
export function beginFrame(width: i32, height: i32, radius: i32, featureGain: f64): bool {
  w = width; h = height; r = radius; ring = 2 * radius + 2;
  gain = featureGain;
  input = claim(w * 16);
  roles = claim(w);
  colours = claim(ring * w * 8);
  luma = claim(2 * w * 4);
  content = claim(2 * w);
  holes = claim(w);
  sources = claim(w);
  rows = claim(VALUES * ring * w * 4);
  sums = claim(VALUES * w * 8);
  if (sums == 0) return false;
  memory.fill(sums, 0, <usize>(VALUES * w) << 3);
  return true;
}

/** Where the next row's pixels go, 4 f32 each. */
export function inputRow(): usize { return input; }
/** Where their roles go, u8 each: see core/methods/fill/frame.ts. */
export function roleRow(): usize { return roles; }
/** Which pixels of row y, the last one taken or the one before, are known, u8 each. */
export function knownRow(y: i32): usize { return content + <usize>((y & 1) * w); }
/** Which pixels of the last row taken are to be filled, u8 each. */
export function holeRow(): usize { return holes; }
/** Which pixels of the last row taken may be drawn from, u8 each. */
export function sourceRow(): usize { return sources; }

const CONTEXT: u8 = 1, SOURCE: u8 = 2, TARGET: u8 = 3, GUESSED: u8 = 4;

/** Takes row y, and sums the steps of the row above it, now that both its sides are there. */
export function takeRow(y: i32): void {
  const to = colours + <usize>((y % ring) * w) * 8;
  const lumaRow = luma + <usize>((y & 1) * w) * 4, contentOut = content + <usize>((y & 1) * w);
  const full = f32x4.splat(255), none = f32x4.splat(0);
  for (let x = 0; x < w; x++) {
    const v = v128.load(input + (<usize>x << 4));
    const bytes = i32x4.trunc_sat_f32x4_s(f32x4.nearest(f32x4.min(full, f32x4.max(none, f32x4.mul(v, full)))));
    const words = i16x8.narrow_i32x4_s(bytes, i32x4.splat(0));
    // The fourth is alpha, of which nothing is kept.
    store<u64>(to + (<usize>x << 3), i64x2.extract_lane(i8x16.narrow_i16x8_u(words, words), 0) & 0xffffff);
    const red = <f64>f32x4.extract_lane(v, 0), green = <f64>f32x4.extract_lane(v, 1), blue = <f64>f32x4.extract_lane(v, 2);
    store<f32>(lumaRow + (<usize>x << 2), <f32>(76.245 * red + 149.685 * green + 29.07 * blue));
  }
  for (let x: usize = 0; x < <usize>w; x++) {
    const role = load<u8>(roles + x);
    store<u8>(contentOut + x, role == CONTEXT || role == SOURCE || role == GUESSED ? 1 : 0);
    store<u8>(holes + x, role == TARGET ? 1 : 0);
    store<u8>(sources + x, role == SOURCE ? 1 : 0);
  }
  if (y > 0) sumSteps(y - 1, y);
}

/** Sums the steps of the last row, once all those that can be finished without it are. */
export function endRows(): void { sumSteps(h - 1, h - 1); }

// Row sums of the steps of row y; the row below it, or itself at the end, is `below`.
function sumSteps(y: i32, below: i32): void {
  const at = <usize>((y % ring) * w) << 2, plane = <usize>(ring * w) << 2;
  const known = rows + at, across = known + plane, along = across + plane;
  const own = luma + <usize>((y & 1) * w) * 4, next = luma + <usize>((below & 1) * w) * 4;
  const here = content + <usize>((y & 1) * w), there = content + <usize>((below & 1) * w);
  for (let x = 0; x < w; x++) {
    const right = x + 1 < w ? x + 1 : x;
    const i = <usize>x << 2;
    if (!load<u8>(here + <usize>x) || !load<u8>(here + <usize>right) || !load<u8>(there + <usize>x)) {
      store<f32>(known + i, 0); store<f32>(across + i, 0); store<f32>(along + i, 0);
      continue;
    }
    const v = load<f32>(own + i);
    store<f32>(known + i, 1);
    store<f32>(across + i, abs<f32>(load<f32>(own + (<usize>right << 2)) - v));
    store<f32>(along + i, abs<f32>(load<f32>(next + i) - v));
  }
  for (let k = 0; k < VALUES; k++) sumAlong(known + <usize>k * plane);
  enter(y);
}

// Each value of a row becomes the sum over those within the radius.
function sumAlong(row: usize): void {
  let sum: f64 = 0;
  for (let x = 0; x < min(r, w); x++) sum += load<f32>(row + (<usize>x << 2));
  // What leaves the sum was written over: kept in the input row, which is free again.
  memory.copy(input, row, <usize>w << 2);
  for (let x = 0; x < w; x++) {
    if (x + r < w) sum += load<f32>(input + (<usize>(x + r) << 2));
    if (x > r) sum -= load<f32>(input + (<usize>(x - r - 1) << 2));
    store<f32>(row + (<usize>x << 2), <f32>sum);
  }
}

function enter(y: i32): void {
  for (let k = 0; k < VALUES; k++) {
    const into = sums + (<usize>(k * w) << 3), from = rows + (<usize>((k * ring + y % ring) * w) << 2);
    for (let x = 0; x < w; x++) {
      const at = into + (<usize>x << 3);
      store<f64>(at, load<f64>(at) + load<f32>(from + (<usize>x << 2)));
    }
  }
}

/** Finishes row y, when the steps of rows up to min(y + radius, h − 1) are in, and no others.
 *  @returns 8 bytes a pixel: colours, the two features, padding */
export function finishRow(y: i32): usize {
  if (y > r) {
    const old = y - r - 1;
    for (let k = 0; k < VALUES; k++) {
      const from = sums + (<usize>(k * w) << 3), what = rows + (<usize>((k * ring + old % ring) * w) << 2);
      for (let x = 0; x < w; x++) {
        const at = from + (<usize>x << 3);
        store<f64>(at, load<f64>(at) - load<f32>(what + (<usize>x << 2)));
      }
    }
  }
  const out = colours + <usize>((y % ring) * w) * 8;
  for (let x = 0; x < w; x++) {
    const weight = <f32>load<f64>(sums + (<usize>x << 3));
    if (weight <= 0) continue;
    for (let f = 1; f < VALUES; f++) {
      const mean = <f64><f32>load<f64>(sums + (<usize>(f * w + x) << 3)) / <f64>weight;
      store<u8>(out + (<usize>x << 3) + <usize>(2 + f), <u8>min<f64>(255, max<f64>(0, nearest<f64>(mean * gain))));
    }
  }
  return out;
}

let fineW: i32 = 0, fine: usize = 0, seen: usize = 0, masks: usize = 0, coarse: usize = 0, coarseKnown: usize = 0, coarseHole: usize = 0, coarseSource: usize = 0;

/** Begins a halving. @returns false when memory is short */
export function beginHalving(width: i32): bool {
  fineW = width;
  // Four rows, each with a pixel of nothing at either end.
  fine = claim(4 * (width + 2) * 8);
  seen = claim(4 * (width + 2));
  coarse = claim((width >> 1) * 8);
  coarseKnown = claim(width >> 1);
  coarseHole = claim(width >> 1);
  coarseSource = claim(width >> 1);
  masks = claim(4 * width);
  if (masks == 0) return false;
  memory.fill(fine, 0, <usize>(4 * (width + 2)) << 3);
  memory.fill(seen, 0, <usize>(4 * (width + 2)));
  return true;
}

/** Where row k, 0 to 3, of the four that give one goes: 8 bytes a pixel. */
export function fineRow(k: i32): usize { return fine + (<usize>(k * (fineW + 2) + 1) << 3); }
/** Where it goes which of its pixels are known, u8 each. */
export function seenRow(k: i32): usize { return seen + <usize>(k * (fineW + 2) + 1); }

/** Where it goes which pixels of the two inner rows, 0 and 1, are to be filled, u8 each. */
export function innerHoleRow(k: i32): usize { return masks + <usize>(k * fineW); }
/** Where it goes which of them may be drawn from, u8 each. */
export function innerSourceRow(k: i32): usize { return masks + <usize>((2 + k) * fineW); }

/** The mean of what is known in four rows, by 1-3-3-1 in both directions. @returns 8 bytes a pixel */
export function halveRows(): usize {
  const half = i16x8.splat(32);
  for (let x = 0; x < fineW >> 1; x++) {
    let sum = i16x8.splat(0);
    let total: i32 = 0;
    for (let v = 0; v < 4; v++) {
      const at = v * (fineW + 2) + 2 * x;
      for (let u = 0; u < 4; u++) {
        const weight = (u == 0 || u == 3 ? 1 : 3) * (v == 0 || v == 3 ? 1 : 3) * <i32>load<u8>(seen + <usize>(at + u));
        total += weight;
        sum = i16x8.add(sum, i16x8.mul(i16x8.splat(<i16>weight), i16x8.extend_low_i8x16_u(v128.load64_zero(fine + (<usize>(at + u) << 3)))));
      }
    }
    const to = coarse + (<usize>x << 3);
    store<u8>(coarseKnown + <usize>x, total > 0 ? 1 : 0);
    if (total == 64) {
      const mean = i16x8.shr_u(i16x8.add(sum, half), 6);
      v128.store64_lane(to, i8x16.narrow_i16x8_u(mean, mean), 0);
      continue;
    }
    store<u64>(to, 0);
    if (total == 0) continue;
    store<u8>(to, <u8>((2 * i16x8.extract_lane_u(sum, 0) + total) / (2 * total)));
    store<u8>(to, <u8>((2 * i16x8.extract_lane_u(sum, 1) + total) / (2 * total)), 1);
    store<u8>(to, <u8>((2 * i16x8.extract_lane_u(sum, 2) + total) / (2 * total)), 2);
    store<u8>(to, <u8>((2 * i16x8.extract_lane_u(sum, 3) + total) / (2 * total)), 3);
    store<u8>(to, <u8>((2 * i16x8.extract_lane_u(sum, 4) + total) / (2 * total)), 4);
  }
  for (let x = 0; x < fineW >> 1; x++) {
    const a = masks + <usize>(2 * x), b = a + <usize>fineW;
    const hole = load<u8>(a) | load<u8>(a, 1) | load<u8>(b) | load<u8>(b, 1);
    store<u8>(coarseHole + <usize>x, hole);
    const c = b + <usize>fineW, d = c + <usize>fineW;
    store<u8>(coarseSource + <usize>x, load<u8>(c) & load<u8>(c, 1) & load<u8>(d) & load<u8>(d, 1));
    if (hole) store<u8>(coarseKnown + <usize>x, 0);
  }
  return coarse;
}

/** Which pixels of the last halved row saw anything known and nothing that is to be filled, u8 each. */
export function halvedKnown(): usize { return coarseKnown; }
/** Which of them have anything that is to be filled, u8 each. */
export function halvedHole(): usize { return coarseHole; }
/** Which of them may be drawn from altogether, u8 each. */
export function halvedSource(): usize { return coarseSource; }
