// A small net that looks at squares of a picture: two layers of 3 × 3 weights, each rectified and the greatest of 2 × 2
// kept, and a layer over all that they give. f32; channels lie together. AssemblyScript; see
// core/marking/sweep/fault-look.ts for the contract.

export { claim, release } from './arena';

/** One layer of 3 × 3 weights, rectified, of each 2 × 2 the greatest.
 *  @param from  side × side × inputs
 *  @param weights  9 × inputs × outputs, after them one for each output; outputs are a multiple of 4
 *  @param to  ((side − 2) / 2)² × outputs, rounded down */
export function convolve(from: usize, side: i32, inputs: i32, weights: usize, outputs: i32, to: usize): void {
  const pooled = (side - 2) >> 1;
  const step = <usize>outputs << 2;
  const bias = weights + <usize>(9 * inputs) * step;
  const row = <usize>(side * inputs) << 2;
  for (let y = 0; y < pooled; y++)
    for (let x = 0; x < pooled; x++) {
      const at = to + <usize>(y * pooled + x) * step;
      const corner = from + <usize>(2 * y) * row + (<usize>(2 * x * inputs) << 2);
      // Of four squares beside each other at once, so that each weight is read once.
      for (let o: usize = 0; o < step; o += 16) {
        let a = v128.load(bias + o);
        let b = a;
        let c = a;
        let d = a;
        let weight = weights + o;
        for (let v = 0; v < 3; v++) {
          let p = corner + <usize>v * row;
          const end = p + (<usize>(3 * inputs) << 2);
          const right = <usize>inputs << 2;
          for (; p < end; p += 4) {
            const k = v128.load(weight);
            a = f32x4.add(a, f32x4.mul(k, v128.load32_splat(p)));
            b = f32x4.add(b, f32x4.mul(k, v128.load32_splat(p + right)));
            c = f32x4.add(c, f32x4.mul(k, v128.load32_splat(p + row)));
            d = f32x4.add(d, f32x4.mul(k, v128.load32_splat(p + row + right)));
            weight += step;
          }
        }
        v128.store(at + o, f32x4.max(f32x4.splat(0), f32x4.max(f32x4.max(a, b), f32x4.max(c, d))));
      }
    }
}

/** @param from  count values; @param weights  count × outputs, after them one for each output; @param to  outputs, rectified */
export function connect(from: usize, count: i32, weights: usize, outputs: i32, to: usize): void {
  const step = <usize>outputs << 2;
  for (let o: usize = 0; o < step; o += 16) {
    let sum = v128.load(weights + <usize>count * step + o);
    for (let k = 0; k < count; k++)
      sum = f32x4.add(sum, f32x4.mul(v128.load(weights + <usize>k * step + o), v128.load32_splat(from + (<usize>k << 2))));
    v128.store(to + o, f32x4.max(f32x4.splat(0), sum));
  }
}
