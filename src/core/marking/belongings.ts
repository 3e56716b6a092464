import { bitsWhere, connected, squaredDistance } from '../area';
import type { Found } from './found';
import { fitColours } from './grow/colour-model';
import type { Seen } from './seen';
import { shadowsOf } from './shadows';
import { coversHalf, foundOf, type MarkedArea, opened, rowsOf, type Sight, sightOf } from './sight';

/** Something near an area that probably goes with it. */
export interface Belonging extends Found {
  readonly kind: 'shadow' | 'reflection' | 'bit';
}

const mostPixels = 24_000;
const mostBits = 6;
/** A thing whose lightness deviates by more than this has light and dark parts, which its reflection must have as well. */
const leastPattern = 5;
const leastCorrelation = 0.45;
/** How deep a thing must be somewhere for its colours to be seen, in pixels of the small picture. */
const leastDepth = 2;
/** From which difference of costs on a colour is rather the area's. */
const leastTelling = 2.5;

/** What probably goes with a marked thing: its shadow, its reflection in water, bits of it that were left out.
 *
 *  @param thing  the area without its margin, where it has one: what has the thing's own colours
 *  @returns the likeliest first; the area itself is in none of them
 *  Shadows by {@link shadowsOf}; bits by the colours of both sides, as in growing; a reflection by likeness of the mirrored
 *  shape. Cost: one small picture, whatever the photo's size.
 */
export function belongingsOf(seen: Seen, area: MarkedArea, thing: MarkedArea = area): Belonging[] {
  const sight = sightOf(seen, area, 1, mostPixels);
  if (!sight) return [];
  const size = sight.inside.reduce((n, v) => n + v, 0);
  if (size < 12) return [];
  const shadows = shadowsOf(seen, sight).map((found) => ({ kind: 'shadow', ...found }) as const);
  const told = [...shadows, ...reflections(sight, size)];
  return [...told, ...bits(sight, size, thing.coverage(sight.rect, sight.level), told)];
}

/** @param told  what is offered already */
function bits(sight: Sight, size: number, thing: Float32Array, told: readonly Found[]): Belonging[] {
  const { rect, lab, inside, away } = sight;
  const { w, h } = rect;
  const reach = Math.sqrt(size);
  const mine: number[] = [];
  const others: number[] = [];
  inside.forEach((v, i) => {
    if (v && thing[i] >= 0.5) mine.push(i);
    else if (v) return;
    else if (away[i] > 4 && away[i] < 2 * reach + 8) others.push(i);
  });
  if (others.length < 30 || mine.length < 12) return [];
  // What is thinner than the pixels of this small picture has no colours in it but those of its ground.
  const outside = bitsWhere(thing, (v) => v < 0.5);
  if (squaredDistance(outside, w, h).every((d) => d < leastDepth ** 2)) return [];
  const own = fitColours(lab, mine, 5);
  const rest = fitColours(lab, others, 5);
  // Where the area has no colours of its own, likeness to it tells nothing.
  const telling = mine.filter((i) => rest.cost(i) - own.cost(i) > leastTelling).length;
  if (telling < 0.5 * mine.length) return [];
  const alike = new Uint8Array(w * h);
  for (let i = 0; i < w * h; i++)
    if (!inside[i] && away[i] < 1.2 * reach + 4 && rest.cost(i) - own.cost(i) > leastTelling) alike[i] = 1;
  return connected(opened(alike, w, h), w, h)
    .filter(
      (part) =>
        part.length >= Math.max(6, 0.004 * size) &&
        part.length < 0.4 * size &&
        part.some((i) => away[i] <= 2.5) &&
        !told.some((found) => coversHalf(sight, found, part)),
    )
    .sort((a, b) => b.length - a.length)
    .slice(0, mostBits)
    .map((part) => ({ kind: 'bit', ...foundOf(sight, part) }) as const);
}

/** The area mirrored at its foot, where what lies there looks like it and unlike what lies beside it. Marked roughly, it reaches
 *  beyond the thing's foot: the mirror line that makes both most alike counts. */
function reflections(sight: Sight, size: number): Belonging[] {
  const [first, last] = rowsOf(sight.inside, sight.rect.w);
  let best: Mirrored | null = null;
  for (const lift of lifts) {
    const found = mirrored(sight, size, Math.round(lift * (last - first)));
    if (found && (!best || found.likeness > best.likeness)) best = found;
  }
  return best ? [{ kind: 'reflection', ...foundOf(sight, best.images) }] : [];
}

/** How far the mirror line is tried above an area's foot, in heights of the area. */
const lifts = [0, 0.05, 0.1, 0.15, 0.2];

interface Mirrored {
  readonly images: readonly number[];
  readonly likeness: number;
}

/** The area mirrored so many pixels above its foot; null where that is no image of it. */
function mirrored(sight: Sight, size: number, lift: number): Mirrored | null {
  const { rect, lab, inside } = sight;
  const { w, h } = rect;
  const pairs: [number, number][] = [];
  for (let x = 0; x < w; x++) {
    // Each column about its own foot: the thing may stand aslant.
    let foot = h - 1;
    while (foot >= 0 && !inside[foot * w + x]) foot--;
    for (let y = 0; y <= foot - lift; y++) {
      const below = 2 * (foot - lift) + 1 - y;
      if (inside[y * w + x] && below < h && !inside[below * w + x]) pairs.push([y * w + x, below * w + x]);
    }
  }
  if (pairs.length < 0.35 * size || pairs.length < 30) return null;
  const things = pairs.map(([a]) => a);
  const images = pairs.map(([, b]) => b);
  const isImage = new Uint8Array(w * h);
  for (const i of images) isImage[i] = 1;
  // What lies left and right of the image, beyond all that is marked or mirrored.
  const water: number[] = [];
  for (const i of images) {
    const x = i % w;
    for (const step of [-1, 1]) {
      let at = x;
      while (at >= 0 && at < w && isImage[i - x + at]) at += step;
      const beyond = at + 2 * step;
      if (beyond >= 0 && beyond < w && !inside[i - x + beyond]) water.push(i - x + beyond);
    }
  }
  if (water.length < 30) return null;
  const mean = (list: readonly number[]) =>
    [0, 1, 2].map((c) => list.reduce((s, i) => s + lab[3 * i + c], 0) / list.length);
  const there = mean(water);
  const unlike = (list: readonly number[]) => mean(list).map((v, c) => (c === 0 ? 0.5 : 1) * (v - there[c]));
  const thing = unlike(things);
  const image = unlike(images);
  // A reflection differs from the water beside it in the same way as the thing does, and is light and dark where it is.
  const size2 = Math.hypot(...image);
  const alike = thing.reduce((s, v, c) => s + v * image[c], 0) / (Math.hypot(...thing) * size2 || 1);
  if (size2 < 5 || alike < 0.75) return null;
  const { deviation, correlation } = likenessOf(pairs.map(([a, b]) => [lab[3 * a], lab[3 * b]]));
  if (deviation > leastPattern && correlation < leastCorrelation) return null;
  return { images, likeness: correlation };
}

/** How much the first of pairs vary, and how far the second go along. */
function likenessOf(pairs: readonly (readonly [number, number])[]): {
  deviation: number;
  correlation: number;
} {
  const n = pairs.length;
  const [ma, mb] = [0, 1].map((k) => pairs.reduce((s, p) => s + p[k], 0) / n);
  let [aa, bb, ab] = [0, 0, 0];
  for (const [a, b] of pairs) {
    aa += (a - ma) ** 2;
    bb += (b - mb) ** 2;
    ab += (a - ma) * (b - mb);
  }
  return { deviation: Math.sqrt(aa / n), correlation: ab / (Math.sqrt(aa * bb) || 1) };
}
