import type { Rect } from '../../raster';
import { type FloatImage, makeFloatImage } from '../../raster';
import { computeFill, type FillInput, type FillProgress, type FillSteering, unsteered } from './compute';
import { planPieces } from './pieces';

/** Fills part of one small picture, for tests: the plan and its windows are cut out of it. */
export interface PictureFill {
  readonly image: FloatImage;
  /** image in size, non-zero = to be filled. */
  readonly hole: Uint8Array;
  readonly allowed?: Uint8Array;
  readonly steering?: Partial<FillSteering>;
  readonly reach?: number;
  readonly seed?: number;
}

export function inputOf({ image, hole, allowed, steering, reach = 1, seed = 1 }: PictureFill): FillInput {
  const { rect } = image;
  const plan = planPieces(hole, rect, rect, reach);
  return {
    plan,
    windows: plan.pieces.map(({ window }) => ({
      image: cut(image, window),
      allowed: allowed ? cutMask(allowed, rect, window) : null,
    })),
    steering: { ...unsteered, ...steering },
    seed,
  };
}

export interface PictureFilled {
  /** Filled pixels in the hole, transparent black elsewhere. */
  readonly image: FloatImage;
  /** Two numbers a pixel; NaN outside the hole. */
  readonly origin: Float32Array;
}

export function fillPicture(fill: PictureFill, onProgress?: FillProgress): PictureFilled {
  const { rect } = fill.image;
  const image = makeFloatImage(rect);
  const origin = new Float32Array(rect.w * rect.h * 2).fill(Number.NaN);
  for (const part of computeFill(inputOf(fill), onProgress)) {
    const { rect: box, data } = part.image;
    for (let y = 0; y < box.h; y++)
      for (let x = 0; x < box.w; x++) {
        const from = y * box.w + x;
        if (Number.isNaN(part.origin[2 * from])) continue;
        const to = (box.y + y) * rect.w + box.x + x;
        image.data.set(data.subarray(4 * from, 4 * from + 4), 4 * to);
        origin.set(part.origin.subarray(2 * from, 2 * from + 2), 2 * to);
      }
  }
  return { image, origin };
}

function cut(image: FloatImage, rect: Rect): FloatImage {
  const out = makeFloatImage(rect);
  for (let y = 0; y < rect.h; y++) {
    const from = 4 * ((rect.y + y) * image.rect.w + rect.x);
    out.data.set(image.data.subarray(from, from + 4 * rect.w), 4 * y * rect.w);
  }
  return out;
}

function cutMask(mask: Uint8Array, { w }: Rect, rect: Rect): Uint8Array {
  const out = new Uint8Array(rect.w * rect.h);
  for (let y = 0; y < rect.h; y++)
    out.set(mask.subarray((rect.y + y) * w + rect.x, (rect.y + y) * w + rect.x + rect.w), y * rect.w);
  return out;
}
