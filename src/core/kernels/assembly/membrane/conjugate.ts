// For rims that cycles alone do not settle: conjugate gradients. AssemblyScript.

import { cycle, residualRow } from './cycle';
import { claim, field, greatest, setField } from './levels';

/** Smooth rims take three to five. */
export const plainCycles: i32 = 8;

// Four sums, one a channel, of a·b over the grid.
function dots(a: usize, b: usize, n: usize, w: usize, out: usize): void {
  memory.fill(out, 0, 32);
  for (let row: usize = 0; row < n; row += w) {
    let sum = f32x4.splat(0);
    for (let i = row << 4; i < (row + w) << 4; i += 16) sum = f32x4.add(sum, f32x4.mul(v128.load(a + i), v128.load(b + i)));
    store<f64>(out, load<f64>(out) + f32x4.extract_lane(sum, 0));
    store<f64>(out, load<f64>(out, 8) + f32x4.extract_lane(sum, 1), 8);
    store<f64>(out, load<f64>(out, 16) + f32x4.extract_lane(sum, 2), 16);
    store<f64>(out, load<f64>(out, 24) + f32x4.extract_lane(sum, 3), 24);
  }
}

// @ts-ignore: decorator
@inline function ratio(a: usize, b: usize, c: usize): f32 {
  const over = load<f64>(b + c * 8);
  return abs(over) > 1e-30 ? <f32>(load<f64>(a + c * 8) / over) : 0;
}

function ratios(a: usize, b: usize): v128 {
  return f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(ratio(a, b, 0)), 1, ratio(a, b, 1)), 2, ratio(a, b, 2)), 3, ratio(a, b, 3));
}

/** Conjugate gradients with a cycle as preconditioner, which always converge. The flexible variant (Polak & Ribière), since
 *  a cycle that sweeps in one order is not symmetric. */
export function conjugate(tolerance: f32, maxCycles: i32): i32 {
  const w = <usize>field(0, 0), h = <i32>field(0, 1), n = w * <usize>h;
  const u = field(0, 3), f = field(0, 4);
  const r = claim(n << 4), z = claim(n << 4), p = claim(n << 4), t = claim(n << 4), sums = claim(96);
  if (!r || !z || !p || !t || !sums) return 0;
  const zr = sums, old = sums + 32, pt = sums + 64;
  for (let y = 0; y < h; y++) residualRow(0, y, r + (<usize>y * w << 4));
  let k = plainCycles + 1;
  let done = false;
  for (; k <= maxCycles && !done; k++) {
    memory.fill(z, 0, n << 4);
    setField(0, 3, z);
    setField(0, 4, r);
    cycle(0);
    dots(z, r, n, w, zr);
    if (k > plainCycles + 1) {
      // t still holds what was taken from r: z·(r − r before) = −z·t.
      dots(z, t, n, w, pt);
      for (let c: usize = 0; c < 4; c++) store<f64>(pt + c * 8, -load<f64>(pt + c * 8));
      const beta = f32x4.max(f32x4.splat(0), ratios(pt, old));
      for (let i: usize = 0; i < n << 4; i += 16) v128.store(p + i, f32x4.add(v128.load(z + i), f32x4.mul(beta, v128.load(p + i))));
    } else memory.copy(p, z, n << 4);
    memory.copy(old, zr, 32);
    setField(0, 3, p);
    setField(0, 4, 0);
    for (let y = 0; y < h; y++) residualRow(0, y, t + (<usize>y * w << 4)); // −A p
    dots(p, r, n, w, zr);
    dots(p, t, n, w, pt);
    for (let c: usize = 0; c < 4; c++) store<f64>(pt + c * 8, -load<f64>(pt + c * 8));
    const alpha = ratios(zr, pt);
    let largest = f32x4.splat(0);
    for (let i: usize = 0; i < n << 4; i += 16) {
      const step = f32x4.mul(alpha, v128.load(p + i));
      largest = f32x4.pmax(largest, f32x4.abs(step));
      v128.store(u + i, f32x4.add(v128.load(u + i), step));
      const taken = f32x4.mul(alpha, v128.load(t + i));
      v128.store(t + i, f32x4.sub(f32x4.splat(0), taken));
      v128.store(r + i, f32x4.add(v128.load(r + i), taken));
    }
    done = greatest(largest) <= tolerance * 0.25;
  }
  setField(0, 3, u);
  setField(0, 4, f);
  return done ? k - 1 : -maxCycles;
}
