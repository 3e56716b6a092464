import { keptKernel, lineFitWasm } from '../../../kernels';
import type { FloatImage } from '../../../raster';
import type { Shift } from '../cut/seam-cut';

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

/** Compares what two shifts bring to the surroundings of a place, by brightness, whatever its mean: looks along the direction across the
 *  line that runs there for where the first fits the second best. One at a time: a new one takes the place of the one before.
 *  @returns null where no line runs, where too little is known, or where the two have nothing in common */
export function lineFitter({ rect: { w, h }, data }: FloatImage, roles: Uint8Array) {
  const side = 2 * reachPx + 3;
  const atOnce = Math.min(w * h, brightnessAtOnce);
  const sizes = [16 * atOnce, atOnce, 8 * w * h, 4 * side * side, 8 * side * side, 4 * side * side, 8 * 6];
  const { kernel: k, buffer, at } = lineFitKernel(sizes);
  const [picture, their, luma, square, disc, theirs, sums] = at;
  for (let from = 0; from < w * h; from += atOnce) {
    const count = Math.min(atOnce, w * h - from);
    new Float32Array(buffer, picture, 4 * count).set(data.subarray(4 * from, 4 * (from + count)));
    new Uint8Array(buffer, their, count).set(roles.subarray(from, from + count));
    k.brightness(picture, their, count, luma + 8 * from);
  }
  k.begin(luma, w, h, reachPx, square, disc, theirs);
  const sum = new Float64Array(buffer, sums, 6);
  return (x: number, y: number, mine: Shift, other: Shift): LineFit | null => {
    const n = k.take(x, y, other.dx, other.dy, sums);
    const stepped = sum[5];
    if (n < leastCompared || stepped < leastCompared / 2) return null;
    const variance = sum[1] / n - (sum[0] / n) ** 2;
    const xx = sum[2];
    const xy = sum[3];
    const yy = sum[4];
    if (variance < leastVariance || Math.hypot(xx - yy, 2 * xy) < leastLined * (xx + yy)) return null;
    const turn = Math.atan2(2 * xy, xx - yy) / 2;
    const nx = Math.cos(turn);
    const ny = Math.sin(turn);
    const leftAt = (off: number) =>
      k.unlike(mine.dx + Math.round(off * nx), mine.dy + Math.round(off * ny), leastShare);
    const here = leftAt(0);
    if (here === Number.POSITIVE_INFINITY) return null;
    let best = { off: 0, left: here, cost: here };
    if (here > clearly.less)
      for (let off = -mostOff; off <= mostOff; off++) {
        const left = off === 0 ? here : leftAt(off);
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

export interface LineKernel {
  release(): void;
  claim(bytes: number): number;
  brightness(picture: number, roles: number, count: number, out: number): void;
  begin(
    luma: number,
    w: number,
    h: number,
    reach: number,
    square: number,
    disc: number,
    theirs: number,
  ): void;
  take(x: number, y: number, dx: number, dy: number, sums: number): number;
  unlike(dx: number, dy: number, leastShare: number): number;
}

const lineFitKernel = keptKernel<LineKernel>(lineFitWasm);

/** So many pixels are handed over together. */
const brightnessAtOnce = 1 << 16;

/** Where a parabola through three values is lowest, seen from the middle one, the lowest of them: -0.5…0.5. */
function lowestBetween(before: number, middle: number, after: number): number {
  const bend = before - 2 * middle + after;
  return bend > 0 && bend < Number.POSITIVE_INFINITY
    ? Math.max(-0.5, Math.min(0.5, (before - after) / (2 * bend)))
    : 0;
}
