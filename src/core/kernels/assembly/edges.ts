// Ridges of the gradient of a small picture. AssemblyScript; see core/methods/fill/edges/points.ts for the contract.

export { claim, release } from './arena';

/** Means over squares of `scale` pixels a side.
 *  @param picture  4 f32 a pixel, rows of `pictureW` pixels
 *  @param roles  u8 a pixel: see core/methods/fill/frame.ts
 *  @param luma   f32 a square, of 255; `known` u8, 1 where all of it is; `hole` u8, 1 where any of it is to be filled */
export function reduce(picture: usize, roles: usize, pictureW: i32, scale: i32, w: i32, h: i32, luma: usize, known: usize, hole: usize): void {
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let sum: f64 = 0;
      let count = 0, marked: u8 = 0;
      for (let v = y * scale; v < (y + 1) * scale; v++)
        for (let u = x * scale; u < (x + 1) * scale; u++) {
          const p = <usize>(v * pictureW + u);
          const role = load<u8>(roles + p);
          if (role == TARGET) marked = 1;
          if (role != SOURCE && role != CONTEXT) continue;
          const at = picture + (p << 4);
          sum += 76.2 * <f64>load<f32>(at) + 149.7 * <f64>load<f32>(at, 4) + 29.1 * <f64>load<f32>(at, 8);
          count++;
        }
      const i = <usize>(y * w + x);
      const isWhole = count == scale * scale;
      store<f32>(luma + (i << 2), isWhole ? <f32>(sum / <f64>count) : 0);
      store<u8>(known + i, isWhole ? 1 : 0);
      store<u8>(hole + i, marked);
    }
}

/** The same in colour, for what is looked at more closely: 3 f32 a square, of 255, and 1 where all of it is known. Pixels that are
 *  not known go in as they are. */
export function reduceColours(picture: usize, roles: usize, pictureW: i32, scale: i32, w: i32, h: i32, colours: usize, known: usize, hole: usize): void {
  const share = 255 / <f64>(scale * scale);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let r: f32 = 0, g: f32 = 0, b: f32 = 0, marked: u8 = 0, whole: u8 = 1;
      for (let v = y * scale; v < (y + 1) * scale; v++)
        for (let u = x * scale; u < (x + 1) * scale; u++) {
          const p = <usize>(v * pictureW + u), at = picture + (p << 4);
          const role = load<u8>(roles + p);
          if (role == TARGET) marked = 1;
          if (role != SOURCE && role != CONTEXT) whole = 0;
          r = <f32>(<f64>r + share * <f64>load<f32>(at));
          g = <f32>(<f64>g + share * <f64>load<f32>(at, 4));
          b = <f32>(<f64>b + share * <f64>load<f32>(at, 8));
        }
      const i = <usize>(y * w + x), to = colours + 12 * i;
      store<f32>(to, r);
      store<f32>(to, g, 4);
      store<f32>(to, b, 8);
      store<u8>(known + i, whole);
      store<u8>(hole + i, marked);
    }
}

/** Those that are set and have one beside them that is not, or nothing. @param out  2 i32 each @returns how many there are */
export function rim(hole: usize, w: i32, h: i32, out: usize): i32 {
  let count: usize = 0;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const at = hole + <usize>(y * w + x);
      if (load<u8>(at) == 0) continue;
      if (x > 0 && y > 0 && x < w - 1 && y < h - 1 && (load<u8>(at - 1) & load<u8>(at + 1) & load<u8>(at - w) & load<u8>(at + w)) != 0) continue;
      store<i32>(out + (count << 3), x);
      store<i32>(out + (count << 3), y, 4);
      count++;
    }
  return <i32>count;
}

const CONTEXT: u8 = 1, SOURCE: u8 = 2, TARGET: u8 = 3;

/** Gradients by Sobel's weights wherever all nine pixels are known and the hole is not too far.
 *  @param distance  f32 a pixel: squared distance to the hole
 *  @param gx, gy, size  f32 a pixel; size is 0 where nothing was found
 *  @param some      f32: every `every`-th size
 *  @returns how many of them */
export function gradients(luma: usize, known: usize, distance: usize, w: i32, h: i32, farthest: f32, every: i32, gx: usize, gy: usize, size: usize, some: usize): i32 {
  memory.fill(size, 0, <usize>(w * h) << 2);
  let count = 0, taken = 0;
  for (let y = 1; y < h - 1; y++)
    for (let x = 1; x < w - 1; x++) {
      const p = <usize>(y * w + x);
      if (load<f32>(distance + (p << 2)) > farthest || !isWhole(known + p, <usize>w)) continue;
      const at = luma + (p << 2), row = <usize>w << 2;
      const a = <f64>load<f32>(at - row - 4), b = <f64>load<f32>(at - row), c = <f64>load<f32>(at - row + 4);
      const d = <f64>load<f32>(at - 4), e = <f64>load<f32>(at + 4);
      const f = <f64>load<f32>(at + row - 4), g = <f64>load<f32>(at + row), i = <f64>load<f32>(at + row + 4);
      const across = <f32>((c + 2 * e + i - a - 2 * d - f) / 8), down = <f32>((f + 2 * g + i - a - 2 * b - c) / 8);
      const length = <f32>sqrt<f64>(<f64>across * <f64>across + <f64>down * <f64>down);
      store<f32>(gx + (p << 2), across);
      store<f32>(gy + (p << 2), down);
      store<f32>(size + (p << 2), length);
      if (count++ % every == 0) store<f32>(some + (<usize>(taken++) << 2), length);
    }
  return taken;
}

// @ts-ignore: decorator
@inline function isWhole(p: usize, w: usize): bool {
  return (load<u8>(p - w - 1) & load<u8>(p - w) & load<u8>(p - w + 1) & load<u8>(p - 1) & load<u8>(p) & load<u8>(p + 1) & load<u8>(p + w - 1) & load<u8>(p + w) & load<u8>(p + w + 1)) != 0;
}

/** Where the gradient is at its largest across an edge, and at least `least`.
 *  @param out  4 f64 a point: x and y between pixels, by the parabola through the three, and the gradient
 *  @returns how many there are */
export function ridges(w: i32, h: i32, least: f64, gx: usize, gy: usize, size: usize, out: usize): i32 {
  let count = 0;
  for (let y = 2; y < h - 2; y++)
    for (let x = 2; x < w - 2; x++) {
      const p = y * w + x, at = <usize>p << 2;
      const own = <f64>load<f32>(size + at);
      if (own < least) continue;
      const across = <f64>load<f32>(gx + at), down = <f64>load<f32>(gy + at);
      const ux = <i32>floor<f64>(across / own + 0.5), uy = <i32>floor<f64>(down / own + 0.5);
      const before = <f64>load<f32>(size + (<usize>(p - uy * w - ux) << 2)), after = <f64>load<f32>(size + (<usize>(p + uy * w + ux) << 2));
      if (own < before || own < after) continue;
      const bend = before - 2 * own + after;
      const shift = bend < 0 ? max<f64>(-0.5, min<f64>(0.5, (before - after) / (2 * bend))) : 0;
      const to = out + (<usize>(count++) << 5);
      store<f64>(to, <f64>x + shift * <f64>ux);
      store<f64>(to, <f64>y + shift * <f64>uy, 8);
      store<f64>(to, across, 16);
      store<f64>(to, down, 24);
    }
  return count;
}
