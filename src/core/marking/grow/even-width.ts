import type { StrokeShape } from '../../area';
import type { Rect } from '../../raster';
import { type StraightPart, straightParts } from './straight-part';
import type { Ground } from './way';

type Points = StrokeShape['points'];
/** Colours, and where they are in the photo. */
type Placed = Ground & Rect;

/** Something is thin where it is so many times as long as wide, and a stroke so many of its radii long tells. */
const leastSlender = 12;
const leastRadii = 8;
/** What sticks out of something thin by more than this, in pixels… */
const slackPx = 1.5;
const slackShare = 0.15;
/** …along no more of it than this share, and is at most so many times as wide with it, does not belong to it. */
const mostShare = 0.35;
const mostWidths = { alike: 2, unlike: 10 } as const;
const alikeColours = 18;
/** The softest of edges is taken away with it. */
const beyondPx = 2;
const stepPx = 0.5;
/** A stroke is looked at in so many parts. */
const parts = 11;
/** What clings only adds: the reach of a part is less than its median. */
const lowerShare = 0.35;
/** Half of the parts end within this of a straight line, or it is none. */
const mostBentPx = 1;

/** Takes away what clings to something thin that was scribbled along, such as a rod before branches: small bulges, and what is larger
 *  and of another colour than the thin thing itself. What reaches farther out, goes on to an end of the stroke or was scribbled over
 *  stays.
 *
 *  @param inside  w·h of `rect`, not 0 where the thing is
 *  @param isSaid  of a pixel: it lies under a scribble
 *  @returns itself when nothing clings. Cost: O(length of the strokes · width of what lies under them), next to nothing for what is wide.
 */
export function evenWidth<Mask extends Uint8Array>(
  inside: Mask,
  ground: Placed,
  strokes: readonly StrokeShape[],
  isSaid: (pixel: number) => boolean,
): Mask {
  let out = inside;
  for (const { points, radiusPx } of strokes)
    for (const part of straightParts(points, radiusPx, leastRadii * radiusPx))
      for (const pixels of clinging(inside, ground, lineAlong(points, part)))
        if (!pixels.some(isSaid)) {
          if (out === inside) out = inside.slice() as Mask;
          for (const i of pixels) out[i] = 0;
        }
  return out;
}

/** A straight line from pixel to pixel, and how far beside it a stroke passes at each, to the left negative. */
interface Line {
  readonly from: StraightPart['start'];
  readonly n: number;
  readonly ux: number;
  readonly uy: number;
  readonly off: Float64Array;
}

function lineAlong(points: Points, { from, to, start, end }: StraightPart): Line {
  const length = Math.hypot(end[0] - start[0], end[1] - start[1]);
  const [ux, uy] = [(end[0] - start[0]) / length, (end[1] - start[1]) / length];
  const n = Math.floor(length);
  const off = new Float64Array(n + 1);
  for (let p = from + 1; p <= to; p++) {
    const [[k0, d0], [k1, d1]] = [points[p - 1], points[p]].map(([x, y]) => {
      const [dx, dy] = [x - start[0], y - start[1]];
      return [dx * ux + dy * uy, dy * ux - dx * uy];
    });
    for (let k = Math.max(0, Math.ceil(k0)); k <= Math.min(n, k1); k++)
      off[k] = k1 > k0 ? d0 + ((d1 - d0) * (k - k0)) / (k1 - k0) : d1;
  }
  return { from: start, n, ux, uy, off };
}

/** Pixels of all that sticks out beside a straight line along something thin, one list for each place. */
function clinging(inside: Uint8Array, ground: Placed, line: Line): number[][] {
  const { n } = line;
  const fewAcross = Array.from({ length: parts }, (_, p) => {
    const k = Math.round((p * n) / (parts - 1));
    return reachAt(inside, ground, line, -1, k) + reachAt(inside, ground, line, 1, k);
  });
  if (leastSlender * medianOf(fewAcross) > 2 * n) return [];
  const sides = [-1, 1].map((side) => line.off.map((_, k) => reachAt(inside, ground, line, side, k)));
  const width = medianOf(sides[0]) + medianOf(sides[1]);
  const usual = sides.map((reach) => usualReach(reach, n));
  if (width <= 0 || leastSlender * width > n || usual.some(({ isStraight }) => !isStraight)) return [];
  const slack = Math.max(slackPx, slackShare * width);
  // Something that sways reaches farther on one side and less far on the other.
  const isWide = (k: number) =>
    sides[0][k] + sides[1][k] > usual[0].at(k) + usual[1].at(k) + slack &&
    sides.some((reach, s) => reach[k] > usual[s].at(k) + slack);
  const [left, right] = [-1, 1].map((side, s) => ({ side, reach: sides[s], usual: usual[s] }));
  const own = meanColour(
    ground,
    along(ground, line, (k) => (right.usual.at(k) - left.usual.at(k)) / 2),
  );
  const found: number[][] = [];
  for (let first = 0; first <= n; first++) {
    if (!isWide(first)) continue;
    let end = first;
    let widest = 0;
    for (; end <= n && isWide(end); end++) widest = Math.max(widest, left.reach[end] + right.reach[end]);
    if (first > 0 && end <= n && end - first <= mostShare * n && widest <= mostWidths.unlike * width) {
      const pixels = [left, right].flatMap((half) => beside(ground, line, half, first - 1, end));
      const unlike = Math.hypot(...meanColour(ground, pixels).map((v, c) => v - own[c]));
      if (widest <= mostWidths.alike * width || unlike > alikeColours) found.push(pixels);
    }
    first = end;
  }
  return found;
}

/** How far the thing reaches to one side of a line at one of its pixels, from the stroke on without a gap. */
function reachAt(inside: Uint8Array, { x, y, w, h }: Rect, line: Line, side: number, k: number): number {
  const { from, n, ux, uy, off } = line;
  let reach = side * off[k];
  for (const most = reach + n; reach < most; reach += stepPx) {
    const d = side * (reach + stepPx);
    const u = Math.floor(from[0] + k * ux - d * uy) - x;
    const v = Math.floor(from[1] + k * uy + d * ux) - y;
    if (u < 0 || v < 0 || u >= w || v >= h || inside[v * w + u] === 0) break;
  }
  return reach;
}

/** The edge of something straight beside a line. */
interface UsualReach {
  at(k: number): number;
  readonly isStraight: boolean;
}

/** How far it reaches by and large: something thin may taper, and the stroke lie a little askew on it. The line through the parts'
 *  reaches that has the median of their slopes.
 *
 *  Source: Sen 1968, doi:10.1080/01621459.1968.10480934.
 */
function usualReach(reach: Float64Array, n: number): UsualReach {
  const middles = Array.from({ length: parts }, (_, p) => ((p + 0.5) * n) / parts);
  const values = middles.map((_, p) =>
    medianOf(reach.slice((p * n) / parts, ((p + 1) * n) / parts), lowerShare),
  );
  const slope = medianOf(
    values.flatMap((v, p) => values.slice(0, p).map((u, q) => (v - u) / (middles[p] - middles[q]))),
  );
  const start = medianOf(values.map((v, p) => v - slope * middles[p]));
  const at = (k: number) => start + slope * k;
  return { at, isStraight: medianOf(values.map((v, p) => Math.abs(v - at(middles[p])))) <= mostBentPx };
}

function medianOf(values: Iterable<number>, share = 0.5): number {
  const sorted = Float64Array.from(values).sort();
  return sorted[Math.floor(sorted.length * share)];
}

/** One side of a line. */
interface Half {
  readonly side: number;
  readonly reach: Float64Array;
  readonly usual: UsualReach;
}

/** The pixels beyond the usual reach on one side of a stretch. */
function beside(
  { x, y, w, h }: Rect,
  { from, ux, uy }: Line,
  { side, reach, usual }: Half,
  first: number,
  last: number,
): number[] {
  const farthest = reach.slice(first, last + 1).reduce((m, v) => Math.max(m, v), 0) + beyondPx;
  const corners = [first, last].flatMap((k) =>
    [usual.at(k), farthest].map((d) => [from[0] + k * ux - side * d * uy, from[1] + k * uy + side * d * ux]),
  );
  const [xs, ys] = [0, 1].map((c) => corners.map((p) => p[c]));
  const [x0, x1] = [
    Math.max(0, Math.floor(Math.min(...xs)) - x),
    Math.min(w - 1, Math.ceil(Math.max(...xs)) - x),
  ];
  const [y0, y1] = [
    Math.max(0, Math.floor(Math.min(...ys)) - y),
    Math.min(h - 1, Math.ceil(Math.max(...ys)) - y),
  ];
  const pixels: number[] = [];
  for (let v = y0; v <= y1; v++)
    for (let u = x0; u <= x1; u++) {
      const dx = u + x + 0.5 - from[0];
      const dy = v + y + 0.5 - from[1];
      const k = Math.round(dx * ux + dy * uy);
      const d = side * (dy * ux - dx * uy);
      if (k >= first && k <= last && d > usual.at(k) && d <= reach[k] + beyondPx) pixels.push(v * w + u);
    }
  return pixels;
}

/** The pixels along a line, so far beside it. */
function along({ x, y, w, h }: Rect, { from, n, ux, uy }: Line, off: (k: number) => number): number[] {
  const pixels: number[] = [];
  for (let k = 0; k <= n; k++) {
    const u = Math.floor(from[0] + k * ux - off(k) * uy) - x;
    const v = Math.floor(from[1] + k * uy + off(k) * ux) - y;
    if (u >= 0 && v >= 0 && u < w && v < h) pixels.push(v * w + u);
  }
  return pixels;
}

function meanColour({ values }: Ground, pixels: readonly number[]): number[] {
  const sum = [0, 0, 0];
  for (const i of pixels) for (let c = 0; c < 3; c++) sum[c] += values[3 * i + c];
  return sum.map((v) => v / Math.max(1, pixels.length));
}
