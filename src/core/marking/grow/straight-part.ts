import type { StrokeShape } from '../../area';

type Points = StrokeShape['points'];
type Place = readonly [x: number, y: number];

/** A part of a stroke whose points lie along a straight line. */
export interface StraightPart {
  /** Numbers of its first and its last point. */
  readonly from: number;
  readonly to: number;
  /** Where the line begins and ends beside these. */
  readonly start: Place;
  readonly end: Place;
}

/** Points nearer to each other than this share of the radius tell nothing new. */
const nearest = 0.5;

/** A stroke's straight parts, in their order. Each is as long as it can be, from the stroke's end on: until a point lies more than a
 *  radius off the line that is nearest to all of them.
 *
 *  @param leastPx  shorter parts are none
 *  Cost: O(points²) within a part, of which there are no more than two a radius.
 */
export function straightParts(all: Points, radiusPx: number, leastPx: number): StraightPart[] {
  const kept = all.length > 0 ? [0] : [];
  for (let k = 1; k < all.length; k++) {
    const [px, py] = all[kept[kept.length - 1]];
    if (Math.hypot(all[k][0] - px, all[k][1] - py) >= nearest * radiusPx || k === all.length - 1)
      kept.push(k);
  }
  const points = kept.map((k) => all[k]);
  const parts: StraightPart[] = [];
  for (let to = points.length - 1; to > 0; ) {
    const part = straightTo(points, to, radiusPx, leastPx);
    if (part) parts.unshift({ ...part, from: kept[part.from], to: kept[part.to] });
    to = part?.from ?? to - 1;
  }
  return parts;
}

function straightTo(points: Points, to: number, radiusPx: number, leastPx: number): StraightPart | null {
  let best: StraightPart | null = null;
  for (let from = to - 1; from >= 0; from--) {
    const part = lineOf(points, from, to);
    if (!part) continue;
    const { start, end } = part;
    const length = Math.hypot(end[0] - start[0], end[1] - start[1]);
    for (let k = from; k <= to; k++) {
      const across =
        (end[0] - start[0]) * (points[k][1] - start[1]) - (end[1] - start[1]) * (points[k][0] - start[0]);
      if (Math.abs(across) > radiusPx * length) return best;
    }
    if (length >= leastPx) best = part;
  }
  return best;
}

/** The line nearest to some points by the sum of squares; null when they are in one place. */
function lineOf(points: Points, from: number, to: number): StraightPart | null {
  const n = to - from + 1;
  let [mx, my] = [0, 0];
  for (let k = from; k <= to; k++) {
    mx += points[k][0] / n;
    my += points[k][1] / n;
  }
  let [xx, xy, yy] = [0, 0, 0];
  for (let k = from; k <= to; k++) {
    const [dx, dy] = [points[k][0] - mx, points[k][1] - my];
    xx += dx * dx;
    xy += dx * dy;
    yy += dy * dy;
  }
  const angle = 0.5 * Math.atan2(2 * xy, xx - yy);
  const [ux, uy] = [Math.cos(angle), Math.sin(angle)];
  const beside = ([x, y]: Points[number]): Place => {
    const along = (x - mx) * ux + (y - my) * uy;
    return [mx + along * ux, my + along * uy];
  };
  const [start, end] = [beside(points[from]), beside(points[to])];
  return start[0] === end[0] && start[1] === end[1] ? null : { from, to, start, end };
}
