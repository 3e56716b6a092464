import { copyFloat, type FloatImage, intersect, isEmpty, type Rect, rows, rowsOf } from '../raster';
import { type BlendMode, blendFunction } from './modes';

/** Lays a patch over a backdrop.
 *
 *  Values are blended as encoded, not in linear light: a feathered copy of grain or of a flat tone then keeps the
 *  contrast and lightness that the eye compares on both sides of the edge, and equal colours stay equal.
 *
 *  In normal mode the colour crosses over to the patch's, transparency included, so that a full copy is exact.
 *  Other modes follow W3C Compositing Level 1, section 5.8: Cs' = (1 − αb)·Cs + αb·B(Cb, Cs), then source-over.
 *
 *  @param backdrop  premultiplied
 *  @param patch     premultiplied; covers `at`
 *  @param coverage  float32 0…1 for `coverageRect`, which covers `at`
 *  @param opacity   0…1
 *  @param into      what it becomes within `at`: the backdrop itself, or an image beside it
 */
export function compositePatch(
  backdrop: FloatImage,
  patch: FloatImage,
  coverage: Float32Array,
  coverageRect: Rect,
  at: Rect,
  opacity: number,
  mode: BlendMode,
  into = backdrop,
): void {
  const within = intersect(intersect(at, backdrop.rect), intersect(patch.rect, coverageRect));
  const r = intersect(within, into.rect);
  if (isEmpty(r)) return;
  if (mode === 'normal') return crossOver(backdrop, patch, coverage, coverageRect, r, opacity, into);
  if (into !== backdrop) copyFloat(backdrop, into, r);
  const blend = blendFunction(mode);
  for (let y = r.y; y < r.y + r.h; y++) {
    let i = ((y - into.rect.y) * into.rect.w + r.x - into.rect.x) * 4;
    let j = ((y - patch.rect.y) * patch.rect.w + r.x - patch.rect.x) * 4;
    let k = (y - coverageRect.y) * coverageRect.w + r.x - coverageRect.x;
    for (let x = 0; x < r.w; x++, i += 4, j += 4, k++) {
      const c = coverage[k] * opacity;
      if (c > 0) blendPixel(into.data, i, patch.data, j, c, blend);
    }
  }
}

function crossOver(
  backdrop: FloatImage,
  patch: FloatImage,
  coverage: Float32Array,
  coverageRect: Rect,
  r: Rect,
  opacity: number,
  into: FloatImage,
): void {
  const { kernel, pixels, others, coverage: covered } = rows();
  for (const part of rowsOf(r, into.rect)) {
    const n = part.w * part.h;
    gather(backdrop.data, backdrop.rect, part, pixels, 4);
    gather(patch.data, patch.rect, part, others, 4);
    gather(coverage, coverageRect, part, covered, 1);
    kernel.lay(pixels.byteOffset, others.byteOffset, covered.byteOffset, n, opacity);
    const i = 4 * ((part.y - into.rect.y) * into.rect.w + part.x - into.rect.x);
    into.data.set(pixels.subarray(0, 4 * n), i);
  }
}

/** The rows of a part, one after the other. @param each  numbers a pixel */
function gather(data: Float32Array, { x, y, w }: Rect, part: Rect, into: Float32Array, each: number): void {
  const first = (part.y - y) * w + part.x - x;
  if (w === part.w) {
    into.set(data.subarray(each * first, each * (first + part.w * part.h)));
    return;
  }
  for (let row = 0; row < part.h; row++) {
    const i = each * (first + row * w);
    into.set(data.subarray(i, i + each * part.w), each * row * part.w);
  }
}

function blendPixel(
  b: Float32Array,
  i: number,
  s: Float32Array,
  j: number,
  coverage: number,
  blend: ReturnType<typeof blendFunction>,
): void {
  const ab = b[i + 3];
  const as = s[j + 3];
  if (as <= 0) return;
  const cb: [number, number, number] = ab > 0 ? [b[i] / ab, b[i + 1] / ab, b[i + 2] / ab] : [0, 0, 0];
  const cs: [number, number, number] = [s[j] / as, s[j + 1] / as, s[j + 2] / as];
  const mixed = blend(cb, cs);
  const a = as * coverage;
  for (let c = 0; c < 3; c++) b[i + c] = (1 - a) * b[i + c] + a * ((1 - ab) * cs[c] + ab * mixed[c]);
  b[i + 3] = a + ab * (1 - a);
}

/** Blends what a layer's mends made of the picture with the picture as it was below the layer, in place on `made`.
 *
 *  The layer is a non-isolated group in the sense of W3C Compositing Level 1, section 3.4: its colour is
 *  C = C0 + (Cn − C0)/αg, with C0 the picture below, Cn the picture after its mends and αg the union of their
 *  coverage. In normal mode that reduces to a plain cross-over by the layer's opacity.
 */
export function compositeLayer(
  below: FloatImage,
  made: FloatImage,
  groupAlpha: Float32Array | null,
  opacity: number,
  mode: BlendMode,
): void {
  const a = below.data;
  const b = made.data;
  if (mode === 'normal' || !groupAlpha) {
    for (let i = 0; i < a.length; i++) b[i] = a[i] + (b[i] - a[i]) * opacity;
    return;
  }
  const blend = blendFunction(mode);
  const source = new Float32Array(4);
  for (let p = 0, i = 0; p < groupAlpha.length; p++, i += 4) {
    const alpha = groupAlpha[p];
    if (alpha <= 0) {
      for (let c = 0; c < 4; c++) b[i + c] = a[i + c];
      continue;
    }
    for (let c = 0; c < 4; c++) {
      source[c] = a[i + c] + (b[i + c] - a[i + c]) / alpha;
      b[i + c] = a[i + c];
    }
    blendPixel(b, i, source, 0, alpha * opacity, blend);
  }
}
