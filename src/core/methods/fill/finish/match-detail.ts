import { squaredDistance } from '../../../area';
import { type FloatImage, gaussianBlur, grow, intersect, type Rect } from '../../../raster';
import type { role } from '../frame';
import { DetailByColour } from './detail-by-colour';

/** What is finer than a blur of the second deviation is detail, in pixels; what is finer than one of the first is its finer part: grain, and
 *  edges, of which a fill may have too much while it has too little of what lies between. */
const sigmasPx = { fine: 0.8, coarse: 2.5 };
/** Detail is compared with that of pixels so far from what was filled. */
const nearestPx = 3;
const farthestPx = 18;
/** Of the difference, in octaves, so much is made up for. All of it where detail is missing, for a search prefers what is smooth; where
 *  there is too much, it may as well be what was there. */
const share = { missing: 1, surplus: 0.5 };
/** Differences up to so many octaves say nothing. */
const deadOctaves = { missing: 0.05, surplus: 0.06 };
/** A search leaves out strong edges, which mean sizes hardly show: up to so many octaves are missing beside those that are seen. */
const unseenOctaves = { fine: 0.05, coarse: 0.11 };
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
  const [n, own] = [rect.w * rect.h, part.rect.w * part.rect.h];
  const sizes = [16 * n, n, 16 * own, own, n, n, 16 * n, 16 * n, n, 8 * n, 16 * n, 4 * n];
  const colours = new DetailByColour(n, sizes);
  const { kernel: k, buffer, at } = colours;
  const [values, its, partAt, filledAt, ownAt, aroundAt, soft, low, wanted, details, field, deep] = at;
  copyRows(window, rect, roles, new Float32Array(buffer, values, 4 * n), new Uint8Array(buffer, its, n));
  new Float32Array(buffer, partAt, 4 * own).set(part.data);
  new Uint8Array(buffer, filledAt, own).set(filled);
  const [px, py] = [part.rect.x - rect.x, part.rect.y - rect.y];
  const placed = [px, py, part.rect.w, part.rect.h] as const;
  k.compose(values, its, rect.w, rect.h, partAt, filledAt, ...placed, ownAt, aroundAt);
  // The mean of what is known round each pixel.
  for (const [to, sigmaPx] of [
    [soft, sigmasPx.fine],
    [low, sigmasPx.coarse],
  ] as const) {
    k.weigh(values, ownAt, aroundAt, n, to);
    gaussianBlur(new Float32Array(buffer, to, 4 * n), rect.w, rect.h, sigmaPx);
    k.means(to, n);
  }
  const isOwn = new Uint8Array(buffer, ownAt, n);
  choose(isOwn, new Uint8Array(buffer, aroundAt, n), rect, new Uint8Array(buffer, wanted, n));
  const kinds = colours.sort(low, wanted);
  const gainsOf = (finer: number, coarser: number, unseen: number): Float32Array | null => {
    k.details(finer, coarser, n, details);
    const inside = colours.near(details, ownAt, 'set');
    const around = colours.near(details, ownAt, 'others');
    if (inside.taken < leastFilled || around.taken < leastAround) return null;
    return Float32Array.from(inside.strengths, (energy, kind) =>
      gainFor(energy, around.strengths[kind], unseen),
    );
  };
  const [fine, coarse] = [
    gainsOf(values, soft, unseenOctaves.fine),
    gainsOf(soft, low, unseenOctaves.coarse),
  ];
  if (!fine || !coarse || [...fine, ...coarse].every((gain) => gain === 1)) return;
  // The pieces that are no longer needed are taken again.
  new Float32Array(buffer, details, kinds).set(fine);
  new Float32Array(buffer, values, kinds).set(coarse);
  k.spread(colours.of, ownAt, details, values, n, field);
  gaussianBlur(new Float32Array(buffer, field, 4 * n), rect.w, rect.h, gainSigmaPx);
  const isOther = isOwn.map((v) => 1 - v);
  new Float32Array(buffer, deep, n).set(squaredDistance(isOther, rect.w, rect.h));
  k.multiply(partAt, filledAt, ...placed, soft, low, field, deep, rect.w, rampPx);
  part.data.set(new Float32Array(buffer, partAt, 4 * own));
}

/** Copies a rectangle of the window, and its roles. */
function copyRows(
  window: FloatImage,
  rect: Rect,
  roles: Uint8Array,
  values: Float32Array,
  its: Uint8Array,
): void {
  for (let y = 0; y < rect.h; y++) {
    const from = (rect.y + y - window.rect.y) * window.rect.w + rect.x - window.rect.x;
    values.set(window.data.subarray(4 * from, 4 * (from + rect.w)), 4 * y * rect.w);
    its.set(roles.subarray(from, from + rect.w), y * rect.w);
  }
}

/** What was filled, and what lies not right beside it but near. */
function choose(own: Uint8Array, around: Uint8Array, { w, h }: Rect, out: Uint8Array): void {
  const toOwn = squaredDistance(own, w, h);
  for (let i = 0; i < out.length; i++)
    out[i] = own[i] | (around[i] & +(toOwn[i] > nearestPx ** 2 && toOwn[i] < farthestPx ** 2));
}

/** @param energy  of the detail there is
 *  @param around  of that round about; NaN: not known
 *  @param unseen  as many octaves are missing beside those, at most
 *  @returns what the detail is to be multiplied with */
function gainFor(energy: number, around: number, unseen: number): number {
  if (Number.isNaN(energy + around)) return 1;
  const octaves = 0.5 * Math.log2((around + floor) / (energy + floor));
  const kind = octaves > 0 ? 'missing' : 'surplus';
  const beyond = Math.max(0, Math.abs(octaves) - deadOctaves[kind]);
  const clear = kind === 'missing' ? beyond + Math.min(unseen, beyond) : -beyond;
  return Math.min(mostGain, Math.max(leastGain, 2 ** (share[kind] * clear)));
}
