import { type FloatImage, intersect, isEmpty, type Rect } from '../../raster';
import { point, solveMembrane } from '../../solve';

/** Fits the source's tone to the target's: adds the smooth field that makes up the difference all along the rim.
 *
 *  @param source    pixels brought to the target; changed in place where `coverage` is above 0
 *  @param target    pixels as they are; same rectangle
 *  @param coverage  same rectangle; above 0 is inside, the rest of the rectangle is rim and outside
 *  @param valid     where the source has pixels; elsewhere nothing is fitted and nothing held
 *  @param bounds    the photo; its edge is no rim, so no tone crosses there
 *  @param strength  0: the source as it is, 1: fully fitted
 *  Degenerate: an area without rim (the whole photo) leaves the source as it is.
 *  Source: Pérez, Gangnet & Blake 2003, doi:10.1145/1201775.882269, eq. 4 with the source's gradient as guidance field,
 *  solved for the difference f − g, which is harmonic.
 */
export function fitTone(
  source: FloatImage,
  target: FloatImage,
  coverage: Float32Array,
  valid: Rect,
  bounds: Rect,
  strength: number,
): void {
  const { rect } = source;
  const inPhoto = intersect(intersect(rect, bounds), valid);
  if (isEmpty(inPhoto) || strength <= 0) return;
  const { w, h } = rect;
  const kind = new Uint8Array(w * h);
  const field = new Float32Array(w * h * 4);
  const s = source.data;
  const t = target.data;
  for (let y = inPhoto.y - rect.y; y < inPhoto.y - rect.y + inPhoto.h; y++) {
    const end = y * w + inPhoto.x - rect.x + inPhoto.w;
    for (let i = end - inPhoto.w, c = 4 * i; i < end; i++, c += 4) {
      if (coverage[i] > 0) {
        kind[i] = point.free;
        continue;
      }
      kind[i] = point.fixed;
      field[c] = t[c] - s[c];
      field[c + 1] = t[c + 1] - s[c + 1];
      field[c + 2] = t[c + 2] - s[c + 2];
    }
  }
  solveMembrane(w, h, kind, field);
  for (let i = 0; i < kind.length; i++) {
    if (kind[i] !== point.free) continue;
    const alpha = s[4 * i + 3];
    for (let c = 4 * i; c < 4 * i + 3; c++) {
      const v = s[c] + strength * field[c];
      s[c] = v < 0 ? 0 : Math.min(v, alpha);
    }
  }
}
