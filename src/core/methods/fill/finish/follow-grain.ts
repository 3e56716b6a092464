import { type FloatImage, grow, intersect, type Rect } from '../../../raster';
import type { ShiftMap } from '../cut/seam-cut';
import { boxOfTargets, role, touches } from '../frame';

/** Pixels that lie so many steps inside a join still follow what lies beyond it. */
const mostRings = 4;
/** Pixels so far apart have nothing in common but tone. */
const farPx = 6;
/** How well a pixel's surroundings are known, from pixels up to so far off (squared). */
const nearSquared = 4;
const offsets = Array.from({ length: 25 }, (_, k) => [(k % 5) - 2, Math.floor(k / 5) - 2] as const).filter(
  ([dx, dy]) => (dx !== 0 || dy !== 0) && dx * dx + dy * dy <= nearSquared,
);
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
 *  @param field  frame size ×4: the smooth correction of the pieces; changed in place near joins
 *  Cost: O(length of the joins), and the measuring.
 */
export function followGrain(image: FloatImage, roles: Uint8Array, map: ShiftMap, field: Float32Array): void {
  const { w, h } = image.rect;
  const { data } = image;
  const weightsOf = kriging(covariances(image, roles));
  const isKnown = (q: number) => roles[q] === role.context || roles[q] === role.source;
  /** What is known or done; told only where pixels that are to be filled may ask. */
  const finished = new Uint8Array(w * h);
  const pixels = new Map<number, number[]>();
  const box = intersect(grow(boxOfTargets(roles, w), 2), { x: 0, y: 0, w, h });
  for (let y = box.y; y < box.y + box.h; y++)
    for (let p = y * w + box.x; p < y * w + box.x + box.w; p++)
      if (isKnown(p)) finished[p] = 1;
      else if (roles[p] === role.target) {
        const list = pixels.get(map.label[p]);
        if (list) list.push(p);
        else pixels.set(map.label[p], [p]);
      }
  const carried = new Float32Array(w * h * 4);
  /** 1 where `carried` is known for the piece in hand. */
  const reached = new Uint8Array(w * h);
  const queued = new Uint8Array(w * h);
  const sides = [-1, 1, -w, w];
  const count = offsets.length;
  const across = Int32Array.from(offsets, ([x]) => x);
  const down = Int32Array.from(offsets, ([, y]) => y);
  const shiftSteps = Int32Array.from(map.shifts, (s) => s.dy * w + s.dx);
  // One piece after the other: what comes later follows what came before.
  for (const [label, members] of [...pixels].sort((a, b) => b[1].length - a[1].length || a[0] - b[0])) {
    const { dx, dy } = map.shifts[label];
    const shift = dy * w + dx;
    /** Which of a pixel's neighbours say something: reached ones, and finished ones that the piece goes on to. */
    const neighboursOf = (x: number, y: number): number => {
      let pattern = 0;
      for (let k = 0; k < count; k++) {
        const nx = x + across[k];
        const ny = y + down[k];
        if (nx < 0 || ny < 0 || nx >= w || ny >= h) continue;
        const q = ny * w + nx;
        if (reached[q]) pattern |= 1 << k;
        else if (finished[q]) {
          const sx = nx + dx;
          const sy = ny + dy;
          if (sx >= 0 && sy >= 0 && sx < w && sy < h && isKnown(q + shift)) pattern |= 1 << k;
        }
      }
      return pattern;
    };
    const follow = (p: number): void => {
      const x = p % w;
      const y = (p - x) / w;
      const pattern = neighboursOf(x, y);
      const weights = weightsOf(pattern);
      const own = 4 * p;
      let [red, green, blue] = [0, 0, 0];
      for (let left = pattern; left !== 0; left &= left - 1) {
        const k = 31 - Math.clz32(left & -left);
        const q = p + down[k] * w + across[k];
        const weight = weights[k];
        const at = 4 * q;
        if (reached[q]) {
          red += weight * carried[at];
          green += weight * carried[at + 1];
          blue += weight * carried[at + 2];
          continue;
        }
        // What is there, corrected, less what the piece would have there, corrected as at its own pixel.
        const there = isKnown(q) ? at : 4 * (q + shiftSteps[map.label[q]]);
        const continued = 4 * (q + shift);
        red += weight * clipped(data[there] + field[at] - data[continued] - field[own]);
        green += weight * clipped(data[there + 1] + field[at + 1] - data[continued + 1] - field[own + 1]);
        blue += weight * clipped(data[there + 2] + field[at + 2] - data[continued + 2] - field[own + 2]);
      }
      carried[own] = red;
      carried[own + 1] = green;
      carried[own + 2] = blue;
    };
    const rings: number[][] = [];
    let front: number[] = [];
    for (const p of members) if (touches(finished, w, h, p)) front.push(p);
    for (const p of front) queued[p] = 1;
    while (front.length > 0 && rings.length < mostRings) {
      for (const p of front) follow(p);
      for (const p of front) reached[p] = 1;
      rings.push(front);
      const next: number[] = [];
      for (const p of front) {
        const x = p % w;
        for (let d = 0; d < 4; d++) {
          if (d === 0 ? x === 0 : d === 1 ? x === w - 1 : d === 2 ? p < w : p >= w * (h - 1)) continue;
          const q = p + sides[d];
          if (map.label[q] !== label || queued[q]) continue;
          queued[q] = 1;
          next.push(q);
        }
      }
      front = next;
    }
    for (const ring of rings)
      for (const p of ring) {
        for (let c = 0; c < 3; c++) field[4 * p + c] += carried[4 * p + c];
        reached[p] = 0;
      }
    for (const p of members) finished[p] = 1;
  }
}

const clipped = (d: number): number => Math.min(mostDifference, Math.max(-mostDifference, d));

/** What two pixels have in common, by their squared distance, over what a pixel has: 1 at 0. By the medians of steps between
 *  sources, so that edges have no say, nor what was only guessed; steps across and down together. */
function covariances(image: FloatImage, roles: Uint8Array): (squared: number) => number {
  const { rect, data } = image;
  const { w } = rect;
  const box = intersect(grow(boxOfTargets(roles, w), measuredPx), { x: 0, y: 0, w, h: rect.h });
  const luma = new Float32Array(box.w * box.h).fill(Number.NaN);
  for (let y = 0; y < box.h; y++)
    for (let x = 0; x < box.w; x++) {
      const i = (box.y + y) * w + box.x + x;
      if (roles[i] !== role.source) continue;
      luma[y * box.w + x] = data[4 * i] + 2 * data[4 * i + 1] + data[4 * i + 2];
    }
  const every = Math.max(1, Math.round(Math.sqrt((box.w * box.h) / enoughMeasured)));
  const sill = variation(luma, box, every, farPx);
  const table = [0, 1, 2, 3, 4].map((lag) =>
    lag === 0 ? 1 : sill > 0 ? Math.max(0, 1 - variation(luma, box, every, lag) / sill) : 0,
  );
  return (squared) => {
    const d = Math.sqrt(squared);
    const k = Math.floor(d);
    if (k >= 4) return k === 4 && d === 4 ? table[4] : 0;
    return table[k] + (d - k) * (table[k + 1] - table[k]);
  };
}

/** The squared median of the steps between pixels so far apart, where both are known (not NaN). */
function variation(luma: Float32Array, { w, h }: Rect, every: number, lag: number): number {
  const counts = new Uint32Array(stepBins);
  let total = 0;
  const count = (step: number) => {
    if (Number.isNaN(step)) return;
    counts[Math.min(stepBins - 1, Math.round(Math.abs(step) * (stepBins / 4)))]++;
    total++;
  };
  for (let y = 0; y < h - lag; y += every)
    for (let x = 0, i = y * w; x < w - lag; x += every, i += every) {
      count(luma[i + lag] - luma[i]);
      count(luma[i + lag * w] - luma[i]);
    }
  let median = 0;
  for (let below = counts[0]; 2 * below < total; below += counts[median]) median++;
  return median ** 2;
}

/** Weights of neighbours for their pixel, by which of them are there. */
function kriging(covariance: (squared: number) => number): (pattern: number) => Float32Array {
  const count = offsets.length;
  const nugget = nuggetFor(covariance);
  const known: Float32Array[] = new Array(1 << count);
  const toPixel = offsets.map(([x, y]) => covariance(x * x + y * y));
  const between = Float64Array.from({ length: count * count }, (_, k) => {
    const [a, b] = [Math.floor(k / count), k % count];
    if (a === b) return 1 + nugget;
    return covariance((offsets[a][0] - offsets[b][0]) ** 2 + (offsets[a][1] - offsets[b][1]) ** 2);
  });
  const matrix = new Float64Array(count * (count + 1));
  return (pattern) => {
    if (known[pattern]) return known[pattern];
    const weights = new Float32Array(count);
    known[pattern] = weights;
    const there: number[] = [];
    for (let k = 0; k < count; k++) if (pattern & (1 << k)) there.push(k);
    const n = there.length;
    for (let a = 0; a < n; a++) {
      for (let b = 0; b < n; b++) matrix[a * (n + 1) + b] = between[there[a] * count + there[b]];
      matrix[a * (n + 1) + n] = toPixel[there[a]];
    }
    solveInPlace(matrix, n);
    for (let a = 0; a < n; a++) weights[there[a]] = matrix[a * (n + 1) + n];
    return weights;
  };
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

/** Gaussian elimination with pivots of n rows of n + 1 numbers, the last of which becomes the solution. */
function solveInPlace(rows: Float64Array, n: number): void {
  const side = n + 1;
  for (let k = 0; k < n; k++) {
    let pivot = k;
    for (let r = k + 1; r < n; r++)
      if (Math.abs(rows[r * side + k]) > Math.abs(rows[pivot * side + k])) pivot = r;
    if (pivot !== k)
      for (let j = k; j <= n; j++) {
        const v = rows[k * side + j];
        rows[k * side + j] = rows[pivot * side + j];
        rows[pivot * side + j] = v;
      }
    for (let r = k + 1; r < n; r++) {
      const f = rows[r * side + k] / rows[k * side + k];
      for (let j = k; j <= n; j++) rows[r * side + j] -= f * rows[k * side + j];
    }
  }
  for (let k = n - 1; k >= 0; k--) {
    for (let j = k + 1; j < n; j++) rows[k * side + n] -= rows[k * side + j] * rows[j * side + n];
    rows[k * side + n] /= rows[k * side + k];
  }
}
