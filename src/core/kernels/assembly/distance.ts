// Exact squared distances. AssemblyScript; see core/area/distance.ts for the contract and the source.

export { claim, release } from './arena';

/** @param set     u8 a pixel, not 0 = set
 *  @param out     4 bytes a pixel: f32 squared distances, `nothing` where nothing is set
 *  @param column  i32 a pixel of a row: scratch
 *  @param vertex  i32 a pixel of a row: scratch
 *  @param from    f64 a pixel of a row and one more: scratch */
export function squaredDistance(set: usize, w: i32, h: i32, out: usize, column: usize, vertex: usize, from: usize, nothing: f32): void {
  const cap = w + h + 1;
  // Down, then up: how far it is to what is set in the same column.
  for (let y = 0; y < h; y++) {
    const row = <usize>(y * w), to = out + (row << 2), above = to - (<usize>w << 2);
    for (let x: usize = 0; x < <usize>w; x++) {
      const far = y == 0 ? cap : min(cap, load<i32>(above + (x << 2)) + 1);
      store<i32>(to + (x << 2), load<u8>(set + row + x) ? 0 : far);
    }
  }
  for (let y = h - 2; y >= 0; y--) {
    const to = out + (<usize>(y * w) << 2), below = to + (<usize>w << 2);
    for (let x: usize = 0; x < <usize>w << 2; x += 4) store<i32>(to + x, min(load<i32>(to + x), load<i32>(below + x) + 1));
  }
  for (let y = 0; y < h; y++) {
    const row = out + (<usize>(y * w) << 2);
    memory.copy(column, row, <usize>w << 2);
    let k = -1;
    for (let q = 0; q < w; q++) {
      const g = load<i32>(column + (<usize>q << 2));
      if (g >= cap) continue;
      const height = <f64>g * <f64>g + <f64>q * <f64>q;
      let s = -Infinity;
      while (k >= 0) {
        const v = load<i32>(vertex + (<usize>k << 2));
        const gv = <f64>load<i32>(column + (<usize>v << 2));
        s = (height - (gv * gv + <f64>v * <f64>v)) / <f64>(2 * (q - v));
        if (s > load<f64>(from + (<usize>k << 3))) break;
        k--;
      }
      if (k < 0) s = -Infinity;
      k++;
      store<i32>(vertex + (<usize>k << 2), q);
      store<f64>(from + (<usize>k << 3), s);
    }
    if (k < 0) {
      for (let x = 0; x < w; x++) store<f32>(row + (<usize>x << 2), nothing);
      continue;
    }
    const last = k;
    k = 0;
    for (let x = 0; x < w; x++) {
      while (k < last && load<f64>(from + (<usize>(k + 1) << 3)) < <f64>x) k++;
      const v = load<i32>(vertex + (<usize>k << 2));
      const g = <f64>load<i32>(column + (<usize>v << 2));
      store<f32>(row + (<usize>x << 2), <f32>(<f64>(x - v) * <f64>(x - v) + g * g));
    }
  }
}
