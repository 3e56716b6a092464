import type { Rect } from '../../raster';
import { lightnessOf, type Part, partsOf, standingOut } from './bars';
import { type FoundAt, inputsOf, likelihoodOf, type Relief, reliefOf, traitsOf } from './fault-likelihood';
import { isInView, lookCloser, viewOf } from './fault-look';

/** Half sides of the squares that are compared, at every level. */
const radii = [1, 2] as const;
/** Deviations of what is usual round about from which on something is looked at. */
const leastDeviations = 1.5;
/** First log-odds below which nobody looks closer. */
export const leastPromise = -5.5;

/** Something that stands out, and where to look at it. */
export interface Candidate {
  readonly part: Part;
  readonly isDark: boolean;
  readonly foundAt: FoundAt;
  /** Lightness round about, its sign turned round for dark ones. */
  readonly relief: Relief;
}

/** All that stands out in a part of a level, at two sizes.
 *  @param pixels  RGBA rows of the part
 *  @param mostPx  widest, across its narrower way, in document pixels */
export function* candidatesIn(
  pixels: Uint8ClampedArray,
  { w, h }: Rect,
  level: number,
  { mostPx, light, dark }: { readonly mostPx: number; readonly light: boolean; readonly dark: boolean },
): Generator<Candidate> {
  const by = 2 ** level;
  const lightness = lightnessOf(pixels, w * h);
  /** Of light ones, of dark ones. */
  const reliefs: (Relief | undefined)[] = [];
  for (const radius of radii) {
    if ((2 * radius + 1) * by > mostPx + 2 * by) continue;
    const signs = ([1, -1] as const).filter((sign) => (sign > 0 ? light : dark));
    for (const [k, { bars, deviations }] of standingOut(lightness, w, h, radius, signs).entries()) {
      const isDark = signs[k] < 0;
      for (const part of partsOf(deviations, bars, w, h, leastDeviations)) {
        reliefs[isDark ? 1 : 0] ??= reliefOf(isDark ? lightness.map((v) => -v) : lightness, w, h);
        const foundAt = { level, radius, strength: deviations[part.peak], bar: bars[part.peak] };
        yield { part, isDark, foundAt, relief: reliefs[isDark ? 1 : 0]! };
      }
    }
  }
}

/** Log-odds that a candidate is a fault. What promises little is not looked at twice, which is all but one in twenty; nor
 *  what is larger than can be seen at once. */
export function weigh(candidate: Candidate): number {
  const { traits, inputs, promise } = firstLook(candidate);
  return promise < leastPromise || !isInView(traits)
    ? promise
    : lookCloser(viewOf(candidate, traits), inputs);
}

/** What there is to tell of a candidate without looking at its picture. */
export function firstLook({ part, foundAt, relief }: Candidate) {
  const traits = traitsOf(relief, part.pixels);
  const inputs = inputsOf(traits, foundAt);
  return { traits, inputs, promise: likelihoodOf(inputs) };
}
