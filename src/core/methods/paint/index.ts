import { boundsOfArea } from '../../area';
import { hashAt } from '../../random';
import { type FloatImage, intersect, makeFloatImage } from '../../raster';
import { type MethodDefinition, type ParameterDefinition, parameterOf } from '../definition';

const channel = (key: string, label: string): ParameterDefinition => ({
  key,
  label,
  unit: '',
  min: 0,
  max: 255,
  step: 0.1,
  initial: 128,
});

export const paintColour = [
  channel('red', 'Red'),
  channel('green', 'Green'),
  channel('blue', 'Blue'),
] as const;

/** Standard deviation of lightness, in 8-bit levels. */
export const paintGrain: ParameterDefinition = {
  key: 'grain',
  label: 'Grain',
  unit: '',
  min: 0,
  max: 40,
  step: 0.1,
  initial: 0,
};

/** How much neighbouring grain is alike: the correlation of pixels side by side. */
export const paintCoarseness: ParameterDefinition = {
  key: 'coarseness',
  label: 'Coarseness',
  unit: '%',
  min: 0,
  max: 90,
  step: 1,
  initial: 0,
};

/** A plain colour with grain, for plain things. */
export const paint: MethodDefinition = {
  id: 'paint',
  version: 1,
  title: 'Colour',
  says: 'Lays on a plain colour picked from the photo, with the grain found there.',
  parameters: [...paintColour, paintGrain, paintCoarseness],
  scope: 'tile',
  needsSource: false,
  requiredInput: () => [],
  affectedOutput: (mend, bounds) => intersect(boundsOfArea(mend.area), bounds),
  evaluate(mend, output, context) {
    const image = makeFloatImage(output);
    const colour = paintColour.map((p) => parameterOf(mend, p) / 255);
    const strength = parameterOf(mend, paintGrain) / 255;
    const grain = makeGrain(parameterOf(mend, paintCoarseness) / 100);
    for (let y = 0, i = 0; y < output.h; y++)
      for (let x = 0; x < output.w; x++, i += 4) {
        const g = strength > 0 ? strength * grain(output.x + x, output.y + y) : 0;
        for (let c = 0; c < 3; c++) image.data[i + c] = Math.min(1, Math.max(0, colour[c] + g));
        image.data[i + 3] = 1;
      }
    return { image, coverage: context.coverage(output) };
  },
};

/** Grain that depends on the place alone: mean 0, deviation 1, with the given correlation from pixel to pixel.
 *  White noise through the three-tap filter (a, 1, a) both ways, whose neighbours correlate by 2a / (1 + 2a²). */
export function makeGrain(correlation: number): (x: number, y: number) => number {
  const a = neighbourWeight(correlation);
  const power = 1 + 2 * a * a;
  return (x, y) => {
    if (a === 0) return white(x, y);
    let sum = 0;
    for (let v = -1; v <= 1; v++)
      for (let u = -1; u <= 1; u++) sum += (u === 0 ? 1 : a) * (v === 0 ? 1 : a) * white(x + u, y + v);
    return sum / power;
  };
}

/** About normal: the sum of four uniform numbers hashed from the place. */
function white(x: number, y: number): number {
  const h = hashAt(x, y);
  const sum = (h & 255) + ((h >>> 8) & 255) + ((h >>> 16) & 255) + (h >>> 24);
  return (sum - 510) / 147.8;
}

/** The weight of neighbours that makes them correlate so. */
function neighbourWeight(correlation: number): number {
  const r = Math.min(0.66, correlation);
  return r > 0 ? (1 - Math.sqrt(1 - 2 * r * r)) / (2 * r) : 0;
}

/** Variance of the second differences of {@link makeGrain}'s grain, and the correlation of neighbouring ones. */
function bendStatistics(correlation: number): { variance: number; alike: number } {
  const a = neighbourWeight(correlation);
  const second = (a * a) / (1 + 2 * a * a);
  const variance = 6 - 8 * correlation + 2 * second;
  return { variance, alike: (-4 + 7 * correlation - 4 * second) / variance };
}

/** The correlation of pixels side by side, from that of their second differences: it rises with it. */
function correlationOf(alike: number): number {
  let r = 0;
  while (r < 0.6 && bendStatistics(r + 0.01).alike < alike) r += 0.02;
  return Math.min(0.6, r);
}

/** What is picked to paint with: the mean colour of some pixels, and their grain. */
export function pickedPaint(image: FloatImage): Record<string, number> {
  const { w, h } = image.rect;
  const n = w * h;
  const mean = [0, 0, 0];
  for (let i = 0; i < n; i++) for (let c = 0; c < 3; c++) mean[c] += (image.data[4 * i + c] * 255) / n;
  const light = (i: number) =>
    255 * (0.299 * image.data[4 * i] + 0.587 * image.data[4 * i + 1] + 0.114 * image.data[4 * i + 2]);
  // Second differences see grain but no slope of light; for white grain their variance is six times its own.
  const bends: number[] = [];
  let along = 0;
  let square = 0;
  for (let y = 0; y < h; y++)
    for (let x = 1; x + 2 < w; x++) {
      const i = y * w + x;
      const here = light(i - 1) - 2 * light(i) + light(i + 1);
      bends.push(Math.abs(here));
      along += here * (light(i) - 2 * light(i + 1) + light(i + 2));
      square += here * here;
    }
  bends.sort((a, b) => a - b);
  const spread = bends.length > 0 ? 1.4826 * bends[bends.length >> 1] : 0;
  const correlation = square > 0 ? correlationOf(along / square) : 0;
  const grain = spread / Math.sqrt(bendStatistics(correlation).variance);
  const round = (v: number, most: number) => Math.round(Math.min(most, Math.max(0, v)) * 100) / 100;
  return {
    red: round(mean[0], 255),
    green: round(mean[1], 255),
    blue: round(mean[2], 255),
    grain: round(grain, 40),
    coarseness: Math.round(100 * correlation),
  };
}
