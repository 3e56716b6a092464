import { contours } from 'd3-contour';

/** An edge is looked at over so many points of the outline on both sides of a place, about a pixel apart. */
const reach = 110;
/** Lines are laid at every so many points. */
const every = 12;
/** …through every so-manieth point. */
const thin = 2;
/** Points within this of a line lie on it, in pixels; it holds where so many of them do… */
const onPx = 1.5;
const leastOn = 0.75;
/** …and where it leads on rather than back on itself, by so much of the points' number. */
const leastSpread = 0.6;
/** Moves an outline by at most this. */
const mostPx = 3.5;
/** What is enormous is left as it was found: a pixel takes 24 bytes here, and at that size none shows. */
const mostPixels = 8_000_000;
const farPx = Math.ceil(mostPx) + 1;
/** Tukey's weights end at so many pixels off the line, round by round; the first three rounds weigh by the inverse of the distance. */
const weightEndsPx = [0, 0, 0, 3.6, 3.6, 2.4, 1.8] as const;

/** A straight line: what lies on its inner side has ax + by ≤ c; (a, b) of length 1. */
interface Line {
  readonly a: number;
  readonly b: number;
  readonly c: number;
}

/** Draws long edges straight where the outline says that they are: of a post, a board or a rod, along which it wavers by a pixel or
 *  two where both sides look alike. What stands out from a line by more is left as it is, as are corners and things of short
 *  outline.
 *
 *  @param inside  w·h, not 0 where the thing is
 *  @returns w·h, 255 or 0
 *  Source: Beaton & Tukey 1974, doi:10.1080/00401706.1974.10489171 (weights by residuals, in turn). Cost: O(w·h + length of the outline · {@link reach} / {@link every}).
 */
export function straightEdges(inside: Uint8Array, w: number, h: number): Uint8Array {
  const out = new Uint8Array(inside.length);
  for (let i = 0; i < out.length; i++) if (inside[i] > 0) out[i] = 255;
  if (w * h > mostPixels) return out;
  // A rim of nothing all round closes outlines at the picture's edge.
  const columns = w + 2;
  const grid: number[] = new Array(columns * (h + 2)).fill(0);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      if (inside[y * w + x] > 0) grid[(y + 1) * columns + x + 1] = 1;
    }
  const found = contours()
    .size([columns, h + 2])
    .smooth(false)
    .contour(grid, 0.5);
  const nearest = new Float32Array(w * h).fill(Infinity);
  const lineOf: (Line | null)[] = [];
  /** Of each pixel, the point that it is nearest to. */
  const owner = new Int32Array(w * h);
  const owned: number[] = [];
  for (const ring of found.coordinates.flat()) {
    // The last point is the first again.
    const points = ring.slice(0, -1).map(([x, y]) => [x - 1, y - 1] as const);
    const lines = linesAlong(points);
    const lineAt = (k: number) => lines[Math.round(k / every) % lines.length];
    for (const [k, [px, py]] of points.entries()) {
      const line = lineAt(k);
      // Points without a line keep what is theirs from lines near by.
      if (!line && !lineAt(k + every) && !lineAt(k - every + points.length)) continue;
      const off = line ? line.a * px + line.b * py - line.c : Infinity;
      const at = lineOf.push(Math.abs(off) <= mostPx ? line : null) - 1;
      const [x0, x1] = [Math.max(0, Math.floor(px) - farPx), Math.min(w - 1, Math.floor(px) + farPx)];
      const [y0, y1] = [Math.max(0, Math.floor(py) - farPx), Math.min(h - 1, Math.floor(py) + farPx)];
      for (let y = y0; y <= y1; y++)
        for (let x = x0; x <= x1; x++) {
          const away = (x + 0.5 - px) ** 2 + (y + 0.5 - py) ** 2;
          if (away >= nearest[y * w + x]) continue;
          if (nearest[y * w + x] === Infinity) owned.push(y * w + x);
          nearest[y * w + x] = away;
          owner[y * w + x] = at;
        }
    }
  }
  for (const i of owned) {
    const line = nearest[i] <= (mostPx + 1) ** 2 ? lineOf[owner[i]] : null;
    if (line) out[i] = line.a * ((i % w) + 0.5) + line.b * (Math.floor(i / w) + 0.5) <= line.c ? 255 : 0;
  }
  return out;
}

type Points = readonly (readonly [x: number, y: number])[];

/** The line through every so-manieth place of an outline; null where it is not straight. */
function linesAlong(points: Points): (Line | null)[] {
  const n = points.length;
  const count = Math.max(1, Math.ceil(n / every));
  if (n < 2 * reach + 4) return new Array(count).fill(null);
  const window = new Float64Array(2 * (Math.floor((2 * reach) / thin) + 1));
  return Array.from({ length: count }, (_, k) => {
    for (let j = 0; 2 * j < window.length; j++) {
      const [x, y] = points[(k * every - reach + thin * j + n) % n];
      window[2 * j] = x;
      window[2 * j + 1] = y;
    }
    return lineThrough(window);
  });
}

/** The line that most of the points in order lie on, its inner side to the right of their way. */
function lineThrough(points: Float64Array): Line | null {
  const n = points.length / 2;
  const weights = new Float64Array(n).fill(1);
  let line = weightedLine(points, weights);
  for (const endPx of weightEndsPx) {
    for (let k = 0; k < n; k++) {
      const off = Math.abs(line.a * points[2 * k] + line.b * points[2 * k + 1] - line.c);
      weights[k] = endPx === 0 ? 1 / Math.max(0.3, off) : off < endPx ? (1 - (off / endPx) ** 2) ** 2 : 1e-3;
    }
    line = weightedLine(points, weights);
  }
  let on = 0;
  for (let k = 0; k < n; k++)
    if (Math.abs(line.a * points[2 * k] + line.b * points[2 * k + 1] - line.c) <= onPx) on++;
  if (on < leastOn * n) return null;
  const along = line.a * (points[2 * n - 1] - points[1]) - line.b * (points[2 * n - 2] - points[0]);
  if (Math.abs(along) < leastSpread * thin * n) return null;
  return along < 0 ? line : { a: -line.a, b: -line.b, c: -line.c };
}

/** Least squares of the distances. */
function weightedLine(points: Float64Array, weights: Float64Array): Line {
  let [sum, sx, sy] = [0, 0, 0];
  for (let k = 0; k < weights.length; k++) {
    sum += weights[k];
    sx += weights[k] * points[2 * k];
    sy += weights[k] * points[2 * k + 1];
  }
  const [mx, my] = [sx / sum, sy / sum];
  let [xx, xy, yy] = [0, 0, 0];
  for (let k = 0; k < weights.length; k++) {
    const [dx, dy] = [points[2 * k] - mx, points[2 * k + 1] - my];
    xx += weights[k] * dx * dx;
    xy += weights[k] * dx * dy;
    yy += weights[k] * dy * dy;
  }
  const angle = 0.5 * Math.atan2(2 * xy, xx - yy);
  const [a, b] = [-Math.sin(angle), Math.cos(angle)];
  return { a, b, c: a * mx + b * my };
}
