import { connected, squaredDistance } from '../../../area';
import type { FloatImage } from '../../../raster';
import { boxOfSet, countOf, type Frame, pixelBytes } from '../frame';
import { withoutSources } from '../levels';
import { ofNine, range, within } from './things';

/** Looked at so many levels above the finest that is looked at: grain is a fourth as strong there. */
const above = 2;
/** A row shows what it and so many rows above and below it show. */
const bands = { ofHole: 3, ofRim: 6 };
/** The rim reaches so far from the hole, in pixels of that level: no farther, since the next one of a row may stand right behind it. */
const rimPx = 1.5;
/** Colours are told apart in steps of so much; those of fewer pixels of a row than this share are chance. */
const stepSize = 4;
const leastShare = { ofHole: 0.003, ofRim: 0.01 };
/** In 8-bit steps: a colour so far from all that the rim shows in its rows is none of the rim's; and one of the hole's when it lies
 *  nearer to one of those, by this factor. */
const unlikeRim = 10;
const nearer = 0.5;
/** There is a thing in the hole when so much of it has colours that the rim does not show. Where nothing was marked but the ground
 *  it is a third at most, on the demo photos. */
const leastOfHole = 0.4;
/** Of nine pixels so many make a place; gaps of so much are none. */
const leastOfNine = 5;
const gapPx = 1;
/** One of its kind has so much of the hole's size and of its height at least, and fills so much of its box: neither specks nor
 *  bands. What on so much of its width goes on, right above or so many of the hole's heights higher up and no farther away in colour,
 *  is a ground: a wall, or a strip of a door that has a sleeve's colour only as far up as the sleeve reaches. */
const likeness = {
  size: 0.08,
  height: 0.3,
  solid: 0.36,
  goesOn: { share: 0.5, heights: 0.3, rightAbovePx: 3, away: 24 },
};
/** In the rows where one stands, whatever else is alike is of its kind, from so much of the hole's size on and when so much of it lies
 *  in these rows: half hidden, cut by the picture's edge. */
const leastPart = 0.005;
const mostOfPart = 0.5;
/** So near to it nothing is drawn from; but what lies so near to the hole, squared, stays. */
const roundPx = 2;
const staysSquared = 4;

/** Others that stand in the hole's rows and are of the kind of what is to go. */
export interface ItsKind {
  /** Where they were looked for, and where they are: 1 for each pixel of that level. */
  readonly level: number;
  readonly standing: Uint8Array;
  /** What is to go, at that level, in the rows where one stands: three 8-bit numbers a pixel; −1 elsewhere, and where nothing is known
   *  of it. */
  readonly toGo: Float32Array;
}

/** Looks for whatever stands in the hole's rows and looks like what is to go, not like the hole's rim: what somebody takes out is not
 *  to come back, as the next one of a row. The measure is ours.
 *
 *  @param levels  from the finest to the coarsest
 *  @param image   what the finest level was made of, with what is to go; where that is transparent nothing is known of it
 *  @param base    the finest level that is looked at
 *  @returns null when there is none
 */
export function itsKindIn(levels: readonly Frame[], image: FloatImage, base = 0): ItsKind | null {
  const level = Math.min(base + above, levels.length - 1);
  const frame = levels[level];
  const toGo = insideOf(image, levels[0], frame, 2 ** level);
  const alike = alikePixels(frame, toGo);
  const found = alike && standingIn(alike, frame);
  if (!found) return null;
  const { standing, rows } = found;
  return { level, standing, toGo: toGo.map((v, i) => (rows[Math.floor(i / 3 / frame.w)] ? v : -1)) };
}

/** Takes others of its kind out of what may be drawn from.
 *  @param radius  of the patches that will be drawn from it
 *  @returns the same levels when nothing would be left */
export function withoutItsKind(
  levels: readonly Frame[],
  { level, standing }: ItsKind,
  radius: number,
): readonly Frame[] {
  const { w, h, hole } = levels[level];
  const near = squaredDistance(hole, w, h);
  const out = within(standing, w, h, roundPx);
  for (let p = 0; p < w * h; p++) if (near[p] <= staysSquared) out[p] = 0;
  return withoutSources(levels, level, out, radius);
}

/** Colours of what is to go, three 8-bit numbers a pixel of a level; −1 where less than all of a pixel is to go. */
function insideOf(image: FloatImage, fine: Frame, { w, h, hole }: Frame, by: number): Float32Array {
  const out = new Float32Array(3 * w * h).fill(-1);
  const n = by * by;
  for (let p = 0; p < w * h; p++) {
    if (!hole[p]) continue;
    const x0 = (p % w) * by;
    const y0 = Math.floor(p / w) * by;
    const sum = [0, 0, 0, 0];
    let all = 0;
    for (let y = y0; y < y0 + by; y++)
      for (let q = y * fine.w + x0, end = q + by; q < end; q++) {
        all += fine.hole[q];
        for (let c = 0; c < 4; c++) sum[c] += image.data[4 * q + c];
      }
    if (all < n || sum[3] < n / 2) continue;
    for (let c = 0; c < 3; c++) out[3 * p + c] = Math.min(255, (255 * sum[c]) / n);
  }
  return out;
}

type Colour = readonly [number, number, number];

/** Pixels that are like what is to go in their rows, and unlike its rim there; null when there is no thing in the hole. */
function alikePixels(frame: Frame, inside: Float32Array): Uint8Array | null {
  const { w, h, hole, known, source, img, views } = frame;
  const rowOf = (p: number) => (views ? Math.round(views.y[p]) : Math.floor(p / w));
  const colourAt = (p: number): Colour =>
    hole[p]
      ? [inside[3 * p], inside[3 * p + 1], inside[3 * p + 2]]
      : [img[p * pixelBytes], img[p * pixelBytes + 1], img[p * pixelBytes + 2]];
  const near = squaredDistance(hole, w, h);
  const isInside = (p: number) => inside[3 * p] >= 0;
  const ofHole = Array.from({ length: h }, () => new Map<number, number>());
  const ofRim = Array.from({ length: h }, () => new Map<number, number>());
  for (let p = 0; p < w * h; p++)
    if (isInside(p)) count(ofHole[rowOf(p)], colourAt(p));
    else if (!hole[p] && known[p] && near[p] <= rimPx ** 2) count(ofRim[rowOf(p)], colourAt(p));
  const shown = ofHole.map((_, y) => ({
    its: shownIn(ofHole, y, bands.ofHole, leastShare.ofHole),
    rims: shownIn(ofRim, y, bands.ofRim, leastShare.ofRim),
  }));
  const out = new Uint8Array(w * h);
  let [seen, strange] = [0, 0];
  for (let p = 0; p < w * h; p++) {
    const row = shown[rowOf(p)];
    if (!row || row.its.length === 0 || row.rims.length === 0) continue;
    if (!isInside(p) && !source[p]) continue;
    const away = nearest(row.rims, colourAt(p));
    if (isInside(p)) {
      seen++;
      if (away >= unlikeRim) strange++;
    } else if (away >= unlikeRim && nearest(row.its, colourAt(p)) <= nearer * away) out[p] = 1;
  }
  return strange > 0 && strange >= leastOfHole * seen ? out : null;
}

function count(seen: Map<number, number>, colour: Colour): void {
  const key = colour.reduce((all, v) => 256 * all + Math.floor(v / stepSize), 0);
  seen.set(key, (seen.get(key) ?? 0) + 1);
}

/** The colours that a row and those near it show, but for those of too few pixels. */
function shownIn(
  rows: readonly ReadonlyMap<number, number>[],
  y: number,
  band: number,
  share: number,
): Colour[] {
  const all = new Map<number, number>();
  let pixels = 0;
  for (const row of rows.slice(Math.max(0, y - band), y + band + 1))
    for (const [key, n] of row) {
      all.set(key, (all.get(key) ?? 0) + n);
      pixels += n;
    }
  const middle = (step: number) => (step + 0.5) * stepSize;
  return [...all]
    .filter(([, n]) => n >= share * pixels)
    .map(([key]) => [middle(key >> 16), middle((key >> 8) & 255), middle(key & 255)]);
}

function nearest(colours: readonly Colour[], [r, g, b]: Colour): number {
  let least = Infinity;
  for (const [cr, cg, cb] of colours) least = Math.min(least, (cr - r) ** 2 + (cg - g) ** 2 + (cb - b) ** 2);
  return Math.sqrt(least);
}

/** What of some pixels makes places, where one of them stands there as the thing in the hole does, nearly as large, and in which rows
 *  one does; null: none does. */
function standingIn(
  alike: Uint8Array,
  { w, h, hole, img }: Frame,
): { standing: Uint8Array; rows: Uint8Array } | null {
  const places = new Uint8Array(w * h);
  for (let y = 1; y < h - 1; y++)
    for (let p = y * w + 1; p < (y + 1) * w - 1; p++) if (ofNine(alike, p, w) >= leastOfNine) places[p] = 1;
  const size = countOf(hole, 1);
  const { h: height } = boxOfSet(hole, w);
  const { rightAbovePx, heights } = likeness.goesOn;
  const steps = [rightAbovePx, Math.ceil(heights * height)];
  const stands = (part: readonly number[]) => {
    const [wide, high] = [range(part.map((p) => p % w)) + 1, range(part.map((p) => Math.floor(p / w))) + 1];
    if (part.length < likeness.size * size || high < likeness.height * height) return false;
    if (part.length < likeness.solid * wide * high) return false;
    const tops = topsOf(part, w);
    const goOn = tops.filter((p) =>
      steps.some((up) => p < up * w || awayFrom(img, p, p - up * w) < likeness.goesOn.away),
    ).length;
    return goOn <= likeness.goesOn.share * tops.length;
  };
  const parts = connected(within(places, w, h, gapPx), w, h)
    .map((joined) => joined.filter((p) => places[p]))
    .filter((part) => part.length >= leastPart * size);
  const rows = new Uint8Array(h);
  for (const part of parts.filter(stands)) for (const p of part) rows[Math.floor(p / w)] = 1;
  if (!rows.includes(1)) return null;
  const out = new Uint8Array(w * h);
  for (const part of parts) {
    const within = part.filter((p) => rows[Math.floor(p / w)]);
    if (within.length >= mostOfPart * part.length) for (const p of part) out[p] = 1;
  }
  return { standing: out, rows };
}

/** The highest pixel of each column. */
function topsOf(part: readonly number[], w: number): number[] {
  const tops = new Map<number, number>();
  for (const p of part) tops.set(p % w, Math.min(p, tops.get(p % w) ?? p));
  return [...tops.values()];
}

function awayFrom(img: Uint8Array, p: number, q: number): number {
  let sum = 0;
  for (let c = 0; c < 3; c++) sum += (img[p * pixelBytes + c] - img[q * pixelBytes + c]) ** 2;
  return Math.sqrt(sum);
}
