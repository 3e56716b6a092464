import { invertSymmetric } from '../../statistics';
import type { AlongRim, Rim } from './rim';

/** So many points are fitted to, and from so many of them the search begins. */
const fittedTo = 200;
const begunAt = 20;
const rounds = 7;
/** First only a level is fitted, until it is clear what belongs to it. */
const levelRounds = 2;
/** What a slope is held back by: light falls off by little. */
const slopeHeld = 0.1;
/** A level of one unit, or a slope, counts as much as if all the rim lay far off it: of two that fit as well, the one that changes
 *  the source less is meant. */
const sizeCounts = 1;

interface Fit {
  /** Level, slope across and slope down of each channel. */
  readonly planes: readonly ArrayLike<number>[];
  /** The less, the better. */
  readonly loss: number;
}

/** Finds what prevails along a rim: a level and a slope, light falling off, to each channel.
 *
 *  What lies far off hardly counts: weights by Geman and McClure's function (Black & Rangarajan 1996, doi:10.1007/BF00131148, table 1),
 *  fitted anew in rounds (Holland & Welsch 1977, doi:10.1080/03610927708827533), begun at many points, since a rim on two grounds
 *  has two answers.
 *  @param d  at least one point
 *  @param scale  what is no difference yet, in units of d
 *  @returns tells how far each point of such numbers lies from it
 */
export function prevailing(d: AlongRim, { xs, ys }: Rim, scale: number): (d: AlongRim) => number[] {
  const [u, v] = centred(xs, ys);
  const farFrom = (planes: Fit['planes'], of: AlongRim, k: number) => {
    let squares = 0;
    for (const [c, channel] of of.entries()) {
      const plane = planes[c];
      squares += (channel[k] - plane[0] - plane[1] * u[k] - plane[2] * v[k]) ** 2;
    }
    return Math.sqrt(squares);
  };
  const points = everyNth(xs.length, fittedTo);
  const fitFrom = (start: number): Fit => {
    let planes: Fit['planes'] = d.map((channel) => [channel[start], 0, 0]);
    let loss = 0;
    for (let round = 0; round < rounds; round++) {
      const shares = points.map((k) => 1 / (1 + (farFrom(planes, d, k) / scale) ** 2));
      loss = shares.reduce((sum, share) => sum + 1 - share, 0) / points.length;
      const weights = shares.map((share) => share * share);
      planes = fitted(d, u, v, points, weights, round < levelRounds);
    }
    const sizes = [0, 1, 2].map((j) => planes.reduce((sum, plane) => sum + plane[j] ** 2, 0));
    return { planes, loss: loss + sizeCounts * (Math.sqrt(sizes[0]) + Math.sqrt(sizes[1] + sizes[2])) };
  };
  const { planes } = everyNth(xs.length, begunAt)
    .map(fitFrom)
    .reduce((a, b) => (b.loss < a.loss ? b : a));
  return (of) => xs.map((_, k) => farFrom(planes, of, k));
}

/** The planes that lie nearest, by weighted least squares. */
function fitted(
  d: AlongRim,
  u: readonly number[],
  v: readonly number[],
  points: readonly number[],
  weights: readonly number[],
  isLevel: boolean,
): Fit['planes'] {
  const sum = (of: (k: number) => number) => points.reduce((s, k, j) => s + weights[j] * of(k), 0);
  const all = sum(() => 1);
  if (isLevel) return d.map((channel) => [sum((k) => channel[k]) / all, 0, 0]);
  const [su, sv, uv] = [sum((k) => u[k]), sum((k) => v[k]), sum((k) => u[k] * v[k])];
  const held = slopeHeld * points.length;
  const { inverse } = invertSymmetric([
    [all, su, sv],
    [su, sum((k) => u[k] ** 2) + held, uv],
    [sv, uv, sum((k) => v[k] ** 2) + held],
  ]);
  return d.map((channel) => {
    const right = [sum((k) => channel[k]), sum((k) => channel[k] * u[k]), sum((k) => channel[k] * v[k])];
    return inverse.map((row) => row.reduce((s, value, j) => s + value * right[j], 0));
  });
}

/** Places from their middle, in units of how far off they lie. */
function centred(xs: readonly number[], ys: readonly number[]): [number[], number[]] {
  const mean = (values: readonly number[]) => values.reduce((sum, v) => sum + v, 0) / values.length;
  const [mx, my] = [mean(xs), mean(ys)];
  const size = Math.max(1, Math.sqrt(mean(xs.map((x, k) => (x - mx) ** 2 + (ys[k] - my) ** 2))));
  return [xs.map((x) => (x - mx) / size), ys.map((y) => (y - my) / size)];
}

/** About so many of the first numbers, spread evenly; all of them where there are no more. */
function everyNth(count: number, about: number): number[] {
  const step = Math.max(1, Math.floor(count / about));
  return Array.from({ length: Math.ceil(count / step) }, (_, k) => k * step);
}
