import type { PlanePoint } from '../../core/geometry';
import type { FillInput, FillStage } from '../../core/methods/fill/compute';
import type { CoarseAnswer } from '../../core/methods/fill/first-answer';
import type { Depth, Rect } from '../../core/raster';

export type PoolProtocol = {
  /** Computes a fill. The reply holds RGBA at photo depth for the area's box, transparent outside the area, and the plane on
   *  which something of it was seen to lie. */
  fill: {
    request: { input: FillInput; depth: Depth };
    reply: { rect: Rect; data: Uint8Array | Uint16Array; seenPlane: readonly PlanePoint[] | null };
    progress: { stage: FillStage; share: number; coarse?: CoarseAnswer };
  };
};
