import { type Point, sizeOf } from './closed-line';
import { squaredBetween } from './links';
import type { Ground } from './way';

/** Edges are looked for on both sides of a ring at so many places, as far off as this share of its width. */
const places = 64;
const reach = 0.5;
/** Differences of colour are told from the picture's unevenness by so much CIELAB. */
const unevenness = 2;

/** How much stronger the strongest edge outside a ring is than the one inside it: ln of their ratio, the mean all along. Something that
 *  is ringed has its outline inside; where the ring lies on the thing, it is outside. The measure is ours.
 *
 *  @param ring  closed, in the picture's pixels, at least three points
 *  @param radius  of the stroke: what lies under it is looked at on neither side
 */
export function edgesOutside(ground: Ground, ring: readonly Point[], radius: number): number {
  const { w, h } = ground;
  const colours = evened(ground);
  const points = evenlySpaced(ring, places);
  const { area } = sizeOf(points);
  const far = reach * Math.sqrt(Math.abs(area));
  const pixelAt = (x: number, y: number): number | null => {
    const [u, v] = [Math.floor(x), Math.floor(y)];
    return u < 0 || v < 0 || u >= w || v >= h ? null : v * w + u;
  };
  const strongest = ([x, y]: Point, dx: number, dy: number): number => {
    let best = 0;
    for (let off = Math.max(radius, 1.5); off < far; off++) {
      const one = pixelAt(x + dx * (off - 1), y + dy * (off - 1));
      const other = pixelAt(x + dx * (off + 1), y + dy * (off + 1));
      if (one === null || other === null) break;
      best = Math.max(best, Math.sqrt(squaredBetween(colours, one, other)));
    }
    return best;
  };
  let [sum, count] = [0, 0];
  points.forEach((point, k) => {
    if (pixelAt(...point) === null) return;
    const [before, after] = [points.at(k - 1)!, points[(k + 1) % points.length]];
    const length = Math.max(1e-6, Math.hypot(after[0] - before[0], after[1] - before[1])) * Math.sign(area);
    const [dx, dy] = [(after[1] - before[1]) / length, (before[0] - after[0]) / length];
    sum += Math.log((strongest(point, dx, dy) + unevenness) / (strongest(point, -dx, -dy) + unevenness));
    count++;
  });
  return count > 0 ? sum / count : 0;
}

/** Points along a closed line, as far from each other as they may. */
function evenlySpaced(line: readonly Point[], count: number): Point[] {
  const closed = [...line, line[0]];
  const lengths = closed.slice(1).map(([x, y], k) => Math.hypot(x - closed[k][0], y - closed[k][1]));
  const step = lengths.reduce((sum, v) => sum + v, 0) / count;
  const out: Point[] = [];
  let [leg, behind] = [0, 0];
  for (let k = 0; k < count; k++) {
    while (leg < lengths.length - 1 && behind + lengths[leg] < k * step) behind += lengths[leg++];
    const share = lengths[leg] > 0 ? Math.min(1, (k * step - behind) / lengths[leg]) : 0;
    const [[ax, ay], [bx, by]] = [closed[leg], closed[leg + 1]];
    out.push([ax + share * (bx - ax), ay + share * (by - ay)]);
  }
  return out;
}

/** Means of 3 × 3. */
function evened({ w, h, values }: Ground): Float32Array {
  const out = new Float32Array(3 * w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let count = 0;
      for (let v = Math.max(0, y - 1); v <= Math.min(h - 1, y + 1); v++)
        for (let u = Math.max(0, x - 1); u <= Math.min(w - 1, x + 1); u++) {
          for (let c = 0; c < 3; c++) out[3 * (y * w + x) + c] += values[3 * (v * w + u) + c];
          count++;
        }
      for (let c = 0; c < 3; c++) out[3 * (y * w + x) + c] /= count;
    }
  return out;
}
