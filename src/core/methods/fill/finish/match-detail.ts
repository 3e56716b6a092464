import { bitsWhere, squaredDistance } from '../../../area';
import { type FloatImage, gaussianBlur, grow, intersect, type Rect } from '../../../raster';
import { role } from '../frame';

/** What is finer than a blur of this deviation is detail, in pixels. */
const sigmaPx = 2.5;
/** Detail is compared with that of pixels so far from what was filled. */
const nearestPx = 3;
const farthestPx = 18;
/** Of the difference, in octaves, so much is made up for: the surroundings tell what was there about as well as the sources do, and what
 *  lies between the two is nearest to it. More where detail is missing, for a search prefers what is smooth. */
const share = { missing: 0.9, surplus: 0.65 };
/** Differences up to so many octaves say nothing. */
const deadOctaves = { missing: 0.02, surplus: 0.06 };
const leastGain = 0.8;
const mostGain = 1.3;
/** The gain sets in within so many pixels from the rim, so that joins stay as they are. */
const rampPx = 3;
/** Fewer pixels than these tell nothing about detail. */
const leastFilled = 200;
const leastAround = 400;
/** Squared deviation that is added to both, of full scale: half an 8-bit step's. */
const floor = 0.5 / 255 ** 2;

/** Brings the strength of fine detail, grain above all, nearer to that of the surroundings. A search prefers sources that are
 *  smooth, for these differ least from anything; and resampled sources lose a little.
 *
 *  @param window  the photo; only sources are read
 *  @param roles   window.rect in size: {@link role}
 *  @param part    changed in place where it is filled
 *  @param filled  part.rect in size, 1 where the part's pixels were filled
 *  @returns the gain that was given to detail deep inside; 1 when nothing was changed
 *  Cost: O(pixels of the part and {@link farthestPx} round it). The measure is ours; detail as in Burt & Adelson 1983,
 *  doi:10.1109/TCOM.1983.1095851.
 */
export function matchDetail(
  window: FloatImage,
  roles: Uint8Array,
  part: FloatImage,
  filled: Uint8Array,
): number {
  const rect = intersect(grow(part.rect, farthestPx), window.rect);
  const seen = composite(rect, window, roles, part, filled);
  const low = blurred(rect, seen);
  const { own, around } = seen;
  const toOwn = squaredDistance(own, rect.w, rect.h);
  const [mine, others] = [energy(), energy()];
  for (let i = 0; i < own.length; i++) {
    if (own[i]) mine.add(detailOf(seen.values, low, i));
    else if (around[i] && toOwn[i] > nearestPx ** 2 && toOwn[i] < farthestPx ** 2)
      others.add(detailOf(seen.values, low, i));
  }
  if (mine.count < leastFilled || others.count < leastAround) return 1;
  const octaves = 0.5 * Math.log2((others.mean() + floor) / (mine.mean() + floor));
  const kind = octaves > 0 ? 'missing' : 'surplus';
  const clear = Math.sign(octaves) * Math.max(0, Math.abs(octaves) - deadOctaves[kind]);
  const gain = Math.min(mostGain, Math.max(leastGain, 2 ** (share[kind] * clear)));
  if (gain === 1) return 1;
  const deep = squaredDistance(
    bitsWhere(own, (v) => v === 0),
    rect.w,
    rect.h,
  );
  for (let y = 0; y < part.rect.h; y++)
    for (let x = 0; x < part.rect.w; x++) {
      if (!filled[y * part.rect.w + x]) continue;
      const i = (part.rect.y + y - rect.y) * rect.w + part.rect.x + x - rect.x;
      const g = (gain - 1) * Math.min(1, Math.max(0, (Math.sqrt(deep[i]) - 1) / rampPx));
      const p = 4 * (y * part.rect.w + x);
      const alpha = part.data[p + 3];
      for (let c = 0; c < 3; c++) {
        const v = part.data[p + c];
        part.data[p + c] = Math.max(0, Math.min(alpha, v + g * (v - low[4 * i + c])));
      }
    }
  return gain;
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

function energy() {
  let sum = 0;
  let count = 0;
  return {
    add(v: number) {
      sum += v * v;
      count++;
    },
    get count() {
      return count;
    },
    mean: () => sum / count,
  };
}
