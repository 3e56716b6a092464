import { noMasks, rasteriseArea, squaredDistance } from '../../area';
import type { PlanePoint } from '../../geometry';
import type { StopLine } from '../../job/types';
import type { FloatImage, Rect } from '../../raster';
import { stop } from './fit-tone';

/** Stop lines as the solver sees them.
 *  @returns rect.w×rect.h: {@link stop}; null when no line comes near */
export function rasteriseStops(lines: readonly StopLine[], rect: Rect): Uint8Array | null {
  if (lines.length === 0) return null;
  const out = new Uint8Array(rect.w * rect.h);
  const shapes = lines
    .filter((line) => line.widthPx > 0)
    .map(({ points, widthPx }) => ({
      kind: 'stroke' as const,
      op: 'add' as const,
      points: points.map(([x, y]) => [x, y, 1] as const),
      radiusPx: Math.max(0.25, widthPx),
      hardness: 1,
    }));
  rasteriseArea({ shapes, marginPx: 0, featherPx: 0 }, rect, noMasks).forEach((v, i) => {
    if (v >= 0.5) out[i] = stop.beside;
  });
  for (const { points } of lines)
    for (let k = 1; k < points.length; k++) trace(points[k - 1], points[k], rect, out);
  return out.some((v) => v !== stop.none) ? out : null;
}

/** Marks the pixels that a stretch passes: touching at least at their corners, so that no four-neighbour step crosses. */
function trace(a: PlanePoint, b: PlanePoint, rect: Rect, out: Uint8Array): void {
  const count = Math.max(1, Math.ceil(2 * Math.max(Math.abs(b[0] - a[0]), Math.abs(b[1] - a[1]))));
  for (let k = 0; k <= count; k++) {
    const x = Math.floor(a[0] + ((b[0] - a[0]) * k) / count) - rect.x;
    const y = Math.floor(a[1] + ((b[1] - a[1]) * k) / count) - rect.y;
    if (x >= 0 && y >= 0 && x < rect.w && y < rect.h) out[y * rect.w + x] = stop.on;
  }
}

/** From how far off the rim's own spread a difference counts as something else, and at least, of full scale. */
const outlier = { deviations: 3.5, least: 0.06 };
/** A stretch shorter than this is chance. */
const leastStretchPx = 5;
/** Gaps in a stretch up to this are bridged. */
const gapPx = 3;

/** Where two sides are looked for, differences are means over this share of the rim, so many pixels to each side. */
const evened = { share: 1 / 20, least: 4, most: 16 };
/** Two sides lie so far apart, of full scale, and in deviations of the source along the same rim. */
const apart = { least: 0.12, ofSource: 3 };
/** So much of the rim has each side at least; and so much of it looks like its side without being evened. */
const ofRim = { least: 0.12, alike: 0.87 };
/** At an edge so much of the difference is made within this share of the rim on both its sides; light falls off all along. */
const atEdge = { share: 0.06, difference: 0.7 };
/** The source fits the one side so many times worse than the other. */
const fitsWorse = 2;
/** An edge cuts a rim in two, something long lies across it. */
const mostStretches = 3;

/** Numbers at the points of a rim, one list a channel. */
type AlongRim = readonly (readonly number[])[];

/** Stretches of the rim where the area seems to touch something else: there the difference between target and source is an outlier
 *  (beyond 3.5 robust deviations from the median; Rousseeuw & Croux 1993, doi:10.1080/01621459.1993.10476408). Where the rim lies on
 *  two sides of an edge, each too large to be an outlier, it is the side that the source fits worse.
 *
 *  @param source, target, coverage  as for {@link fitTone}; not changed
 *  @returns lines along the rim, each just wide enough to let it go
 */
export function likelyStops(
  source: FloatImage,
  target: FloatImage,
  coverage: Float32Array,
  valid: Uint8Array | null,
): StopLine[] {
  const { rect } = source;
  const rim = rimAt(rect, coverage, valid);
  if (rim.length < 2 * leastStretchPx) return [];
  // A side is larger than what is an outlier, which may be chance.
  const side = worseSide(rim, target, source);
  const along = side ? linesAlong(rim, side, rect) : [];
  if (along.length > 0 && along.length <= mostStretches) return along;
  return linesAlong(rim, outliers(differences(rim, target, source, 2)), rect);
}

/** Pixels of a rectangle right beside what is covered, with what the source has there. */
function rimAt({ w, h }: Rect, coverage: Float32Array, valid: Uint8Array | null): number[] {
  const rim: number[] = [];
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      if (coverage[i] > 0 || (valid && !valid[i])) continue;
      const touches =
        (x > 0 && coverage[i - 1] > 0) ||
        (x < w - 1 && coverage[i + 1] > 0) ||
        (y > 0 && coverage[i - w] > 0) ||
        (y < h - 1 && coverage[i + w] > 0);
      if (touches) rim.push(i);
    }
  return rim;
}

/** Which points differ from most; none where that is no more than half of them. */
function outliers(d: AlongRim): boolean[] {
  const limits = d.map((channel) => {
    const middle = median(channel);
    const spread = 1.4826 * median(channel.map((v) => Math.abs(v - middle)));
    return { middle, limit: Math.max(outlier.least, outlier.deviations * spread) };
  });
  const isOff = d[0].map((_, k) => limits.some(({ middle, limit }, c) => Math.abs(d[c][k] - middle) > limit));
  return isOff.filter(Boolean).length > isOff.length / 2 ? isOff.map(() => false) : isOff;
}

/** Which points of a rim lie on the side that the source fits worse, where an edge cuts the rim in two; null where none does. */
function worseSide(rim: readonly number[], target: FloatImage, source: FloatImage): boolean[] | null {
  const reach = Math.min(evened.most, Math.max(evened.least, Math.round(evened.share * rim.length)));
  const even = differences(rim, target, source, reach);
  const isUpper = twoSides(even);
  if (!isUpper) return null;
  const means = sideMeans(even, isUpper);
  const between = Math.hypot(...means[0].map((v, c) => v - means[1][c]));
  const ofSource = deviation(evenedOf(rim, source, reach));
  const least = Math.max(apart.least, apart.ofSource * ofSource);
  const [better, worse] = means.map((mean) => Math.hypot(...mean)).sort((a, b) => a - b);
  if (between < least || worse < fitsWorse * better) return null;
  // What follows from being evened is no edge.
  const fine = differences(rim, target, source, 2);
  const fineMeans = sideMeans(fine, isUpper);
  const isAlike = isUpper.filter((is, k) => nearer(fine, k, fineMeans) === is);
  if (isAlike.length < ofRim.alike * rim.length) return null;
  // Evened over less, it is better seen where the edge crosses.
  const nearby = differences(rim, target, source, Math.ceil(reach / 3));
  const isBeyond = isUpper.map((_, k) => nearer(nearby, k, fineMeans));
  const [one, other] = sideMeans(fine, isBeyond, atTheEdge(rim, isBeyond, target.rect));
  if (Math.hypot(...one.map((v, c) => v - other[c])) < atEdge.difference * between) return null;
  const isWorse = Math.hypot(...means[1]) === worse;
  return isUpper.map((is) => is === isWorse);
}

/** Parts points in two: two means (Lloyd 1982, doi:10.1109/TIT.1982.1056489), begun with the halves of the channel that varies most;
 *  null when one of them has hardly any. */
function twoSides(d: AlongRim): boolean[] | null {
  const ends = d.map((channel) =>
    channel.reduce(([low, high], v) => [Math.min(low, v), Math.max(high, v)], [Infinity, -Infinity]),
  );
  const widest = ends.reduce((w, [low, high], c) => (high - low > ends[w][1] - ends[w][0] ? c : w), 0);
  const middle = (ends[widest][0] + ends[widest][1]) / 2;
  let isUpper = d[widest].map((v) => v > middle);
  for (let round = 0; round < 8; round++) {
    const upper = isUpper.filter(Boolean).length;
    if (Math.min(upper, isUpper.length - upper) < ofRim.least * isUpper.length) return null;
    const means = sideMeans(d, isUpper);
    isUpper = isUpper.map((_, k) => nearer(d, k, means));
  }
  return isUpper;
}

/** Which points lie near one of the other side. */
function atTheEdge(rim: readonly number[], isUpper: readonly boolean[], { w, h }: Rect): boolean[] {
  const room = Math.max(3, atEdge.share * rim.length);
  const [lower, upper] = [false, true].map((side) => {
    const own = new Uint8Array(w * h);
    rim.forEach((i, k) => {
      if (isUpper[k] === side) own[i] = 1;
    });
    return squaredDistance(own, w, h);
  });
  return rim.map((i, k) => (isUpper[k] ? lower : upper)[i] < room * room);
}

/** The mean of each side, of those points that count. */
function sideMeans(d: AlongRim, isUpper: readonly boolean[], counts?: readonly boolean[]): number[][] {
  return [false, true].map((side) =>
    d.map((channel) => {
      let [sum, count] = [0, 0];
      channel.forEach((v, k) => {
        if (isUpper[k] !== side || counts?.[k] === false) return;
        sum += v;
        count++;
      });
      return sum / Math.max(1, count);
    }),
  );
}

/** Whether a point is nearer to the second mean. */
function nearer(d: AlongRim, k: number, means: readonly (readonly number[])[]): boolean {
  const [one, other] = means.map((mean) => Math.hypot(...mean.map((v, c) => d[c][k] - v)));
  return other < one;
}

/** Root mean square distance from the mean. */
function deviation(d: AlongRim): number {
  const squares = d.map((channel) => {
    const mean = channel.reduce((sum, v) => sum + v, 0) / channel.length;
    return channel.reduce((sum, v) => sum + (v - mean) ** 2, 0) / channel.length;
  });
  return Math.sqrt(squares.reduce((sum, v) => sum + v, 0));
}

const differences = (
  rim: readonly number[],
  target: FloatImage,
  source: FloatImage,
  reach: number,
): AlongRim => {
  const [t, s] = [evenedOf(rim, target, reach), evenedOf(rim, source, reach)];
  return t.map((channel, c) => channel.map((v, k) => v - s[c][k]));
};

/** Colours along a rim, each the mean of what lies on the rim up to so far off: grain is no edge. */
function evenedOf(rim: readonly number[], { rect: { w, h }, data }: FloatImage, reach: number): AlongRim {
  const isRim = new Uint8Array(w * h);
  for (const i of rim) isRim[i] = 1;
  const out: [number[], number[], number[]] = [[], [], []];
  for (const i of rim) {
    const [x, y] = [i % w, Math.floor(i / w)];
    const sums = [0, 0, 0];
    let count = 0;
    for (let v = Math.max(0, y - reach); v <= Math.min(h - 1, y + reach); v++)
      for (let u = Math.max(0, x - reach); u <= Math.min(w - 1, x + reach); u++) {
        const q = v * w + u;
        if (!isRim[q]) continue;
        for (let c = 0; c < 3; c++) sums[c] += data[4 * q + c];
        count++;
      }
    for (let c = 0; c < 3; c++) out[c].push(sums[c] / count);
  }
  return out;
}

/** The points of a rim that are marked, as lines. */
function linesAlong(rim: readonly number[], is: readonly boolean[], rect: Rect): StopLine[] {
  const marked = new Uint8Array(rect.w * rect.h);
  rim.forEach((i, k) => {
    if (is[k]) marked[i] = 1;
  });
  return stretches(marked, rect);
}

function median(values: readonly number[]): number {
  const sorted = Float64Array.from(values).sort();
  return sorted[sorted.length >> 1];
}

/** Connected runs of marked pixels as polylines: from one end along the nearest unvisited neighbours. */
function stretches(marked: Uint8Array, rect: Rect): StopLine[] {
  const { w } = rect;
  const left = new Set<number>();
  marked.forEach((v, i) => {
    if (v) left.add(i);
  });
  const lines: StopLine[] = [];
  while (left.size > 0) {
    const start = left.values().next().value as number;
    left.delete(start);
    const run = [start];
    for (const ahead of [true, false])
      for (let at: number | null = ahead ? run[run.length - 1] : run[0]; at !== null; ) {
        at = nearestLeft(at, left, w);
        if (at === null) break;
        left.delete(at);
        if (ahead) run.push(at);
        else run.unshift(at);
      }
    if (run.length < leastStretchPx) continue;
    const every = Math.max(1, Math.floor(run.length / 60));
    const points = run
      .filter((_, k) => k % every === 0 || k === run.length - 1)
      .map((i) => [rect.x + (i % w) + 0.5, rect.y + Math.floor(i / w) + 0.5] as const);
    lines.push({ points, widthPx: every + 2 });
  }
  return lines;
}

function nearestLeft(from: number, left: ReadonlySet<number>, w: number): number | null {
  let found: number | null = null;
  let best = Infinity;
  for (let v = -gapPx; v <= gapPx; v++)
    for (let u = -gapPx; u <= gapPx; u++) {
      const q = from + v * w + u;
      const d = u * u + v * v;
      if (d >= best || !left.has(q)) continue;
      best = d;
      found = q;
    }
  return found;
}
