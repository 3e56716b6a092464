/** A picture to walk over. */
export interface Ground {
  readonly w: number;
  readonly h: number;
  /** w·h CIELAB, three a pixel. */
  readonly values: Float32Array;
}

/** Rows down and up again are enough for ways that turn back twice. */
const passes = 3;
/** Steps up to so many times the median difference of neighbours are the picture's own unevenness. */
const unevenness = 1.5;

/** The length of the cheapest way from any seed to each pixel: every step costs its length, and more where it crosses an edge.
 *
 *  @param seeds  w·h, 1 where ways start; without any, all is `most`
 *  @param stepCost  of one pixel's step
 *  @param edgeCost  of each unit of colour difference (CIELAB) beyond what the picture has everywhere
 *  @param most  longer ways count as this
 *  @returns w·h, 0…most. Ways that wind more than a few times come out longer than they are.
 *  Source: Criminisi, Sharp & Blake 2008, GeoS: Geodesic Image Segmentation, doi:10.1007/978-3-540-88682-2_9, section 2.2
 *  (raster passes); Borgefors 1986, doi:10.1016/S0734-189X(86)80047-0.
 */
export function wayFrom(
  { w, h, values }: Ground,
  seeds: Uint8Array,
  stepCost: number,
  edgeCost: number,
  most: number,
): Float32Array {
  const way = new Float32Array(w * h).fill(most);
  for (let i = 0; i < way.length; i++) if (seeds[i]) way[i] = 0;
  const between = (p: number, q: number) => {
    const l = values[3 * p] - values[3 * q];
    const a = values[3 * p + 1] - values[3 * q + 1];
    const b = values[3 * p + 2] - values[3 * q + 2];
    return Math.sqrt(l * l + a * a + b * b);
  };
  const level = unevenness * medianStep(w, h, between);
  const relax = (x: number, y: number, dx: number, dy: number) => {
    if (x + dx < 0 || x + dx >= w || y + dy < 0 || y + dy >= h) return;
    const i = y * w + x;
    const j = i + dy * w + dx;
    if (way[j] >= way[i]) return;
    const step = way[j] + (dx !== 0 && dy !== 0 ? Math.SQRT2 : 1) * stepCost;
    if (step >= way[i]) return;
    const cost = step + edgeCost * Math.max(0, between(i, j) - level);
    if (cost < way[i]) way[i] = cost;
  };
  for (let pass = 0; pass < passes; pass++) {
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        relax(x, y, -1, 0);
        relax(x, y, -1, -1);
        relax(x, y, 0, -1);
        relax(x, y, 1, -1);
      }
    for (let y = h - 1; y >= 0; y--)
      for (let x = w - 1; x >= 0; x--) {
        relax(x, y, 1, 0);
        relax(x, y, 1, 1);
        relax(x, y, 0, 1);
        relax(x, y, -1, 1);
      }
  }
  return way;
}

function medianStep(w: number, h: number, between: (p: number, q: number) => number): number {
  const steps = new Float32Array((w - 1) * h);
  for (let k = 0; k < steps.length; k++) {
    const i = Math.floor(k / (w - 1)) * w + (k % (w - 1));
    steps[k] = between(i, i + 1);
  }
  return steps.sort()[steps.length >> 1] ?? 0;
}
