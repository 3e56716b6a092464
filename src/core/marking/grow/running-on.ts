import type { StrokeShape } from '../../area';
import type { Seen } from '../seen';
import { bestHalfWidth, follow, meanAlong, respond, straightened } from '../span/path';
import { clickSlack, readStrip, type SpanPoint, type Strip } from '../span/strip';

type Points = StrokeShape['points'];

/** The end of a stroke is straight for so many of its radii at least, or tells nothing about where it would go on. */
const leastLength = 8;
/** A line runs on by so much of the straight end at most. */
const mostOn = 0.25;
/** Wider ones the cut follows by itself. Half of the width, in pixels. */
const mostHalf = 4;
/** By how much of CIELAB a line must stand out from both its sides. */
const leastResponse = 6;
/** A place belongs to the line where it differs from that by so much of what the nearer of its sides differs. */
const likeness = 0.6;
/** A place is looked at together with so many on both sides; so many may be unlike, as where a line passes before an edge. */
const besidePx = 3;
const mostUnlikePx = 12;
const leastOnPx = 3;
const colourPx = 40;
/** The line is told from what lies so far beside it, by so much of it. */
const reach = clickSlack + 6 * mostHalf;
const lookedAtPx = 400;

/** A scribble along something no wider than itself, such as a rod or a rope, made longer at both ends as far as that runs on: few
 *  scribble a thin thing to its very end, and a cut would rather end it early than follow it. All others come back as they are. */
export function runningOn(seen: Seen, stroke: StrokeShape): StrokeShape {
  const { points, radiusPx } = stroke;
  const first = [...points].reverse();
  const before = beyond(seen, first, radiusPx);
  const behind = beyond(seen, points, radiusPx);
  if (!before && !behind) return stroke;
  const head: Points = before ? [[...before, points[0][2]]] : [];
  const tail: Points = behind ? [[...behind, first[0][2]]] : [];
  return { ...stroke, points: [...head, ...points, ...tail] };
}

/** How far the line that a stroke's last end lies on runs on beyond it; null: it does not, or there is none. */
function beyond(seen: Seen, points: Points, radiusPx: number): SpanPoint | null {
  const end = straightEnd(points, radiusPx);
  if (!end) return null;
  const [a, b] = end;
  const strip = readStrip(seen, lastOf(a, b, lookedAtPx), b, reach);
  if (!strip) return null;
  const half = bestHalfWidth(strip);
  if (half > Math.min(radiusPx, mostHalf)) return null;
  const response = respond(strip, half);
  const path = straightened(follow(strip, response, () => ({ middle: 0, slack: clickSlack })));
  if (meanAlong(strip, response, path, 0) < leastResponse) return null;
  const own = colourAlong(strip, (k) => path[k], Math.max(0, strip.n - colourPx), strip.n, half);
  const on = readStrip(seen, b, [b[0] + mostOn * (b[0] - a[0]), b[1] + mostOn * (b[1] - a[1])], reach);
  if (!on) return null;
  const slope = (path[strip.n - 1] - path[0]) / (strip.n - 1);
  const middle = (k: number) => path[strip.n - 1] + slope * k;
  const isLike = (k: number): boolean => {
    const [from, to] = [Math.max(0, k - besidePx), Math.min(on.n, k + besidePx + 1)];
    const [here, left, right] = [0, -1, 1].map((side) => {
      const colour = colourAlong(on, (j) => middle(j) + side * (2.5 * half + 2), from, to, half);
      return Math.hypot(...colour.map((v, c) => v - own[c]));
    });
    return here < likeness * Math.min(left, right);
  };
  let last = 0;
  for (let k = 0; k < on.n && k - last <= mostUnlikePx; k++) if (isLike(k)) last = k;
  return last < leastOnPx ? null : on.at(last, middle(last));
}

/** The straight stretch that a stroke ends with: as long as none of its points lies more than a radius off it. */
function straightEnd(points: Points, radiusPx: number): [SpanPoint, SpanPoint] | null {
  const [bx, by] = points[points.length - 1];
  let best: SpanPoint | null = null;
  for (let from = points.length - 2; from >= 0; from--) {
    const [ax, ay] = points[from];
    const length = Math.hypot(bx - ax, by - ay);
    if (length === 0) continue;
    const off = ([x, y]: Points[number]) => Math.abs((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / length;
    if (points.slice(from + 1).some((p) => off(p) > radiusPx)) break;
    if (length >= leastLength * radiusPx) best = [ax, ay];
  }
  return best && [best, [bx, by]];
}

/** Where the last so many pixels of a line begin. */
function lastOf(a: SpanPoint, b: SpanPoint, px: number): SpanPoint {
  const share = Math.min(1, px / Math.hypot(b[0] - a[0], b[1] - a[1]));
  return [b[0] + share * (a[0] - b[0]), b[1] + share * (a[1] - b[1])];
}

/** The mean colour within a line's width about a path. */
function colourAlong(
  { lab, width, reach }: Strip,
  path: (k: number) => number,
  from: number,
  to: number,
  half: number,
): number[] {
  const out = [0, 0, 0];
  const core = Math.max(0, Math.round(half) - 1);
  for (let k = from; k < to; k++)
    for (let d = -core; d <= core; d++) {
      const o = Math.max(0, Math.min(width - 1, Math.round(path(k) + d) + reach));
      for (let c = 0; c < 3; c++) out[c] += lab[3 * (k * width + o) + c];
    }
  return out.map((v) => v / ((to - from) * (2 * core + 1)));
}
