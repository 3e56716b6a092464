import { type FloatImage, grow, intersect } from '../../raster';
import { boxOfTargets, role } from './frame';
import type { ShiftMap } from './seam-cut';

/** Pixels that lie so many steps inside a join still follow what lies beyond it. */
const mostRings = 4;
/** Pixels so far apart have nothing in common but tone. */
const farPx = 6;
/** How well a pixel's surroundings are known, from pixels up to so far off (squared). */
const nearSquared = 4;
const offsets = Array.from({ length: 25 }, (_, k) => [(k % 5) - 2, Math.floor(k / 5) - 2] as const).filter(
  ([dx, dy]) => (dx !== 0 || dy !== 0) && dx * dx + dy * dy <= nearSquared,
);
/** Of the variance, so much is taken to be new in every pixel; it keeps the weights small. */
const nugget = 0.06;
/** The weights of a pixel's neighbours come to at most this, signs left out. */
const mostWeight = 6;
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
  const known = new Uint8Array(w * h);
  const pixels = new Map<number, number[]>();
  for (let p = 0; p < w * h; p++)
    if (roles[p] === role.context || roles[p] === role.source) known[p] = 1;
    else if (roles[p] === role.target) {
      const list = pixels.get(map.label[p]);
      if (list) list.push(p);
      else pixels.set(map.label[p], [p]);
    }
  const finished = known.slice();
  const carried = new Float32Array(w * h * 4);
  /** 1 where `carried` is known for the piece in hand. */
  const reached = new Uint8Array(w * h);
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
          if (sx >= 0 && sy >= 0 && sx < w && sy < h && known[q + shift]) pattern |= 1 << k;
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
        const there = known[q] ? at : 4 * (q + shiftSteps[map.label[q]]);
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
    for (const p of members) if (sides(p, w, h).some((q) => finished[q])) front.push(p);
    const queued = new Set(front);
    while (front.length > 0 && rings.length < mostRings) {
      for (const p of front) follow(p);
      for (const p of front) reached[p] = 1;
      rings.push(front);
      const next: number[] = [];
      for (const p of front)
        for (const q of sides(p, w, h))
          if (roles[q] === role.target && map.label[q] === label && !queued.has(q)) {
            queued.add(q);
            next.push(q);
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

function sides(p: number, w: number, h: number): number[] {
  const x = p % w;
  const out: number[] = [];
  if (x > 0) out.push(p - 1);
  if (x < w - 1) out.push(p + 1);
  if (p >= w) out.push(p - w);
  if (p < w * (h - 1)) out.push(p + w);
  return out;
}

/** What two pixels have in common, by their squared distance, over what a pixel has: 1 at 0. By the medians of steps, so that
 *  edges have no say; steps across and down together. */
function covariances(image: FloatImage, roles: Uint8Array): (squared: number) => number {
  const { rect, data } = image;
  const box = intersect(grow(boxOfTargets(roles, rect.w), measuredPx), { x: 0, y: 0, w: rect.w, h: rect.h });
  const isKnown = (i: number) => roles[i] === role.context || roles[i] === role.source;
  const luma = (i: number) => data[4 * i] + 2 * data[4 * i + 1] + data[4 * i + 2];
  const every = Math.max(1, Math.round(Math.sqrt((box.w * box.h) / enoughMeasured)));
  const counts = new Uint32Array(stepBins);
  const variation = (lag: number): number => {
    counts.fill(0);
    let total = 0;
    for (let y = box.y; y < box.y + box.h - lag; y += every)
      for (let x = box.x; x < box.x + box.w - lag; x += every) {
        const i = y * rect.w + x;
        if (!isKnown(i)) continue;
        for (let j = i + lag, k = 0; k < 2; j = i + lag * rect.w, k++) {
          if (!isKnown(j)) continue;
          counts[Math.min(stepBins - 1, Math.round(Math.abs(luma(j) - luma(i)) * (stepBins / 4)))]++;
          total++;
        }
      }
    let median = 0;
    for (let below = counts[0]; 2 * below < total; below += counts[median]) median++;
    return median ** 2;
  };
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

/** Weights of neighbours for their pixel, by which of them are there. */
function kriging(covariance: (squared: number) => number): (pattern: number) => Float32Array {
  const known = new Map<number, Float32Array>();
  const toPixel = offsets.map(([x, y]) => covariance(x * x + y * y));
  const between = offsets.map(([ax, ay], a) =>
    offsets.map(([bx, by], b) => (a === b ? 1 + nugget : covariance((ax - bx) ** 2 + (ay - by) ** 2))),
  );
  return (pattern) => {
    let weights = known.get(pattern);
    if (weights) return weights;
    weights = new Float32Array(offsets.length);
    const there: number[] = [];
    for (let k = 0; k < offsets.length; k++) if (pattern & (1 << k)) there.push(k);
    const rows = there.map((a) => {
      const row = there.map((b) => between[a][b]);
      row.push(toPixel[a]);
      return row;
    });
    const solved = solveInPlace(rows);
    // Covariances that a repeating pattern gives may hardly be any: nothing is to be blown up by them.
    const total = solved.reduce((n, v) => n + Math.abs(v), 0);
    const kept = total <= mostWeight ? 1 : Number.isFinite(total) ? mostWeight / total : 0;
    solved.forEach((v, k) => {
      weights![there[k]] = kept * v;
    });
    known.set(pattern, weights);
    return weights;
  };
}

/** Gaussian elimination with pivots; each row ends with its right-hand side. */
function solveInPlace(rows: number[][]): number[] {
  const n = rows.length;
  for (let k = 0; k < n; k++) {
    let pivot = k;
    for (let r = k + 1; r < n; r++) if (Math.abs(rows[r][k]) > Math.abs(rows[pivot][k])) pivot = r;
    [rows[k], rows[pivot]] = [rows[pivot], rows[k]];
    for (let r = k + 1; r < n; r++) {
      const f = rows[r][k] / rows[k][k];
      for (let j = k; j <= n; j++) rows[r][j] -= f * rows[k][j];
    }
  }
  for (let k = n - 1; k >= 0; k--) {
    for (let j = k + 1; j < n; j++) rows[k][n] -= rows[k][j] * rows[j][n];
    rows[k][n] /= rows[k][k];
  }
  return rows.map((r) => r[n]);
}
