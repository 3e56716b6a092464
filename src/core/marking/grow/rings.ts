import type { StrokeShape } from '../../area';

/** A stroke that comes back to where it began, round something larger than itself. */
export function isRing({ points, radiusPx }: StrokeShape): boolean {
  if (points.length < 4) return false;
  let length = 0;
  let twice = 0;
  points.forEach(([x, y], i) => {
    const [px, py] = points[i === 0 ? points.length - 1 : i - 1];
    if (i > 0) length += Math.hypot(x - px, y - py);
    twice += px * y - x * py;
  });
  const [a, b] = [points[0], points[points.length - 1]];
  const gap = Math.hypot(a[0] - b[0], a[1] - b[1]);
  // A circle's area is its length squared over 4π; a ring is rounder than a third of that.
  return gap < 0.2 * length && Math.abs(twice) / 2 > length ** 2 / (12 * Math.PI) && length > 10 * radiusPx;
}

/** Strokes parted into rings round the thing and such as lie on it. What was scribbled before a ring lies within it: a closed stroke
 *  that leaves some of that out was drawn along the thing, as along a wheel or a coil. */
export function ringsApart(strokes: readonly StrokeShape[]): {
  rings: readonly StrokeShape[];
  others: readonly StrokeShape[];
} {
  const rings: StrokeShape[] = [];
  const others: StrokeShape[] = [];
  for (const stroke of strokes) {
    const leavesOut = () => others.some(({ points }) => points.some((p) => !isWithin(p, stroke)));
    (isRing(stroke) && !leavesOut() ? rings : others).push(stroke);
  }
  return { rings, others };
}

/** Whether a point lies within a closed stroke: a ray to its right crosses it an odd number of times. */
function isWithin([x, y]: StrokeShape['points'][number], { points }: StrokeShape): boolean {
  let within = false;
  points.forEach(([ax, ay], i) => {
    const [bx, by] = points[i === 0 ? points.length - 1 : i - 1];
    if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) within = !within;
  });
  return within;
}
