import type { FloatImage, Rect } from '../raster';
import { fineAt, insideOf, lightnessAt, rimOf, thinOut } from './statistics';

/** How well a source goes with the place that it is to cover. 0 is a perfect match everywhere. */
export interface MatchFigures {
  /** Source less target along the rim, in L* of CIELAB (0…100). */
  readonly lightness: number;
  /** Distance of the mean colours along the rim in a*b*. */
  readonly colour: number;
  /** Fine detail inside the source against the target's rim, in octaves: below 0 the source is the softer. */
  readonly sharpness: number;
  /** Grain (robust deviation of the finest band) against the target's rim, in octaves. */
  readonly grain: number;
  /** What is left along the rim once the mean is fitted: root mean square, in 8-bit levels. */
  readonly rim: number;
}

/** @param target    what lies there; the covered part is not compared, it is to go
 *  @param source    what would be laid there; same rectangle
 *  @param coverage  same rectangle, 0…1
 *  @param valid     same rectangle, 1 where the source has pixels: only these are compared; null: everywhere
 *  @returns null without a rim or an inside. */
export function matchFigures(
  target: FloatImage,
  source: FloatImage,
  coverage: Float32Array,
  valid: Uint8Array | null,
): MatchFigures | null {
  const there = (at: number[]) => (valid ? at.filter((i) => isWhollyIn(valid, target.rect, i)) : at);
  const rim = thinOut(there(rimOf(target.rect, coverage)), 3000);
  const inside = thinOut(there(insideOf(coverage)), 6000);
  if (rim.length < 4 || inside.length === 0) return null;
  const [t, s] = [labMean(target, rim), labMean(source, rim)];
  const octaves = (a: number, b: number) => Math.log2((a + 0.3) / (b + 0.3));
  return {
    lightness: s[0] - t[0],
    colour: Math.hypot(s[1] - t[1], s[2] - t[2]),
    sharpness: octaves(fineDeviation(source, inside), fineDeviation(target, rim)),
    grain: octaves(robustFine(source, inside), robustFine(target, rim)),
    rim: unevenness(target, source, rim),
  };
}

/** Whether a pixel and its neighbours are there, which its fine detail is told from. */
function isWhollyIn(valid: Uint8Array, { w, h }: Rect, i: number): boolean {
  const [x, y] = [i % w, Math.floor(i / w)];
  for (let v = Math.max(0, y - 1); v <= Math.min(h - 1, y + 1); v++)
    for (let u = Math.max(0, x - 1); u <= Math.min(w - 1, x + 1); u++) if (!valid[v * w + u]) return false;
  return true;
}

const fineDeviation = (image: FloatImage, at: readonly number[]): number =>
  255 * Math.sqrt(at.reduce((n, i) => n + fineAt(image, i) ** 2, 0) / at.length);

function robustFine(image: FloatImage, at: readonly number[]): number {
  const values = at.map((i) => Math.abs(fineAt(image, i))).sort((a, b) => a - b);
  return 255 * 1.4826 * values[values.length >> 1];
}

function unevenness(target: FloatImage, source: FloatImage, rim: readonly number[]): number {
  const d = rim.map((i) => lightnessAt(target, i) - lightnessAt(source, i));
  const mean = d.reduce((n, v) => n + v, 0) / d.length;
  return 255 * Math.sqrt(d.reduce((n, v) => n + (v - mean) ** 2, 0) / d.length);
}

/** Mean CIELAB (D65) of some pixels, taken as sRGB. */
function labMean({ data }: FloatImage, at: readonly number[]): [number, number, number] {
  const mean = [0, 0, 0];
  for (const i of at) for (let c = 0; c < 3; c++) mean[c] += linear(data[4 * i + c]) / at.length;
  const [r, g, b] = mean;
  const x = curve((0.4124564 * r + 0.3575761 * g + 0.1804375 * b) / 0.95047);
  const y = curve(0.2126729 * r + 0.7151522 * g + 0.072175 * b);
  const z = curve((0.0193339 * r + 0.119192 * g + 0.9503041 * b) / 1.08883);
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}

const linear = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
const curve = (t: number): number => (t > 216 / 24389 ? Math.cbrt(t) : (24389 / 27 / 116) * t + 16 / 116);
