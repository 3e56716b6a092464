// Separable convolution of float pictures, 4 f32 a pixel. AssemblyScript; see core/raster/gaussian.ts for the contract.

export { claim, release } from './arena';

/** @param weights  2·reach + 1 f32; beyond the picture there is nothing */
export function convolve(picture: usize, scratch: usize, w: i32, h: i32, weights: usize, reach: i32): void {
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const at = <usize>(y * w + x) << 4;
      let sum = f32x4.splat(0);
      for (let k = max(-reach, -x); k <= min(reach, w - 1 - x); k++)
        sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(weights + (<usize>(k + reach) << 2)), v128.load(picture + at + (<isize>k << 4))));
      v128.store(scratch + at, sum);
    }
  const row = <usize>w << 4;
  for (let y = 0; y < h; y++) {
    const to = picture + <usize>y * row;
    memory.fill(to, 0, row);
    for (let k = max(-reach, -y); k <= min(reach, h - 1 - y); k++) {
      const weight = v128.load32_splat(weights + (<usize>(k + reach) << 2));
      const from = scratch + <usize>(y + k) * row;
      for (let i: usize = 0; i < row; i += 16)
        v128.store(to + i, f32x4.add(v128.load(to + i), f32x4.mul(weight, v128.load(from + i))));
    }
  }
}
