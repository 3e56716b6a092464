import { invertSymmetric } from '../../statistics';

/** A mixture of Gaussians over colours. */
export interface ColourModel {
  /** −ln of the likelihood of a pixel's colour. */
  cost(pixel: number): number;
}

/** Lightness, and two axes of colour. */
const features = 3;
const pairs = (features * (features + 1)) / 2;
/** Keeps a cluster of equal colours from becoming infinitely sure of itself; in squared units of the colour space. */
const leastVariance = 6;
const mostSamples = 2000;
const rounds = 5;

/** A cluster in ten numbers: its mean, the upper triangle of the inverse covariance by rows, off-diagonals doubled, and
 *  −ln(weight / √det). */
const numbers = features + pairs + 1;

/** Fits a mixture to some pixels: k-means on spread-out seeds, then a full covariance for each cluster.
 *
 *  @param values  n×3 float32, CIELAB
 *  @param members  numbers of the pixels that belong to it; at least one
 *  @param clusters  1…8
 *  Deterministic. Source: Rother, Kolmogorov & Blake 2004, GrabCut, doi:10.1145/1186562.1015720, section 2.
 */
export function fitColours(values: Float32Array, members: ArrayLike<number>, clusters: number): ColourModel {
  const step = Math.max(1, Math.floor(members.length / mostSamples));
  const count = Math.ceil(members.length / step);
  const samples = new Float32Array(count * features);
  for (let i = 0; i < count; i++)
    for (let c = 0; c < features; c++) samples[i * features + c] = values[members[i * step] * features + c];
  const means = seeds(samples, count, clusters);
  const owner = new Int32Array(count);
  for (let round = 0; round < rounds; round++) {
    assign(samples, means, owner);
    average(samples, means, owner);
  }
  assign(samples, means, owner);
  const found: number[] = [];
  for (let k = 0; k < means.length; k++) found.push(...gaussianOf(samples, owner, k));
  const g = Float64Array.from(found);
  return {
    cost(pixel) {
      const at = 3 * pixel;
      let least = Infinity;
      for (let k = 0; k < g.length; k += numbers) {
        const x = values[at] - g[k];
        const y = values[at + 1] - g[k + 1];
        const z = values[at + 2] - g[k + 2];
        const cost =
          g[k + 9] +
          0.5 *
            (x * (g[k + 3] * x + g[k + 4] * y + g[k + 5] * z) +
              y * (g[k + 6] * y + g[k + 7] * z) +
              g[k + 8] * z * z);
        if (cost < least) least = cost;
      }
      return least;
    },
  };
}

function squared(samples: Float32Array, i: number, mean: Float64Array): number {
  const at = features * i;
  const x = samples[at] - mean[0];
  const y = samples[at + 1] - mean[1];
  const z = samples[at + 2] - mean[2];
  return x * x + y * y + z * z;
}

/** Each further seed is the sample farthest from those there are. */
function seeds(samples: Float32Array, count: number, clusters: number): Float64Array[] {
  const mean = new Float64Array(features);
  for (let i = 0; i < count * features; i++) mean[i % features] += samples[i] / count;
  const out = [mean];
  const nearest = new Float64Array(count).fill(Infinity);
  while (out.length < clusters) {
    let far = 0;
    for (let i = 0; i < count; i++) {
      nearest[i] = Math.min(nearest[i], squared(samples, i, out[out.length - 1]));
      if (nearest[i] > nearest[far]) far = i;
    }
    if (nearest[far] < 4) break;
    out.push(Float64Array.from(samples.subarray(far * features, (far + 1) * features)));
  }
  return out;
}

function assign(samples: Float32Array, means: readonly Float64Array[], owner: Int32Array): void {
  for (let i = 0; i < owner.length; i++) {
    let least = Infinity;
    for (let k = 0; k < means.length; k++) {
      const d = squared(samples, i, means[k]);
      if (d >= least) continue;
      least = d;
      owner[i] = k;
    }
  }
}

function average(samples: Float32Array, means: readonly Float64Array[], owner: Int32Array): void {
  const counts = new Int32Array(means.length);
  const sums = new Float64Array(features * means.length);
  for (let i = 0, from = 0; i < owner.length; i++, from += features) {
    const to = features * owner[i];
    counts[owner[i]]++;
    sums[to] += samples[from];
    sums[to + 1] += samples[from + 1];
    sums[to + 2] += samples[from + 2];
  }
  means.forEach((mean, k) => {
    if (counts[k] > 0) for (let c = 0; c < features; c++) mean[c] = sums[features * k + c] / counts[k];
  });
}

/** @returns its {@link numbers}; nothing for a cluster that has no samples */
function gaussianOf(samples: Float32Array, owner: Int32Array, k: number): number[] {
  const mean = new Float64Array(features);
  let count = 0;
  for (let i = 0; i < owner.length; i++) {
    if (owner[i] !== k) continue;
    count++;
    for (let c = 0; c < features; c++) mean[c] += samples[i * features + c];
  }
  if (count === 0) return [];
  for (let c = 0; c < features; c++) mean[c] /= count;
  let [xx, xy, xz, yy, yz, zz] = [0, 0, 0, 0, 0, 0];
  for (let i = 0; i < owner.length; i++) {
    if (owner[i] !== k) continue;
    const x = samples[i * features] - mean[0];
    const y = samples[i * features + 1] - mean[1];
    const z = samples[i * features + 2] - mean[2];
    xx += (x * x) / count;
    xy += (x * y) / count;
    xz += (x * z) / count;
    yy += (y * y) / count;
    yz += (y * z) / count;
    zz += (z * z) / count;
  }
  const m = [
    [xx + leastVariance, xy, xz],
    [xy, yy + leastVariance, yz],
    [xz, yz, zz + leastVariance],
  ].map((row) => Float64Array.from(row));
  const { inverse, logDet } = invertSymmetric(m);
  const triangle: number[] = [];
  for (let r = 0; r < features; r++)
    for (let c = r; c < features; c++) triangle.push((r === c ? 1 : 2) * inverse[r][c]);
  return [...mean, ...triangle, -Math.log(count / owner.length) + 0.5 * logDet];
}
