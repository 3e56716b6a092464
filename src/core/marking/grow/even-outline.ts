import { edgeOf, edgeSides } from './edge-sides';
import { linksOf, partedLabels } from './links';
import { minCut } from './min-cut';
import type { Ground } from './way';

/** How far the outline may move, in pixels. */
const bandPx = 4;
/** What a pixel of the outline's length costs; pulls are logarithms of likelihoods. */
const lengthCost = 6;
const mostPull = 12;

/** Draws an outline anew as short as the colours beside it allow: what was cut by colours over a wider stretch has teeth where
 *  both sides look alike.
 *
 *  @param inside  w·h, 1 where the thing is
 *  @param fixed  of a pixel: 1 when it must be inside, −1 when it must not be
 *  @returns labels; the outline has moved by at most {@link bandPx}. Nothing or everything inside comes back as it is.
 *  Source: Boykov & Kolmogorov 2003, Computing Geodesics and Minimal Surfaces via Graph Cuts, doi:10.1109/ICCV.2003.1238310 (a cut's
 *  cost as an outline's length).
 */
export function evenOutline(
  ground: Ground,
  inside: Uint8Array,
  fixed: (pixel: number) => number,
): Uint8Array {
  if (!inside.includes(1) || !inside.includes(0)) return inside;
  const { w, h } = ground;
  const edge = edgeOf(inside, w, h);
  const sides = edgeSides(ground, edge);
  const free = new Uint8Array(w * h);
  for (const i of edge.pixels) if (Math.abs(edge.signed[i]) <= bandPx) free[i] = 1;
  const links = linksOf({ w, h }, { labels: inside, free }, () => lengthCost);
  const pull = links.fromBand.map((fromBand, node) => {
    const i = links.nodes[node];
    const must = fixed(i);
    if (must !== 0) return 1e6 * must;
    return fromBand + Math.max(-mostPull, Math.min(mostPull, sides.likelier(i)));
  });
  return partedLabels(links, minCut({ ...links, pull }), inside);
}
