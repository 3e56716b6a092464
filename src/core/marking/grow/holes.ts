import { connected } from '../../area';
import { squaredBetween } from './links';
import type { Ground } from './way';

/** A colour is seen round a thing where so great a share of what is looked at there differs from it by at most so much CIELAB. */
const leastShare = 0.01;
const alikeColours = 10;
const looksRound = 1500;
const looksIn = 40;
/** Half of a hole is of such colours, or it does not show the surroundings… */
const leastAlike = 0.5;
/** …and its rim is an edge, by so much of the difference across the outline outside. */
const leastEdge = 0.4;

/** Fills what is left out in the midst of a thing and is none of its surroundings: a highlight, which has colours of its own, and what
 *  differs from the thing by soft shades only. Holes through which the surroundings are seen stay.
 *
 *  @param labels  w·h, 1 where the thing is
 *  @param isOutside  of a pixel: it was said to be outside
 *  @returns labels; themselves when there is nothing to fill
 */
export function fillHoles(
  { w, h, values }: Ground,
  labels: Uint8Array,
  isOutside: (pixel: number) => boolean,
): Uint8Array {
  const parts = connected(
    labels.map((v) => 1 - v),
    w,
    h,
  );
  const atEdge = (i: number) => i % w === 0 || i % w === w - 1 || i < w || i >= w * (h - 1);
  const open = parts.filter((part) => part.some(atEdge));
  const holes = parts.filter((part) => !part.some(atEdge) && !part.some(isOutside));
  if (holes.length === 0 || open.length === 0) return labels;
  const between = (i: number, j: number) => Math.sqrt(squaredBetween(values, i, j));
  const round = spread(open.flat(), looksRound);
  const its: number[] = [];
  labels.forEach((v, i) => {
    if (v) its.push(i);
  });
  const own = spread(its, looksRound);
  const isSeenRound = (i: number) => {
    const shareIn = (some: readonly number[]) =>
      some.reduce((n, j) => n + (between(i, j) <= alikeColours ? 1 : 0), 0) / some.length;
    const like = shareIn(round);
    return like >= leastShare && like >= shareIn(own);
  };
  const across = (part: readonly number[]): number => {
    let [sum, count] = [0, 0];
    for (const i of part)
      for (const j of [i - 1, i + 1, i - w, i + w]) {
        if (j < 0 || j >= w * h || (Math.abs(j - i) === 1 && Math.floor(j / w) !== Math.floor(i / w)))
          continue;
        if (!labels[j]) continue;
        sum += between(i, j);
        count++;
      }
    return count > 0 ? sum / count : 0;
  };
  const outline = across(open.flat());
  const filled = labels.slice();
  for (const hole of holes) {
    const looks = spread(hole, looksIn);
    const showsRound = looks.filter(isSeenRound).length >= leastAlike * looks.length;
    if (!showsRound || across(hole) < leastEdge * outline) for (const i of hole) filled[i] = 1;
  }
  return filled;
}

/** So many of them at most, evenly spread. */
function spread(pixels: readonly number[], most: number): number[] {
  const step = Math.max(1, pixels.length / most);
  return Array.from({ length: Math.ceil(pixels.length / step) }, (_, k) => pixels[Math.floor(k * step)]);
}
