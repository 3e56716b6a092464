import { grow, intersect, type Rect } from '../raster';
import { likelihoodOf, type Relief, reliefOf, traitsOf } from './fault-likelihood';
import type { Found } from './found';
import { rectAtLevel, type Seen } from './seen';

export interface SweepOptions {
  /** 0…100: how little a fault may stand out. */
  readonly sensitivity: number;
  /** The widest fault, across its narrower way, in pixels, 2…60. */
  readonly mostPx: number;
  readonly light: boolean;
  readonly dark: boolean;
}

/** Something small that does not belong to its surroundings. */
export interface Fault extends Found {
  readonly kind: 'speck' | 'line';
  readonly isDark: boolean;
  /** Pixels. */
  readonly size: number;
  /** Difference from the surroundings, in CIELAB lightness. */
  readonly contrast: number;
  /** Log-odds that it is a fault: the higher, the surer. */
  readonly likelihood: number;
}

const tileSide = 384;
const blockSide = 64;
/** Deviations of what is usual round about from which on something is looked at. */
const leastDeviations = 1.5;
/** Log-odds that count at no and at full sensitivity. */
const surest = 7.2;
const leastSure = -3.4;
/** Log-odds from which on there is hardly a doubt. */
const sureEnough = 5;
/** What stands out by less than so many times another's contrast may be the same thing. */
const samePerhaps = 1.3;
/** Lightness that no client sees, whatever the noise. */
const leastContrast = 2.5;
const mostFaults = 5000;
/** Half sides of the squares that are compared, at every level. */
const radii = [1, 2] as const;

/** Finds dust, hairs, hot pixels, scan faults and blemishes: what is lighter or darker than both its sides.
 *
 *  @param within  where to look, document pixels
 *  @param mayBe  tells of any pixel whether it is to be looked at; null: of all
 *  @returns the surest first, at most {@link mostFaults}
 *  The mean of a square less the greater of the means of the two opposite ones beside it, in the best of four directions,
 *  at two sizes on every halving: a bar detector after Steger 1998, doi:10.1109/34.659930, section 2, with squares for
 *  derivatives; an edge gives nothing. What is found counts in deviations of what is usual in blocks round about, so that
 *  leaves and grass, full of small things, give few; {@link likelihoodOf} weighs that with sharpness, unrest and size,
 *  since dust did not go through the lens. Cost: O(pixels) a size and a polarity; about a third goes to weighing.
 */
export function sweep(
  seen: Seen,
  options: SweepOptions,
  within: Rect,
  mayBe: ((x: number, y: number) => boolean) | null,
): Fault[] {
  const steps = sweepInSteps(seen, options, within, mayBe);
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}

/** The same in steps of some ten milliseconds, so that other work may come between; yields the share done. */
export function* sweepInSteps(
  seen: Seen,
  options: SweepOptions,
  within: Rect,
  mayBe: ((x: number, y: number) => boolean) | null,
): Generator<number, Fault[]> {
  const photo = { x: 0, y: 0, w: seen.width, h: seen.height };
  const area = intersect(within, photo);
  const found: Fault[] = [];
  for (let level = 0; level < seen.levels && 3 * 2 ** level <= options.mostPx + 1; level++) {
    const part = rectAtLevel(seen, level, area);
    const whole = rectAtLevel(seen, level, photo);
    const across = Math.ceil(part.w / tileSide);
    const down = Math.ceil(part.h / tileSide);
    for (let ty = 0; ty < down; ty++)
      for (let tx = 0; tx < across; tx++) {
        const at = { x: part.x + tx * tileSide, y: part.y + ty * tileSide, w: tileSide, h: tileSide };
        const core = intersect(at, part);
        found.push(...sweepTile(seen, options, level, core, intersect(grow(core, 64), whole), mayBe));
        // Each level has a quarter of the pixels of the one before.
        const before = 1 - 0.25 ** level;
        yield Math.min(1, before + (0.75 * 0.25 ** level * (ty * across + tx + 1)) / (across * down));
      }
  }
  return distinct(found).slice(0, mostFaults);
}

function sweepTile(
  seen: Seen,
  { sensitivity, mostPx, light, dark }: SweepOptions,
  level: number,
  core: Rect,
  rect: Rect,
  mayBe: ((x: number, y: number) => boolean) | null,
): Fault[] {
  const { w, h } = rect;
  const by = 2 ** level;
  const lightness = lightnessOf(seen.region(level, rect), w * h);
  const least = leastSure + (surest - leastSure) * (1 - sensitivity / 100);
  const out: Fault[] = [];
  /** Of light ones, of dark ones. */
  const reliefs: (Relief | undefined)[] = [];
  for (const r of radii) {
    if ((2 * r + 1) * by > mostPx + 2 * by) continue;
    const means = boxMeans(lightness, w, h, r);
    for (const isDark of [false, true]) {
      if (isDark ? !dark : !light) continue;
      const bars = barsIn(means, w, h, 2 * r + 1, isDark ? -1 : 1);
      const deviations = inDeviations(bars, w, h);
      for (const part of partsOf(deviations, bars, w, h, leastDeviations)) {
        const [px, py] = [rect.x + (part.peak % w), rect.y + Math.floor(part.peak / w)];
        // A fault belongs to the tile that its strongest pixel lies in.
        if (px < core.x || py < core.y || px >= core.x + core.w || py >= core.y + core.h) continue;
        if (mayBe && !mayBe((px + 0.5) * by, (py + 0.5) * by)) continue;
        const fault = faultOf(part, rect, by, isDark, bars[part.peak], mostPx);
        if (!fault) continue;
        reliefs[isDark ? 1 : 0] ??= reliefOf(isDark ? lightness.map((v) => -v) : lightness, w, h);
        const foundAt = { level, radius: r, strength: deviations[part.peak], bar: bars[part.peak] };
        const traits = traitsOf(reliefs[isDark ? 1 : 0]!, part.pixels);
        const likelihood = likelihoodOf(traits, foundAt);
        if (likelihood >= least) out.push({ ...fault, likelihood });
      }
    }
  }
  return out;
}

const steps = 4096;
const lightnessTable = Float32Array.from({ length: steps + 1 }, (_, i) => {
  const t = i / steps;
  return t > 216 / 24389 ? 116 * Math.cbrt(t) - 16 : (24389 / 27) * t;
});
const linear = Float32Array.from({ length: 256 }, (_, v) => {
  const c = v / 255;
  return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
});

function lightnessOf(pixels: Uint8ClampedArray, count: number): Float32Array {
  const out = new Float32Array(count);
  for (let i = 0, p = 0; i < count; i++, p += 4) {
    const y =
      0.2126729 * linear[pixels[p]] + 0.7151522 * linear[pixels[p + 1]] + 0.072175 * linear[pixels[p + 2]];
    out[i] = lightnessTable[Math.round(Math.min(1, y) * steps)];
  }
  return out;
}

/** Means of squares of 2r + 1 round every pixel, by sums from the corner; at the edges of what is there. */
function boxMeans(values: Float32Array, w: number, h: number, r: number): Float32Array {
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
function barsIn(means: Float32Array, w: number, h: number, d: number, sign: number): Float32Array {
  const out = new Float32Array(w * h);
  const slant = Math.max(1, Math.round(d * Math.SQRT1_2));
  const within = (v: number, most: number) => Math.min(most, Math.max(0, v));
  for (let y = 0; y < h; y++) {
    // Beyond the edge lies what lies on it.
    const up = within(y - d, h - 1) * w;
    const low = within(y + d, h - 1) * w;
    const above = within(y - slant, h - 1) * w;
    const below = within(y + slant, h - 1) * w;
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const inner = x >= d && x < w - d;
      const l = inner ? x - d : within(x - d, w - 1);
      const r = inner ? x + d : within(x + d, w - 1);
      const nearL = inner ? x - slant : within(x - slant, w - 1);
      const nearR = inner ? x + slant : within(x + slant, w - 1);
      const across = Math.max(sign * means[y * w + l], sign * means[y * w + r]);
      const upright = Math.max(sign * means[up + x], sign * means[low + x]);
      const falling = Math.max(sign * means[above + nearL], sign * means[below + nearR]);
      const rising = Math.max(sign * means[above + nearR], sign * means[below + nearL]);
      out[i] = sign * means[i] - Math.min(across, upright, falling, rising);
    }
  }
  return out;
}

/** Values less what is usual round about, in what is usual of deviations: medians of blocks, brought together smoothly. */
function inDeviations(values: Float32Array, w: number, h: number): Float32Array {
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
      const sorted = list.subarray(0, n).sort();
      const middle = sorted[n >> 1];
      middles[by * bw + bx] = middle;
      spreads[by * bw + bx] = Math.max(0.1, sorted[Math.floor(n * 0.97)] - middle);
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

interface Part {
  readonly pixels: readonly number[];
  readonly peak: number;
}

/** Parts that reach `least` deviations somewhere, and as far as they keep above a third of their own peak. */
function partsOf(deviations: Float32Array, bars: Float32Array, w: number, h: number, least: number): Part[] {
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

function faultOf(
  { pixels }: Part,
  rect: Rect,
  by: number,
  isDark: boolean,
  contrast: number,
  mostPx: number,
): Omit<Fault, 'likelihood'> | null {
  const { w } = rect;
  let [x0, y0, x1, y1] = [Infinity, Infinity, -1, -1];
  for (const i of pixels) {
    const x = i % w;
    const y = Math.floor(i / w);
    x0 = Math.min(x0, x);
    x1 = Math.max(x1, x);
    y0 = Math.min(y0, y);
    y1 = Math.max(y1, y);
  }
  const [bw, bh] = [x1 - x0 + 1, y1 - y0 + 1];
  const data = new Uint8Array(bw * bh);
  for (const i of pixels) data[(Math.floor(i / w) - y0) * bw + (i % w) - x0] = 255;
  const length = Math.hypot(bw, bh) * by;
  const size = pixels.length * by * by;
  const width = size / length;
  if (width > mostPx * 1.5) return null;
  return {
    kind: length > 4 * Math.max(2, width) ? 'line' : 'speck',
    isDark,
    size,
    contrast,
    mask: { w: bw, h: bh, data },
    x: (rect.x + x0) * by,
    y: (rect.y + y0) * by,
    w: bw * by,
    h: bh * by,
  };
}

/** The surest of those that lie on each other. */
function distinct(faults: readonly Fault[]): Fault[] {
  const cell = 64;
  const grid = new Map<string, Fault[]>();
  const out: Fault[] = [];
  const dropped = new Set<Fault>();
  // Beyond a certain sureness the larger goes first: a part of a fault may be surer than the whole.
  const weight = (f: Fault) => f.contrast * Math.sqrt(f.size);
  const rank = (f: Fault) => Math.min(f.likelihood, sureEnough);
  for (const fault of [...faults].sort((a, b) => rank(b) - rank(a) || weight(b) - weight(a))) {
    const cells: string[] = [];
    for (let y = Math.floor((fault.y - 8) / cell); y * cell < fault.y + fault.h + 8; y++)
      for (let x = Math.floor((fault.x - 8) / cell); x * cell < fault.x + fault.w + 8; x++)
        cells.push(`${x},${y}`);
    const near = new Set(cells.flatMap((key) => grid.get(key) ?? []));
    if ([...near].some((o) => covers(o, fault))) continue;
    for (const o of near) if (isPartOf(o, fault)) dropped.add(o);
    out.push(fault);
    for (const key of cells) grid.set(key, [...(grid.get(key) ?? []), fault]);
  }
  return out.filter((fault) => !dropped.has(fault)).sort((a, b) => b.likelihood - a.likelihood);
}

/** Whether what was found first is but an end or corner of the whole: it lies on it, and stands out no more. */
const isPartOf = (part: Fault, whole: Fault): boolean =>
  part.contrast < samePerhaps * whole.contrast && part.size < whole.size && covers(whole, part);

/** Whether a fault lies on another, or right beside it, for the greater part. */
function covers(a: Fault, b: Fault): boolean {
  const near = grow(a, 8);
  let on = 0;
  let all = 0;
  const scale = b.w / b.mask.w;
  for (let v = 0; v < b.mask.h; v++)
    for (let u = 0; u < b.mask.w; u++) {
      if (!b.mask.data[v * b.mask.w + u]) continue;
      all++;
      const x = b.x + (u + 0.5) * scale;
      const y = b.y + (v + 0.5) * scale;
      if (x >= near.x && y >= near.y && x < near.x + near.w && y < near.y + near.h && nearMask(a, x, y)) on++;
    }
  return on > 0.5 * all;
}

function nearMask(a: Fault, x: number, y: number): boolean {
  const scale = a.w / a.mask.w;
  const [u, v] = [Math.floor((x - a.x) / scale), Math.floor((y - a.y) / scale)];
  const r = Math.ceil(8 / scale);
  for (let dv = -r; dv <= r; dv++)
    for (let du = -r; du <= r; du++) {
      if (u + du < 0 || v + dv < 0 || u + du >= a.mask.w || v + dv >= a.mask.h) continue;
      if (a.mask.data[(v + dv) * a.mask.w + u + du]) return true;
    }
  return false;
}
