import type { FloatImage } from '../../../raster';
import type { Shift, ShiftMap } from '../cut/seam-cut';
import { role, sides } from '../frame';
import type { Join, Parts } from './parts';

/** Joins of the same two parts are judged together within squares of so many pixels. */
const stretchPx = 8;
/** Two sides that went together, up to so many squared 8-bit steps a pixel, no longer do when so many are added: grain and a soft
 *  edge that lies otherwise add less, a thin dark line more. */
const together = 400;
const mostMore = 1600;

const stays: Shift = { dx: 0, dy: 0 };
/** Which joins two sides that went together no longer do so at with bends: something came in there that the cut had left out, as a
 *  wire that passes just beyond what was copied.
 *
 *  @param image  the frame's pixels; those of targets are not read
 *  @param bends  as `BendGrid.settle` gives them
 *  @returns numbers of joins, all in a stretch together
 *  Cost: O(length of the joins). */
export function worseJoins(
  { rect: { w, h }, data }: FloatImage,
  roles: Uint8Array,
  { shifts }: ShiftMap,
  parts: Parts,
  joins: readonly Join[],
  bends: Float32Array,
): number[] {
  const { box, number, labels } = parts;
  const knownAt = (x: number, y: number): number => {
    if (x < 0 || y < 0 || x >= w || y >= h) return -1;
    const r = roles[y * w + x];
    return r === role.context || r === role.source ? y * w + x : -1;
  };
  const unlike = (p: number, q: number): number => {
    if (p < 0 || q < 0) return Number.NaN;
    let sum = 0;
    for (let c = 0; c < 3; c++) sum += (255 * (data[4 * p + c] - data[4 * q + c])) ** 2;
    return sum / 3;
  };
  const numberAt = (x: number, y: number): number => {
    const [u, v] = [x - box.x, y - box.y];
    return u < 0 || v < 0 || u >= box.w || v >= box.h ? -1 : number[v * box.w + u];
  };
  const bendAt = (x: number, y: number): Shift => {
    const i = 2 * ((y - box.y) * box.w + x - box.x);
    return { dx: Math.round(bends[i]), dy: Math.round(bends[i + 1]) };
  };
  const stretches = new Map<string, { before: number; more: number; count: number }>();
  const stretchOf = joins.map(({ x, y, part, other }) => {
    const key = `${part},${other},${Math.floor(x / stretchPx)},${Math.floor(y / stretchPx)}`;
    const stretch = stretches.get(key) ?? { before: 0, more: 0, count: 0 };
    stretches.set(key, stretch);
    for (const [u, v] of sides) {
      // The first pixel beyond the join: what is there, and what the part would bring there.
      const [qx, qy] = [x + u, y + v];
      if (numberAt(qx, qy) !== (other ?? -1)) continue;
      const mine = shifts[labels[part]];
      const my = bendAt(x, y);
      const theirs = other === null ? stays : shifts[labels[other]];
      const their = other === null ? stays : bendAt(qx, qy);
      const before = unlike(knownAt(qx + mine.dx, qy + mine.dy), knownAt(qx + theirs.dx, qy + theirs.dy));
      const after = unlike(
        knownAt(qx + mine.dx + my.dx, qy + mine.dy + my.dy),
        knownAt(qx + theirs.dx + their.dx, qy + theirs.dy + their.dy),
      );
      if (Number.isNaN(before + after)) continue;
      stretch.before += before;
      stretch.more += after - before;
      stretch.count++;
    }
    return stretch;
  });
  return [...joins.keys()].filter((k) => {
    const { before, more, count } = stretchOf[k];
    return before <= together * count && more > mostMore * count;
  });
}
