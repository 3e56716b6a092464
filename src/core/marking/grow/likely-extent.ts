import { noMasks, rasteriseArea, type Shape, type StrokeShape, scaleArea, squaredDistance } from '../../area';
import type { Rect } from '../../raster';
import { hullOf, type Point, sizeOf } from './closed-line';

/** What speaks for the thing between scribbles and what speaks against it far off, in ln of likelihoods; it falls by so much for each
 *  width of what is scribbled over. */
const between = { most: 1.5, least: -6, perWidth: 6 };
/** Scribbles along a line say nothing about what lies beside it: how round the hull of them is, 4π area / length², before it counts, and
 *  until it counts fully. */
const roundness = { from: 0.3, to: 0.7 };
/** What is enclosed by a scribble on the thing. */
const enclosed = 6;
/** What is deep within a ring, and the depth, in widths of the ring, where nothing speaks for or against it. */
const ringed = { most: 3, depth: 0.12 };

/** Where a thing is likely to lie by what was drawn alone, whatever it looks like: where its colours are seen round about as well, colours
 *  do not tell. Between scribbles it is likely, many widths off it is not; so it is in the midst of a loop, and in that of a ring more than
 *  at its rim.
 *
 *  @param drawn  strokes on the thing, those of them that are closed, and rings round it; document pixels
 *  @param rect  what is asked about, in pixels of a level
 *  @param by  document pixels a pixel of it
 *  @returns rect.w·rect.h, ln of how much likelier each pixel is of the thing; 0: nothing is known
 */
export function likelyExtent(
  drawn: {
    readonly on: readonly StrokeShape[];
    readonly loops: readonly StrokeShape[];
    readonly rings: readonly StrokeShape[];
  },
  rect: Rect,
  by: number,
): Float32Array {
  const { on, loops, rings } = drawn;
  const out = new Float32Array(rect.w * rect.h);
  const within = (polygons: readonly (readonly Point[])[]): Uint8Array => {
    const shapes = polygons.map((points): Shape => ({ kind: 'polygon', op: 'add', points }));
    const area = scaleArea({ shapes, marginPx: 0, featherPx: 0 }, 1 / by);
    return Uint8Array.from(rasteriseArea(area, rect, noMasks), (v) => (v >= 0.5 ? 1 : 0));
  };
  const hull = hullOf(on.flatMap(pointsOf));
  const { area, length } = sizeOf(hull);
  const weight = (roundnessOf(area, length) - roundness.from) / (roundness.to - roundness.from);
  if (weight > 0) {
    const away = squaredDistance(within([hull]), rect.w, rect.h);
    const wide = Math.sqrt(area) / by;
    const { most, least, perWidth } = between;
    for (let i = 0; i < out.length; i++)
      out[i] = Math.min(1, weight) * Math.max(least, most - (perWidth * Math.sqrt(away[i])) / wide);
  }
  if (loops.length > 0)
    within(loops.map(pointsOf)).forEach((is, i) => {
      if (is) out[i] = enclosed;
    });
  if (rings.length > 0) {
    const isRinged = within(rings.map(pointsOf));
    const outside = isRinged.map((v) => 1 - v);
    const deep = squaredDistance(outside, rect.w, rect.h);
    const wide = Math.sqrt(sizeOf(hullOf(rings.flatMap(pointsOf))).area) / by;
    for (let i = 0; i < out.length; i++) {
      if (!isRinged[i]) continue;
      const depth = Math.sqrt(deep[i]) / wide / ringed.depth;
      const said = ringed.most * Math.min(1, depth - 1);
      out[i] = on.length > 0 ? Math.max(out[i], said) : said;
    }
  }
  return out;
}

const pointsOf = ({ points }: StrokeShape): Point[] => points.map(([x, y]) => [x, y]);

const roundnessOf = (area: number, length: number): number =>
  length > 0 ? (4 * Math.PI * area) / length ** 2 : 0;
