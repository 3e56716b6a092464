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
  let [total, r, g, b, a] = [0, 0, 0, 0, 0];
  const low = [Infinity, Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity, -Infinity];
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
        low[c] = Math.min(low[c], data[i + c]);
        high[c] = Math.max(high[c], data[i + c]);
      }
    }
  }
  if (total < 0.2 || low[3] === Infinity) {
    out.set(data.subarray(4 * (nearY * w + nearX), 4 * (nearY * w + nearX) + 4), at);
    return;
  }
  const sums = [r, g, b, a];
  for (let c = 0; c < 4; c++) {
    const room = (high[c] - low[c]) * (lobes === 3 ? 0.25 : 0.5);
    out[at + c] = Math.min(high[c] + room, Math.max(low[c] - room, sums[c] / total));
  }
}

/** The colour of a float image between pixels, averaged over a footprint: for pictures that are only compared.
 *  @param step  side of the footprint in pixels; up to 1 it is plain bilinear */
export function sampleMean(
  image: FloatImage,
  x: number,
  y: number,
  step: number,
  out: Float32Array,
  at: number,
): void {
  const { rect, data } = image;
  const n = Math.max(1, Math.min(8, Math.ceil(step)));
  out.fill(0, at, at + 4);
  for (let v = 0; v < n; v++)
    for (let u = 0; u < n; u++) {
      const px = Math.min(rect.w - 1, Math.max(0, x + ((u + 0.5) / n - 0.5) * (n > 1 ? step : 0)));
      const py = Math.min(rect.h - 1, Math.max(0, y + ((v + 0.5) / n - 0.5) * (n > 1 ? step : 0)));
      const ix = Math.min(rect.w - 1, Math.floor(px));
      const iy = Math.min(rect.h - 1, Math.floor(py));
      const jx = Math.min(rect.w - 1, ix + 1);
      const jy = Math.min(rect.h - 1, iy + 1);
      const [fx, fy] = [px - ix, py - iy];
      for (let c = 0; c < 4; c++) {
        const top = data[4 * (iy * rect.w + ix) + c] * (1 - fx) + data[4 * (iy * rect.w + jx) + c] * fx;
        const below = data[4 * (jy * rect.w + ix) + c] * (1 - fx) + data[4 * (jy * rect.w + jx) + c] * fx;
        out[at + c] += (top * (1 - fy) + below * fy) / (n * n);
      }
    }
}
