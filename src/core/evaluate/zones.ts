import { type Area, bitsWhere, type MaskLookup, rasteriseArea } from '../area';
import type { Mend, Zones } from '../job/types';
import type { Rect } from '../raster';

/** The allow zone that holds for a mend: its own goes before the job's. */
export const allowZoneOf = (mend: Mend, zones: Zones): Zones['allow'] => mend.steer.allow ?? zones.allow;

/** Where a mend may be drawn from, pixel by pixel. */
export class ZonesAt {
  constructor(
    private readonly zones: Zones,
    private readonly masks: MaskLookup,
  ) {}

  pending({ pending }: Mend, rect: Rect): Uint8Array | null {
    return pending && this.covered([pending], rect);
  }

  avoided({ steer }: Mend, rect: Rect): Uint8Array | null {
    const zones = [steer.avoid, this.zones.avoid].filter((zone) => zone !== null);
    return zones.length > 0 ? this.covered(zones, rect) : null;
  }

  /** Avoid zones of the mend and the job add up, and what is still to go is as good as one. */
  mayDraw(mend: Mend, rect: Rect): Uint8Array | null {
    const allow = allowZoneOf(mend, this.zones);
    const forbidden = [this.avoided(mend, rect), this.pending(mend, rect)].filter((zone) => zone !== null);
    if (!allow && forbidden.length === 0) return null;
    const out = allow
      ? bitsWhere(rasteriseArea(allow, rect, this.masks), (v) => v >= 0.5)
      : new Uint8Array(rect.w * rect.h).fill(1);
    for (const zone of forbidden)
      zone.forEach((is, i) => {
        if (is) out[i] = 0;
      });
    return out;
  }

  /** 1 where any of the areas is. */
  private covered(areas: readonly Area[], rect: Rect): Uint8Array {
    const out = new Uint8Array(rect.w * rect.h);
    for (const area of areas)
      rasteriseArea(area, rect, this.masks).forEach((v, i) => {
        if (v > 0) out[i] = 1;
      });
    return out;
  }
}
