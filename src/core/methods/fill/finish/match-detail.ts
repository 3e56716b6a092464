import { bitsWhere, squaredDistance } from '../../../area';
import { type FloatImage, gaussianBlur, grow, intersect, type Rect } from '../../../raster';
import { role } from '../frame';
import { detailByColour, kindsByColour } from './detail-by-colour';

/** What is finer than a blur of this deviation is detail, in pixels. */
const sigmaPx = 2.5;
/** Detail is compared with that of pixels so far from what was filled. */
const nearestPx = 3;
const farthestPx = 18;
/** Of the difference, in octaves, so much is made up for. All of it where detail is missing, for a search prefers what is smooth; where
 *  there is too much, it may as well be what was there. */
const share = { missing: 1, surplus: 0.5 };
/** Differences up to so many octaves say nothing. */
const deadOctaves = { missing: 0.02, surplus: 0.06 };
const leastGain = 0.8;
const mostGain = 1.5;
/** Colours lie beside each other in a picture: from one to the next gains change over about so many pixels. */
const gainSigmaPx = 1.5;
/** The gain sets in within so many pixels from the rim, so that joins stay as they are. */
const rampPx = 3;
/** Fewer pixels than these tell nothing about detail. */
const leastFilled = 200;
const leastAround = 400;
/** Squared deviation that is added to both, of full scale: half an 8-bit step's. */
const floor = 0.5 / 255 ** 2;

/** Brings the strength of fine detail, grain above all, nearer to that of the surroundings, colour by colour: a sky has less of it than
 *  leaves, and seldom is there as much of each inside as round about. A search prefers sources that are smooth, for these differ
 *  least from anything; and resampled sources lose a little.
 *
 *  @param window  the photo; only sources are read
 *  @param roles   window.rect in size: {@link role}
 *  @param part    changed in place where it is filled
 *  @param filled  part.rect in size, 1 where the part's pixels were filled
 *  Cost: O(pixels of the part and {@link farthestPx} round it). The measure is ours; detail as in Burt & Adelson 1983,
 *  doi:10.1109/TCOM.1983.1095851.
 */
export function matchDetail(
  window: FloatImage,
  roles: Uint8Array,
  part: FloatImage,
  filled: Uint8Array,
): void {
  const rect = intersect(grow(part.rect, farthestPx), window.rect);
  const seen = composite(rect, window, roles, part, filled);
  const low = blurred(rect, seen);
  const gains = gainsOf(rect, seen, low);
  if (!gains) return;
  const deep = squaredDistance(
    bitsWhere(seen.own, (v) => v === 0),
    rect.w,
    rect.h,
  );
  for (let y = 0; y < part.rect.h; y++)
    for (let x = 0; x < part.rect.w; x++) {
      if (!filled[y * part.rect.w + x]) continue;
      const i = (part.rect.y + y - rect.y) * rect.w + part.rect.x + x - rect.x;
      const g = (gains[i] - 1) * Math.min(1, Math.max(0, (Math.sqrt(deep[i]) - 1) / rampPx));
      const p = 4 * (y * part.rect.w + x);
      const alpha = part.data[p + 3];
      for (let c = 0; c < 3; c++) {
        const v = part.data[p + c];
        part.data[p + c] = Math.max(0, Math.min(alpha, v + g * (v - low[4 * i + c])));
      }
    }
}

/** What the detail of each pixel that was filled is to be multiplied with; null where nothing is to be changed. */
function gainsOf(rect: Rect, { values, own, around }: Composite, low: Float32Array): Float32Array | null {
  const toOwn = squaredDistance(own, rect.w, rect.h);
  const isNear = (i: number) => around[i] === 1 && toOwn[i] > nearestPx ** 2 && toOwn[i] < farthestPx ** 2;
  const kinds = kindsByColour(low, (i) => own[i] === 1 || isNear(i));
  const [its, others] = [detailByColour(kinds), detailByColour(kinds)];
  let [ownCount, othersCount] = [0, 0];
  for (let i = 0; i < own.length; i++) {
    const kind = kinds.of[i];
    if (kind < 0) continue;
    if (own[i]) ownCount++;
    else othersCount++;
    (own[i] ? its : others).add(kind, detailOf(values, low, i));
  }
  if (ownCount < leastFilled || othersCount < leastAround) return null;
  const ofKind = Float32Array.from({ length: kinds.count }, (_, kind) => {
    const [energy, around] = [its.near(kind), others.near(kind)];
    return energy === null || around === null ? 1 : gainFor(energy, around);
  });
  if (ofKind.every((gain) => gain === 1)) return null;
  // Gains less one, and where there are any.
  const field = new Float32Array(4 * own.length);
  for (let i = 0; i < own.length; i++) {
    if (!own[i]) continue;
    field[4 * i] = ofKind[kinds.of[i]] - 1;
    field[4 * i + 1] = 1;
  }
  gaussianBlur(field, rect.w, rect.h, gainSigmaPx);
  return Float32Array.from(own, (is, i) => (is ? 1 + field[4 * i] / field[4 * i + 1] : 1));
}

/** @param energy  of the detail there is
 *  @param around  of that round about */
function gainFor(energy: number, around: number): number {
  const octaves = 0.5 * Math.log2((around + floor) / (energy + floor));
  const kind = octaves > 0 ? 'missing' : 'surplus';
  const clear = Math.sign(octaves) * Math.max(0, Math.abs(octaves) - deadOctaves[kind]);
  return Math.min(mostGain, Math.max(leastGain, 2 ** (share[kind] * clear)));
}

interface Composite {
  /** RGBA, transparent black where nothing is known. */
  readonly values: Float32Array;
  readonly own: Uint8Array;
  readonly around: Uint8Array;
}

function composite(
  rect: Rect,
  window: FloatImage,
  roles: Uint8Array,
  part: FloatImage,
  filled: Uint8Array,
): Composite {
  const values = new Float32Array(rect.w * rect.h * 4);
  const own = new Uint8Array(rect.w * rect.h);
  const around = new Uint8Array(rect.w * rect.h);
  for (let y = 0; y < rect.h; y++)
    for (let x = 0; x < rect.w; x++) {
      const i = y * rect.w + x;
      const [u, v] = [rect.x + x - part.rect.x, rect.y + y - part.rect.y];
      const inPart = u >= 0 && v >= 0 && u < part.rect.w && v < part.rect.h;
      if (inPart && filled[v * part.rect.w + u]) {
        own[i] = 1;
        const p = 4 * (v * part.rect.w + u);
        copyPixel(part.data, p, values, 4 * i);
        continue;
      }
      const k = (rect.y + y - window.rect.y) * window.rect.w + rect.x + x - window.rect.x;
      if (roles[k] !== role.source) continue;
      around[i] = 1;
      copyPixel(window.data, 4 * k, values, 4 * i);
    }
  return { values, own, around };
}

function copyPixel(from: Float32Array, at: number, to: Float32Array, into: number): void {
  to[into] = from[at];
  to[into + 1] = from[at + 1];
  to[into + 2] = from[at + 2];
  to[into + 3] = from[at + 3];
}

/** The mean of what is known round each pixel, weighted by a Gaussian. */
function blurred({ w, h }: Rect, { values, own, around }: Composite): Float32Array {
  // Red, green, blue and how much is known.
  const sums = new Float32Array(w * h * 4);
  for (let i = 0; i < own.length; i++) {
    if (!own[i] && !around[i]) continue;
    copyPixel(values, 4 * i, sums, 4 * i);
    sums[4 * i + 3] = 1;
  }
  gaussianBlur(sums, w, h, sigmaPx);
  for (let i = 0; i < own.length; i++) {
    const weight = sums[4 * i + 3];
    if (weight > 0) for (let c = 4 * i; c < 4 * i + 3; c++) sums[c] /= weight;
  }
  return sums;
}

const detailOf = (values: Float32Array, low: Float32Array, i: number): number =>
  (values[4 * i] -
    low[4 * i] +
    2 * (values[4 * i + 1] - low[4 * i + 1]) +
    values[4 * i + 2] -
    low[4 * i + 2]) /
  4;
