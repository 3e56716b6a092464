import type { FloatImage, Rect } from '../raster';

/** Evenly chosen members of a list, at most so many. */
export function thinOut(indices: readonly number[], most: number): number[] {
  if (indices.length <= most) return [...indices];
  return Array.from({ length: most }, (_, k) => indices[Math.floor((k * indices.length) / most)]);
}

export function insideOf(coverage: Float32Array): number[] {
  const inside: number[] = [];
  for (let i = 0; i < coverage.length; i++) if (coverage[i] > 0) inside.push(i);
  return inside;
}

export function lightnessAt({ data }: FloatImage, i: number): number {
  return 0.299 * data[4 * i] + 0.587 * data[4 * i + 1] + 0.114 * data[4 * i + 2];
}

/** What a 3×3 mean takes away; 0 at the rectangle's own edge. */
export function fineAt(image: FloatImage, i: number): number {
  const { w, h } = image.rect;
  const x = i % w;
  const y = Math.floor(i / w);
  if (x === 0 || y === 0 || x === w - 1 || y === h - 1) return 0;
  let sum = 0;
  for (let d = i - w; d <= i + w; d += w)
    sum += lightnessAt(image, d - 1) + lightnessAt(image, d) + lightnessAt(image, d + 1);
  return lightnessAt(image, i) - sum / 9;
}

/** Indices of uncovered pixels within two pixels of covered ones. */
export function rimOf(spot: Rect, coverage: Float32Array): number[] {
  const rim: number[] = [];
  for (let y = 0; y < spot.h; y++)
    for (let x = 0; x < spot.w; x++) {
      const i = y * spot.w + x;
      if (coverage[i] > 0) continue;
      let near = false;
      for (let v = Math.max(0, y - 2); v <= Math.min(spot.h - 1, y + 2) && !near; v++)
        for (let u = Math.max(0, x - 2); u <= Math.min(spot.w - 1, x + 2); u++)
          if (coverage[v * spot.w + u] > 0) {
            near = true;
            break;
          }
      if (near) rim.push(i);
    }
  return rim;
}

export function deviation(indices: readonly number[], at: (i: number) => number): number {
  let sum = 0;
  let squares = 0;
  for (const i of indices) {
    const v = at(i);
    sum += v;
    squares += v * v;
  }
  const average = sum / indices.length;
  return Math.sqrt(Math.max(0, squares / indices.length - average * average));
}
