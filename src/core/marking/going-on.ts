import { squaredDistance } from '../area';
import { costAcrossEdges, linksOf, partedLabels } from './grow/links';
import { minCut } from './grow/min-cut';
import type { Sight } from './sight';

/** What lies so deep in an area, as a share of its depth, is the thing that it was drawn round. */
const core = 0.5;
const sure = 1e6;

/** How something beside an area goes on within it. */
export interface GoingOn {
  /** How far it reaches into it, in the mean of where it touches it. Pixels of the sight. */
  readonly reach: number;
  /** What it costs to part it there from what else is in the area, in the mean: 0 across sharp edges, 1 where there is none. */
  readonly link: number;
}

/** How something beside an area goes on within it: it is parted from the area's midst where edges make that cheapest. Next to a thing
 *  that was marked with little room to spare, somebody else ends right at its outline; what is marked in part only goes on.
 *
 *  @param part  pixels beyond the area, which touch it
 *  Source: Boykov & Jolly 2001, doi:10.1109/ICCV.2001.937505 (seeds and a cut); what is asked of the cut is ours.
 */
export function goingOn({ rect, lab, inside }: Sight, part: readonly number[]): GoingOn {
  const { w, h } = rect;
  const depth = squaredDistance(
    inside.map((v) => 1 - v),
    w,
    h,
  );
  const deepest = depth.reduce((most, v) => Math.max(most, v), 0);
  const labels = new Uint8Array(w * h);
  for (const i of part) labels[i] = 1;
  const cost = costAcrossEdges({ w, h, values: lab });
  const links = linksOf(rect, { labels, free: inside }, cost);
  const pull = links.fromBand.map((fromBand, node) =>
    depth[links.nodes[node]] > core * core * deepest ? -sure : fromBand,
  );
  const parted = partedLabels(links, minCut({ ...links, pull }), labels);
  let [within, contact, sum, cuts] = [0, 0, 0, 0];
  for (let i = 0; i < w * h; i++) {
    if (!parted[i]) continue;
    if (inside[i]) within++;
    for (const q of besides(i, w, h)) {
      if (!inside[q]) continue;
      if (!inside[i]) contact++;
      if (parted[q]) continue;
      sum += cost(i, q) / cost(i, i);
      cuts++;
    }
  }
  return { reach: within / Math.max(1, contact), link: cuts > 0 ? sum / cuts : 1 };
}

/** The pixels above, below and on both sides. */
function besides(i: number, w: number, h: number): number[] {
  const x = i % w;
  return [x > 0 ? i - 1 : -1, x < w - 1 ? i + 1 : -1, i - w, i + w].filter((q) => q >= 0 && q < w * h);
}
