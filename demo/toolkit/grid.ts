import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { encode } from 'fast-png';

/** A plane of numbers, row by row; colours are three of these. */
export interface Grid {
  readonly w: number;
  readonly h: number;
  readonly data: Float32Array;
}

export type Colour = readonly [r: number, g: number, b: number];
export type ColourGrid = readonly [Grid, Grid, Grid];

export const makeGrid = (w: number, h: number, at?: (x: number, y: number, i: number) => number): Grid => {
  const data = new Float32Array(w * h);
  if (at) for (let y = 0, i = 0; y < h; y++) for (let x = 0; x < w; x++, i++) data[i] = at(x, y, i);
  return { w, h, data };
};

export function makeColours(
  w: number,
  h: number,
  at: (x: number, y: number, i: number) => Colour,
): ColourGrid {
  const out: ColourGrid = [makeGrid(w, h), makeGrid(w, h), makeGrid(w, h)];
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const c = at(x, y, i);
      for (let k = 0; k < 3; k++) out[k].data[i] = c[k];
    }
  return out;
}

/** 0 below a, 1 above b, smooth between; a may be greater than b. */
export function smooth(a: number, b: number, x: number): number {
  const t = Math.min(1, Math.max(0, (x - a) / (b - a)));
  return t * t * (3 - 2 * t);
}

export const clamp01 = (v: number): number => (v < 0 ? 0 : Math.min(v, 1));
export const mix = (a: number, b: number, t: number): number => a + (b - a) * t;
export const mixColour = (a: Colour, b: Colour, t: number): Colour => [
  mix(a[0], b[0], t),
  mix(a[1], b[1], t),
  mix(a[2], b[2], t),
];
export const dim = (c: Colour, k: number): Colour => [c[0] * k, c[1] * k, c[2] * k];

/** Bilinear sample, wrapping round at the edges. */
export function sampleWrapped(g: Grid, x: number, y: number): number {
  const x0 = Math.floor(x);
  const y0 = Math.floor(y);
  const u = x - x0;
  const v = y - y0;
  const col = (k: number) => (((x0 + k) % g.w) + g.w) % g.w;
  const row = (k: number) => ((((y0 + k) % g.h) + g.h) % g.h) * g.w;
  const d = g.data;
  return (
    (1 - v) * ((1 - u) * d[row(0) + col(0)] + u * d[row(0) + col(1)]) +
    v * ((1 - u) * d[row(1) + col(0)] + u * d[row(1) + col(1)])
  );
}

/** Gaussian blur by three box passes (Wells 1986, doi:10.1109/TPAMI.1986.4767776); edges repeat. */
export function blur(src: Grid, sigma: number): Grid {
  if (sigma < 0.2) return src;
  const { w, h } = src;
  const ideal = Math.sqrt((12 * sigma * sigma) / 3 + 1);
  const a = src.data.slice();
  const b = new Float32Array(a.length);
  for (let pass = 0; pass < 3; pass++) {
    const r = (ideal - 1) / 2;
    boxBlurLines(a, b, w, h, 1, w, r);
    boxBlurLines(b, a, h, w, w, 1, r);
  }
  return { w, h, data: a };
}

/** One pass of a box of half-width r, whole or not, along lines of `n` samples. */
function boxBlurLines(
  src: Float32Array,
  out: Float32Array,
  n: number,
  lines: number,
  step: number,
  jump: number,
  r: number,
): void {
  const whole = Math.floor(r);
  const part = r - whole;
  const scale = 1 / (2 * r + 1);
  for (let line = 0; line < lines; line++) {
    const o = line * jump;
    const at = (k: number) => src[o + step * (k < 0 ? 0 : k >= n ? n - 1 : k)];
    let sum = 0;
    for (let k = -whole; k <= whole; k++) sum += at(k);
    for (let k = 0; k < n; k++) {
      out[o + step * k] = (sum + part * (at(k - whole - 1) + at(k + whole + 1))) * scale;
      sum += at(k + whole + 1) - at(k - whole);
    }
  }
}

/** Enlarged by cubic interpolation (Catmull & Rom 1974, doi:10.1016/B978-0-12-079050-0.50020-5). */
export function enlarge(src: Grid, w: number, h: number): Grid {
  const across = resampleLines(src.data, src.w, src.h, w, 1, src.w);
  // Columns of the widened picture, as lines of its transpose.
  const down = resampleLines(across, src.h, w, h, w, 1);
  return makeGrid(w, h, (x, y) => down[x * h + y]);
}

/** Resamples `lines` lines of `n` samples to `m` each; output line after line. */
function resampleLines(
  data: Float32Array,
  n: number,
  lines: number,
  m: number,
  step: number,
  jump: number,
): Float32Array {
  const out = new Float32Array(lines * m);
  for (let k = 0; k < m; k++) {
    const p = ((k + 0.5) * n) / m - 0.5;
    const at = Math.floor(p);
    const t = p - at;
    const weights = [
      ((-t + 2) * t - 1) * t * 0.5,
      ((3 * t - 5) * t * t + 2) * 0.5,
      ((-3 * t + 4) * t + 1) * t * 0.5,
      (t - 1) * t * t * 0.5,
    ];
    const from = weights.map((_, j) => Math.min(n - 1, Math.max(0, at + j - 1)) * step);
    for (let line = 0; line < lines; line++) {
      const o = line * jump;
      let sum = 0;
      for (let j = 0; j < 4; j++) sum += weights[j] * data[o + from[j]];
      out[line * m + k] = sum;
    }
  }
  return out;
}

/** Means of k×k pixels. */
export function shrinkBy(src: Grid, k: number): Grid {
  return makeGrid(Math.floor(src.w / k), Math.floor(src.h / k), (x, y) => {
    let sum = 0;
    for (let v = 0; v < k; v++) for (let u = 0; u < k; u++) sum += src.data[(y * k + v) * src.w + x * k + u];
    return sum / (k * k);
  });
}

export const toEncoded = (v: number): number =>
  v <= 0.0031308 ? v * 12.92 : 1.055 * Math.min(1, v) ** (1 / 2.4) - 0.055;

function write(file: string, bytes: Uint8Array): void {
  mkdirSync(dirname(file), { recursive: true });
  writeFileSync(file, bytes);
}

/** Writes encoded colours 0…1 as an 8-bit PNG. */
export function writeColours(file: string, [r, g, b]: ColourGrid): void {
  const { w, h } = r;
  const data = new Uint8Array(w * h * 3);
  for (let i = 0; i < w * h; i++) {
    data[3 * i] = clamp01(r.data[i]) * 255 + 0.5;
    data[3 * i + 1] = clamp01(g.data[i]) * 255 + 0.5;
    data[3 * i + 2] = clamp01(b.data[i]) * 255 + 0.5;
  }
  write(file, encode({ width: w, height: h, channels: 3, depth: 8, data }, { zlib: { level: 1 } }));
}

/** Writes heights as a 16-bit PNG stretched over the full range. @returns lowest and highest value */
export function writeHeights(file: string, grid: Grid): { low: number; high: number } {
  let low = Infinity;
  let high = -Infinity;
  for (const v of grid.data) {
    if (v < low) low = v;
    if (v > high) high = v;
  }
  const data = Uint16Array.from(grid.data, (v) => Math.round(((v - low) / (high - low || 1)) * 65535));
  write(
    file,
    encode({ width: grid.w, height: grid.h, channels: 1, depth: 16, data }, { zlib: { level: 1 } }),
  );
  return { low, high };
}

/** Draws soft strokes and dots of a fault into a plane. */
export function stamp(g: Grid, x: number, y: number, r: number, strength: number): void {
  for (let v = Math.max(0, Math.floor(y - r - 1)); v <= Math.min(g.h - 1, y + r + 1); v++)
    for (let u = Math.max(0, Math.floor(x - r - 1)); u <= Math.min(g.w - 1, x + r + 1); u++) {
      const i = v * g.w + u;
      g.data[i] = Math.max(g.data[i], strength * smooth(r + 0.7, r - 0.7, Math.hypot(u - x, v - y)));
    }
}
