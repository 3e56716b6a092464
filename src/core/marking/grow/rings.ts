import { boundsOfShape, type StrokeShape } from '../../area';
import { labOfPixels } from '../../colour';
import { grow } from '../../raster';
import { rectAtLevel, type Seen } from '../seen';

/** Colours on both sides of a ring are looked at in so many places, and each in so many steps, to an eighth of how wide it is. */
const looks = 96;
const steps = 8;
const stepShare = 1 / 60;
/** A ring lies on a thing whose colours change so much less inwards than outwards. */
const mostInwards = 0.55;
/** It lies on the thing too where so much of it is of colours that were scribbled over before, up to this difference in CIELAB. */
const leastLike = 0.6;
const alikeColours = 9;
/** Between its ends, as a share of its length. */
const mostGap = 0.1;

type Points = StrokeShape['points'];

/** A stroke that comes back to where it began, round something larger than itself. */
export function isRing({ points, radiusPx }: StrokeShape): boolean {
  if (points.length < 4) return false;
  const { length, area } = sizeOf(points);
  const [a, b] = [points[0], points[points.length - 1]];
  const gap = Math.hypot(a[0] - b[0], a[1] - b[1]);
  // A circle's area is its length squared over 4π; a ring is rounder than a third of that.
  return gap < mostGap * length && Math.abs(area) > length ** 2 / (12 * Math.PI) && length > 10 * radiusPx;
}

/** Strokes parted into rings round the thing and such as lie on it. What was scribbled before a ring lies within it: a closed stroke
 *  that leaves some of that out was drawn along the thing, as along a wheel or a coil. So was one that keeps within the thing's rim,
 *  {@link keepsWithin}, or is of the colours that were scribbled over, {@link isLike}. */
export function ringsApart(
  seen: Seen,
  strokes: readonly StrokeShape[],
): {
  rings: readonly StrokeShape[];
  others: readonly StrokeShape[];
} {
  const rings: StrokeShape[] = [];
  const others: StrokeShape[] = [];
  for (const stroke of strokes) {
    const leavesOut = () => others.some(({ points }) => points.some((p) => !isWithin(p, stroke)));
    const isRound =
      isRing(stroke) && !leavesOut() && !keepsWithin(seen, stroke) && !isLike(seen, stroke, others);
    (isRound ? rings : others).push(stroke);
  }
  return { rings, others };
}

/** Whether a closed stroke lies on a thing along its rim rather than round it: under it are the colours of what is inside, and others
 *  lie right outside. */
export function keepsWithin(seen: Seen, ring: StrokeShape): boolean {
  const { points, radiusPx } = ring;
  const { area } = sizeOf(points);
  const stepPx = Math.max(1, stepShare * Math.sqrt(Math.abs(area)));
  const colours = coloursRound(seen, ring, stepPx, radiusPx + steps * stepPx);
  let [inwards, outwards] = [0, 0];
  for (const { x, y, nx, ny } of placesAlong(points)) {
    const here = colours(x, y);
    for (let step = 1; step <= steps; step++) {
      // Outwards, whichever way round it was drawn.
      const d = (radiusPx + step * stepPx) * Math.sign(area);
      inwards += between(here, colours(x - d * nx, y - d * ny));
      outwards += between(here, colours(x + d * nx, y + d * ny));
    }
  }
  return inwards < mostInwards * outwards;
}

/** Whether a stroke lies on the colours that others lie on. */
function isLike(seen: Seen, stroke: StrokeShape, others: readonly StrokeShape[]): boolean {
  const under = (s: StrokeShape) => {
    const colours = coloursRound(seen, s, s.radiusPx / 2, 0);
    return placesAlong(s.points).map(({ x, y }) => colours(x, y));
  };
  const known = others.flatMap(under);
  const own = under(stroke);
  const like = own.filter((colour) => known.some((other) => between(colour, other) < alikeColours));
  return known.length > 0 && like.length > leastLike * own.length;
}

type Colour = readonly [number, number, number];
const between = (p: Colour, q: Colour) => Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]);

/** The picture's colours up to a distance from a stroke, averaged over about so many pixels; farther off those of the edge. */
function coloursRound(
  seen: Seen,
  { points, radiusPx }: StrokeShape,
  overPx: number,
  reachPx: number,
): (x: number, y: number) => Colour {
  const level = Math.max(0, Math.min(seen.levels - 1, Math.floor(Math.log2(overPx))));
  const bounds = boundsOfShape({ kind: 'stroke', op: 'add', points, radiusPx, hardness: 1 });
  const rect = rectAtLevel(seen, level, grow(bounds, Math.ceil(reachPx) + 2 ** level));
  const lab =
    rect.w * rect.h > 0 ? labOfPixels(seen.region(level, rect), rect.w * rect.h) : new Float32Array(3);
  return (x, y) => {
    const u = Math.max(0, Math.min(rect.w - 1, Math.floor(x / 2 ** level) - rect.x));
    const v = Math.max(0, Math.min(rect.h - 1, Math.floor(y / 2 ** level) - rect.y));
    const i = 3 * (v * rect.w + u);
    return [lab[i], lab[i + 1], lab[i + 2]];
  };
}

/** Places along a stroke in equal distances, and the direction across it, to the left. */
function placesAlong(points: Points): { x: number; y: number; nx: number; ny: number }[] {
  const { length } = sizeOf(points);
  const places: { x: number; y: number; nx: number; ny: number }[] = [];
  let done = 0;
  for (let k = 1; k < points.length; k++) {
    const [[ax, ay], [bx, by]] = [points[k - 1], points[k]];
    const leg = Math.hypot(bx - ax, by - ay);
    for (
      let at = (places.length * length) / looks;
      leg > 0 && at <= done + leg;
      at = (places.length * length) / looks
    ) {
      const share = (at - done) / leg;
      places.push({
        x: ax + share * (bx - ax),
        y: ay + share * (by - ay),
        nx: (by - ay) / leg,
        ny: (ax - bx) / leg,
      });
    }
    done += leg;
  }
  return places;
}

/** How long a stroke is, and what it encloses with the straight way back to its beginning: above 0 clockwise. */
function sizeOf(points: Points): { length: number; area: number } {
  let [length, twice] = [0, 0];
  points.forEach(([x, y], i) => {
    const [px, py] = points[i === 0 ? points.length - 1 : i - 1];
    if (i > 0) length += Math.hypot(x - px, y - py);
    twice += px * y - x * py;
  });
  return { length, area: twice / 2 };
}

/** Whether a point lies within a closed stroke: a ray to its right crosses it an odd number of times. */
function isWithin([x, y]: Points[number], { points }: StrokeShape): boolean {
  let within = false;
  points.forEach(([ax, ay], i) => {
    const [bx, by] = points[i === 0 ? points.length - 1 : i - 1];
    if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) within = !within;
  });
  return within;
}
