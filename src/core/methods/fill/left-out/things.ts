import { connected, squaredDistance } from '../../../area';
import type { Frame } from '../frame';
import { withoutSources } from '../levels';
import { colourCount, coloursOf, homeOf, strangeness } from '../strange-colours';
import { strangeLines } from './strange-lines';

/** Things are looked for one level above the finest that is looked at: grain is half as strong there. */
const above = 1;
/** At home is what so large a share of the rim shows, this near to the hole. */
const leastShare = 0.0004;
const homePx = 8;
/** So strange, in 8-bit steps, a colour is when so many of the nine pixels round it are as well. A thing has pixels that are strange,
 *  and goes as far as those that somewhat are. */
const least = { strange: 10, somewhat: 5, ofNine: 4 };
/** Of darker colours only this share counts: shadows and joints are darker. */
const darker = 0.3;
/** A thing is at least so long, may have gaps of so much, and what lies so near to it goes with it; in pixels of that level. */
const thing = { longPx: 24, gapPx: 2, roundPx: 3 };
/** What is more than this share of the picture is no thing but its ground; and no more of what may be drawn from goes in all. */
const most = { ofOne: 0.1, ofAll: 0.3 };
/** What lies so near to the hole, squared, stays. */
const staysSquared = 9;

/** Takes out of what may be drawn from whatever hangs together in colours that are nowhere at the hole's rim, or runs in directions
 *  that nothing there runs in ({@link strangeLines}), however thin it is: a hose, a crate, a pole, reeds. It is seen where it is
 *  sharp, not at the coarse level that whole patches are compared at, on which a thin thing is no more than a tint. The measure is
 *  ours.
 *
 *  @param levels  from the finest to the coarsest
 *  @param radius  of the patches that will be drawn from it
 *  @param base    the finest level that is looked at
 *  @returns the levels without such things; the same ones when there are none, or nothing would be left
 */
export function withoutThings(levels: readonly Frame[], radius: number, base = 0): readonly Frame[] {
  const level = Math.min(base + above, levels.length - 1);
  const frame = levels[level];
  const { w, h, hole, source } = frame;
  const near = squaredDistance(hole, w, h);
  let sources = 0;
  for (let p = 0; p < w * h; p++) if (source[p]) sources++;
  const strange = strangePixels(frame, near);
  strangeLines(frame, near).forEach((is, p) => {
    strange[p] = Math.max(strange[p], is);
  });
  const found = thingsAmong(strange, w, h, sources);
  if (!found) return levels;
  const out = within(found, w, h, thing.roundPx);
  for (let p = 0; p < w * h; p++) if (near[p] <= staysSquared) out[p] = 0;
  return withoutSources(levels, level, out, radius);
}

/** For each pixel: 0 = at home, 1 = somewhat strange, 2 = strange, with those round it. */
function strangePixels({ w, h, img, hole, known, source }: Frame, near: ArrayLike<number>): Uint8Array {
  const colours = coloursOf(img);
  const rim: number[] = [];
  for (let p = 0; p < w * h; p++) if (!hole[p] && known[p] && near[p] <= homePx ** 2) rim.push(p);
  const out = new Uint8Array(w * h);
  if (rim.length === 0) return out;
  const home = homeOf(rim, colours, leastShare);
  const unseen = 255;
  const ofColour = new Uint8Array(colourCount).fill(unseen);
  const [strange, somewhat] = [new Uint8Array(w * h), new Uint8Array(w * h)];
  for (let p = 0; p < w * h; p++) {
    if (!source[p]) continue;
    const colour = colours[p];
    if (ofColour[colour] === unseen) ofColour[colour] = strangeness(colour, home, darker);
    strange[p] = ofColour[colour] >= least.strange ? 1 : 0;
    somewhat[p] = ofColour[colour] >= least.somewhat ? 1 : 0;
  }
  for (let y = 1; y < h - 1; y++)
    for (let x = 1; x < w - 1; x++) {
      const p = y * w + x;
      if (ofNine(somewhat, p, w) < least.ofNine) continue;
      out[p] = ofNine(strange, p, w) < least.ofNine ? 1 : 2;
    }
  return out;
}

/** How many of the nine pixels in and round one are set. */
export function ofNine(set: Uint8Array, p: number, w: number): number {
  const [a, b] = [p - w, p + w];
  return (
    set[a - 1] + set[a] + set[a + 1] + set[p - 1] + set[p] + set[p + 1] + set[b - 1] + set[b] + set[b + 1]
  );
}

/** What hangs together and is strange over a length; the small first, and not the picture's ground. Null: there is none. */
function thingsAmong(strange: Uint8Array, w: number, h: number, sources: number): Uint8Array | null {
  const isThing = (part: readonly number[]) => {
    const cores = part.filter((p) => strange[p] === 2);
    const xs = cores.map((p) => p % w);
    const ys = cores.map((p) => Math.floor(p / w));
    return cores.length >= thing.longPx && Math.hypot(range(xs), range(ys)) >= thing.longPx;
  };
  const parts = connected(within(strange, w, h, thing.gapPx), w, h).filter(isThing);
  let left = most.ofAll * sources;
  let out: Uint8Array | null = null;
  for (const part of parts.sort((a, b) => a.length - b.length)) {
    left -= part.length;
    if (left < 0 || part.length > most.ofOne * w * h) break;
    out ??= new Uint8Array(w * h);
    for (const p of part) out[p] = 1;
  }
  return out;
}

/** From the least to the greatest. */
export const range = (values: readonly number[]): number => {
  let [least, greatest] = [Infinity, -Infinity];
  for (const v of values) [least, greatest] = [Math.min(least, v), Math.max(greatest, v)];
  return greatest - least;
};

/** Set where something that is set lies so near. */
export function within(set: Uint8Array, w: number, h: number, px: number): Uint8Array {
  const squared = squaredDistance(set, w, h);
  const out = new Uint8Array(w * h);
  for (let p = 0; p < w * h; p++) out[p] = squared[p] <= px * px ? 1 : 0;
  return out;
}
