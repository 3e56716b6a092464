import type { FloatImage } from './float-image';

/** Half the width of Lanczos' window. Three lobes keep fine texture through one pass; six, through many. */
type Lobes = 3 | 6;
export const mostLobes = 6;

const steps = 256;

/** The window at distances in 1/256 pixel. */
const lanczosTable = (lobes: Lobes): Float32Array =>
  Float32Array.from({ length: lobes * steps + 2 }, (_, i) => {
    const x = i / steps;
    if (x === 0) return 1;
    if (x >= lobes) return 0;
    const a = Math.PI * x;
    return (lobes * Math.sin(a) * Math.sin(a / lobes)) / (a * a);
  });

/** Lanczos' windows by their lobes. */
export const lanczosTables: Readonly<Record<Lobes, Float32Array>> = {
  3: lanczosTable(3),
  6: lanczosTable(6),
};
const weightsX = new Float32Array(2 * mostLobes);
const weightsY = new Float32Array(2 * mostLobes);
/** The range of the four pixels round a point, and the weighted sums. */
const low = new Float64Array(4);
const high = new Float64Array(4);
const sums = new Float64Array(4);

/** The colour of a float image between pixels.
 *
 *  @param x, y    in pixels from the image's top left pixel centre; a whole number copies exactly
 *  @param usable  image size, 0 = must not be touched, or null; where nothing near is usable the nearest pixel is taken
 *  @param out     gets four values at `at`
 *  The result stays within the range of the four pixels round the point, widened by a quarter of that range (half of it with six
 *  lobes, which are for textures), so that bold edges do not ring. Source: Duchon 1979, doi:10.1175/1520-0450(1979)018<1016:LFIOAT>2.0.CO;2 (Lanczos filter).
 */
export function sampleSharp(
  image: FloatImage,
  x: number,
  y: number,
  usable: Uint8Array | null,
  out: Float32Array,
  at: number,
  lobes: Lobes = 3,
): void {
  const { rect, data } = image;
  const { w, h } = rect;
  const table = lanczosTables[lobes];
  const nearX = Math.min(w - 1, Math.max(0, Math.round(x)));
  const nearY = Math.min(h - 1, Math.max(0, Math.round(y)));
  if (Math.abs(x - nearX) < 1e-4 && Math.abs(y - nearY) < 1e-4) {
    out.set(data.subarray(4 * (nearY * w + nearX), 4 * (nearY * w + nearX) + 4), at);
    return;
  }
  const x0 = Math.floor(x) - lobes + 1;
  const y0 = Math.floor(y) - lobes + 1;
  for (let k = 0; k < 2 * lobes; k++) {
    weightsX[k] = table[Math.round(Math.abs(x - x0 - k) * steps)] ?? 0;
    weightsY[k] = table[Math.round(Math.abs(y - y0 - k) * steps)] ?? 0;
  }
  let total = 0;
  let r = 0;
  let g = 0;
  let b = 0;
  let a = 0;
  low.fill(Infinity);
  high.fill(-Infinity);
  for (let v = 0; v < 2 * lobes; v++) {
    const sy = Math.min(h - 1, Math.max(0, y0 + v));
    for (let u = 0; u < 2 * lobes; u++) {
      const sx = Math.min(w - 1, Math.max(0, x0 + u));
      const p = sy * w + sx;
      if (usable && !usable[p]) continue;
      const weight = weightsX[u] * weightsY[v];
      const i = 4 * p;
      total += weight;
      r += weight * data[i];
      g += weight * data[i + 1];
      b += weight * data[i + 2];
      a += weight * data[i + 3];
      if (u < lobes - 1 || u > lobes || v < lobes - 1 || v > lobes) continue;
      for (let c = 0; c < 4; c++) {
        if (data[i + c] < low[c]) low[c] = data[i + c];
        if (data[i + c] > high[c]) high[c] = data[i + c];
      }
    }
  }
  if (total < 0.2 || low[3] === Infinity) {
    out.set(data.subarray(4 * (nearY * w + nearX), 4 * (nearY * w + nearX) + 4), at);
    return;
  }
  sums[0] = r;
  sums[1] = g;
  sums[2] = b;
  sums[3] = a;
  for (let c = 0; c < 4; c++) {
    const room = (high[c] - low[c]) * (lobes === 3 ? 0.25 : 0.5);
    out[at + c] = Math.min(high[c] + room, Math.max(low[c] - room, sums[c] / total));
  }
}

/** Sources so little larger than the target are as good as of its size. */
const asLarge = 1.15;
/** Standard deviation, in pixels, of the softness that every photo has at least, from its lens and its sensor's colour filters. */
const softnessPx = 0.5;
/** Samples along each pixel of a footprint. */
const samplesPerPixel = 1.2;
const mostSamples = 12;

/** The colour of a float image over the footprint that a pixel of another picture has in it: {@link sampleSharp}, averaged in the
 *  directions in which the footprint is larger than a pixel. There the average is wider than the footprint, for what is made smaller
 *  would else be sharper than what a camera sees at that size.
 *  @param across, down  the footprint's sides, in pixels: one target pixel to the right, and down
 *  The others as {@link sampleSharp} takes them. */
export function sampleFootprint(
  image: FloatImage,
  x: number,
  y: number,
  across: readonly [number, number],
  down: readonly [number, number],
  usable: Uint8Array | null,
  out: Float32Array,
  at: number,
): void {
  const [sides, n] = [[across, down].map(widened), [across, down].map(samplesAlong)];
  if (n[0] * n[1] === 1) return sampleSharp(image, x, y, usable, out, at);
  const sum = [0, 0, 0, 0];
  for (let v = 0; v < n[1]; v++)
    for (let u = 0; u < n[0]; u++) {
      const [a, d] = [((u + 0.5) / n[0] - 0.5) * sides[0], ((v + 0.5) / n[1] - 0.5) * sides[1]];
      sampleSharp(image, x + a * across[0] + d * down[0], y + a * across[1] + d * down[1], usable, out, at);
      for (let c = 0; c < 4; c++) sum[c] += out[at + c];
    }
  for (let c = 0; c < 4; c++) out[at + c] = sum[c] / (n[0] * n[1]);
}

/** By how much a side is widened, so that what is averaged along it comes out as soft as a photo is. */
function widened([x, y]: readonly [number, number]): number {
  const smaller = Math.max(1, Math.hypot(x, y));
  // A box of width 1 has a variance of 1/12.
  return Math.sqrt(1 + 12 * softnessPx ** 2 * (1 - 1 / smaller ** 2));
}

function samplesAlong(side: readonly [number, number]): number {
  const length = Math.hypot(side[0], side[1]);
  if (length <= asLarge) return 1;
  return Math.min(mostSamples, Math.ceil(length * widened(side) * samplesPerPixel));
}

/** The colour of a float image, averaged over a square: for pictures that are only compared.
 *  @param step  side of the square in pixels; up to 1 it is plain bilinear
 *  @param usable  1 where a pixel counts; null: all do. Where none does, nothing is written */
export function sampleMean(
  { rect: { w, h }, data }: FloatImage,
  x: number,
  y: number,
  step: number,
  usable: Uint8Array | null,
  out: Float32Array,
  at: number,
): void {
  const half = Math.max(1, step) / 2;
  // Pixels beyond the edge are as those at it.
  const cx = Math.min(w - 1, Math.max(0, x));
  const cy = Math.min(h - 1, Math.max(0, y));
  const [x0, x1, y0, y1] = [cx - half, cx + half, cy - half, cy + half];
  let [all, r, g, b, a] = [0, 0, 0, 0, 0];
  for (let v = Math.floor(y0 + 0.5); v - 0.5 < y1; v++) {
    const row = Math.min(v + 0.5, y1) - Math.max(v - 0.5, y0);
    const line = Math.min(h - 1, Math.max(0, v)) * w;
    for (let u = Math.floor(x0 + 0.5); u - 0.5 < x1; u++) {
      const weight = row * (Math.min(u + 0.5, x1) - Math.max(u - 0.5, x0));
      const p = line + Math.min(w - 1, Math.max(0, u));
      if (usable && !usable[p]) continue;
      const i = 4 * p;
      all += weight;
      r += weight * data[i];
      g += weight * data[i + 1];
      b += weight * data[i + 2];
      a += weight * data[i + 3];
    }
  }
  if (all === 0) return;
  out[at] = r / all;
  out[at + 1] = g / all;
  out[at + 2] = b / all;
  out[at + 3] = a / all;
}
