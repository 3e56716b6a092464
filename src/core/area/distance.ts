/** Squared Euclidean distance of each pixel centre to the nearest pixel centre that is set.
 *
 *  @param set  w×h, non-zero = set; not mutated
 *  @returns w×h float64-exact whole numbers in a Float32Array when below 2²⁴, {@link farAway} where nothing is set
 *  Degenerate: nothing set gives farAway everywhere; everything set gives zeros. Cost O(w·h).
 *  Source: Felzenszwalb & Huttenlocher 2012, Distance Transforms of Sampled Functions, doi:10.4086/toc.2012.v008a019,
 *  section 2.1 (lower envelope of parabolas); the columns are scanned twice instead, which is the same for 0/∞ input.
 */
export function squaredDistance(set: Uint8Array, w: number, h: number): Float32Array {
  const down = new Int32Array(w * h);
  const cap = w + h + 1;
  for (let x = 0; x < w; x++) down[x] = set[x] ? 0 : cap;
  for (let y = 1; y < h; y++) {
    const row = y * w;
    for (let x = 0; x < w; x++) down[row + x] = set[row + x] ? 0 : Math.min(cap, down[row - w + x] + 1);
  }
  for (let y = h - 2; y >= 0; y--) {
    const row = y * w;
    for (let x = 0; x < w; x++) {
      const below = down[row + w + x] + 1;
      if (below < down[row + x]) down[row + x] = below;
    }
  }
  const out = new Float32Array(w * h);
  const vertex = new Int32Array(w);
  const from = new Float64Array(w + 1);
  for (let y = 0; y < h; y++) {
    const row = y * w;
    let k = -1;
    for (let q = 0; q < w; q++) {
      const g = down[row + q];
      if (g >= cap) continue;
      const height = g * g + q * q;
      let s = Number.NEGATIVE_INFINITY;
      while (k >= 0) {
        const v = vertex[k];
        const gv = down[row + v];
        s = (height - (gv * gv + v * v)) / (2 * (q - v));
        if (s > from[k]) break;
        k--;
      }
      if (k < 0) s = Number.NEGATIVE_INFINITY;
      k++;
      vertex[k] = q;
      from[k] = s;
    }
    if (k < 0) {
      out.fill(farAway, row, row + w);
      continue;
    }
    const last = k;
    k = 0;
    for (let x = 0; x < w; x++) {
      while (k < last && from[k + 1] < x) k++;
      const v = vertex[k];
      const g = down[row + v];
      out[row + x] = (x - v) * (x - v) + g * g;
    }
  }
  return out;
}

/** Stands for "nothing is set anywhere". */
export const farAway = 1e12;
