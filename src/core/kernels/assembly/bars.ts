// What stands out from both its sides, for sweeps. f32, row by row. AssemblyScript; see core/marking/sweep/bars.ts for the
// contract.

export { claim, release } from './arena';

/** Means of squares of 2r + 1 round every pixel; at the edges of what is there. @param sums  (w + 1)·(h + 1) f64 */
export function boxMeans(values: usize, w: i32, h: i32, r: i32, sums: usize, out: usize): void {
  const line = <usize>(w + 1) << 3;
  memory.fill(sums, 0, line);
  for (let y = 0; y < h; y++) {
    let row: f64 = 0;
    let from = values + (<usize>(y * w) << 2);
    let at = sums + <usize>(y + 1) * line;
    store<f64>(at, 0);
    for (let x = 0; x < w; x++) {
      row += <f64>load<f32>(from);
      from += 4;
      at += 8;
      store<f64>(at, load<f64>(at - line) + row);
    }
  }
  for (let y = 0; y < h; y++) {
    const y0 = max(0, y - r), y1 = min(h, y + r + 1);
    const top = sums + <usize>y0 * line, low = sums + <usize>y1 * line;
    for (let x = 0; x < w; x++) {
      const left = <usize>max(0, x - r) << 3, right = <usize>min(w, x + r + 1) << 3;
      const count = <f64>(y1 - y0) * <f64>(<i32>((right - left) >> 3));
      store<f32>(out + (<usize>(y * w + x) << 2), <f32>((load<f64>(low + right) - load<f64>(low + left) - load<f64>(top + right) + load<f64>(top + left)) / count));
    }
  }
}

// @ts-ignore: decorator
@inline function at(row: usize, x: i32): usize { return row + (<usize>x << 2); }

/** By how much each exceeds (sign 1) or falls short of (−1) both of two opposite ones `d` away, in the best of four
 *  directions; `slant` is how far the slanting ones are away in rows and columns, at most d. */
export function bars(means: usize, w: i32, h: i32, d: i32, slant: i32, sign: f32, out: usize): void {
  const signs = f32x4.splat(sign);
  for (let y = 0; y < h; y++) {
    const row = at(means, y * w);
    // Beyond the edge lies what lies on it.
    const up = at(means, max(0, y - d) * w), low = at(means, min(h - 1, y + d) * w);
    const above = at(means, max(0, y - slant) * w), below = at(means, min(h - 1, y + slant) * w);
    let x = 0;
    while (x < w) {
      if (x >= d && x + 4 <= w - d) {
        const across = f32x4.max(signed(at(row, x - d), signs), signed(at(row, x + d), signs));
        const upright = f32x4.max(signed(at(up, x), signs), signed(at(low, x), signs));
        const falling = f32x4.max(signed(at(above, x - slant), signs), signed(at(below, x + slant), signs));
        const rising = f32x4.max(signed(at(above, x + slant), signs), signed(at(below, x - slant), signs));
        const most = f32x4.min(f32x4.min(across, upright), f32x4.min(falling, rising));
        v128.store(at(out, y * w + x), f32x4.sub(signed(at(row, x), signs), most));
        x += 4;
        continue;
      }
      const l = max(0, x - d), r = min(w - 1, x + d), nearL = max(0, x - slant), nearR = min(w - 1, x + slant);
      const across = max(sign * load<f32>(at(row, l)), sign * load<f32>(at(row, r)));
      const upright = max(sign * load<f32>(at(up, x)), sign * load<f32>(at(low, x)));
      const falling = max(sign * load<f32>(at(above, nearL)), sign * load<f32>(at(below, nearR)));
      const rising = max(sign * load<f32>(at(above, nearR)), sign * load<f32>(at(below, nearL)));
      store<f32>(at(out, y * w + x), sign * load<f32>(at(row, x)) - min(min(across, upright), min(falling, rising)));
      x++;
    }
  }
}

// @ts-ignore: decorator
@inline function signed(p: usize, signs: v128): v128 { return f32x4.mul(v128.load(p), signs); }

/** Values less what is usual round about, in what is usual of deviations: between the middles of blocks.
 *  @param middles, spreads  bw·bh f32; spreads above 0 */
export function deviations(values: usize, w: i32, h: i32, side: i32, middles: usize, spreads: usize, bw: i32, bh: i32, out: usize): void {
  const by = <f32>side, half: f32 = 0.5, one: f32 = 1;
  for (let y = 0; y < h; y++) {
    const fy = min<f32>(<f32>(bh - 1), max<f32>(0, (<f32>y + half) / by - half));
    const y0 = <i32>fy, v = fy - <f32>y0;
    const row = y0 * bw, next = min(bh - 1, y0 + 1) * bw;
    for (let x = 0; x < w; x++) {
      const fx = min<f32>(<f32>(bw - 1), max<f32>(0, (<f32>x + half) / by - half));
      const x0 = <i32>fx, u = fx - <f32>x0, x1 = min(bw - 1, x0 + 1);
      const a = (one - u) * (one - v), b = u * (one - v), c = (one - u) * v, d = u * v;
      const middle = a * load<f32>(at(middles, row + x0)) + b * load<f32>(at(middles, row + x1)) + c * load<f32>(at(middles, next + x0)) + d * load<f32>(at(middles, next + x1));
      const spread = a * load<f32>(at(spreads, row + x0)) + b * load<f32>(at(spreads, row + x1)) + c * load<f32>(at(spreads, next + x0)) + d * load<f32>(at(spreads, next + x1));
      const i = at(values, y * w + x) - values;
      store<f32>(out + i, (load<f32>(values + i) - middle) / spread);
    }
  }
}
