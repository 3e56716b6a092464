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

interface Gaussian {
  readonly mean: Float64Array;
  /** Upper triangle of the inverse covariance by rows, off-diagonals doubled. */
  readonly inverse: Float64Array;
  /** −ln(weight / √det). */
  readonly base: number;
}

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
  const gaussians = means.flatMap((_, k) => gaussianOf(samples, owner, k));
  return {
    cost(pixel) {
      const at = 3 * pixel;
      let least = Infinity;
      for (const { mean, inverse: v, base } of gaussians) {
        const x = values[at] - mean[0];
        const y = values[at + 1] - mean[1];
        const z = values[at + 2] - mean[2];
        const cost =
          base + 0.5 * (x * (v[0] * x + v[1] * y + v[2] * z) + y * (v[3] * y + v[4] * z) + v[5] * z * z);
        if (cost < least) least = cost;
      }
      return least;
    },
  };
}

function squared(samples: Float32Array, i: number, mean: ArrayLike<number>): number {
  let sum = 0;
  for (let c = 0; c < features; c++) sum += (samples[i * features + c] - mean[c]) ** 2;
  return sum;
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
  const sums = means.map(() => new Float64Array(features));
  for (let i = 0; i < owner.length; i++) {
    counts[owner[i]]++;
    for (let c = 0; c < features; c++) sums[owner[i]][c] += samples[i * features + c];
  }
  means.forEach((mean, k) => {
    if (counts[k] > 0) for (let c = 0; c < features; c++) mean[c] = sums[k][c] / counts[k];
  });
}

function gaussianOf(samples: Float32Array, owner: Int32Array, k: number): Gaussian[] {
  const mean = new Float64Array(features);
  let count = 0;
  for (let i = 0; i < owner.length; i++) {
    if (owner[i] !== k) continue;
    count++;
    for (let c = 0; c < features; c++) mean[c] += samples[i * features + c];
  }
  if (count === 0) return [];
  for (let c = 0; c < features; c++) mean[c] /= count;
  const m = Array.from({ length: features }, () => new Float64Array(features));
  for (let i = 0; i < owner.length; i++) {
    if (owner[i] !== k) continue;
    for (let r = 0; r < features; r++)
      for (let c = 0; c < features; c++)
        m[r][c] += ((samples[i * features + r] - mean[r]) * (samples[i * features + c] - mean[c])) / count;
  }
  for (let c = 0; c < features; c++) m[c][c] += leastVariance;
  const { inverse, logDet } = invertSymmetric(m);
  const triangle = new Float64Array(pairs);
  let at = 0;
  for (let r = 0; r < features; r++)
    for (let c = r; c < features; c++) triangle[at++] = (r === c ? 1 : 2) * inverse[r][c];
  return [{ mean, inverse: triangle, base: -Math.log(count / owner.length) + 0.5 * logDet }];
}
