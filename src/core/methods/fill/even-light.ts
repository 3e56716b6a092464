import { squaredDistance } from '../../area';
import {
  copyFloat,
  type FloatImage,
  gaussianBlur,
  grow,
  intersect,
  makeFloatImage,
  partOfPlane,
  type Rect,
} from '../../raster';
import { point, solveMembrane } from '../../solve';
import { boxOfTargets, countOf, isKnownRole, role, thicknessOf } from './frame';

/** The rim is looked at so wide, in pixels, in a picture blurred by so much, so that texture does not count for edges. */
const rim = { widthPx: 8, sigmaPx: 2 };
/** Light changes softly: lightness, of full scale, by no more than this from one pixel to the next, all along the rim but for so few of its
 *  pixels. A hard edge of 55 8-bit steps changes by as much. */
const softest = { perPixel: 11 / 255, butFor: 0.001 };
/** It changes much: it is so many times as light at one part of the rim as at another, each a tenth of it. Less is taken up where
 *  pieces join. */
const leastRatio = 1.5;
/** And smoothly: what a wider blur takes away is small beside that. */
const wideSigmaPx = 10;
const mostRough = 0.125;
/** It is light, not another ground: the shares of red, green and blue stay the same all along the rim but for so much, and for so few
 *  pixels. So much is added to every channel, for the shares of dark colours are chance. */
const sameHue = { shares: 0.0125, butFor: 0.02, floor: 0.05 };
/** Fewer pixels than these tell nothing about a rim. */
const leastRim = 30;
/** What is finer than a blur of so many pixels, by how thick the hole is, is the ground's own texture. */
const blurOf = { least: 6, most: 24, share: 0.4 };
/** Of full scale: in what is darker there is nothing to see. */
const darkest = 0.02;
/** There must be so many sources left for each target. */
const leastSources = 4;
/** A window of more pixels is left as it is: it is held some five times over, at 16 bytes a pixel. */
const mostPixels = 4_000_000;

/** Pieces that do not go together in light show as a step: in a picture blurred by so many pixels, lightness changes so many times as hard
 *  somewhere within the hole as anywhere at its rim, but for so few pixels of each. */
const step = { sigmaPx: 1, times: 1.1, butFor: 0.005 };

/** A window without the soft shadows in it. */
export interface EvenlyLit {
  readonly image: FloatImage;
  /** What lies at hard edges, where light and ground cannot be told apart, is not drawn from. */
  readonly roles: Uint8Array;
  /** Puts the light back into what was filled. */
  relight(part: FloatImage): void;
}

/** Takes the light off a ground that lies partly in a soft shadow: nothing that could be copied has the shadow's edge just where it would
 *  be needed, and light and dark pieces side by side show as a step. The light is the mean of what lies round each pixel (what changes
 *  slowly is light: Land & McCann 1971, Lightness and Retinex Theory, doi:10.1364/JOSA.61.000001), of the rim's usual hue. Within the
 *  hole it is that of what was filled, where the shadow ends in the right place, but too hard. The tests are ours.
 *
 *  @param roles   image.rect in size: {@link role}
 *  @param filled  transparent where nothing was filled
 *  @returns the window as it would be in one light; null where what was filled shows no step, or where the rim is lit evenly, or has
 *  hard edges, or is of several grounds; and where the window is enormous
 */
export function evenlyLit(image: FloatImage, roles: Uint8Array, filled: FloatImage): EvenlyLit | null {
  const { w, h } = image.rect;
  if (w * h > mostPixels) return null;
  const whole = { x: 0, y: 0, w, h };
  const near = makeFloatImage(intersect(grow(boxOfTargets(roles, w), rim.widthPx + 3 * rim.sigmaPx), whole));
  copyFloat({ rect: whole, data: image.data }, near);
  if (!isSoftlyShaded({ ...near, roles: partOfPlane(roles, whole, near.rect) })) return null;
  const before = { rect: whole, data: image.data, roles };
  const edge = rimPixels(before);
  const all = withFilled(image, roles, filled);
  if (!showsStep(all, edge, roles)) return null;
  const sigmaPx = Math.min(blurOf.most, Math.max(blurOf.least, blurOf.share * thicknessOf(roles, w, h)));
  const hard = nearHardEdges(before, 2 * sigmaPx);
  const its = roles.map((is, p) => (is === role.source && hard[p] ? role.context : is));
  if (countOf(its, role.source) < leastSources * countOf(its, role.target)) return null;
  const light = blurred(all, sigmaPx);
  spread(light, all.roles, w, h);
  const usual = meanOf(light, edge);
  // So many times as light as usual.
  const times = Float32Array.from(roles, (_, p) => lightnessOf(light, p) / lightnessOf(usual, 0));
  const data = image.data.slice();
  for (let p = 0, i = 0; p < times.length; p++, i += 4)
    for (let c = 0; c < 3; c++) data[i + c] = lit(data[i + c], usual[c] * times[p], usual[c], data[i + 3]);
  return {
    image: { rect: image.rect, data },
    roles: its,
    relight({ rect, data }) {
      for (let y = 0, i = 0; y < rect.h; y++)
        for (let x = 0; x < rect.w; x++, i += 4) {
          const here = times[(rect.y + y - image.rect.y) * w + rect.x + x - image.rect.x];
          for (let c = 0; c < 3; c++) data[i + c] = lit(data[i + c], usual[c], usual[c] * here, data[i + 3]);
        }
    },
  };
}

/** What is seen in one light as it would be in another one. Texture is stronger where it is lighter, grain is not: detail is taken to grow
 *  with the fourth root of the light. @param most  what it may be at most */
const lit = (value: number, from: number, to: number, most: number): number =>
  Math.max(0, Math.min(most, to + (value - from) * Math.sqrt(Math.sqrt(to / from))));

/** What is known of a rectangle. */
interface Part {
  readonly rect: Rect;
  readonly data: Float32Array;
  readonly roles: Uint8Array;
}

/** A window with what was filled in it, which is known then. What is filled along for a neighbour's sake is not of it. */
function withFilled(image: FloatImage, roles: Uint8Array, filled: FloatImage): Part {
  const all = { rect: image.rect, data: image.data.slice(), roles: roles.slice() };
  const { x, y, w, h } = intersect(filled.rect, image.rect);
  for (let v = y; v < y + h; v++)
    for (let u = x; u < x + w; u++) {
      const from = 4 * ((v - filled.rect.y) * filled.rect.w + u - filled.rect.x);
      const p = (v - image.rect.y) * image.rect.w + u - image.rect.x;
      if (all.roles[p] !== role.target || filled.data[from + 3] === 0) continue;
      all.data.set(filled.data.subarray(from, from + 4), 4 * p);
      all.roles[p] = role.context;
    }
  return all;
}

/** Whether light changes harder in what was filled than anywhere at the rim. @param roles  before it was filled */
function showsStep(all: Part, edge: readonly number[], roles: Uint8Array): boolean {
  const soft = blurred(all, step.sigmaPx);
  const steepest = (some: readonly number[]) => {
    const slopes = sorted(some, (p) => slopeOf(all, soft, p));
    return at(slopes, 1 - step.butFor);
  };
  const inside = [...all.roles.keys()].filter((p) => roles[p] === role.target && isKnownRole(all.roles[p]));
  return inside.length > 0 && steepest(inside) > step.times * steepest(edge);
}

/** The mean of what is known round each pixel, where there is any; else 0. */
function blurred({ rect: { w, h }, data, roles }: Part, sigmaPx: number): Float32Array {
  const out = new Float32Array(4 * w * h);
  for (let p = 0; p < w * h; p++) {
    if (!isKnownRole(roles[p])) continue;
    for (let c = 0; c < 3; c++) out[4 * p + c] = data[4 * p + c];
    out[4 * p + 3] = 1;
  }
  gaussianBlur(out, w, h, sigmaPx);
  for (let i = 0; i < out.length; i += 4)
    for (let c = 0; c < 3; c++)
      out[i + c] = out[i + 3] > 1e-4 ? Math.max(darkest, out[i + c] / out[i + 3]) : 0;
  return out;
}

const holeOf = (roles: Uint8Array): Uint8Array => roles.map((is) => (is === role.target ? 1 : 0));

function rimPixels({ rect: { w, h }, roles }: Part): number[] {
  const away = squaredDistance(holeOf(roles), w, h);
  const out: number[] = [];
  for (let p = 0; p < roles.length; p++)
    if (isKnownRole(roles[p]) && away[p] <= rim.widthPx ** 2) out.push(p);
  return out;
}

const lightnessOf = (values: ArrayLike<number>, p: number): number =>
  (values[4 * p] + values[4 * p + 1] + values[4 * p + 2]) / 3;

/** How much lightness changes from one pixel to the next; 0 where a neighbour is not known. */
function slopeOf({ rect: { w, h }, roles }: Part, values: Float32Array, p: number): number {
  const [x, y] = [p % w, Math.floor(p / w)];
  if (x === 0 || y === 0 || x === w - 1 || y === h - 1) return 0;
  for (const q of [p - 1, p + 1, p - w, p + w]) if (!isKnownRole(roles[q])) return 0;
  const across = lightnessOf(values, p + 1) - lightnessOf(values, p - 1);
  const down = lightnessOf(values, p + w) - lightnessOf(values, p - w);
  return Math.hypot(across, down) / 2;
}

/** Whether the rim tells of one ground, smooth but for its texture, in light that changes much and softly. */
function isSoftlyShaded(part: Part): boolean {
  const pixels = rimPixels(part);
  if (pixels.length < leastRim) return false;
  const soft = blurred(part, rim.sigmaPx);
  const light = sorted(pixels, (p) => lightnessOf(soft, p));
  const [dark, bright] = [at(light, 0.1), at(light, 0.9)];
  if (bright < leastRatio * dark) return false;
  const slopes = sorted(pixels, (p) => slopeOf(part, soft, p));
  if (at(slopes, 1 - softest.butFor) > softest.perPixel) return false;
  const wide = blurred(part, wideSigmaPx);
  const rough = pixels.reduce((sum, p) => sum + (lightnessOf(soft, p) - lightnessOf(wide, p)) ** 2, 0);
  if (Math.sqrt(rough / pixels.length) > mostRough * (bright - dark)) return false;
  const usual = sharesOf(meanOf(soft, pixels), 0);
  const off = sorted(pixels, (p) => Math.max(...sharesOf(soft, p).map((v, c) => Math.abs(v - usual[c]))));
  return at(off, 1 - sameHue.butFor) <= sameHue.shares;
}

const sorted = (pixels: readonly number[], of: (p: number) => number): Float64Array =>
  Float64Array.from(pixels, of).sort();

const at = (list: Float64Array, share: number): number => list[Math.floor(share * (list.length - 1))];

/** Of red, green and blue in a colour. */
function sharesOf(values: ArrayLike<number>, p: number): number[] {
  const sum = 3 * (lightnessOf(values, p) + sameHue.floor);
  return [0, 1, 2].map((c) => (values[4 * p + c] + sameHue.floor) / sum);
}

function meanOf(values: Float32Array, pixels: readonly number[]): number[] {
  const sums = [0, 0, 0];
  for (const p of pixels) for (let c = 0; c < 3; c++) sums[c] += values[4 * p + c] / pixels.length;
  return sums;
}

/** 1 within so many pixels of where lightness changes hard. */
function nearHardEdges(part: Part, reachPx: number): Uint8Array {
  const { w, h } = part.rect;
  const soft = blurred(part, rim.sigmaPx);
  const edges = new Uint8Array(w * h);
  for (let p = 0; p < w * h; p++)
    if (isKnownRole(part.roles[p]) && slopeOf(part, soft, p) > softest.perPixel) edges[p] = 1;
  if (!edges.includes(1)) return edges;
  const away = squaredDistance(edges, w, h);
  return edges.map((_, p) => (away[p] <= reachPx ** 2 ? 1 : 0));
}

/** Spreads the light smoothly into the hole, and into what is not known. */
function spread(light: Float32Array, roles: Uint8Array, w: number, h: number): void {
  const kind = roles.map((is) => (isKnownRole(is) ? point.fixed : point.free));
  solveMembrane(w, h, kind, light);
  for (let p = 0; p < w * h; p++)
    for (let c = 0; c < 3; c++) light[4 * p + c] = Math.max(darkest, light[4 * p + c]);
}
