import type { StrokeShape } from '../../area';
import type { Seen } from '../seen';
import { bestHalfWidth, follow, meanAlong, respond, straightened } from '../span/path';
import { clickSlack, readStrip, type SpanPoint, type Strip } from '../span/strip';
import { straightParts } from './straight-part';

/** The end of a stroke is straight for so many of its radii at least, or tells nothing about where it would go on. */
const leastLength = 8;
/** A line runs on by so much of the straight end at most. */
const mostOn = 0.25;
/** Wider ones the cut follows by itself. Half of the width, in pixels. */
const mostHalf = 4;
/** A broader stroke is looked at in a picture halved until it is not, for a large photo's thin things are wider. */
const usualRadius = 6;
/** By how much of CIELAB a line must stand out from both its sides. */
const leastResponse = 6;
/** Along so much of it at most it may stand out by less than half of that. */
const mostWeak = 0.3;
/** A place belongs to the line where it differs from that by so much of what the nearer of its sides differs. */
const likeness = 0.6;
/** A place is looked at together with so many on both sides; so many may be unlike, as where a line passes before an edge. */
const besidePx = 3;
const mostUnlikePx = 12;
const leastOnPx = 3;
const colourPx = 40;
/** The line is told from what lies so far beside it. */
const reach = clickSlack + 6 * mostHalf;
/** So much to both sides of a stroke's middle is looked at first. */
const probedPx = 60;

/** A scribble along something no wider than itself, such as a rod or a rope, laid onto the middle of that, as wide as it is, and made
 *  longer at both ends as far as that runs on: a hand strays from a thin thing and few scribble it to its very end, and what is
 *  said to lie on the thing must. Straight parts only; all others come back as they are.
 *
 *  @returns one stroke or more, in the order of the stroke's way
 */
export function ontoThinLines(seen: Seen, stroke: StrokeShape): StrokeShape[] {
  const level = Math.min(seen.levels - 1, Math.max(0, Math.floor(Math.log2(stroke.radiusPx / usualRadius))));
  const by = 2 ** level;
  const scaled = (s: StrokeShape, factor: number): StrokeShape => ({
    ...s,
    radiusPx: s.radiusPx * factor,
    points: s.points.map(([x, y, pressure]) => [x * factor, y * factor, pressure]),
  });
  const found = ontoLinesOf(halved(seen, level), scaled(stroke, 1 / by));
  return found ? found.map((s) => scaled(s, by)) : [stroke];
}

/** The picture from one of its levels on. */
const halved = (seen: Seen, level: number): Seen => ({
  width: Math.ceil(seen.width / 2 ** level),
  height: Math.ceil(seen.height / 2 ** level),
  levels: seen.levels - level,
  region: (l, rect) => seen.region(l + level, rect),
});

/** Null where nothing thin lies under the stroke. */
function ontoLinesOf(seen: Seen, stroke: StrokeShape): StrokeShape[] | null {
  const { points, radiusPx } = stroke;
  const lines = straightParts(points, radiusPx, leastLength * radiusPx).flatMap(
    ({ from, to, start, end }) => {
      const line = lineUnder(seen, start, end, radiusPx);
      return line ? [{ from, to, line }] : [];
    },
  );
  if (lines.length === 0) return null;
  const out: StrokeShape[] = [];
  let done = 0;
  const leave = (to: number) => {
    if (to > done) out.push({ ...stroke, points: points.slice(done, to + 1) });
  };
  for (const { from, to, line } of lines) {
    leave(from);
    const { strip, middle, half } = line;
    const before = from === 0 ? beyond(seen, line, -1) : null;
    const behind = to === points.length - 1 ? beyond(seen, line, 1) : null;
    const ends = [before ?? strip.at(0, middle(0)), behind ?? strip.at(strip.n - 1, middle(strip.n - 1))];
    out.push({
      ...stroke,
      radiusPx: Math.min(radiusPx, half),
      points: ends.map(([x, y]) => [x, y, 1] as const),
    });
    done = to;
  }
  leave(points.length - 1);
  return out;
}

/** Something thin under a straight part of a stroke. */
interface ThinLine {
  readonly strip: Strip;
  readonly half: number;
  /** How far beside the strip's own middle it runs. */
  middle(k: number): number;
}

function lineUnder(seen: Seen, a: SpanPoint, b: SpanPoint, radiusPx: number): ThinLine | null {
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
  const at = (px: number): SpanPoint => {
    const share = px / length;
    return [a[0] + share * (b[0] - a[0]), a[1] + share * (b[1] - a[1])];
  };
  // Most strokes lie on wide things: a short piece tells.
  const middlePx = length / 2;
  const few = thinnest(
    seen,
    at(Math.max(0, middlePx - probedPx)),
    at(Math.min(length, middlePx + probedPx)),
    radiusPx,
  );
  if (!few) return null;
  return thinnest(seen, a, b, radiusPx);
}

function thinnest(seen: Seen, a: SpanPoint, b: SpanPoint, radiusPx: number): ThinLine | null {
  const strip = readStrip(seen, a, b, reach);
  if (!strip) return null;
  const half = bestHalfWidth(strip);
  if (half > Math.min(radiusPx, mostHalf)) return null;
  const response = respond(strip, half);
  const path = straightened(follow(strip, response, () => ({ middle: 0, slack: clickSlack })));
  const { n } = strip;
  const isWeak = (off: number, k: number) =>
    response[k * strip.width + Math.round(off) + strip.reach] < leastResponse / 2;
  if (path.filter(isWeak).length > mostWeak * n || Math.abs(path[n >> 1]) > radiusPx + 1) return null;
  if (meanAlong(strip, response, path, 0) < leastResponse) return null;
  const slope = (path[n - 1] - path[0]) / (n - 1);
  return { strip, half, middle: (k) => path[0] + slope * k };
}

/** How far a line runs on beyond its beginning (−1) or its end (1); null: it does not. */
function beyond(seen: Seen, { strip, half, middle }: ThinLine, way: -1 | 1): SpanPoint | null {
  const { n } = strip;
  const [start, other] = way > 0 ? [n - 1, 0] : [0, n - 1];
  const a = strip.at(other, middle(other));
  const b = strip.at(start, middle(start));
  const near = Math.min(n, colourPx);
  const own = colourAlong(strip, middle, way > 0 ? n - near : 0, way > 0 ? n : near, half);
  const on = readStrip(seen, b, [b[0] + mostOn * (b[0] - a[0]), b[1] + mostOn * (b[1] - a[1])], reach);
  if (!on) return null;
  const isLike = (k: number): boolean => {
    const [from, to] = [Math.max(0, k - besidePx), Math.min(on.n, k + besidePx + 1)];
    const [here, left, right] = [0, -1, 1].map((side) => {
      const colour = colourAlong(on, () => side * (2.5 * half + 2), from, to, half);
      return Math.hypot(...colour.map((v, c) => v - own[c]));
    });
    return here < likeness * Math.min(left, right);
  };
  let last = 0;
  for (let k = 0; k < on.n && k - last <= mostUnlikePx; k++) if (isLike(k)) last = k;
  return last < leastOnPx ? null : on.at(last, 0);
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
