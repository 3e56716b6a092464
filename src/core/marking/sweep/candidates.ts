import { grow, intersect, type Rect } from '../../raster';
import { rectAtLevel, type Seen } from '../seen';
import { lightnessOf, type Part, partsOf, standingOut } from './bars';
import { leastSure, type SweepOptions } from './fault';
import { type FoundAt, inputsOf, likelihoodOf, type Relief, reliefOf, traitsOf } from './fault-likelihood';
import { isInView, lookCloser, lookFromAllSides, viewOf } from './fault-look';

const tileSide = 512;
/** A tile sees so much more, for what reaches beyond it and for what is usual there: a whole block, so that blocks are the
 *  same ones in every tile. */
const tileRoom = 64;
/** Half sides of the squares that are compared, at every level. */
const radii = [1, 2] as const;
/** Deviations of what is usual round about from which on something is looked at. */
const leastDeviations = 1.5;
/** First log-odds below which nobody looks closer. */
export const leastPromise = -5.5;
/** What the numbers say of a candidate has so much of the say beside what is seen of it: they err in different places. */
const numbersShare = 0.25;
/** Log-odds between which it is in doubt. */
const doubtful = { from: leastSure - 0.5, to: 4 };

/** A part of a level that is looked at in one go. Whole pixels of the level. */
export interface Tile {
  /** The tile itself. */
  readonly own: Rect;
  /** With what is seen beside it. */
  readonly seen: Rect;
}

/** The tiles of what is to be looked at. @param within  document pixels */
export function tilesOf(seen: Seen, level: number, within: Rect): Tile[] {
  const part = rectAtLevel(seen, level, within);
  const whole = rectAtLevel(seen, level, { x: 0, y: 0, w: seen.width, h: seen.height });
  const out: Tile[] = [];
  for (let y = part.y; y < part.y + part.h; y += tileSide)
    for (let x = part.x; x < part.x + part.w; x += tileSide) {
      const own = intersect({ x, y, w: tileSide, h: tileSide }, part);
      out.push({ own, seen: intersect(grow(own, tileRoom), whole) });
    }
  return out;
}

/** Something that stands out, and where to look at it. */
export interface Candidate {
  /** In pixels of the relief. */
  readonly part: Part;
  readonly isDark: boolean;
  readonly foundAt: FoundAt;
  /** Lightness round about, its sign turned round for dark ones. */
  readonly relief: Relief;
  /** Its strongest pixel, of the level. */
  readonly x: number;
  readonly y: number;
}

/** All that stands out in a tile, at two sizes: whatever has its strongest pixel there.
 *  @param mostPx  widest, across its narrower way, in document pixels */
export function* candidatesIn(
  seen: Seen,
  level: number,
  { own, seen: rect }: Tile,
  { mostPx, light, dark }: SweepOptions,
): Generator<Candidate> {
  const by = 2 ** level;
  const { w, h } = rect;
  const lightness = lightnessOf(seen.region(level, rect), w * h);
  const reliefs = new Map<1 | -1, Relief>();
  for (const radius of radii) {
    if ((2 * radius + 1) * by > mostPx + 2 * by) continue;
    const signs = ([1, -1] as const).filter((sign) => (sign > 0 ? light : dark));
    for (const [k, { bars, deviations }] of standingOut(lightness, w, h, radius, signs).entries())
      for (const part of partsOf(deviations, bars, w, h, leastDeviations)) {
        const [x, y] = [rect.x + (part.peak % w), rect.y + Math.floor(part.peak / w)];
        if (x < own.x || y < own.y || x >= own.x + own.w || y >= own.y + own.h) continue;
        const sign = signs[k];
        const relief = reliefs.get(sign) ?? reliefOf(sign > 0 ? lightness : lightness.map((v) => -v), w, h);
        reliefs.set(sign, relief);
        const foundAt = { level, radius, strength: deviations[part.peak], bar: bars[part.peak] };
        yield { part, isDark: sign < 0, foundAt, relief, x, y };
      }
  }
}

/** Log-odds that a candidate is a fault: what is seen and what the numbers say, weighed together. What promises little is not
 *  looked at, which is two in three; nor what is larger than can be seen at once. What is in doubt is looked at from all
 *  sides. */
export function weigh(candidate: Candidate): number {
  const { traits, inputs, promise } = firstLook(candidate);
  if (promise < leastPromise || !isInView(traits)) return promise;
  const view = viewOf(candidate, traits);
  const together = (look: number) => look + numbersShare * (promise - look);
  const odds = together(lookCloser(view, inputs));
  return odds > doubtful.from && odds < doubtful.to ? together(lookFromAllSides(view, inputs)) : odds;
}

/** What there is to tell of a candidate without looking at its picture. */
export function firstLook({ part, foundAt, relief }: Candidate) {
  const traits = traitsOf(relief, part.pixels);
  const inputs = inputsOf(traits, foundAt);
  return { traits, inputs, promise: likelihoodOf(inputs) };
}
