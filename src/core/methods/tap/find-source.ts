import type { SourceShift } from '../../job/types';
import { type FloatImage, intersect, isEmpty, type Rect } from '../../raster';

/** How well a shift would serve, as a cost: lower is better. */
interface Candidate {
  readonly source: SourceShift;
  readonly cost: number;
}

const directions = 24;
const distances = [1.15, 1.5, 2, 2.7, 3.6, 4.8];

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
 *  @param below     pixels round the spot, everything that {@link searchReach} asks for that lies in the photo
 *  @param spot      the area's rectangle with a rim of at least 1 px
 *  @param coverage  spot.w×spot.h, 0…1
 *  @returns at most `most` shifts, none when no candidate lies wholly within `below`
 *  Deterministic: rings of fixed directions, ties by order. Cost: candidates × pixels of the spot.
 */
export function rankSources(below: FloatImage, spot: Rect, coverage: Float32Array, most = 12): SourceShift[] {
  const luma = lightnessOf(below);
  const fine = fineBand(luma, below.rect.w, below.rect.h);
  const rim = rimOf(spot, coverage);
  const inside: number[] = [];
  for (let i = 0; i < coverage.length; i++) if (coverage[i] > 0) inside.push(i);
  if (inside.length === 0 || rim.length === 0) return [];
  const size = Math.max(spot.w, spot.h);
  const candidates: Candidate[] = [];
  const rimGrain = deviation(rim, spot, below, fine, 0, 0);
  for (const distance of distances)
    for (let k = 0; k < directions; k++) {
      const angle = ((k + ((distance * 10) % 1)) / directions) * 2 * Math.PI;
      const dx = Math.round(Math.cos(angle) * size * distance);
      const dy = Math.round(Math.sin(angle) * size * distance);
      const from = { x: spot.x + dx, y: spot.y + dy, w: spot.w, h: spot.h };
      const held = intersect(from, below.rect);
      if (held.w !== spot.w || held.h !== spot.h || !isEmpty(intersect(from, spot))) continue;
      const rimCost = rimDifference(rim, spot, below, dx, dy);
      const grain = deviation(inside, spot, below, fine, dx, dy);
      const structure =
        deviation(inside, spot, below, luma, dx, dy) - deviation(rim, spot, below, luma, 0, 0);
      const cost =
        rimCost.uneven +
        0.25 * rimCost.mean +
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

function lightnessOf(image: FloatImage): Float32Array {
  const out = new Float32Array(image.rect.w * image.rect.h);
  for (let i = 0, p = 0; i < out.length; i++, p += 4)
    out[i] = 0.299 * image.data[p] + 0.587 * image.data[p + 1] + 0.114 * image.data[p + 2];
  return out;
}

/** What a 3×3 mean takes away. */
function fineBand(luma: Float32Array, w: number, h: number): Float32Array {
  const out = new Float32Array(luma.length);
  for (let y = 1; y < h - 1; y++)
    for (let x = 1; x < w - 1; x++) {
      const i = y * w + x;
      let sum = 0;
      for (let d = -w; d <= w; d += w) sum += luma[i + d - 1] + luma[i + d] + luma[i + d + 1];
      out[i] = luma[i] - sum / 9;
    }
  return out;
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

function rimDifference(rim: number[], spot: Rect, below: FloatImage, dx: number, dy: number) {
  let uneven = 0;
  let mean = 0;
  const { rect, data } = below;
  for (let c = 0; c < 3; c++) {
    let sum = 0;
    let squares = 0;
    for (const i of rim) {
      const x = spot.x - rect.x + (i % spot.w);
      const y = spot.y - rect.y + Math.floor(i / spot.w);
      const d = data[4 * (y * rect.w + x) + c] - data[4 * ((y + dy) * rect.w + x + dx) + c];
      sum += d;
      squares += d * d;
    }
    const average = sum / rim.length;
    mean += Math.abs(average) / 3;
    uneven += Math.sqrt(Math.max(0, squares / rim.length - average * average)) / 3;
  }
  return { uneven, mean };
}

function deviation(
  indices: number[],
  spot: Rect,
  below: FloatImage,
  plane: Float32Array,
  dx: number,
  dy: number,
) {
  const { rect } = below;
  let sum = 0;
  let squares = 0;
  for (const i of indices) {
    const x = spot.x - rect.x + (i % spot.w) + dx;
    const y = spot.y - rect.y + Math.floor(i / spot.w) + dy;
    const v = plane[y * rect.w + x];
    sum += v;
    squares += v * v;
  }
  const average = sum / indices.length;
  return Math.sqrt(Math.max(0, squares / indices.length - average * average));
}
