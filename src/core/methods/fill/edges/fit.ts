import type { GuideLine } from '../../../job/types';
import { type Line, leastPoints, offAngle, offLinePx } from './ballot';
import type { EdgePoints, Small } from './points';

/** So much of the line must be edge, on either side of the hole. */
const leastCover = 0.6;
const leastSupportPx = 10;
/** Of an edge that is seen on one side of the hole only, or comes to its end soon behind it, so much must be. */
const leastCoverOfOne = 0.75;
/** This near to the hole. */
const nearHolePx = 18;
/** It comes so near to the hole; what ends before it is none of its. */
const mostGapPx = 4;

/** A line that crosses the hole, and where it is an edge. */
export interface Crossing {
  /** Where it enters the hole and where it leaves it. */
  readonly ends: GuideLine;
  readonly isThrough: boolean;
  /** Clearly, near the hole; of one that does not run through. */
  readonly isSeen: readonly [before: boolean, behind: boolean];
}

/** Whether a point lies on a line and points as it does. */
export function belonging(
  points: EdgePoints,
  { angle, distance }: Line,
  offPx: number,
  turned = offAngle,
): (p: number) => boolean {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return (p) =>
    Math.abs(points.x[p] * c + points.y[p] * s - distance) <= offPx &&
    Math.abs(((points.angle[p] - angle + 3 * Math.PI) % (2 * Math.PI)) - Math.PI) <= turned;
}

/** The line through its points, when it crosses the hole and is seen on both sides of it, or clearly on one. */
export function fitted(
  line: Line,
  points: EdgePoints,
  members: Int32Array,
  small: Small,
  reach: number,
): Crossing | null {
  let now = line;
  for (let round = 0; round < 3; round++) {
    const own = members.filter(belonging(points, now, round === 0 ? 2 * offLinePx : offLinePx));
    const crossing = crossingOf(now, small);
    if (!crossing || own.length < leastPoints) return null;
    const [c, s] = [Math.cos(now.angle), Math.sin(now.angle)];
    const along = (p: number) => -s * points.x[p] + c * points.y[p];
    const near = own.filter((p) => along(p) > crossing.from - reach && along(p) < crossing.to + reach);
    if (round === 2) {
      const places = Array.from(near, along);
      const before = cover(places, crossing.from - reach, crossing.from, now, small);
      const after = cover(places, crossing.to, crossing.to + reach, now, small);
      const isSeen = [
        cover(places, crossing.from - nearHolePx, crossing.from, now, small) >= leastCoverOfOne &&
          places.some((t) => t <= crossing.from && t >= crossing.from - mostGapPx),
        cover(places, crossing.to, crossing.to + nearHolePx, now, small) >= leastCoverOfOne &&
          places.some((t) => t >= crossing.to && t <= crossing.to + mostGapPx),
      ] as const;
      // As a roof's edge does at the ridge, it may end not far from the hole on one side: then that is all there is to be seen of it.
      const [isLongBefore, isLongAfter] = [before >= leastCover, after >= leastCover];
      const isThrough =
        own.length >= 2 * leastSupportPx &&
        ((isLongBefore && (isLongAfter || isSeen[1])) || (isLongAfter && isSeen[0]));
      if (!isThrough && isSeen[0] === isSeen[1]) return null;
      const at = (t: number) => [c * now.distance - s * t, s * now.distance + c * t] as const;
      return { ends: [...at(crossing.from), ...at(crossing.to)], isThrough, isSeen };
    }
    if (near.length < leastSupportPx) return null;
    now = leastSquares(points, near, now);
  }
  return null;
}

/** Where along a line the hole begins and ends. */
function crossingOf({ angle, distance }: Line, { w, h, hole }: Small): { from: number; to: number } | null {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const most = Math.hypot(w, h);
  let from = Infinity;
  let to = -Infinity;
  for (let t = -most; t <= most; t++) {
    const x = Math.round(c * distance - s * t);
    const y = Math.round(s * distance + c * t);
    if (x < 0 || y < 0 || x >= w || y >= h || !hole[y * w + x]) continue;
    from = Math.min(from, t);
    to = Math.max(to, t);
  }
  return to - from >= 6 ? { from, to } : null;
}

/** Share of a stretch of the line that is edge, of what of it is known; 0 when too little is. */
function cover(
  ts: readonly number[],
  from: number,
  to: number,
  { angle, distance }: Line,
  { w, h, known }: Small,
): number {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const seen = new Set(ts.map((t) => Math.round(t)));
  let total = 0;
  let covered = 0;
  for (let t = Math.ceil(from); t <= to; t++) {
    const x = Math.round(c * distance - s * t);
    const y = Math.round(s * distance + c * t);
    if (x < 2 || y < 2 || x >= w - 2 || y >= h - 2 || !known[y * w + x]) continue;
    total++;
    if (seen.has(t) || seen.has(t - 1) || seen.has(t + 1)) covered++;
  }
  return total < leastSupportPx ? 0 : covered / total;
}

function leastSquares({ x, y }: EdgePoints, members: Int32Array, old: Line): Line {
  const mx = members.reduce((n, p) => n + x[p], 0) / members.length;
  const my = members.reduce((n, p) => n + y[p], 0) / members.length;
  let [xx, xy, yy] = [0, 0, 0];
  for (const p of members) {
    xx += (x[p] - mx) ** 2;
    xy += (x[p] - mx) * (y[p] - my);
    yy += (y[p] - my) ** 2;
  }
  // The normal is the direction in which the points spread least.
  let angle = 0.5 * Math.atan2(2 * xy, xx - yy) + Math.PI / 2;
  if (Math.cos(angle - old.angle) < 0) angle += Math.PI;
  angle = Math.atan2(Math.sin(angle), Math.cos(angle));
  return { angle, distance: mx * Math.cos(angle) + my * Math.sin(angle) };
}
