import { connected } from '../area';
import { finerOutline } from './finer-outline';
import type { Found } from './found';
import type { Seen } from './seen';
import { countOf, foundOf, opened, pixelsIn, rowsOf, type Sight } from './sight';

/** A shadow darkens by so much lightness at least, and shifts the colour by no more than this. */
const leastDarkening = 7;
const mostShift = 14;
/** Less light makes colours duller, down to such a share: a shadow's chroma exceeds that by less than this. */
const leastDuller = 0.3;
const mostBrighter = 6;
/** One's own, and one of a neighbour's that ends there. */
const mostShadows = 2;
/** How likely a second one must be, seen from the first: by its length at the foot, its depth and its size. */
const leastBeside = 0.25;
/** How deep a shadow is shows up to such a share of a thing's size away from it, in its deeper part; everywhere it is at least such a
 *  share as deep. */
const shareAtFoot = 0.3;
const leastDepthShare = 0.45;
const deepQuantile = 0.75;

/** The shadows that a thing casts on the ground.
 *
 *  @param sight  of the thing
 *  @returns the likeliest first, with outlines some levels finer than the sight's; two where two begin at its foot
 *  Lightness falls while the colour stays (Finlayson, Hordley, Lu & Drew 2006, doi:10.1109/TPAMI.2006.18, the idea of an
 *  illumination-invariant colour), it begins at the foot, and is about as deep everywhere. Cost: O(pixels of the sight).
 *  Degenerate: what stands on nothing darker than usual has none.
 */
export function shadowsOf(seen: Seen, sight: Sight): Found[] {
  const { rect, lab, inside, away } = sight;
  const { w, h } = rect;
  const size = countOf(inside);
  const reach = 1.1 * Math.sqrt(size);
  const ground = groundOf(sight, reach);
  const fall = new Float32Array(w * h);
  const [first, last] = rowsOf(inside, w);
  const middle = first + 0.5 * (last - first);
  const standing = first + 0.85 * (last - first);
  for (let i = Math.ceil(middle) * w; i < w * h; i++) {
    if (inside[i] || away[i] > 2.2 * reach) continue;
    const falls = ground[3 * i] - lab[3 * i];
    const shift = Math.hypot(lab[3 * i + 1] - ground[3 * i + 1], lab[3 * i + 2] - ground[3 * i + 2]);
    const duller = Math.max(leastDuller, Math.min(1, lab[3 * i] / ground[3 * i]));
    const brighter = chromaAt(lab, i) - duller * chromaAt(ground, i);
    if (shift < mostShift + 0.25 * falls && brighter < mostBrighter) fall[i] = falls;
  }
  // A shadow begins where the thing stands, at its foot, or lies under it. What touches it higher up stands beside it.
  const near = 2.5;
  const isUnder = (i: number) => {
    for (let up = i - w, k = 0; k <= near && up >= 0; k++, up -= w) if (inside[up]) return true;
    return false;
  };
  const standingParts = (dark: Uint8Array) =>
    connected(opened(dark, w, h), w, h).flatMap((part) => {
      if (part.length < 0.03 * size) return [];
      const touching = part.filter((i) => away[i] <= near);
      const atFoot = touching.filter((i) => Math.floor(i / w) >= standing);
      const fromBelow =
        atFoot.length + touching.filter((i) => Math.floor(i / w) < standing && isUnder(i)).length;
      if (atFoot.length <= 0.08 * Math.sqrt(part.length) || fromBelow <= 0.5 * touching.length) return [];
      const depth = part.reduce((sum, i) => sum + fall[i], 0) / part.length;
      return [{ part, weight: (atFoot.length * depth) ** 2 * part.length }];
    });
  return standingParts(Uint8Array.from(fall, (v) => (v > leastDarkening ? 1 : 0)))
    .flatMap((found) => {
      const { part } = found;
      // All of a shadow is about as deep as it is where it begins: ground that is only darker elsewhere is none of it.
      const deep = part
        .filter((i) => away[i] <= shareAtFoot * reach)
        .map((i) => fall[i])
        .sort((a, b) => a - b);
      const least = Math.max(
        leastDarkening,
        leastDepthShare * (deep[Math.floor(deepQuantile * deep.length)] ?? 0),
      );
      const dark = new Uint8Array(w * h);
      for (const i of part) if (fall[i] > least) dark[i] = 1;
      const deeper = standingParts(dark);
      return deeper.length > 0 ? deeper : [found];
    })
    .filter(({ part }) => part.length <= 1.2 * size)
    .sort((a, b) => b.weight - a.weight)
    .filter(({ weight }, k, all) => k < mostShadows && weight >= leastBeside * all[0].weight)
    .map(({ part }) => {
      const fine = finerOutline(seen, sight, part);
      return foundOf({ rect: fine.rect, by: 2 ** fine.level }, pixelsIn(fine.inside));
    });
}

const chromaAt = (lab: Float32Array, i: number): number => Math.hypot(lab[3 * i + 1], lab[3 * i + 2]);

/** What the ground's colour is at each place: the brighter half of what lies in its row of blocks, beyond the area. */
function groundOf({ rect: { w, h }, lab, inside }: Sight, reach: number): Float32Array {
  const out = new Float32Array(3 * w * h);
  const band = Math.max(2, Math.round(0.15 * reach));
  for (let y0 = 0; y0 < h; y0 += band) {
    const rows: number[] = [];
    for (let y = Math.max(0, y0 - band); y < Math.min(h, y0 + 2 * band); y++)
      for (let x = 0; x < w; x += 2) if (!inside[y * w + x]) rows.push(y * w + x);
    rows.sort((a, b) => lab[3 * a] - lab[3 * b]);
    const upper = rows.slice(Math.floor(rows.length * 0.45), Math.ceil(rows.length * 0.8));
    const mean = [0, 1, 2].map(
      (c) => upper.reduce((s, i) => s + lab[3 * i + c], 0) / Math.max(1, upper.length),
    );
    for (let y = y0; y < Math.min(h, y0 + band); y++)
      for (let x = 0; x < w; x++) out.set(mean, 3 * (y * w + x));
  }
  return out;
}
