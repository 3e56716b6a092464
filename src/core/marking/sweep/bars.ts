import { select } from './select';

const blockSide = 64;
/** Lightness that no client sees, whatever the noise. */
const leastContrast = 2.5;

const steps = 4096;
const lightnessTable = Float32Array.from({ length: steps + 1 }, (_, i) => {
  const t = i / steps;
  return t > 216 / 24389 ? 116 * Math.cbrt(t) - 16 : (24389 / 27) * t;
});
const linear = Float32Array.from({ length: 256 }, (_, v) => {
  const c = v / 255;
  return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
});

export function lightnessOf(pixels: Uint8ClampedArray, count: number): Float32Array {
  const out = new Float32Array(count);
  for (let i = 0, p = 0; i < count; i++, p += 4) {
    const y =
      0.2126729 * linear[pixels[p]] + 0.7151522 * linear[pixels[p + 1]] + 0.072175 * linear[pixels[p + 2]];
    out[i] = lightnessTable[Math.round(Math.min(1, y) * steps)];
  }
  return out;
}

/** Means of squares of 2r + 1 round every pixel, by sums from the corner; at the edges of what is there. */
export function boxMeans(values: Float32Array, w: number, h: number, r: number): Float32Array {
  const sums = new Float64Array((w + 1) * (h + 1));
  for (let y = 0; y < h; y++) {
    let row = 0;
    for (let x = 0; x < w; x++) {
      row += values[y * w + x];
      sums[(y + 1) * (w + 1) + x + 1] = sums[y * (w + 1) + x + 1] + row;
    }
  }
  const out = new Float32Array(w * h);
  for (let y = 0; y < h; y++) {
    const top = Math.max(0, y - r) * (w + 1);
    const low = Math.min(h, y + r + 1) * (w + 1);
    for (let x = 0; x < w; x++) {
      const left = Math.max(0, x - r);
      const right = Math.min(w, x + r + 1);
      const count = ((low - top) / (w + 1)) * (right - left);
      out[y * w + x] = (sums[low + right] - sums[low + left] - sums[top + right] + sums[top + left]) / count;
    }
  }
  return out;
}

/** How much each square stands out from both of two opposite ones `d` away, in the best of four directions. */
export function barsIn(means: Float32Array, w: number, h: number, d: number, sign: number): Float32Array {
  const out = new Float32Array(w * h);
  const slant = Math.max(1, Math.round(d * Math.SQRT1_2));
  const within = (v: number, most: number) => Math.min(most, Math.max(0, v));
  const greater = (a: number, b: number) => (a > b ? a : b);
  for (let y = 0; y < h; y++) {
    const row = y * w;
    // Beyond the edge lies what lies on it.
    const up = within(y - d, h - 1) * w;
    const low = within(y + d, h - 1) * w;
    const above = within(y - slant, h - 1) * w;
    const below = within(y + slant, h - 1) * w;
    for (let x = 0; x < w; x++) {
      const inner = x >= d && x < w - d;
      const l = inner ? x - d : within(x - d, w - 1);
      const r = inner ? x + d : within(x + d, w - 1);
      const nearL = inner ? x - slant : within(x - slant, w - 1);
      const nearR = inner ? x + slant : within(x + slant, w - 1);
      const across = greater(sign * means[row + l], sign * means[row + r]);
      const upright = greater(sign * means[up + x], sign * means[low + x]);
      const falling = greater(sign * means[above + nearL], sign * means[below + nearR]);
      const rising = greater(sign * means[above + nearR], sign * means[below + nearL]);
      const straight = across < upright ? across : upright;
      const slanting = falling < rising ? falling : rising;
      out[row + x] = sign * means[row + x] - (straight < slanting ? straight : slanting);
    }
  }
  return out;
}

/** Values less what is usual round about, in what is usual of deviations: medians of blocks, brought together smoothly. */
export function inDeviations(values: Float32Array, w: number, h: number): Float32Array {
  const bw = Math.max(1, Math.ceil(w / blockSide));
  const bh = Math.max(1, Math.ceil(h / blockSide));
  const middles = new Float32Array(bw * bh);
  const spreads = new Float32Array(bw * bh);
  const list = new Float32Array((blockSide / 2) ** 2);
  for (let by = 0; by < bh; by++)
    for (let bx = 0; bx < bw; bx++) {
      let n = 0;
      for (let y = by * blockSide; y < Math.min(h, (by + 1) * blockSide); y += 2)
        for (let x = bx * blockSide; x < Math.min(w, (bx + 1) * blockSide); x += 2)
          list[n++] = values[y * w + x];
      const middle = select(list, n, n >> 1);
      middles[by * bw + bx] = middle;
      spreads[by * bw + bx] = Math.max(0.1, select(list, n, Math.floor(n * 0.97)) - middle);
    }
  const out = new Float32Array(w * h);
  for (let y = 0; y < h; y++) {
    const fy = Math.min(bh - 1, Math.max(0, (y + 0.5) / blockSide - 0.5));
    const y0 = Math.floor(fy);
    const row = y0 * bw;
    const next = Math.min(bh - 1, y0 + 1) * bw;
    const v = fy - y0;
    for (let x = 0; x < w; x++) {
      const fx = Math.min(bw - 1, Math.max(0, (x + 0.5) / blockSide - 0.5));
      const x0 = Math.floor(fx);
      const x1 = Math.min(bw - 1, x0 + 1);
      const u = fx - x0;
      const a = (1 - u) * (1 - v);
      const b = u * (1 - v);
      const c = (1 - u) * v;
      const d = u * v;
      const middle =
        a * middles[row + x0] + b * middles[row + x1] + c * middles[next + x0] + d * middles[next + x1];
      const spread =
        a * spreads[row + x0] + b * spreads[row + x1] + c * spreads[next + x0] + d * spreads[next + x1];
      out[y * w + x] = (values[y * w + x] - middle) / spread;
    }
  }
  return out;
}

/** Pixels that hang together, as indices, and the strongest. */
export interface Part {
  readonly pixels: readonly number[];
  readonly peak: number;
}

/** Parts that reach `least` deviations somewhere, and as far as they keep above a third of their own peak. */
export function partsOf(
  deviations: Float32Array,
  bars: Float32Array,
  w: number,
  h: number,
  least: number,
): Part[] {
  const taken = new Uint8Array(w * h);
  const seeds: number[] = [];
  for (let i = 0; i < w * h; i++) if (deviations[i] >= least && bars[i] >= leastContrast) seeds.push(i);
  seeds.sort((a, b) => bars[b] - bars[a]);
  const out: Part[] = [];
  for (const peak of seeds) {
    if (taken[peak]) continue;
    const floor = Math.max(0.4 * bars[peak], 0.6 * leastContrast);
    const pixels = [peak];
    taken[peak] = 1;
    for (let k = 0; k < pixels.length; k++) {
      const x = pixels[k] % w;
      const y = (pixels[k] - x) / w;
      for (let dy = -1; dy <= 1; dy++)
        for (let dx = -1; dx <= 1; dx++) {
          if (x + dx < 0 || y + dy < 0 || x + dx >= w || y + dy >= h) continue;
          const j = pixels[k] + dy * w + dx;
          if (taken[j] || bars[j] < floor || deviations[j] < 0.35 * least) continue;
          taken[j] = 1;
          pixels.push(j);
        }
    }
    out.push({ pixels, peak });
  }
  return out;
}
