import type { Raster } from '../../src/core/raster';
import { labOf } from './lab';
import { type Band, laplacianBands } from './pyramid';

/** How a mended area compares with the truth. */
export interface Score {
  /** Decibels over the inside, mean of red, green and blue. */
  readonly psnr: number;
  /** Mean structural similarity of lightness over windows that touch the inside. */
  readonly ssim: number;
  /** Distance of textures: 0 is the same statistics. */
  readonly tex: number;
  /** log2 of fine energy over the truth's: below 0 is softer. */
  readonly sharp: number;
  /** log2 of edge energy over the border against the truth's: above 0 is a visible seam. */
  readonly seam: number;
}

/** Compares a result with the truth inside an area.
 *  @param inside  whole picture, non-zero = inside; at least one pixel
 *  Definitions: *tex* is the mean over Laplacian bands (4 and the residual, those with at least 24 pixels inside) and the
 *  channels of CIELAB of the Wasserstein-1 distance between the coefficients' distributions over (the truth's standard
 *  deviation + 1); *sharp* is log2 of the mean over the two finest lightness bands of (std + 0.3)/(truth's std + 0.3);
 *  *seam* is log2 of the ratio of mean |Laplacian| of lightness over the border ring (3×3 dilation minus erosion), each
 *  plus 0.3. SSIM: Wang, Bovik, Sheikh & Simoncelli 2004, doi:10.1109/TIP.2003.819861, on 8×8 windows.
 */
export function score(result: Raster, truth: Raster, inside: Uint8Array): Score {
  const { width, height } = truth;
  const room = 48;
  let [x0, y0, x1, y1] = [width, height, 0, 0];
  inside.forEach((v, i) => {
    if (!v) return;
    x0 = Math.min(x0, i % width);
    x1 = Math.max(x1, (i % width) + 1);
    y0 = Math.min(y0, Math.floor(i / width));
    y1 = Math.max(y1, Math.floor(i / width) + 1);
  });
  x0 = Math.max(0, x0 - room);
  y0 = Math.max(0, y0 - room);
  const w = Math.min(width, x1 + room) - x0;
  const h = Math.min(height, y1 + room) - y0;
  const mask = new Uint8Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) mask[y * w + x] = inside[(y0 + y) * width + x0 + x] ? 1 : 0;
  const [a, b] = [labOf(result, x0, y0, w, h), labOf(truth, x0, y0, w, h)];
  const bandsOf = (plane: Float32Array) => laplacianBands(plane, mask, w, h, 4);
  const distances: number[] = [];
  let fine = 0;
  for (let c = 0; c < 3; c++) {
    const [mine, wanted] = [bandsOf(a.planes[c]), bandsOf(b.planes[c])];
    mine.forEach((band, k) => {
      const [p, q] = [valuesInside(band), valuesInside(wanted[k])];
      if (q.length >= 24) distances.push(wasserstein(p, q) / (deviation(q) + 1));
      if (c === 0 && k < 2) fine += (deviation(p) + 0.3) / (deviation(q) + 0.3) / 2;
    });
  }
  const ring = borderRing(mask, w, h);
  return {
    psnr: psnrInside(result, truth, inside),
    ssim: meanSsim(a.planes[0], b.planes[0], mask, w, h),
    tex: distances.length > 0 ? distances.reduce((n, v) => n + v, 0) / distances.length : 0,
    sharp: Math.log2(fine),
    seam: Math.log2(
      (edgeEnergy(a.planes[0], ring, w, h) + 0.3) / (edgeEnergy(b.planes[0], ring, w, h) + 0.3),
    ),
  };
}

function valuesInside(band: Band): Float32Array {
  const out: number[] = [];
  for (let i = 0; i < band.data.length; i++) if (band.inside[i]) out.push(band.data[i]);
  return Float32Array.from(out);
}

/** Between two sets of the same size: the mean difference of sorted values. */
function wasserstein(a: Float32Array, b: Float32Array): number {
  const [p, q] = [a.slice().sort(), b.slice().sort()];
  let sum = 0;
  for (let i = 0; i < p.length; i++) sum += Math.abs(p[i] - q[i]);
  return sum / p.length;
}

function deviation(values: Float32Array): number {
  if (values.length === 0) return 0;
  let sum = 0;
  let squares = 0;
  for (const v of values) {
    sum += v;
    squares += v * v;
  }
  const mean = sum / values.length;
  return Math.sqrt(Math.max(0, squares / values.length - mean * mean));
}

function borderRing(mask: Uint8Array, w: number, h: number): number[] {
  const ring: number[] = [];
  for (let y = 1; y < h - 1; y++)
    for (let x = 1; x < w - 1; x++) {
      let count = 0;
      for (let v = -1; v <= 1; v++) for (let u = -1; u <= 1; u++) count += mask[(y + v) * w + x + u];
      if (count > 0 && count < 9) ring.push(y * w + x);
    }
  return ring;
}

function edgeEnergy(plane: Float32Array, ring: readonly number[], w: number, h: number): number {
  let sum = 0;
  for (const i of ring)
    sum += Math.abs(4 * plane[i] - plane[i - 1] - plane[i + 1] - plane[i - w] - plane[i + w]);
  return h > 0 && ring.length > 0 ? sum / ring.length : 0;
}

function psnrInside(result: Raster, truth: Raster, inside: Uint8Array): number {
  let squares = 0;
  let count = 0;
  for (let i = 0; i < inside.length; i++) {
    if (!inside[i]) continue;
    for (let c = 4 * i; c < 4 * i + 3; c++) squares += (result.data[c] - truth.data[c]) ** 2;
    count += 3;
  }
  return squares === 0 ? Number.POSITIVE_INFINITY : 10 * Math.log10((255 * 255 * count) / squares);
}

function meanSsim(a: Float32Array, b: Float32Array, mask: Uint8Array, w: number, h: number): number {
  const side = 8;
  const [c1, c2] = [(0.01 * 100) ** 2, (0.03 * 100) ** 2];
  let sum = 0;
  let count = 0;
  for (let y = 0; y + side <= h; y += 4)
    for (let x = 0; x + side <= w; x += 4) {
      let [sa, sb, saa, sbb, sab, touched] = [0, 0, 0, 0, 0, 0];
      for (let v = 0; v < side; v++)
        for (let u = 0; u < side; u++) {
          const i = (y + v) * w + x + u;
          touched |= mask[i];
          sa += a[i];
          sb += b[i];
          saa += a[i] * a[i];
          sbb += b[i] * b[i];
          sab += a[i] * b[i];
        }
      if (!touched) continue;
      const n = side * side;
      const [ma, mb] = [sa / n, sb / n];
      const [va, vb, cov] = [saa / n - ma * ma, sbb / n - mb * mb, sab / n - ma * mb];
      sum += ((2 * ma * mb + c1) * (2 * cov + c2)) / ((ma * ma + mb * mb + c1) * (va + vb + c2));
      count++;
    }
  return count > 0 ? sum / count : 1;
}

/** A score in one line. */
export function told({ tex, sharp, seam, ssim, psnr }: Score): string {
  const f = (v: number, digits: number) => v.toFixed(digits).padStart(digits + 4);
  return `tex ${f(tex, 3)} sharp ${f(sharp, 2)} seam ${f(seam, 2)} ssim ${f(ssim, 2)} psnr ${f(psnr, 1)}`;
}

/** The means of several; of sharp and seam, which go both ways, the mean distance from none. */
export function toldMean(scores: readonly Score[]): string {
  const mean = (of: (s: Score) => number) => scores.reduce((n, s) => n + of(s), 0) / scores.length;
  const [tex, sharp, seam] = [
    mean((s) => s.tex),
    mean((s) => Math.abs(s.sharp)),
    mean((s) => Math.abs(s.seam)),
  ];
  return `tex ${tex.toFixed(3)}  |sharp| ${sharp.toFixed(3)}  |seam| ${seam.toFixed(3)}`;
}
