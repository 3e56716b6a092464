// Resampling of float pictures through a projective map. AssemblyScript; see core/methods/source.ts for the contract.
// Pictures are 4 f32 a pixel; positions are in pixels from the picture's top left pixel centre.

export { claim, release } from './arena';

const STEPS: f64 = 256.0;
const weights = memory.data(2 * 12 * 4);

let src: usize = 0, sw: i32 = 0, sh: i32 = 0, table3: usize = 0, table6: usize = 0;

/** @param t3, t6  Lanczos' window of three and six lobes at distances in 1/256 pixel, f32 */
export function begin(source: usize, w: i32, h: i32, t3: usize, t6: usize): void { src = source; sw = w; sh = h; table3 = t3; table6 = t6; }

// @ts-ignore: decorator
@inline function pixel(x: i32, y: i32): v128 { return v128.load(src + (<usize>(min(sh - 1, max(0, y)) * sw + min(sw - 1, max(0, x))) << 4)); }

function sharp(x: f64, y: f64, lobes: i32): v128 {
  const nearX = min(sw - 1, max(0, <i32>nearest(x))), nearY = min(sh - 1, max(0, <i32>nearest(y)));
  if (abs(x - <f64>nearX) < 1e-4 && abs(y - <f64>nearY) < 1e-4) return pixel(nearX, nearY);
  const table = lobes == 3 ? table3 : table6;
  const x0 = <i32>floor(x) - lobes + 1, y0 = <i32>floor(y) - lobes + 1;
  const n = 2 * lobes;
  const last = <i32>(<f64>lobes * STEPS) + 1;
  for (let k = 0; k < n; k++) {
    store<f32>(weights + (<usize>k << 2), load<f32>(table + (<usize>min(last, <i32>floor(abs(x - <f64>(x0 + k)) * STEPS + 0.5)) << 2)));
    store<f32>(weights + 48 + (<usize>k << 2), load<f32>(table + (<usize>min(last, <i32>floor(abs(y - <f64>(y0 + k)) * STEPS + 0.5)) << 2)));
  }
  let sum = f32x4.splat(0);
  let total: f32 = 0;
  const inside = x0 >= 0 && y0 >= 0 && x0 + n <= sw && y0 + n <= sh;
  for (let v = 0; v < n; v++) {
    const wy = load<f32>(weights + 48 + (<usize>v << 2));
    let row = f32x4.splat(0);
    let rowTotal: f32 = 0;
    if (inside) {
      const at = src + (<usize>((y0 + v) * sw + x0) << 4);
      for (let u = 0; u < n; u++) {
        const wx = load<f32>(weights + (<usize>u << 2));
        row = f32x4.add(row, f32x4.mul(f32x4.splat(wx), v128.load(at + (<usize>u << 4))));
        rowTotal += wx;
      }
    } else {
      for (let u = 0; u < n; u++) {
        const wx = load<f32>(weights + (<usize>u << 2));
        row = f32x4.add(row, f32x4.mul(f32x4.splat(wx), pixel(x0 + u, y0 + v)));
        rowTotal += wx;
      }
    }
    sum = f32x4.add(sum, f32x4.mul(f32x4.splat(wy), row));
    total += wy * rowTotal;
  }
  const x1 = x0 + lobes - 1, y1 = y0 + lobes - 1;
  const a = pixel(x1, y1), b = pixel(x1 + 1, y1), c = pixel(x1, y1 + 1), d = pixel(x1 + 1, y1 + 1);
  const low = f32x4.min(f32x4.min(a, b), f32x4.min(c, d)), high = f32x4.max(f32x4.max(a, b), f32x4.max(c, d));
  const room = f32x4.mul(f32x4.sub(high, low), f32x4.splat(lobes == 3 ? 0.25 : 0.5));
  return f32x4.min(f32x4.add(high, room), f32x4.max(f32x4.sub(low, room), f32x4.mul(sum, f32x4.splat(1 / total))));
}

/** Takes every pixel of an output rectangle from where the map says.
 *  @param map         9 f64, from target to source positions in document pixels
 *  @param sx, sy      the source picture's top left, in the document
 *  @param bx … bh     the photo: a pixel whose centre comes from beyond it stays as it is, and 0 in `valid`
 *  @param out         ow×oh pixels; `valid` a byte each */
export function takeMapped(map: usize, sx: i32, sy: i32, bx: i32, by: i32, bw: i32, bh: i32, ox: i32, oy: i32, ow: i32, oh: i32, out: usize, valid: usize): void {
  const m0 = load<f64>(map), m1 = load<f64>(map, 8), m2 = load<f64>(map, 16), m3 = load<f64>(map, 24), m4 = load<f64>(map, 32), m5 = load<f64>(map, 40), m6 = load<f64>(map, 48), m7 = load<f64>(map, 56), m8 = load<f64>(map, 64);
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  for (let y = 0; y < oh; y++)
    for (let x = 0; x < ow; x++) {
      const tx = <f64>(ox + x) + 0.5, ty = <f64>(oy + y) + 0.5;
      const w = m6 * tx + m7 * ty + m8;
      if (w <= 1e-12) continue;
      const px = (m0 * tx + m1 * ty + m2) / w, py = (m3 * tx + m4 * ty + m5) / w;
      if (px < <f64>bx || py < <f64>by || px >= <f64>(bx + bw) || py >= <f64>(by + bh)) continue;
      const i = <usize>(y * ow + x);
      store<u8>(valid + i, 1);
      const ax = (m0 - m6 * px) / w, ay = (m3 - m6 * py) / w, dx = (m1 - m7 * px) / w, dy = (m4 - m7 * py) / w;
      const step = sqrt(max(ax * ax + ay * ay, dx * dx + dy * dy));
      const fx = px - <f64>sx - 0.5, fy = py - <f64>sy - 0.5;
      let colour: v128;
      if (step <= 1.15) colour = sharp(fx, fy, 6);
      else {
        // Over the footprint of the target pixel in the source.
        const n = min(12, <i32>ceil(step * 1.5));
        colour = zero;
        for (let v = 0; v < n; v++)
          for (let u = 0; u < n; u++) {
            const gx = (<f64>u + 0.5) / <f64>n - 0.5, gy = (<f64>v + 0.5) / <f64>n - 0.5;
            colour = f32x4.add(colour, sharp(fx + gx * ax + gy * dx, fy + gx * ay + gy * dy, 3));
          }
        colour = f32x4.mul(colour, f32x4.splat(1 / <f32>(n * n)));
      }
      const alpha = min<f32>(1, max<f32>(0, f32x4.extract_lane(colour, 3)));
      colour = f32x4.min(f32x4.splat(alpha), f32x4.max(zero, colour));
      colour = f32x4.replace_lane(colour, 3, alpha);
      v128.store(out + (i << 4), f32x4.min(one, colour));
    }
}
