import type { FillStage } from '../../core/methods/fill/compute';
import type { Depth, FloatImage, Rect } from '../../core/raster';

export type PoolProtocol = {
  /** Computes a fill. The reply holds RGBA at photo depth for `output`, transparent outside the hole. */
  fill: {
    request: { image: FloatImage; hole: Uint8Array; output: Rect; seed: number; depth: Depth };
    reply: { data: Uint8Array | Uint16Array };
    progress: { stage: FillStage; share: number };
  };
};
