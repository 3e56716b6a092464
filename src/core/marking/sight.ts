import {
  type Area,
  boundsOfArea,
  type MaskLookup,
  rasteriseArea,
  scaleArea,
  squaredDistance,
  trimMask,
} from '../area';
import { labOfPixels } from '../colour';
import { grow, intersect, type Rect } from '../raster';
import type { Found } from './found';
import { rectAtLevel, type Seen } from './seen';

/** Whatever tells coverage: an area on the photo. */
export interface MarkedArea {
  /** Document pixels. */
  readonly bounds: Rect;
  /** Coverage of a rectangle of a level, 0…1. */
  coverage(rect: Rect, level: number): Float32Array;
}

/** An area of a job. */
export const markedArea = (area: Area, masks: MaskLookup): MarkedArea => ({
  bounds: boundsOfArea(area),
  coverage: (rect, level) => rasteriseArea(level > 0 ? scaleArea(area, 1 / 2 ** level) : area, rect, masks),
});

/** An area and what lies round it, on a level small enough to look at it as a whole. */
export interface Sight {
  readonly level: number;
  /** Document pixels a pixel of it. */
  readonly by: number;
  /** In pixels of the level. */
  readonly rect: Rect;
  /** CIELAB, three a pixel. */
  readonly lab: Float32Array;
  /** 1 where the area is. */
  readonly inside: Uint8Array;
  /** Distance to the area, in pixels of the level. */
  readonly away: Float32Array;
}

/** @param reach  how far round the area is looked, in its own sizes; null when nothing of it lies on the photo */
export function sightOf(seen: Seen, area: MarkedArea, reach: number, mostPixels: number): Sight | null {
  const photo = { x: 0, y: 0, w: seen.width, h: seen.height };
  const box = intersect(area.bounds, photo);
  if (box.w <= 0 || box.h <= 0) return null;
  const wide = intersect(grow(box, Math.ceil(reach * Math.max(box.w, box.h)) + 24), photo);
  let level = 0;
  while (level < seen.levels - 1 && (wide.w * wide.h) / 4 ** level > mostPixels) level++;
  const by = 2 ** level;
  const rect = rectAtLevel(seen, level, wide);
  const lab = labOfPixels(seen.region(level, rect), rect.w * rect.h);
  const inside = Uint8Array.from(area.coverage(rect, level), (v) => (v >= 0.5 ? 1 : 0));
  const away = squaredDistance(inside, rect.w, rect.h).map(Math.sqrt);
  return { level, by, rect, lab, inside, away };
}

/** Pixels a little outside the area. */
export function rimOfSight({ away, inside }: Sight): number[] {
  const out: number[] = [];
  away.forEach((d, i) => {
    if (!inside[i] && d >= 2 && d <= 5) out.push(i);
  });
  return out;
}

/** Pixels at a part's outline, each with one two pixels off, which lies neither in the part nor in the area; null: beyond what is seen. */
export function acrossOutline(
  pixels: readonly number[],
  { rect: { w, h }, inside }: Sight,
): (readonly [number, number | null])[] {
  const own = new Uint8Array(w * h);
  for (const i of pixels) own[i] = 1;
  const found: [number, number | null][] = [];
  for (const i of pixels)
    for (const [dx, dy] of [
      [2, 0],
      [-2, 0],
      [0, 2],
      [0, -2],
    ]) {
      const [x, y] = [(i % w) + dx, Math.floor(i / w) + dy];
      const isSeen = x >= 0 && y >= 0 && x < w && y < h;
      if (!isSeen) found.push([i, null]);
      else if (!own[y * w + x] && !inside[y * w + x]) found.push([i, y * w + x]);
    }
  return found;
}

/** How far a pixel's colour lies from another, in CIELAB with colour counting half more. */
export const difference = (
  { lab }: Sight,
  i: number,
  [l, a, b]: ArrayLike<number> & Iterable<number>,
): number => Math.hypot(lab[3 * i] - l, 1.5 * (lab[3 * i + 1] - a), 1.5 * (lab[3 * i + 2] - b));

/** Of the other pixels in the rows of some, beyond the area, how many are like them, 0…1; 1 where there are no others. */
export function shareInRows(
  { inside, rect: { w, h } }: Sight,
  members: readonly number[],
  isLike: (pixel: number) => boolean,
): number {
  const own = new Uint8Array(w * h);
  const isRow = new Uint8Array(h);
  for (const i of members) {
    own[i] = 1;
    isRow[Math.floor(i / w)] = 1;
  }
  let [like, others] = [0, 0];
  for (let i = 0; i < w * h; i++) {
    if (!isRow[Math.floor(i / w)] || own[i] || inside[i]) continue;
    others++;
    if (isLike(i)) like++;
  }
  return others > 0 ? like / others : 1;
}

/** Pixels of a sight as something found on the photo. */
export function foundOf({ rect, by }: Pick<Sight, 'rect' | 'by'>, part: readonly number[]): Found {
  const data = new Uint8Array(rect.w * rect.h);
  for (const i of part) data[i] = 255;
  const { mask, x, y } = trimMask({ w: rect.w, h: rect.h, data });
  return { mask, x: (rect.x + x) * by, y: (rect.y + y) * by, w: mask.w * by, h: mask.h * by };
}

/** Those of some pixels of a sight that something found on the photo covers. */
export function coveredOf(
  { rect, by }: Sight,
  { mask, x, y, w, h }: Found,
  members: readonly number[],
): number[] {
  return members.filter((i) => {
    const u = Math.floor(((((i % rect.w) + 0.5 + rect.x) * by - x) / w) * mask.w);
    const v = Math.floor((((Math.floor(i / rect.w) + 0.5 + rect.y) * by - y) / h) * mask.h);
    return u >= 0 && v >= 0 && u < mask.w && v < mask.h && mask.data[v * mask.w + u] > 0;
  });
}

/** Whether something found covers most of some pixels of a sight. */
export const coversHalf = (sight: Sight, found: Found, members: readonly number[]): boolean =>
  coveredOf(sight, found, members).length > 0.5 * members.length;

/** The first and last row of an area. */
export function rowsOf(inside: Uint8Array, w: number): [number, number] {
  return [Math.floor(inside.indexOf(1) / w), Math.floor(inside.lastIndexOf(1) / w)];
}

/** The pixels of a grid that are set. */
export function pixelsIn(set: ArrayLike<number>): number[] {
  const out: number[] = [];
  for (let i = 0; i < set.length; i++) if (set[i]) out.push(i);
  return out;
}

export const countOf = (set: Uint8Array): number => set.reduce((n, v) => n + v, 0);

/** A set of a grid without what is thinner than three pixels. */
export function opened(set: Uint8Array, w: number, h: number): Uint8Array {
  const pass = (from: Uint8Array, all: boolean) =>
    from.map((_, i) => {
      const x = i % w;
      const y = (i - x) / w;
      let count = 0;
      for (let dy = -1; dy <= 1; dy++)
        for (let dx = -1; dx <= 1; dx++) {
          const inGrid = x + dx >= 0 && x + dx < w && y + dy >= 0 && y + dy < h;
          if (inGrid ? from[i + dy * w + dx] : all) count++;
        }
      return all ? (count >= 7 ? 1 : 0) : count > 0 ? 1 : 0;
    });
  return pass(pass(set, true), false);
}
