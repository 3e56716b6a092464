import { grainWasm, keptKernel } from '../../../kernels';
import { type FloatImage, grow, intersect } from '../../../raster';
import type { ShiftMap } from '../cut/seam-cut';
import { boxOfTargets, type role } from '../frame';

/** Pixels that lie so many steps inside a join still follow what lies beyond it. */
const mostRings = 4;
/** Pixels so far apart have nothing in common but tone. */
const farPx = 6;
/** How well a pixel's surroundings are known, from pixels up to so far off (squared). */
const nearSquared = 4;
const offsets = Array.from({ length: 25 }, (_, k) => [(k % 5) - 2, Math.floor(k / 5) - 2] as const).filter(
  ([dx, dy]) => (dx !== 0 || dy !== 0) && dx * dx + dy * dy <= nearSquared,
);
const count = offsets.length;
/** Of the variance, so much at least is taken to be new in every pixel; it keeps the weights small. */
const leastNugget = 0.06;
/** What is left of a pixel's variance once its neighbours are known is at least this, or there is more that is new. */
const leastLeft = 0.02;
/** Differences beyond this are edges, not grain. */
const mostDifference = 40 / 255;
/** How far from the area grain is measured. */
const measuredPx = 20;
/** So many places tell enough. */
const enoughMeasured = 15_000;
/** Steps of brightness are told apart to a sixteenth of an 8-bit step. */
const stepBins = 16_384;

/** Lets the pixels next to a join follow the grain beyond it. Neighbouring pixels have much in common everywhere but where
 *  two pieces meet: there they know nothing of each other, and the join shows as a faint hard line, the clearer the softer
 *  the photo. What lies beyond the join less what the piece would have there is carried into the piece, to the first few
 *  pixels, as far as pixels at that distance have something in common: the conditional mean of the difference given its
 *  values beyond (simple kriging, Matheron 1963, doi:10.2113/gsecongeo.58.8.1246, with covariances measured in the photo
 *  round the area).
 *
 *  @param image  the frame's pixels; those of targets are not read
 *  @param roles  frame size: {@link role}
 *  @param field  the smooth correction of the pieces, of the hole and two pixels all round it at least, in frame pixels; changed in
 *                place near joins
 *  Cost: O(length of the joins), and the measuring.
 */
export function followGrain(image: FloatImage, roles: Uint8Array, map: ShiftMap, field: FloatImage): void {
  const { w, h } = image.rect;
  const labels = map.shifts.length;
  const box = field.rect;
  const measured = intersect(grow(boxOfTargets(roles, w), measuredPx), { x: 0, y: 0, w, h });
  const [all, own] = [w * h, box.w * box.h];
  const {
    kernel: k,
    buffer,
    at,
  } = grainKernel([
    16 * all,
    all,
    4 * own,
    16 * own,
    19 * own,
    4 * (labels + 1),
    4 * own,
    8 * labels,
    4 * own,
    4 * measured.w * measured.h,
    4 * stepBins,
    8 * count * (count + 1),
    8 * count * (count + 1) + (4 * count + 1) * 2 ** count,
  ]);
  const [picture, its, label, tone, room, starts, members, shifts, rings, luma, counts, weighed, weights] =
    at;
  new Float32Array(buffer, picture, 4 * all).set(image.data);
  new Uint8Array(buffer, its, all).set(roles);
  k.frame(picture, its, w, h);
  k.brightness(measured.x, measured.y, measured.w, measured.h, luma);
  const every = Math.max(1, Math.round(Math.sqrt((measured.w * measured.h) / enoughMeasured)));
  // The squared median of the steps between pixels so far apart.
  const covariance = covariances(
    (lag) => k.medianStep(luma, measured.w, measured.h, lag, every, stepBins, counts) ** 2,
  );
  new Float64Array(buffer, weighed, count * (count + 1)).set(between(covariance));
  k.weigh(weighed, weights);
  const boxed = new Int32Array(buffer, label, own);
  const tones = new Float32Array(buffer, tone, 4 * own);
  tones.set(field.data);
  for (let y = 0; y < box.h; y++) {
    const from = (box.y + y) * w + box.x;
    boxed.set(map.label.subarray(from, from + box.w), y * box.w);
  }
  const steps = new Int32Array(buffer, shifts, 2 * labels);
  for (let n = 0; n < labels; n++) steps.set([map.shifts[n].dx, map.shifts[n].dy], 2 * n);
  k.box(box.x, box.y, box.w, box.h, label, tone, room);
  k.sort(labels, starts, members);
  // One piece after the other, the largest first: what comes later follows what came before.
  const begin = new Int32Array(buffer, starts, labels + 1);
  const size = (n: number) => begin[n + 1] - begin[n];
  const inTurn = Array.from({ length: labels }, (_, n) => n).filter((n) => size(n) > 0);
  for (const n of inTurn.sort((a, b) => size(b) - size(a) || a - b))
    k.follow(n, starts, members, shifts, mostDifference, mostRings, rings);
  field.data.set(tones);
}

/** What two pixels have in common, by their squared distance, over what a pixel has: 1 at 0. By the medians of steps between
 *  sources, so that edges have no say, nor what was only guessed; steps across and down together.
 *  @param variation  between pixels so far apart, of any unit */
function covariances(variation: (lag: number) => number): (squared: number) => number {
  const sill = variation(farPx);
  const table = [0, 1, 2, 3, 4].map((lag) =>
    lag === 0 ? 1 : sill > 0 ? Math.max(0, 1 - variation(lag) / sill) : 0,
  );
  return (squared) => {
    const d = Math.sqrt(squared);
    const k = Math.floor(d);
    if (k >= 4) return k === 4 && d === 4 ? table[4] : 0;
    return table[k] + (d - k) * (table[k + 1] - table[k]);
  };
}

/** What each neighbour has in common with each, and after these with their pixel. */
function between(covariance: (squared: number) => number): number[] {
  const nugget = nuggetFor(covariance);
  const squared = (dx: number, dy: number) => dx * dx + dy * dy;
  return [
    ...offsets.flatMap(([x, y], a) =>
      offsets.map(([u, v], b) => (a === b ? 1 + nugget : covariance(squared(x - u, y - v)))),
    ),
    ...offsets.map(([x, y]) => covariance(squared(x, y))),
  ];
}

/** Medians of what is no grain, such as a photo made of enlarged pixels, can be what no covariances are: weights made of them
 *  would swing without bound. With so much that is new in every pixel they are some (Cholesky's pivots stay above 0). */
function nuggetFor(covariance: (squared: number) => number): number {
  const places = [[0, 0], ...offsets];
  for (let nugget = leastNugget; ; nugget *= 1.5) {
    const rows = places.map(([x, y], i) =>
      places.map(([u, v], j) => covariance((x - u) ** 2 + (y - v) ** 2) + (i === j ? nugget : 0)),
    );
    let isDefinite = true;
    for (let k = 0; k < rows.length && isDefinite; k++) {
      isDefinite = rows[k][k] >= leastLeft;
      for (let r = k + 1; r < rows.length; r++) {
        const f = rows[r][k] / rows[k][k];
        for (let j = k; j < rows.length; j++) rows[r][j] -= f * rows[k][j];
      }
    }
    if (isDefinite) return nugget;
  }
}

export interface GrainKernel {
  release(): void;
  claim(bytes: number): number;
  frame(picture: number, roles: number, w: number, h: number): void;
  brightness(x: number, y: number, w: number, h: number, out: number): void;
  medianStep(
    luma: number,
    w: number,
    h: number,
    lag: number,
    every: number,
    bins: number,
    counts: number,
  ): number;
  weigh(covariances: number, room: number): void;
  box(x: number, y: number, w: number, h: number, label: number, field: number, room: number): void;
  sort(labels: number, starts: number, members: number): void;
  follow(
    label: number,
    starts: number,
    members: number,
    shifts: number,
    most: number,
    rings: number,
    room: number,
  ): void;
}

const grainKernel = keptKernel<GrainKernel>(grainWasm);
