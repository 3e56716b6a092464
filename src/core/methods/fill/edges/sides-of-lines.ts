import { connected } from '../../../area';
import type { SeenEdge } from './straight-edges';

/** Number of a pixel that lies on a line, before it is told to which side it goes. */
const onLine = -1;

/** On which side of some lines each pixel lies: two of one number can be joined without crossing any. One that ends within another's
 *  reach, as somebody draws the lines of a corner, meets it; one that ends by itself parts nothing. The measure is ours.
 *
 *  @param lines  in pixels counted from pixel centres; each runs on behind its first point, and behind its last one unless it ends there
 *  @param meetPx  how far one goes on at its end to meet another
 *  @returns w×h numbers from 0 on
 *  Cost: O(w·h). */
export function sidesOfLines(lines: readonly SeenEdge[], w: number, h: number, meetPx: number): Uint8Array {
  /** Which line covers a pixel, counted from 1. */
  const covered = new Uint8Array(w * h);
  const isIn = (x: number, y: number) => x >= 0 && y >= 0 && x < w && y < h;
  const ways = lines.map(({ line: [x0, y0, x1, y1], ends }) => {
    const length = Math.hypot(x1 - x0, y1 - y0);
    const [ux, uy] = [(x1 - x0) / length, (y1 - y0) / length];
    return {
      length,
      ends,
      at: (t: number) => [Math.round(x0 + t * ux), Math.round(y0 + t * uy)] as const,
    };
  });
  const cover = (k: number, from: number, to: number) => {
    for (let t = from; t <= to; t += 0.5) {
      const [x, y] = ways[k].at(t);
      // Two wide, so that nothing slips through between two steps, not even over a corner.
      for (const [u, v] of [
        [x, y],
        [x + 1, y],
        [x, y + 1],
      ])
        if (isIn(u, v)) covered[v * w + u] = k + 1;
    }
  };
  const reach = w + h;
  ways.forEach(({ length, ends }, k) => {
    cover(k, -reach, ends ? length : length + reach);
  });
  ways.forEach(({ length, ends, at }, k) => {
    for (let t = length; ends && t <= length + meetPx; t += 0.5) {
      const [x, y] = at(t);
      if (!isIn(x, y) || covered[y * w + x] === 0 || covered[y * w + x] === k + 1) continue;
      cover(k, length, t);
      break;
    }
  });
  return numbered(covered, w, h);
}

/** Numbers what hangs together of all that is not covered; covered pixels go to what lies beside them. More than 255 parts count as one
 *  with the last. */
function numbered(covered: Uint8Array, w: number, h: number): Uint8Array {
  const side = new Int16Array(w * h).fill(onLine);
  const parts = connected(
    covered.map((k) => (k ? 0 : 1)),
    w,
    h,
  );
  parts.forEach((part, k) => {
    for (const i of part) side[i] = Math.min(254, k);
  });
  // From both sides at once, so that each takes what is nearest to it.
  let left: number[] = [];
  side.forEach((v, i) => {
    if (v === onLine) left.push(i);
  });
  while (left.length > 0) {
    const taken = left.map((i) => {
      const x = i % w;
      const beside = [x > 0 ? i - 1 : -1, x < w - 1 ? i + 1 : -1, i - w, i + w];
      return beside.map((q) => side[q] ?? onLine).find((v) => v !== onLine) ?? onLine;
    });
    // Nothing but lines.
    if (taken.every((v) => v === onLine)) return new Uint8Array(w * h);
    left.forEach((i, k) => {
      side[i] = taken[k];
    });
    left = left.filter((_, k) => taken[k] === onLine);
  }
  return Uint8Array.from(side);
}
