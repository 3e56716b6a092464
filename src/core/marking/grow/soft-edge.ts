import { edgeOf, edgeSides } from './edge-sides';
import type { Ground } from './way';

/** An edge is halfway over where a row along the outline has so much of the thing's colour; and nearly over here. */
const halfway = 0.5;
const nearlyOver = 0.2;
/** A Gaussian's edge shows three hundredths of the thing at so many times the way from {@link halfway} to {@link nearlyOver}. */
const untilTrace = 2.24;
/** How wide an edge is changes slowly along an outline: it is looked at so many squares round, where the edge lies at each. */
const wideCells = 9;
/** Where it cannot be measured, what shows of a thing reaches this far beyond the outline. */
const usualPx = 2.5;
const nearestRow = -3;
const farthestRow = 6;
const rows = farthestRow - nearestRow + 1;
const mostPx = 5;
const leastPx = -2;
const fewest = 4;

/** How wide the soft edge of a thing is along its outline, and the thing with all that shows something of it.
 *
 *  An outline parts pixels where they look more like one side than the other. A lens spreads the thing farther: row by row along the
 *  outline, the share of the thing's colour in the pixels is averaged over a short stretch; from where it is half and where it is
 *  a fifth follows where the last trace of it is.
 *  @param inside  w·h, 1 where the thing is
 *  @returns w·h, 255 or 0; outline moved by −2…5 pixels
 *  Degenerate: nothing or everything inside comes back as it is. Cost: O(w·h).
 */
export function withSoftEdge(ground: Ground, inside: Uint8Array): Uint8Array {
  const { w, h } = ground;
  const out = new Uint8Array(inside.length);
  for (let i = 0; i < out.length; i++) out[i] = inside[i] ? 255 : 0;
  if (!inside.includes(1) || !inside.includes(0)) return out;
  const edge = edgeOf(inside, w, h);
  const { pixels, signed } = edge;
  const sides = edgeSides(ground, edge);
  const { cells } = sides;
  // Two numbers a row: the sum of shares, and of how many pixels.
  const sums = new Float64Array(cells.count * rows * 2);
  for (const i of pixels) {
    const row = Math.round(signed[i] - 0.5) - nearestRow;
    if (row < 0 || row >= rows) continue;
    const share = sides.share(i);
    if (Number.isNaN(share)) continue;
    const at = 2 * (cells.at(i) * rows + row);
    sums[at] += share;
    sums[at + 1] += 1;
  }
  const near = cells.pooled(sums);
  let wide = near;
  for (let k = 1; k < wideCells; k++) wide = cells.pooled(wide);
  const widths = Float32Array.from({ length: cells.count }, (_, c) => {
    const [here, wideHere] = [near, wide].map((profiles) => crossing(profiles, c, halfway));
    const trace = untilTrace * (crossing(wide, c, nearlyOver) - wideHere);
    const middle = Number.isNaN(here) ? (Number.isNaN(wideHere) ? 0 : wideHere) : here;
    return Math.max(leastPx, Math.min(mostPx, middle + (Number.isNaN(trace) ? usualPx : trace)));
  });
  for (const i of pixels)
    if (signed[i] >= leastPx - 1 && signed[i] <= mostPx)
      out[i] = signed[i] <= cells.between(widths, i) ? 255 : 0;
  return out;
}

/** How far beyond the outline the rows' mean share falls below one that is given, where that is nearest to the outline: before the
 *  first row when that has less already; NaN when it is not seen to fall. */
function crossing(profiles: Float64Array, cell: number, share: number): number {
  const mean = (row: number): number => {
    const at = 2 * (cell * rows + row - nearestRow);
    return profiles[at + 1] >= fewest ? profiles[at] / profiles[at + 1] : Number.NaN;
  };
  let nearest = mean(nearestRow) < share ? nearestRow + 0.5 : Number.NaN;
  for (let row = nearestRow; row < farthestRow; row++) {
    const [before, after] = [mean(row), mean(row + 1)];
    if (!(before >= share && after < share)) continue;
    const at = row + 0.5 + (before - share) / (before - after);
    if (!(Math.abs(at) >= Math.abs(nearest))) nearest = at;
  }
  return nearest;
}
