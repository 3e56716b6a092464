import { noMasks, rasteriseArea } from '../../area';
import type { PlanePoint } from '../../geometry';
import type { StopLine } from '../../job/types';
import type { FloatImage, Rect } from '../../raster';
import { select } from '../../statistics';
import { stop } from './fit-tone';
import { prevailing } from './prevailing';
import { type AlongRim, coloursAlong, evened, type Rim, rimPlaces } from './rim';

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

/** A stretch shorter than this is chance. */
const leastStretchPx = 5;
/** Gaps in a stretch up to this are bridged. */
const gapPx = 3;

/** At which sizes it is looked for: in means over this share of the rim to each side, in pixels, once as fine and once coarser than
 *  bricks and leaves are. What is found with coarse ones must lie so many times as far off as it need. */
const sizes = [
  { share: 0.04, least: 4, most: 24, clearly: 1 },
  { share: 0.1, least: 4, most: 60, clearly: 1.5 },
];
/** Where it ends is looked for in means over less, this far round it: there half of the difference is left. */
const ends = { finer: 0.4, within: 0.5, left: 0.5 };
/** Light differs from place to place more than colour does: how much a unit of lightness counts and one of colour. */
const counts = { lightness: 0.5, colour: 4 };
/** What is no difference yet, in such units: at least, and in deviations of the source along the same rim. */
const alike = { least: 0.05, ofSource: 2 };
/** So much of the rim, the nearest to it, surely belongs to what prevails: as far off as that lies is its spread. */
const surely = 1 / 3;
/** What is let go lies farther off than this, and on no more than this share of the rim. */
const letGo = { farther: 0.1, most: 0.6 };
/** It lies farther off than so many spreads, too, and so many times what is no difference yet, and on so much of the rim at least. Who asks
 *  is shown more than who does not. */
const limits = {
  asked: { spreads: 3.9, unlike: 1, share: 0.03 },
  unasked: { spreads: 6, unlike: 1.5, share: 0.06 },
};

/** Stretches of the rim where the area seems to touch something else: there the difference between target and source is not the one that
 *  prevails along the rim.
 *
 *  @param source, target, coverage  as for {@link fitTone}; not changed
 *  @param isAsked  whether somebody looks for them; what is offered unasked must be surer
 *  @returns lines along the rim, each just wide enough to let it go
 */
export function likelyStops(
  source: FloatImage,
  target: FloatImage,
  coverage: Float32Array,
  valid: Uint8Array | null,
  isAsked: boolean,
): StopLine[] {
  const rim = rimPlaces(source.rect, coverage, valid);
  if (rim.xs.length < 2 * leastStretchPx) return [];
  const ofSource = weighed(coloursAlong(rim, source));
  const ofTarget = weighed(coloursAlong(rim, target));
  const difference = ofTarget.map((channel, c) => channel.map((v, k) => v - ofSource[c][k]));
  const found = sizes
    .map((size) => offAt(size, difference, ofSource, rim, isAsked ? limits.asked : limits.unasked))
    .filter((off) => off !== null);
  if (found.length === 0) return [];
  return linesAlong(rim, found.reduce((a, b) => (b.clearness > a.clearness ? b : a)).isOff);
}

/** Which points lie off what prevails, seen at one size, and how clearly; null where hardly any do, or most. */
function offAt(
  { share, least, most, clearly }: (typeof sizes)[number],
  difference: AlongRim,
  ofSource: AlongRim,
  rim: Rim,
  limit: (typeof limits)[keyof typeof limits],
): { isOff: boolean[]; clearness: number } | null {
  const count = rim.xs.length;
  const reach = Math.min(most, Math.max(least, Math.round(share * count)));
  const scale = Math.max(alike.least, alike.ofSource * deviation(evened(ofSource, rim, reach)));
  const wide = evened(difference, rim, reach);
  const farOff = prevailing(wide, rim, scale);
  const off = farOff(wide);
  const spread = select(Float32Array.from(off), count, Math.floor(surely * count));
  const farther = Math.max(letGo.farther, limit.spreads * spread, limit.unlike * scale);
  const beyond = off.map((v) => v > farther);
  const far = off.filter((_, k) => beyond[k]);
  const mean = far.reduce((sum, v) => sum + v, 0) / far.length;
  if (far.length === 0 || mean < clearly * farther) return null;
  const within = (by: number) => Math.max(2, Math.round(by * reach));
  const [near] = evened([beyond.map(Number)], rim, within(ends.within));
  const isOff = farOff(evened(difference, rim, within(ends.finer))).map(
    (v, k) => near[k] > 0 && v > ends.left * mean,
  );
  const on = isOff.filter(Boolean).length / count;
  if (on < limit.share || on > letGo.most) return null;
  return { isOff, clearness: (mean / farther) * Math.sqrt(on) };
}

/** Root mean square distance from the mean. */
function deviation(d: AlongRim): number {
  const squares = d.map((channel) => {
    const mean = channel.reduce((sum, v) => sum + v, 0) / channel.length;
    return channel.reduce((sum, v) => sum + (v - mean) ** 2, 0) / channel.length;
  });
  return Math.sqrt(squares.reduce((sum, v) => sum + v, 0));
}

/** Lightness and two opponent colours, each by how much it counts. */
function weighed([r, g, b]: AlongRim): AlongRim {
  const { lightness, colour } = counts;
  return [
    r.map((v, k) => (lightness * (v + g[k] + b[k])) / Math.sqrt(3)),
    r.map((v, k) => (colour * (v - g[k])) / Math.sqrt(2)),
    r.map((v, k) => (colour * (v + g[k] - 2 * b[k])) / Math.sqrt(6)),
  ];
}

/** The points of a rim that are marked, as lines. */
function linesAlong({ rect, xs, ys }: Rim, is: readonly boolean[]): StopLine[] {
  const marked = new Uint8Array(rect.w * rect.h);
  xs.forEach((x, k) => {
    if (is[k]) marked[ys[k] * rect.w + x] = 1;
  });
  return stretches(marked, rect);
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
