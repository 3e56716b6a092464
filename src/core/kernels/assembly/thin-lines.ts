// How much a line stands out from what lies beside it. AssemblyScript; see core/methods/fill/edges/thin-lines.ts for the
// contract.

export { claim, release } from './arena';

let grey: usize = 0, w: i32 = 0, h: i32 = 0, reach: i32 = 0, aside: f64 = 0, gap: i32 = 0, length: i32 = 0;

/** @param picture    3 f32 a pixel; `known` u8
 *  @param out        f32 a pixel: how light it is; NaN where that is not known
 *  @param away       a line is compared with what lies so far off on both sides
 *  @param first      lines are looked at from so far off the hole on, up to `far` and one more, by stretches of so many pixels */
export function begin(picture: usize, known: usize, width: i32, height: i32, out: usize, far: i32, away: f64, first: i32, stretch: i32): void {
  grey = out; w = width; h = height; reach = far; aside = away; gap = first; length = stretch;
  for (let i: usize = 0; i < <usize>(w * h); i++) {
    const at = picture + 12 * i;
    const sum = <f64>load<f32>(at) + 2 * <f64>load<f32>(at, 4) + <f64>load<f32>(at, 8);
    store<f32>(out + (i << 2), load<u8>(known + i) ? <f32>(sum / 4) : <f32>NaN);
  }
}

// @ts-ignore: decorator
@inline function nearest(x: f64, y: f64): f64 { return <f64>load<f32>(grey + (<usize>(<i32>y * w + <i32>x) << 2)); }

/** Between pixels; NaN beyond what is there. */
function between(x: f64, y: f64): f64 {
  const fx = floor(x), fy = floor(y);
  if (fx < 0 || fy < 0 || fx >= <f64>(w - 1) || fy >= <f64>(h - 1)) return NaN;
  const p = grey + (<usize>(<i32>fy * w + <i32>fx) << 2), row = <usize>w << 2;
  const u = x - fx, v = y - fy;
  return (<f64>load<f32>(p) * (1 - u) + <f64>load<f32>(p, 4) * u) * (1 - v) + (<f64>load<f32>(p + row) * (1 - u) + <f64>load<f32>(p + row, 4) * u) * v;
}

/** By how much each stretch of a line is lighter than what lies beside it; those that are not half known are left out.
 *  @param ox, oy  where the line is at 0; it runs along the unit vector (ux, uy)
 *  @param start   from there on, forward (1) or backward (−1)
 *  @param side    with which side it is compared: −1 or 1; 0 for both
 *  @param out     f64 each
 *  @returns how many there are */
export function dips(ox: f64, oy: f64, ux: f64, uy: f64, start: f64, way: f64, side: i32, out: usize): i32 {
  const nx = -uy * aside, ny = ux * aside;
  let count = 0;
  for (let k = gap; k + length <= reach + 1; k += length) {
    let sum: f64 = 0, n = 0;
    for (let s = k; s < k + length; s++) {
      const t = start + way * <f64>s;
      const x = ox + ux * t, y = oy + uy * t;
      let dip = between(x, y);
      if (side == 0) {
        dip -= between(x - nx, y - ny) / 2;
        dip -= between(x + nx, y + ny) / 2;
      } else dip -= between(x + <f64>side * nx, y + <f64>side * ny);
      if (isNaN(dip)) continue;
      sum += dip;
      n++;
    }
    if (2 * n > length) store<f64>(out + (<usize>(count++) << 3), sum / <f64>n);
  }
  return count;
}

/** By how much nearly all of a line stands out from a place on, lighter or darker, by the nearest pixels; 0 when it is neither, which
 *  mostly shows soon. @param stretches  room for f32 each */
function strength(x0: f64, y0: f64, ux: f64, uy: f64, weakShare: f64, fewest: i32, stretches: usize): f64 {
  const nx = -uy * aside, ny = ux * aside;
  const most = reach + 1 - length;
  const mayBeWeak = <i32>floor(weakShare * <f64>(most - gap + length) / <f64>length);
  let count = 0, lighter = 0, darker = 0;
  for (let k = gap; k <= most; k += length) {
    let sum: f64 = 0, n = 0;
    for (let s = k; s < k + length; s++) {
      const x = x0 + ux * <f64>s + 0.5, y = y0 + uy * <f64>s + 0.5;
      if (x < aside || y < aside || x >= <f64>w - aside || y >= <f64>h - aside) break;
      const dip = nearest(x, y) - (nearest(x + nx, y + ny) + nearest(x - nx, y - ny)) / 2;
      if (isNaN(dip)) continue;
      sum += dip;
      n++;
    }
    if (2 * n <= length) continue;
    keep(stretches, count++, <f32>(sum / <f64>n));
    if (sum >= 0) lighter++;
    if (sum <= 0) darker++;
    if (lighter > mayBeWeak && darker > mayBeWeak) return 0;
  }
  if (count < fewest) return 0;
  const weak = <i32>floor(weakShare * <f64>count);
  const least = <f64>load<f32>(stretches + (<usize>weak << 2));
  if (least > 0) return least;
  return min<f64>(0, <f64>load<f32>(stretches + (<usize>(count - 1 - weak) << 2)));
}

/** Puts one where it belongs among so many that are sorted. */
function keep(stretches: usize, count: i32, value: f32): void {
  let at = stretches + (<usize>count << 2);
  for (; at > stretches && load<f32>(at - 4) > value; at -= 4) store<f32>(at, load<f32>(at - 4));
  store<f32>(at, value);
}

/** Of the lines in one direction, by whole pixels off the middle, those that stand out on both sides of the hole.
 *  @param rim      2 i32 each: hole pixels next to others
 *  @param radius   lines lie up to so far off the middle (mx, my)
 *  @param room     2·(2·radius + 1) f32, and f32 for each stretch of a line
 *  @param out      4 f64 each: how far off it lies, where along it the hole begins and ends, and how much it stands out
 *  @returns how many there are */
export function across(rim: usize, rims: i32, mx: f64, my: f64, radius: i32, ux: f64, uy: f64, leastCrossed: f64, mostUneven: f64, weakShare: f64, fewest: i32, room: usize, out: usize): i32 {
  const lines = 2 * radius + 1;
  const from = room, to = from + (<usize>lines << 2), stretches = to + (<usize>lines << 2);
  for (let n: usize = 0; n < <usize>lines; n++) {
    store<f32>(from + (n << 2), Infinity);
    store<f32>(to + (n << 2), -Infinity);
  }
  for (let k: usize = 0; k < <usize>rims; k++) {
    const x = <f64>load<i32>(rim + (k << 3)) - mx, y = <f64>load<i32>(rim + (k << 3), 4) - my;
    const along = ux * x + uy * y;
    const off = ux * y - uy * x + <f64>radius;
    // A rim pixel is as wide as the lines are apart.
    for (let n = max(0, <i32>floor(off)); n <= min(lines - 1, <i32>ceil(off)); n++) {
      const at = <usize>n << 2;
      if (along < <f64>load<f32>(from + at)) store<f32>(from + at, <f32>along);
      if (along > <f64>load<f32>(to + at)) store<f32>(to + at, <f32>along);
    }
  }
  let count = 0;
  for (let n = 0; n < lines; n++) {
    const first = <f64>load<f32>(from + (<usize>n << 2)), last = <f64>load<f32>(to + (<usize>n << 2));
    if (!(last - first >= leastCrossed)) continue;
    const off = <f64>(n - radius);
    const x = mx - uy * off, y = my + ux * off;
    const before = strength(x + ux * first, y + uy * first, -ux, -uy, weakShare, fewest, stretches);
    if (before == 0) continue;
    const behind = strength(x + ux * last, y + uy * last, ux, uy, weakShare, fewest, stretches);
    if (!(before * behind > 0 && before / behind <= mostUneven && behind / before <= mostUneven)) continue;
    const at = out + (<usize>(count++) << 5);
    store<f64>(at, off);
    store<f64>(at, first, 8);
    store<f64>(at, last, 16);
    store<f64>(at, min(abs(before), abs(behind)), 24);
  }
  return count;
}
