import { barsWasm, instantiateKernel } from '../../kernels';
import { select } from '../../statistics';

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

interface Kernel {
  claim(bytes: number): number;
  release(): void;
  boxMeans(values: number, w: number, h: number, r: number, sums: number, out: number): void;
  bars(means: number, w: number, h: number, d: number, slant: number, sign: number, out: number): void;
  deviations(
    values: number,
    w: number,
    h: number,
    side: number,
    middles: number,
    spreads: number,
    bw: number,
    bh: number,
    out: number,
  ): void;
}

let kernel: (Kernel & { memory: WebAssembly.Memory }) | null = null;

/** How much each pixel stands out. */
export interface StandingOut {
  /** Lightness that the square of 2r + 1 round it differs by from both of two opposite ones beside it, in the best of four
   *  directions. */
  readonly bars: Float32Array;
  /** The same less what is usual round about, in what is usual of deviations. */
  readonly deviations: Float32Array;
}

/** What stands out of w×h values at one size: lighter, and darker.
 *  @param radius  of the squares that are compared, 1 or more
 *  @param signs  1 for what is lighter, −1 for what is darker
 *  @throws RangeError when memory is short */
export function standingOut(
  values: Float32Array,
  w: number,
  h: number,
  radius: number,
  signs: readonly (1 | -1)[],
): StandingOut[] {
  kernel ??= instantiateKernel<Kernel>(barsWasm);
  const k = kernel;
  k.release();
  const claim = (bytes: number) => {
    const at = k.claim(bytes);
    if (at === 0) throw new RangeError('The sweep ran out of memory.');
    return at;
  };
  const [bw, bh] = [Math.max(1, Math.ceil(w / blockSide)), Math.max(1, Math.ceil(h / blockSide))];
  const [valuesAt, meansAt, outAt] = [claim(4 * w * h), claim(4 * w * h), claim(4 * w * h)];
  const [middlesAt, spreadsAt] = [claim(4 * bw * bh), claim(4 * bw * bh)];
  const sumsAt = claim(8 * (w + 1) * (h + 1));
  const floats = (at: number, count: number) => new Float32Array(k.memory.buffer, at, count);
  floats(valuesAt, w * h).set(values);
  k.boxMeans(valuesAt, w, h, radius, sumsAt, meansAt);
  const d = 2 * radius + 1;
  return signs.map((sign) => {
    k.bars(meansAt, w, h, d, Math.max(1, Math.round(d * Math.SQRT1_2)), sign, outAt);
    const bars = floats(outAt, w * h).slice();
    usualIn(bars, w, h, floats(middlesAt, bw * bh), floats(spreadsAt, bw * bh));
    k.deviations(outAt, w, h, blockSide, middlesAt, spreadsAt, bw, bh, valuesAt);
    return { bars, deviations: floats(valuesAt, w * h).slice() };
  });
}

const list = new Float32Array((blockSide / 2) ** 2);

/** The middle of each block, and how far what is high in it lies above. */
function usualIn(
  values: Float32Array,
  w: number,
  h: number,
  middles: Float32Array,
  spreads: Float32Array,
): void {
  for (let by = 0, block = 0; by * blockSide < h; by++)
    for (let bx = 0; bx * blockSide < w; bx++, block++) {
      let n = 0;
      for (let y = by * blockSide; y < Math.min(h, (by + 1) * blockSide); y += 2)
        for (let x = bx * blockSide; x < Math.min(w, (bx + 1) * blockSide); x += 2)
          list[n++] = values[y * w + x];
      middles[block] = select(list, n, n >> 1);
      spreads[block] = Math.max(0.1, select(list, n, Math.floor(n * 0.97)) - middles[block]);
    }
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
