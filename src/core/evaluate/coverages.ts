import { type Area, type MaskLookup, rasteriseArea } from '../area';
import type { Mend } from '../job/types';
import type { Patch } from '../methods';
import { intersect, type Rect, sameRect, tilesIn } from '../raster';
import { LruCache } from './lru-cache';
import { rectOfTile } from './plan';

/** How much of their pixels areas cover, a tile at a time, kept as long as there is room. */
export class Coverages {
  private readonly kept: LruCache<Float32Array>;

  constructor(
    private readonly bounds: Rect,
    private readonly masks: MaskLookup,
    budgetBytes: number,
  ) {
    this.kept = new LruCache(budgetBytes);
  }

  /** @param areaKey  equal for equal areas
   *  @returns rect in size, 0…1; the caller's own */
  of(area: Area, areaKey: string, rect: Rect): Float32Array {
    const out = new Float32Array(rect.w * rect.h);
    for (const tile of tilesIn(rect, this.bounds)) {
      const whole = rectOfTile(tile, this.bounds);
      const part = intersect(whole, rect);
      const key = `${areaKey}:${tile}`;
      let covered = this.kept.get(key);
      if (!covered) {
        covered = rasteriseArea(area, whole, this.masks);
        this.kept.set(key, covered, covered.byteLength);
      }
      if (sameRect(part, whole) && sameRect(part, rect)) return covered.slice();
      for (let y = part.y; y < part.y + part.h; y++) {
        const i = (y - whole.y) * whole.w + part.x - whole.x;
        out.set(covered.subarray(i, i + part.w), (y - rect.y) * rect.w + part.x - rect.x);
      }
    }
    return out;
  }

  clear(): void {
    this.kept.clear();
  }
}

/** A patch's coverage within `at`, less what was rubbed away there. */
export function leftOver(
  { rubbed }: Mend,
  { image, coverage }: Patch,
  at: Rect,
  masks: MaskLookup,
): Float32Array {
  if (!rubbed) return coverage;
  const { rect } = image;
  const out = coverage.slice();
  const away = rasteriseArea(rubbed, at, masks);
  for (let y = 0; y < at.h; y++) {
    const i = (at.y + y - rect.y) * rect.w + at.x - rect.x;
    for (let x = 0; x < at.w; x++) out[i + x] *= 1 - away[y * at.w + x];
  }
  return out;
}

/** α ← α + c − α·c, the union of coverages. */
export function joinCoverage(alpha: Float32Array, rect: Rect, patch: Patch, at: Rect, opacity: number): void {
  const from = patch.image.rect;
  for (let y = at.y; y < at.y + at.h; y++)
    for (let x = at.x; x < at.x + at.w; x++) {
      const c = patch.coverage[(y - from.y) * from.w + x - from.x] * opacity;
      const i = (y - rect.y) * rect.w + x - rect.x;
      alpha[i] += c - alpha[i] * c;
    }
}
