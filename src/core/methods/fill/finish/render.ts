import type { PlanePoint } from '../../../geometry';
import { type FloatImage, makeFloatImage, sampleFootprint } from '../../../raster';
import type { Atlas } from '../atlas';
import type { Shift, ShiftMap } from '../cut/seam-cut';
import { sourcesOf } from '../frame';
import type { SeenWindow } from '../piece-window';
import type { PiecePlan } from '../pieces';

export interface FilledPart {
  /** The piece's box: filled pixels where the piece owns them, transparent black elsewhere. */
  readonly image: FloatImage;
  /** Two numbers a pixel: the document position that it was taken from, NaN where nothing was filled. */
  readonly origin: Float32Array;
}

/** The pixels of piece k, copied from where the map says, or resampled once where the atlas is not plain, with the field added. */
export function render(
  plan: PiecePlan,
  k: number,
  { image, roles, placeOf }: SeenWindow,
  atlas: Atlas,
  map: ShiftMap,
  field: FloatImage,
): FilledPart {
  const { box } = plan.pieces[k];
  const { rect } = image;
  const { w } = atlas.ground;
  const out = makeFloatImage(box);
  const origin = new Float32Array(box.w * box.h * 2).fill(Number.NaN);
  const isOwn = (x: number, y: number) =>
    plan.owner[(box.y + y - plan.box.y) * plan.box.w + box.x + x - plan.box.x] === k;
  if (atlas.isPlain) {
    for (let y = 0; y < box.h; y++)
      for (let x = 0; x < box.w; x++) {
        if (!isOwn(x, y)) continue;
        const p = (box.y + y - rect.y) * w + box.x + x - rect.x;
        const from = p + map.shifts[map.label[p]].dy * w + map.shifts[map.label[p]].dx;
        const tone = (box.y + y - rect.y - field.rect.y) * field.rect.w + box.x + x - rect.x - field.rect.x;
        copyTo(out, y * box.w + x, image.data, from, field.data, tone);
        origin.set(placeOf(from % w, Math.floor(from / w)), 2 * (y * box.w + x));
      }
    return { image: out, origin };
  }
  const usable = sourcesOf(roles);
  const tone = new Float32Array(4);
  for (let y = 0; y < box.h; y++)
    for (let x = 0; x < box.w; x++) {
      if (!isOwn(x, y)) continue;
      const i = y * box.w + x;
      const [wx, wy] = [box.x + x - rect.x, box.y + y - rect.y];
      const [gx, gy] = atlas.groundOf(wx, wy)!;
      const shift = map.shifts[map.label[Math.round(gy) * w + Math.round(gx)]];
      const [sx, sy] = sourceOf(atlas, shift, wx, wy)!;
      const [right, below] = [sourceOf(atlas, shift, wx + 1, wy), sourceOf(atlas, shift, wx, wy + 1)];
      const across = right ? ([right[0] - sx, right[1] - sy] as const) : onePixel.across;
      const down = below ? ([below[0] - sx, below[1] - sy] as const) : onePixel.down;
      fieldAt(field, map, w, gx, gy, tone);
      sampleFootprint(image, sx, sy, across, down, usable, out.data, 4 * i);
      copyTo(out, i, out.data, i, tone, 0);
      origin.set(placeOf(Math.round(sx), Math.round(sy)), 2 * i);
    }
  return { image: out, origin };
}

/** A pixel with a tone added. All but the image are 4 numbers a pixel. */
function copyTo(
  { data }: FloatImage,
  to: number,
  values: Float32Array,
  from: number,
  tones: Float32Array,
  tone: number,
): void {
  const alpha = values[4 * from + 3];
  for (let c = 0; c < 3; c++)
    data[4 * to + c] = Math.max(0, Math.min(alpha, values[4 * from + c] + tones[4 * tone + c]));
  data[4 * to + 3] = alpha;
}

const onePixel = { across: [1, 0], down: [0, 1] } as const;

/** Where in the window a shift takes a window pixel from; null beyond the horizon. */
function sourceOf(atlas: Atlas, { dx, dy }: Shift, x: number, y: number): PlanePoint | null {
  const ground = atlas.groundOf(x, y);
  return ground && atlas.windowOf(...atlas.toGround(ground[0] + dx, ground[1] + dy));
}

/** The tone that belongs to a place between pixels of the ground: the mean of those of the four round it that have one. */
function fieldAt(
  field: FloatImage,
  { label }: ShiftMap,
  w: number,
  x: number,
  y: number,
  out: Float32Array,
): void {
  const [x0, y0] = [Math.floor(x), Math.floor(y)];
  out.fill(0);
  let all = 0;
  for (let v = y0; v <= y0 + 1; v++)
    for (let u = x0; u <= x0 + 1; u++) {
      const p = v * w + u;
      const weight = (1 - Math.abs(x - u)) * (1 - Math.abs(y - v));
      if (weight === 0 || !(label[p] >= 0)) continue;
      all += weight;
      const at = 4 * ((v - field.rect.y) * field.rect.w + u - field.rect.x);
      for (let c = 0; c < 4; c++) out[c] += weight * field.data[at + c];
    }
  if (all > 0) for (let c = 0; c < 4; c++) out[c] /= all;
}
