import type { SourceShift } from '../../job/types';
import { deviation, fineAt, insideOf, lightnessAt, rimOf, thinOut } from '../../match';
import { contains, type FloatImage, intersect, isEmpty, type Rect } from '../../raster';

/** How well a shift would serve, as a cost: lower is better. */
interface Candidate {
  readonly source: SourceShift;
  readonly cost: number;
}

export interface RankOptions {
  readonly most?: number;
  readonly further?: readonly SourceShift[];
  readonly serves?: (shift: SourceShift) => boolean;
  /** Whether things that stand in a source, and nowhere along the rim, count against it. What a tap covers is too small for any. */
  readonly mindsThings?: boolean;
}

const directions = 24;
const distances = [1.15, 1.5, 2, 2.7, 3.6, 4.8];

/** Pixels that are compared at most, inside and on the rim: enough for the statistics of any area. */
const mostInside = 2500;
const mostRim = 1500;
/** Colours that are looked for among those of the rim, and how many these are. */
const mostLookedFor = 300;
const mostKnown = 64;
/** Colours of 0…1 that differ by less are of one ground. */
const ofOneGround = 0.06;
const thingWeight = 2;

/** The pixels a search may read: how far from the area the farthest candidate reaches. */
export function searchReach(spot: Rect): number {
  const size = Math.max(spot.w, spot.h);
  return Math.ceil(size * distances[distances.length - 1]) + size + 2;
}

/** Ranks shifts by how little the eye would notice a heal from there, best first.
 *
 *  The cost of a candidate sums: the unevenness of the difference along the rim (what a membrane cannot make up
 *  without a smear), a little of its mean (tone), the difference of fine-band deviation between source and rim (grain
 *  and sharpness), and edges inside the source that the rim does not have; if asked to, colours too. Candidates that touch the area are left out.
 *
 *  @param read      pixels below for a rectangle within `bounds`
 *  @param spot      the area's rectangle with a rim of at least 1 px, within `bounds`
 *  @param coverage  spot.w×spot.h, 0…1
 *  @param options.further  more shifts to be compared, from a source map
 *  @param options.serves   false for shifts that zones or a rail rule out
 *  @returns at most `most` shifts, none when no candidate lies wholly within `bounds`
 *  Deterministic: rings of fixed directions, ties by order. Cost: candidates × the spot's pixels to read, of which at
 *  most {@link mostInside} and {@link mostRim} are compared; memory: two spots.
 */
export function rankSources(
  read: (rect: Rect) => FloatImage,
  bounds: Rect,
  spot: Rect,
  coverage: Float32Array,
  { most = 12, further = [], serves = () => true, mindsThings = false }: RankOptions = {},
): SourceShift[] {
  const rim = thinOut(rimOf(spot, coverage), mostRim);
  const inside = thinOut(insideOf(coverage), mostInside);
  if (inside.length === 0 || rim.length === 0) return [];
  const target = read(spot);
  const rimGrain = deviation(rim, (i) => fineAt(target, i));
  const rimStructure = deviation(rim, (i) => lightnessAt(target, i));
  const known = thinOut(rim, mostKnown);
  const lookedFor = thinOut(inside, mostLookedFor);
  const size = Math.max(spot.w, spot.h);
  const candidates: Candidate[] = [];
  for (const { dx, dy } of [...ringShifts(size), ...further]) {
    const from = { x: spot.x + dx, y: spot.y + dy, w: spot.w, h: spot.h };
    if (!contains(bounds, from) || !isEmpty(intersect(from, spot)) || !serves({ dx, dy })) continue;
    const distance = Math.hypot(dx, dy) / size;
    const source = read(from);
    const { uneven, mean, tone } = rimDifference(rim, target, source);
    const grain = deviation(inside, (i) => fineAt(source, i));
    const structure = deviation(inside, (i) => lightnessAt(source, i)) - rimStructure;
    const cost =
      uneven +
      0.25 * mean +
      0.7 * Math.abs(grain - rimGrain) +
      0.5 * Math.max(0, structure) +
      (mindsThings ? thingWeight * strangeness(source, lookedFor, tone, target, known) : 0) +
      0.002 * Math.min(20, distance);
    candidates.push({ source: { dx, dy }, cost });
  }
  return candidates
    .sort((a, b) => a.cost - b.cost)
    .slice(0, most)
    .map((c) => c.source);
}

/** Shifts on rings round the spot. */
function ringShifts(size: number): SourceShift[] {
  return distances.flatMap((distance) =>
    Array.from({ length: directions }, (_, k) => {
      const angle = ((k + ((distance * 10) % 1)) / directions) * 2 * Math.PI;
      return {
        dx: Math.round(Math.cos(angle) * size * distance),
        dy: Math.round(Math.sin(angle) * size * distance),
      };
    }),
  );
}

function rimDifference(rim: readonly number[], target: FloatImage, source: FloatImage) {
  let uneven = 0;
  let mean = 0;
  const tone: number[] = [];
  for (let c = 0; c < 3; c++) {
    let sum = 0;
    let squares = 0;
    for (const i of rim) {
      const d = target.data[4 * i + c] - source.data[4 * i + c];
      sum += d;
      squares += d * d;
    }
    const average = sum / rim.length;
    mean += Math.abs(average) / 3;
    tone.push(average);
    uneven += Math.sqrt(Math.max(0, squares / rim.length - average * average)) / 3;
  }
  return { uneven, mean, tone };
}

/** How far a source's colours lie from the nearest ones of the target's rim, once it has its tone; in the mean. */
function strangeness(
  source: FloatImage,
  inside: readonly number[],
  tone: readonly number[],
  target: FloatImage,
  rim: readonly number[],
): number {
  let sum = 0;
  const near = ofOneGround ** 2;
  for (const i of inside) {
    const [r, g, b] = [0, 1, 2].map((c) => source.data[4 * i + c] + tone[c]);
    let least = Infinity;
    for (let n = 0; n < rim.length && least > near; n++) {
      const k = 4 * rim[n];
      least = Math.min(
        least,
        (target.data[k] - r) ** 2 + (target.data[k + 1] - g) ** 2 + (target.data[k + 2] - b) ** 2,
      );
    }
    sum += Math.max(0, Math.sqrt(least) - ofOneGround);
  }
  return sum / inside.length;
}
