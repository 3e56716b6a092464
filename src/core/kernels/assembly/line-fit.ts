// How well lines meet across joins. AssemblyScript; see core/methods/fill/bends/line-fit.ts for the contract.

export { claim, release } from './arena';

const CONTEXT: u8 = 1, SOURCE: u8 = 2;

/** Brightness of known pixels in 8-bit steps, f64; NaN for the others. @param picture  4 f32 a pixel */
export function brightness(picture: usize, roles: usize, count: i32, out: usize): void {
  for (let p: usize = 0; p < <usize>count; p++) {
    const role = load<u8>(roles + p), at = picture + (p << 4);
    const sum = <f64>load<f32>(at) + 2 * <f64>load<f32>(at, 4) + <f64>load<f32>(at, 8);
    store<f64>(out + (p << 3), role == CONTEXT || role == SOURCE ? 63.75 * sum : NaN);
  }
}

let luma: usize = 0, w: i32 = 0, h: i32 = 0, reach: i32 = 0;
let square: usize = 0, places: usize = 0, theirs: usize = 0, n: i32 = 0;

/** @param at     w·h f64 that `brightness` made
 *  @param px     half the side of what is compared, a disc
 *  @param room   (2·px + 3)² f32
 *  @param disc   8 bytes for each pixel of the disc
 *  @param other  f32 for each */
export function begin(at: usize, width: i32, height: i32, px: i32, room: usize, disc: usize, other: usize): void {
  luma = at; w = width; h = height; reach = px;
  square = room; places = disc; theirs = other;
}

// @ts-ignore: decorator
@inline function lumaAt(x: i32, y: i32): f64 {
  return x < 0 || y < 0 || x >= w || y >= h ? NaN : load<f64>(luma + (<usize>(y * w + x) << 3));
}

/** Keeps what lies round (x + dx, y + dy) to compare with, and sums it up.
 *  @param out  6 f64: the sum of the values, of their squares, of the squared steps across, across times down, and down, and how many
 *              steps were known
 *  @returns how many pixels are known */
export function take(x: i32, y: i32, dx: i32, dy: i32, out: usize): i32 {
  const side = 2 * reach + 3;
  for (let j = 0, at = square; j < side; j++)
    for (let i = 0; i < side; i++, at += 4)
      store<f32>(at, <f32>lumaAt(x - reach - 1 + i + dx, y - reach - 1 + j + dy));
  n = 0;
  let sum: f64 = 0, squares: f64 = 0, xx: f64 = 0, xy: f64 = 0, yy: f64 = 0, stepped: f64 = 0;
  for (let oy = -reach; oy <= reach; oy++)
    for (let ox = -reach; ox <= reach; ox++) {
      if (ox * ox + oy * oy > reach * reach) continue;
      const at = square + (<usize>((oy + reach + 1) * side + ox + reach + 1) << 2), row = <usize>side << 2;
      const own = <f64>load<f32>(at);
      if (isNaN(own)) continue;
      store<i32>(places + (<usize>n << 3), x + ox);
      store<i32>(places + (<usize>n << 3), y + oy, 4);
      store<f32>(theirs + (<usize>n << 2), <f32>own);
      n++;
      sum += own;
      squares += own * own;
      const across = (<f64>load<f32>(at + 4) - <f64>load<f32>(at - 4)) / 2;
      const down = (<f64>load<f32>(at + row) - <f64>load<f32>(at - row)) / 2;
      if (isNaN(across + down)) continue;
      xx += across * across;
      xy += across * down;
      yy += down * down;
      stepped++;
    }
  store<f64>(out, sum);
  store<f64>(out, squares, 8);
  store<f64>(out, xx, 16);
  store<f64>(out, xy, 24);
  store<f64>(out, yy, 32);
  store<f64>(out, stepped, 40);
  return n;
}

/** The variance of the difference between what `take` kept and what lies so far off; infinite where less than this share is known. */
export function unlike(dx: i32, dy: i32, leastShare: f64): f64 {
  let m: f64 = 0, s: f64 = 0, ss: f64 = 0;
  for (let k: usize = 0; k < <usize>n; k++) {
    const d = <f64>load<f32>(theirs + (k << 2)) - lumaAt(load<i32>(places + (k << 3)) + dx, load<i32>(places + (k << 3), 4) + dy);
    if (isNaN(d)) continue;
    m++;
    s += d;
    ss += d * d;
  }
  const mean = s / m;
  return m < leastShare * <f64>n ? Infinity : ss / m - mean * mean;
}
