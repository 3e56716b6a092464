/** Sweeps of the demo photographs, measured against the faults that are known and can be seen. */
import { connected } from '../../src/core/area';
import { faultsAt, type SweepOptions, sweep } from '../../src/core/marking';
import type { Raster } from '../../src/core/raster';
import { decodePicture } from '../../src/headless/node-codecs';
import { lightnessAt, openDemo, read, thingMask } from './photos';

/** A fault counts where an eye could see it: where it differs from the truth by so much lightness, and by so many of
 *  the deviations of what lies round it. Faults drawn over like texture cannot be told from it. */
const leastSeen = 4;
const leastDeviations = 2.5;

/** How many of the faults that can be seen a sweep finds, and the share of what it finds that is none. */
export async function measureSweep(
  scene: string,
  faults: readonly string[],
  others: readonly string[],
  { sensitivity, ...options }: SweepOptions & { sensitivity: number },
): Promise<{ found: number; of: number; falseShare: number; candidates: number; ms: number }> {
  const { photo, seen } = await openDemo(scene);
  const { width, height } = photo;
  const truth = await decodePicture(read(scene, 'truth.jpg'));
  const label = new Int32Array(width * height);
  const visible: boolean[] = [false];
  const other = new Uint8Array(width * height);
  for (const thing of others)
    thingMask(scene, thing).forEach((v, i) => {
      if (v) other[i] = 1;
    });
  for (const thing of faults)
    for (const part of connected(thingMask(scene, thing), width, height)) {
      if (label[part[0]]) continue;
      for (const i of part) label[i] = visible.length;
      // What lies on another fault, under the torn corner for one, does not differ by itself.
      const isOverlaid = part.filter((i) => other[i]).length > part.length / 2;
      visible.push(!isOverlaid && canBeSeen(photo, truth, part));
    }
  const start = performance.now();
  const got = faultsAt(sweep(seen, options, { x: 0, y: 0, w: width, h: height }, null), sensitivity);
  const ms = performance.now() - start;
  const hit = new Set<number>();
  let wrong = 0;
  for (const fault of got) {
    const reach = 3;
    let isTrue = false;
    for (let y = Math.max(0, fault.y - reach); y < Math.min(height, fault.y + fault.h + reach); y++)
      for (let x = Math.max(0, fault.x - reach); x < Math.min(width, fault.x + fault.w + reach); x++) {
        const i = y * width + x;
        if (label[i]) hit.add(label[i]);
        if (label[i] || other[i]) isTrue = true;
      }
    if (!isTrue) wrong++;
  }
  return {
    found: [...hit].filter((id) => visible[id]).length,
    of: visible.filter(Boolean).length,
    falseShare: wrong / Math.max(1, got.length),
    candidates: got.length,
    ms,
  };
}

function canBeSeen(photo: Raster, truth: Raster, part: readonly number[]): boolean {
  const { lightness, deviations } = standsOut(photo, truth, part);
  return Math.abs(lightness) >= leastSeen && deviations >= leastDeviations;
}

/** By how much CIELAB lightness the strongest third of a part differs from the truth, and by how many deviations of
 *  what lies within 20 pixels. */
export function standsOut(
  photo: Raster,
  truth: Raster,
  part: readonly number[],
): { lightness: number; deviations: number } {
  const differences = part
    .map((i) => lightnessAt(photo, i) - lightnessAt(truth, i))
    .sort((a, b) => Math.abs(b) - Math.abs(a));
  const top = differences.slice(0, Math.max(3, Math.floor(part.length / 3)));
  const lightness = top.reduce((s, v) => s + v, 0) / top.length;
  const middle = part[part.length >> 1];
  const [cx, cy] = [middle % photo.width, Math.floor(middle / photo.width)];
  const around: number[] = [];
  for (let y = Math.max(0, cy - 20); y <= Math.min(photo.height - 1, cy + 20); y++)
    for (let x = Math.max(0, cx - 20); x <= Math.min(photo.width - 1, cx + 20); x++)
      around.push(lightnessAt(truth, y * photo.width + x));
  const mean = around.reduce((s, v) => s + v, 0) / around.length;
  const deviation = Math.sqrt(around.reduce((s, v) => s + (v - mean) ** 2, 0) / around.length);
  return { lightness, deviations: Math.abs(lightness) / Math.max(1e-6, deviation) };
}

export const sweeps = [
  {
    says: 'light dust and hairs, old print',
    scene: 'old-print',
    faults: ['dust', 'hairs'],
    others: ['spots', 'crease', 'corner'],
    light: true,
    dark: false,
  },
  {
    says: 'dark spots, old print',
    scene: 'old-print',
    faults: ['spots'],
    others: ['dust', 'hairs', 'crease', 'corner'],
    light: false,
    dark: true,
  },
  {
    says: 'dust, hairs and dark spots, old print',
    scene: 'old-print',
    faults: ['dust', 'hairs', 'spots'],
    others: ['crease', 'corner'],
    light: true,
    dark: true,
  },
  {
    says: 'light dust, studio',
    scene: 'studio-jug',
    faults: ['dust'],
    others: ['hair', 'scratches', 'marks', 'stain', 'sticker'],
    light: true,
    dark: false,
  },
] as const;

export const sweepOptions = ({ light, dark }: Pick<SweepOptions, 'light' | 'dark'>, sensitivity = 50) => ({
  sensitivity,
  mostPx: 10,
  light,
  dark,
});
