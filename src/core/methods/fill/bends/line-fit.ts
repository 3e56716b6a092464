import type { FloatImage } from '../../../raster';
import type { Shift } from '../cut/seam-cut';
import { role } from '../frame';

/** The two sides of a join are compared so far round it, in pixels: at least so many of them. */
const reachPx = 7;
const leastCompared = 30;
/** Of these, so many must be known where the part would be taken from. */
const leastShare = 0.8;
/** A line stands out from what is beside it by this variance at least, in squared 8-bit steps, and of its steps so much more go across
 *  it than along it: 0 would be any texture, 1 perfect lines. */
const leastVariance = 100;
const leastLined = 0.5;
/** Lines that miss each other by at most so many pixels are brought together. */
const mostOff = 5;
/** Where else it fits a line must fit clearly better: with at most this share of the difference there was, so much less of it, in
 *  squared 8-bit steps a pixel, and at most this share of its own variance. */
const clearly = { share: 0.45, less: 120, ofVariance: 0.35 };
/** For each squared pixel of distance, in squared 8-bit steps: of places that fit alike the nearest is meant. */
const nearer = 3;
/** Sides that differ by more squared 8-bit steps a pixel have nothing in common that would hold one to the other. */
const mostHeld = 500;
/** A line holds by its mean squared step of brightness over so many squared 8-bit steps, and at most so firmly; along itself by so much of
 *  that. A step of a bend from one point of the grid to the next weighs 1. */
const firmness = { perSquare: 16, most: 6, along: 0.15 };

/** Where a part should be moved to for a line to run on across a join, and how firmly it is held there. */
export interface LineFit {
  /** The line missed: it has to be moved. */
  readonly isOff: boolean;
  /** What is to be added to the part's shift, in pixels. */
  readonly x: number;
  readonly y: number;
  /** The firmness in all directions: a symmetric matrix. */
  readonly xx: number;
  readonly xy: number;
  readonly yy: number;
}

const disc: readonly (readonly [number, number])[] = Array.from(
  { length: (2 * reachPx + 1) ** 2 },
  (_, k) => [(k % (2 * reachPx + 1)) - reachPx, Math.floor(k / (2 * reachPx + 1)) - reachPx] as const,
).filter(([x, y]) => x * x + y * y <= reachPx ** 2);

/** Compares what two shifts bring to the surroundings of a place, by brightness, whatever its mean: looks along the direction across the
 *  line that runs there for where the first fits the second best.
 *  @returns null where no line runs, where too little is known, or where the two have nothing in common */
export function lineFitter({ rect: { w, h }, data }: FloatImage, roles: Uint8Array) {
  const luma = (p: number) =>
    roles[p] === role.context || roles[p] === role.source
      ? 63.75 * (data[4 * p] + 2 * data[4 * p + 1] + data[4 * p + 2])
      : Number.NaN;
  const x = new Int32Array(disc.length);
  const y = new Int32Array(disc.length);
  const theirs = new Float32Array(disc.length);
  let n = 0;
  /** The disc's pixels in a square, with one more all round. */
  const side = 2 * reachPx + 3;
  const square = new Float32Array(side * side);
  const unlike = (dx: number, dy: number): number => {
    let [m, s, ss] = [0, 0, 0];
    for (let k = 0; k < n; k++) {
      const u = x[k] + dx;
      const v = y[k] + dy;
      if (u < 0 || v < 0 || u >= w || v >= h) continue;
      const d = theirs[k] - luma(v * w + u);
      if (Number.isNaN(d)) continue;
      m++;
      s += d;
      ss += d * d;
    }
    return m < leastShare * n ? Number.POSITIVE_INFINITY : ss / m - (s / m) ** 2;
  };
  return (cx: number, cy: number, mine: Shift, other: Shift): LineFit | null => {
    const [left, top] = [cx - reachPx - 1, cy - reachPx - 1];
    for (let j = 0, k = 0; j < side; j++)
      for (let i = 0; i < side; i++, k++) {
        const [u, v] = [left + i + other.dx, top + j + other.dy];
        square[k] = u < 0 || v < 0 || u >= w || v >= h ? Number.NaN : luma(v * w + u);
      }
    n = 0;
    let [sum, squares] = [0, 0];
    let [xx, xy, yy, stepped] = [0, 0, 0, 0];
    for (const [ox, oy] of disc) {
      const k = (oy + reachPx + 1) * side + ox + reachPx + 1;
      const own = square[k];
      if (Number.isNaN(own)) continue;
      x[n] = cx + ox;
      y[n] = cy + oy;
      theirs[n] = own;
      n++;
      sum += own;
      squares += own * own;
      const across = (square[k + 1] - square[k - 1]) / 2;
      const down = (square[k + side] - square[k - side]) / 2;
      if (Number.isNaN(across + down)) continue;
      xx += across * across;
      xy += across * down;
      yy += down * down;
      stepped++;
    }
    if (n < leastCompared || stepped < leastCompared / 2) return null;
    const variance = squares / n - (sum / n) ** 2;
    if (variance < leastVariance || Math.hypot(xx - yy, 2 * xy) < leastLined * (xx + yy)) return null;
    const turn = Math.atan2(2 * xy, xx - yy) / 2;
    const [nx, ny] = [Math.cos(turn), Math.sin(turn)];
    const here = unlike(mine.dx, mine.dy);
    if (here === Number.POSITIVE_INFINITY) return null;
    const leftAt = (off: number) =>
      off === 0 ? here : unlike(mine.dx + Math.round(off * nx), mine.dy + Math.round(off * ny));
    let best = { off: 0, left: here, cost: here };
    if (here > clearly.less)
      for (let off = -mostOff; off <= mostOff; off++) {
        const left = leftAt(off);
        const cost = left + nearer * off * off;
        if (cost < best.cost) best = { off, left, cost };
      }
    const isOff =
      best.left <= clearly.share * here &&
      best.left <= here - clearly.less &&
      best.left <= clearly.ofVariance * variance;
    if (!isOff && here > mostHeld) return null;
    const off = isOff ? best.off + lowestBetween(leftAt(best.off - 1), best.left, leftAt(best.off + 1)) : 0;
    const firm = Math.min(firmness.most, (xx + yy) / stepped / firmness.perSquare);
    return {
      isOff,
      x: off * nx,
      y: off * ny,
      xx: firm * (nx * nx + firmness.along),
      xy: firm * nx * ny,
      yy: firm * (ny * ny + firmness.along),
    };
  };
}

/** Where a parabola through three values is lowest, seen from the middle one, the lowest of them: -0.5…0.5. */
function lowestBetween(before: number, middle: number, after: number): number {
  const bend = before - 2 * middle + after;
  return bend > 0 && bend < Number.POSITIVE_INFINITY
    ? Math.max(-0.5, Math.min(0.5, (before - after) / (2 * bend)))
    : 0;
}
