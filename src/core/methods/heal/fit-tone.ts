import type { FloatImage, Rect } from '../../raster';
import { intersect, isEmpty } from '../../raster';
import { point, solveMembrane } from '../../solve';

/** What a pixel is to a stop line: beside it (no tone is taken from there), or on it (no tone crosses there). */
export const stop = { none: 0, beside: 1, on: 2 } as const;

export interface ToneFit {
  /** 0: the source's tone as it is, 1: fully fitted. */
  readonly tone: number;
  /** 0: none of the source's detail, only tone; 1: all of it. */
  readonly texture: number;
  /** source.rect in size: {@link stop}; null: no stop lines. */
  readonly stops: Uint8Array | null;
}

/** Fits the source's tone to the target's: adds the smooth field that makes up the difference all along the rim.
 *
 *  @param source    pixels brought to the target; changed in place where `coverage` is above 0
 *  @param target    pixels as they are; same rectangle
 *  @param coverage  same rectangle; above 0 is inside, the rest of the rectangle is rim and outside
 *  @param valid     same rectangle, 1 where the source has pixels; elsewhere nothing is fitted and nothing held
 *  @param bounds    the photo; its edge is no rim, so no tone crosses there
 *  Along stop lines the field is free (Neumann's condition): what touches the area there does not tint it.
 *  Degenerate: an area without rim (the whole photo, or stop lines all round) leaves the source as it is.
 *  Source: Pérez, Gangnet & Blake 2003, doi:10.1145/1201775.882269, eq. 4 with the source's gradient as guidance field,
 *  solved for the difference f − g, which is harmonic.
 */
export function fitTone(
  source: FloatImage,
  target: FloatImage,
  coverage: Float32Array,
  valid: Uint8Array | null,
  bounds: Rect,
  { tone, texture, stops }: ToneFit,
): void {
  const { rect } = source;
  const inPhoto = intersect(rect, bounds);
  if (isEmpty(inPhoto) || (tone <= 0 && texture >= 1)) return;
  const { w, h } = rect;
  const kind = new Uint8Array(w * h);
  const onStop: number[] = [];
  for (let y = inPhoto.y - rect.y; y < inPhoto.y - rect.y + inPhoto.h; y++)
    for (let x = inPhoto.x - rect.x; x < inPhoto.x - rect.x + inPhoto.w; x++) {
      const i = y * w + x;
      if (valid && !valid[i]) continue;
      const beside = stops ? stops[i] : stop.none;
      if (coverage[i] > 0) {
        if (beside === stop.on) onStop.push(i);
        else kind[i] = point.free;
      } else if (beside === stop.none) kind[i] = point.fixed;
    }
  const s = source.data;
  const t = target.data;
  const difference = solved(w, h, kind, onStop, (i) => t[i] - s[i]);
  // What the source would be without detail: the same rim, smoothly filled.
  const base = texture < 1 ? solved(w, h, kind, onStop, (i) => s[i]) : null;
  const inside = [...onStop];
  for (let i = 0; i < kind.length; i++) if (kind[i] === point.free) inside.push(i);
  for (const i of inside) {
    const alpha = s[4 * i + 3];
    for (let c = 4 * i; c < 4 * i + 3; c++) {
      const own = base ? base[c] + texture * (s[c] - base[c]) : s[c];
      s[c] = Math.min(alpha, Math.max(0, own + tone * difference[c]));
    }
  }
}

/** The membrane over the free pixels that takes `value` on the fixed ones, and beside a stop line what lies there. */
function solved(
  w: number,
  h: number,
  kind: Uint8Array,
  onStop: readonly number[],
  value: (i: number) => number,
): Float32Array {
  const field = new Float32Array(w * h * 4);
  for (let i = 0; i < kind.length; i++)
    if (kind[i] === point.fixed) for (let c = 4 * i; c < 4 * i + 3; c++) field[c] = value(c);
  solveMembrane(w, h, kind, field);
  for (const i of onStop) {
    const x = i % w;
    const near = [x > 0 ? i - 1 : -1, x < w - 1 ? i + 1 : -1, i - w, i + w].filter(
      (q) => q >= 0 && q < kind.length && kind[q] === point.free,
    );
    if (near.length > 0) for (let c = 0; c < 3; c++) field[4 * i + c] = field[4 * near[0] + c];
  }
  return field;
}
