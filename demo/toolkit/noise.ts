import FFT from 'fft.js';
import { type Grid, makeGrid } from './grid';
import { makeDice } from './random';

/** Noise of zero mean and unit deviation with a chosen spectrum, tileable, by filtering white noise in the frequency
 *  domain. Sides must be powers of two. */
function spectral(w: number, h: number, seed: number, amplitude: (fx: number, fy: number) => number): Grid {
  const dice = makeDice(seed);
  const rows = new FFT(w);
  const columns = new FFT(h);
  const re = new Float64Array(w * h);
  const im = new Float64Array(w * h);
  for (let i = 0; i < re.length; i++) re[i] = dice.normal();
  transform(re, im, w, h, rows, columns, false);
  for (let y = 0; y < h; y++) {
    const fy = y <= h / 2 ? y : y - h;
    for (let x = 0; x < w; x++) {
      const fx = x <= w / 2 ? x : x - w;
      const a = fx === 0 && fy === 0 ? 0 : amplitude(fx, fy);
      re[y * w + x] *= a;
      im[y * w + x] *= a;
    }
  }
  transform(re, im, w, h, rows, columns, true);
  let squares = 0;
  for (const v of re) squares += v * v;
  const scale = 1 / (Math.sqrt(squares / re.length) || 1);
  return makeGrid(w, h, (_x, _y, i) => re[i] * scale);
}

function transform(
  re: Float64Array,
  im: Float64Array,
  w: number,
  h: number,
  rows: FFT,
  columns: FFT,
  back: boolean,
): void {
  const run = (fft: FFT, n: number, start: number, step: number, line: number[], out: number[]) => {
    for (let k = 0; k < n; k++) {
      line[2 * k] = re[start + k * step];
      line[2 * k + 1] = im[start + k * step];
    }
    if (back) fft.inverseTransform(out, line);
    else fft.transform(out, line);
    for (let k = 0; k < n; k++) {
      re[start + k * step] = out[2 * k];
      im[start + k * step] = out[2 * k + 1];
    }
  };
  const rowIn = rows.createComplexArray();
  const rowOut = rows.createComplexArray();
  for (let y = 0; y < h; y++) run(rows, w, y * w, 1, rowIn, rowOut);
  const columnIn = columns.createComplexArray();
  const columnOut = columns.createComplexArray();
  for (let x = 0; x < w; x++) run(columns, h, x, w, columnIn, columnOut);
}

/** Fractal noise: power falls with frequency to the power `slope`. `aspect` below 1 stretches it along y;
 *  `lowCut` takes away what is longer than the side over lowCut. */
export const fractal = (w: number, h: number, slope: number, seed: number, aspect = 1, lowCut = 0): Grid =>
  spectral(w, h, seed, (fx, fy) => {
    const k = Math.hypot(fx, fy * aspect) || 1;
    return k ** (-slope / 2) * (lowCut ? 1 - Math.exp(-((k / lowCut) ** 2)) : 1);
  });

/** Noise whose features repeat about `perSide` times along a side, within `width` (natural logarithm). */
export const band = (w: number, h: number, perSide: number, width: number, seed: number): Grid =>
  spectral(w, h, seed, (fx, fy) => {
    const k = Math.hypot(fx, fy);
    return Math.exp(-((Math.log(k / perSide) / width) ** 2)) / Math.max(1, k);
  });
