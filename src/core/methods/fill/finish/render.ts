import type { PlanePoint } from '../../../geometry';
import { type FloatImage, makeFloatImage, sampleFootprint } from '../../../raster';
import type { Atlas } from '../atlas';
import type { Shift, ShiftMap } from '../cut/seam-cut';
import { role } from '../frame';
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
  field: Float32Array,
): FilledPart {
  const { box } = plan.pieces[k];
  const { rect } = image;
  const { w } = atlas.ground;
  const out = makeFloatImage(box);
  const origin = new Float32Array(box.w * box.h * 2).fill(Number.NaN);
  const usable = atlas.isPlain ? null : sourcesOf(roles);
  const tone = new Float32Array(4);
  for (let y = 0; y < box.h; y++)
    for (let x = 0; x < box.w; x++) {
      if (plan.owner[(box.y + y - plan.box.y) * plan.box.w + box.x + x - plan.box.x] !== k) continue;
      const i = y * box.w + x;
      const [wx, wy] = [box.x + x - rect.x, box.y + y - rect.y];
      let [sx, sy] = [0, 0];
      if (usable) {
        const [gx, gy] = atlas.groundOf(wx, wy)!;
        const shift = map.shifts[map.label[Math.round(gy) * w + Math.round(gx)]];
        [sx, sy] = sourceOf(atlas, shift, wx, wy)!;
        const [right, below] = [sourceOf(atlas, shift, wx + 1, wy), sourceOf(atlas, shift, wx, wy + 1)];
        const across = right ? ([right[0] - sx, right[1] - sy] as const) : onePixel.across;
        const down = below ? ([below[0] - sx, below[1] - sy] as const) : onePixel.down;
        fieldAt(field, map, w, gx, gy, tone);
        sampleFootprint(image, sx, sy, across, down, usable, out.data, 4 * i);
      } else {
        const p = wy * w + wx;
        const { dx, dy } = map.shifts[map.label[p]];
        sx = wx + dx;
        sy = wy + dy;
        const from = 4 * (p + dy * w + dx);
        for (let c = 0; c < 4; c++) {
          tone[c] = field[4 * p + c];
          out.data[4 * i + c] = image.data[from + c];
        }
      }
      const alpha = out.data[4 * i + 3];
      for (let c = 4 * i; c < 4 * i + 3; c++)
        out.data[c] = Math.max(0, Math.min(alpha, out.data[c] + tone[c - 4 * i]));
      origin.set(placeOf(Math.round(sx), Math.round(sy)), 2 * i);
    }
  return { image: out, origin };
}

const onePixel = { across: [1, 0], down: [0, 1] } as const;

/** Where in the window a shift takes a window pixel from; null beyond the horizon. */
function sourceOf(atlas: Atlas, { dx, dy }: Shift, x: number, y: number): PlanePoint | null {
  const ground = atlas.groundOf(x, y);
  return ground && atlas.windowOf(...atlas.toGround(ground[0] + dx, ground[1] + dy));
}

/** The tone that belongs to a place between pixels of the ground: the mean of those of the four round it that have one. */
function fieldAt(
  field: Float32Array,
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
      for (let c = 0; c < 4; c++) out[c] += weight * field[4 * p + c];
    }
  if (all > 0) for (let c = 0; c < 4; c++) out[c] /= all;
}

function sourcesOf(roles: Uint8Array): Uint8Array {
  const out = new Uint8Array(roles.length);
  for (let i = 0; i < out.length; i++) if (roles[i] === role.source) out[i] = 1;
  return out;
}
