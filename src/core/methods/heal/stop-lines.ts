import { noMasks, rasteriseArea } from '../../area';
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

/** Stretches of the rim where the area seems to touch something else: there the difference between target and source is
 *  an outlier (beyond 3.5 robust deviations from the median; Rousseeuw & Croux 1993, doi:10.1080/01621459.1993.10476408).
 *
 *  @param source, target, coverage  as for {@link fitTone}; not changed
 *  @returns lines along the rim, each just wide enough to let it go; none when no more than half of the rim is plain
 */
export function likelyStops(
  source: FloatImage,
  target: FloatImage,
  coverage: Float32Array,
  valid: Uint8Array | null,
): StopLine[] {
  const { rect } = source;
  const { w, h } = rect;
  const rim: number[] = [];
  const isRim = new Uint8Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      if (coverage[i] > 0 || (valid && !valid[i])) continue;
      const touches =
        (x > 0 && coverage[i - 1] > 0) ||
        (x < w - 1 && coverage[i + 1] > 0) ||
        (y > 0 && coverage[i - w] > 0) ||
        (y < h - 1 && coverage[i + w] > 0);
      if (!touches) continue;
      rim.push(i);
      isRim[i] = 1;
    }
  if (rim.length < 2 * leastStretchPx) return [];
  const off = new Float32Array(rim.length);
  for (let c = 0; c < 3; c++) {
    const d = rim.map((i) => smoothed(target, source, isRim, i, c));
    const middle = median(d);
    const spread = 1.4826 * median(d.map((v) => Math.abs(v - middle)));
    d.forEach((v, k) => {
      const limit = Math.max(outlier.least, outlier.deviations * spread);
      off[k] = Math.max(off[k], Math.abs(v - middle) / limit);
    });
  }
  const isOff = new Uint8Array(w * h);
  let count = 0;
  rim.forEach((i, k) => {
    if (off[k] <= 1) return;
    isOff[i] = 1;
    count++;
  });
  if (count > rim.length / 2) return [];
  return stretches(isOff, rect);
}

/** The difference at a rim pixel, averaged with its neighbours on the rim: grain is no edge. */
function smoothed(target: FloatImage, source: FloatImage, isRim: Uint8Array, i: number, c: number): number {
  const { w, h } = source.rect;
  const [x, y] = [i % w, Math.floor(i / w)];
  let sum = 0;
  let count = 0;
  for (let v = Math.max(0, y - 2); v <= Math.min(h - 1, y + 2); v++)
    for (let u = Math.max(0, x - 2); u <= Math.min(w - 1, x + 2); u++) {
      const q = v * w + u;
      if (!isRim[q]) continue;
      sum += target.data[4 * q + c] - source.data[4 * q + c];
      count++;
    }
  return sum / count;
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
