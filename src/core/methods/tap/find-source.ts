import type { SourceShift } from '../../job/types';
import { contains, type FloatImage, intersect, isEmpty, type Rect } from '../../raster';

/** How well a shift would serve, as a cost: lower is better. */
interface Candidate {
  readonly source: SourceShift;
  readonly cost: number;
}

const directions = 24;
const distances = [1.15, 1.5, 2, 2.7, 3.6, 4.8];

/** Pixels that are compared at most, inside and on the rim: enough for the statistics of any area. */
const mostInside = 2500;
const mostRim = 1500;

/** The pixels a search may read: how far from the area the farthest candidate reaches. */
export function searchReach(spot: Rect): number {
  const size = Math.max(spot.w, spot.h);
  return Math.ceil(size * distances[distances.length - 1]) + size + 2;
}

/** Ranks shifts by how little the eye would notice a heal from there, best first.
 *
 *  The cost of a candidate sums: the unevenness of the difference along the rim (what a membrane cannot make up
 *  without a smear), a little of its mean (tone), the difference of fine-band deviation between source and rim (grain
 *  and sharpness), and edges inside the source that the rim does not have. Candidates that touch the area are left out.
 *
 *  @param read      pixels below for a rectangle within `bounds`
 *  @param spot      the area's rectangle with a rim of at least 1 px, within `bounds`
 *  @param coverage  spot.w×spot.h, 0…1
 *  @returns at most `most` shifts, none when no candidate lies wholly within `bounds`
 *  Deterministic: rings of fixed directions, ties by order. Cost: candidates × the spot's pixels to read, of which at
 *  most {@link mostInside} and {@link mostRim} are compared; memory: two spots.
 */
export function rankSources(
  read: (rect: Rect) => FloatImage,
  bounds: Rect,
  spot: Rect,
  coverage: Float32Array,
  most = 12,
): SourceShift[] {
  const rim = thinOut(rimOf(spot, coverage), mostRim);
  const inside = thinOut(insideOf(coverage), mostInside);
  if (inside.length === 0 || rim.length === 0) return [];
  const target = read(spot);
  const rimGrain = deviation(rim, (i) => fineAt(target, i));
  const rimStructure = deviation(rim, (i) => lightnessAt(target, i));
  const size = Math.max(spot.w, spot.h);
  const candidates: Candidate[] = [];
  for (const distance of distances)
    for (let k = 0; k < directions; k++) {
      const angle = ((k + ((distance * 10) % 1)) / directions) * 2 * Math.PI;
      const dx = Math.round(Math.cos(angle) * size * distance);
      const dy = Math.round(Math.sin(angle) * size * distance);
      const from = { x: spot.x + dx, y: spot.y + dy, w: spot.w, h: spot.h };
      if (!contains(bounds, from) || !isEmpty(intersect(from, spot))) continue;
      const source = read(from);
      const { uneven, mean } = rimDifference(rim, target, source);
      const grain = deviation(inside, (i) => fineAt(source, i));
      const structure = deviation(inside, (i) => lightnessAt(source, i)) - rimStructure;
      const cost =
        uneven +
        0.25 * mean +
        0.7 * Math.abs(grain - rimGrain) +
        0.5 * Math.max(0, structure) +
        0.002 * distance;
      candidates.push({ source: { dx, dy }, cost });
    }
  return candidates
    .sort((a, b) => a.cost - b.cost)
    .slice(0, most)
    .map((c) => c.source);
}

/** Evenly chosen members of a list, at most so many. */
function thinOut(indices: readonly number[], most: number): number[] {
  if (indices.length <= most) return [...indices];
  return Array.from({ length: most }, (_, k) => indices[Math.floor((k * indices.length) / most)]);
}

function insideOf(coverage: Float32Array): number[] {
  const inside: number[] = [];
  for (let i = 0; i < coverage.length; i++) if (coverage[i] > 0) inside.push(i);
  return inside;
}

function lightnessAt({ data }: FloatImage, i: number): number {
  return 0.299 * data[4 * i] + 0.587 * data[4 * i + 1] + 0.114 * data[4 * i + 2];
}

/** What a 3×3 mean takes away; 0 at the rectangle's own edge. */
function fineAt(image: FloatImage, i: number): number {
  const { w, h } = image.rect;
  const x = i % w;
  const y = Math.floor(i / w);
  if (x === 0 || y === 0 || x === w - 1 || y === h - 1) return 0;
  let sum = 0;
  for (let d = i - w; d <= i + w; d += w)
    sum += lightnessAt(image, d - 1) + lightnessAt(image, d) + lightnessAt(image, d + 1);
  return lightnessAt(image, i) - sum / 9;
}

/** Indices of uncovered pixels within two pixels of covered ones. */
function rimOf(spot: Rect, coverage: Float32Array): number[] {
  const rim: number[] = [];
  for (let y = 0; y < spot.h; y++)
    for (let x = 0; x < spot.w; x++) {
      const i = y * spot.w + x;
      if (coverage[i] > 0) continue;
      let near = false;
      for (let v = Math.max(0, y - 2); v <= Math.min(spot.h - 1, y + 2) && !near; v++)
        for (let u = Math.max(0, x - 2); u <= Math.min(spot.w - 1, x + 2); u++)
          if (coverage[v * spot.w + u] > 0) {
            near = true;
            break;
          }
      if (near) rim.push(i);
    }
  return rim;
}

function rimDifference(rim: readonly number[], target: FloatImage, source: FloatImage) {
  let uneven = 0;
  let mean = 0;
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
    uneven += Math.sqrt(Math.max(0, squares / rim.length - average * average)) / 3;
  }
  return { uneven, mean };
}

function deviation(indices: readonly number[], at: (i: number) => number): number {
  let sum = 0;
  let squares = 0;
  for (const i of indices) {
    const v = at(i);
    sum += v;
    squares += v * v;
  }
  const average = sum / indices.length;
  return Math.sqrt(Math.max(0, squares / indices.length - average * average));
}
