import {
  boundsOfShape,
  noMasks,
  rasteriseArea,
  type Shape,
  type StrokeShape,
  scaleArea,
  squaredDistance,
} from '../../area';
import { labOfPixels } from '../../colour';
import { grow } from '../../raster';
import { rectAtLevel, type Seen } from '../seen';
import { sizeOf } from './closed-line';
import { fitColours } from './colour-model';
import { edgesOutside } from './ring-edges';

/** What lies round a ring: from so much of its width off, and to so much. */
const roundAbout = { from: 0.1, to: 0.4 };
/** So far off it is looked. */
const seenTo = 0.5;
/** A ring lies on a thing where edges outside it are stronger by so much, in ln; see {@link edgesOutside}. */
const edgeOutside = 0.05;
const mostPixels = 30_000;
const clusters = 5;
/** So does one where so much of what is under it is likelier inside it than round about, and in the mean by so much in ln of
 *  likelihoods; and one where less than this share of what is in it is clearly unlike what lies round about. */
const onThing = { share: 0.7, mean: 1.5 };
const leastOther = 0.05;
const likelihoods = { clear: 1.5, most: 6 };
const fewest = 20;
/** Between its ends, as a share of its length. */
const mostGap = 0.1;

type Points = StrokeShape['points'];

/** A stroke that comes back to where it began, round something larger than itself. */
export function isRing({ points, radiusPx }: StrokeShape): boolean {
  if (points.length < 4) return false;
  const { length: whole, area } = sizeOf(points);
  const [a, b] = [points[0], points[points.length - 1]];
  const gap = Math.hypot(a[0] - b[0], a[1] - b[1]);
  const length = whole - gap;
  // A circle's area is its length squared over 4π; a ring is rounder than a third of that.
  return gap < mostGap * length && Math.abs(area) > length ** 2 / (12 * Math.PI) && length > 10 * radiusPx;
}

/** Strokes parted into rings round the thing and such as lie on it. What was scribbled before a ring lies within it: a closed stroke
 *  that leaves some of that out was drawn along the thing, as along a wheel or a coil. So was one that
 *  keeps within the thing's rim: {@link liesOnThing}. */
export function ringsApart(
  seen: Seen,
  strokes: readonly StrokeShape[],
): {
  rings: readonly StrokeShape[];
  others: readonly StrokeShape[];
  loops: readonly StrokeShape[];
} {
  const [rings, others, loops]: [StrokeShape[], StrokeShape[], StrokeShape[]] = [[], [], []];
  for (const stroke of strokes) {
    const leavesOut = () => others.some(({ points }) => points.some((p) => !isWithin(p, stroke)));
    const isClosed = isRing(stroke) && !leavesOut();
    const isRound = isClosed && !liesOnThing(seen, stroke);
    (isRound ? rings : others).push(stroke);
    if (isClosed && !isRound) loops.push(stroke);
  }
  return { rings, others, loops };
}

/** Whether a closed stroke lies on a thing rather than round it: what is under it looks like what is in it, and not like what lies round
 *  about, or all three look alike; or the strongest edges lie outside it. Mixtures of colours tell, and {@link edgesOutside}.
 *
 *  Source: Rother, Kolmogorov & Blake 2004, doi:10.1145/1186562.1015720 (the mixtures). Cost: one small picture.
 */
export function liesOnThing(seen: Seen, ring: StrokeShape): boolean {
  const { points, radiusPx } = ring;
  const wide = Math.sqrt(Math.abs(sizeOf(points).area));
  const box = grow(boundsOfShape(ring), Math.ceil(seenTo * wide));
  let level = 0;
  while (level < seen.levels - 1 && (box.w * box.h) / 4 ** level > mostPixels) level++;
  const rect = rectAtLevel(seen, level, box);
  if (rect.w * rect.h === 0) return false;
  const by = 2 ** level;
  const isOn = (shape: Shape) =>
    rasteriseArea(scaleArea({ shapes: [shape], marginPx: 0, featherPx: 0 }, 1 / by), rect, noMasks).map(
      (v) => (v >= 0.5 ? 1 : 0),
    );
  const within = isOn({ kind: 'polygon', op: 'add', points: points.map(([x, y]) => [x, y]) });
  const under = isOn({ ...ring, radiusPx: Math.max(radiusPx, 0.5 * by) });
  const away = squaredDistance(
    Uint8Array.from(within, (v, i) => (v > 0 || under[i] > 0 ? 1 : 0)),
    rect.w,
    rect.h,
  );
  const [from, to] = [roundAbout.from, roundAbout.to].map((share) => ((share * wide) / by) ** 2);
  const [inner, outer, own]: number[][] = [[], [], []];
  for (let i = 0; i < rect.w * rect.h; i++) {
    if (under[i]) own.push(i);
    else if (within[i]) inner.push(i);
    else if (away[i] > from && away[i] < to) outer.push(i);
  }
  if (own.length === 0 || inner.length < fewest || outer.length < fewest) return false;
  const lab = labOfPixels(seen.region(level, rect), rect.w * rect.h);
  const onLevel = points.map(([x, y]) => [x / by - rect.x, y / by - rect.y] as const);
  if (edgesOutside({ ...rect, values: lab }, onLevel, radiusPx / by) > edgeOutside) return true;
  const [its, theirs] = [inner, outer].map((some) => fitColours(lab, Int32Array.from(some), clusters));
  /** How much likelier a colour is within. */
  const likelier = (i: number) =>
    Math.max(-likelihoods.most, Math.min(likelihoods.most, theirs.cost(i) - its.cost(i)));
  const shareOf = (some: readonly number[], least: number) =>
    some.filter((i) => likelier(i) > least).length / some.length;
  const mean = own.reduce((sum, i) => sum + likelier(i), 0) / own.length;
  const isOfThing = shareOf(own, 0) >= onThing.share && mean >= onThing.mean;
  return isOfThing || shareOf(inner, likelihoods.clear) < leastOther;
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
