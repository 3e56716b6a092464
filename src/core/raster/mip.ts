import { makeRaster, type Raster } from './raster';

/** Halves a picture by the mean of 2×2 pixels, alpha-weighted (for display only: encoded values, as the screen
 *  would blur them). An odd last row or column stands for itself. */
export function halve(src: Raster, shared = false): Raster {
  const w = Math.max(1, src.width >> 1) + (src.width > 1 ? src.width & 1 : 0);
  const h = Math.max(1, src.height >> 1) + (src.height > 1 ? src.height & 1 : 0);
  const out = makeRaster(w, h, 4, src.depth, shared);
  halveInto(src, out, 0, h);
  return out;
}

/** Rows `y0…y1` of {@link halve}, so that a change costs only what it touches. */
export function halveInto(src: Raster, out: Raster, y0: number, y1: number): void {
  const a = src.data;
  const b = out.data;
  for (let y = y0; y < y1; y++) {
    const sy0 = Math.min(2 * y, src.height - 1);
    const sy1 = Math.min(2 * y + 1, src.height - 1);
    let d = y * out.width * 4;
    for (let x = 0; x < out.width; x++, d += 4) {
      const sx0 = Math.min(2 * x, src.width - 1);
      const sx1 = Math.min(2 * x + 1, src.width - 1);
      const p = (sy0 * src.width + sx0) * 4;
      const q = (sy0 * src.width + sx1) * 4;
      const r = (sy1 * src.width + sx0) * 4;
      const s = (sy1 * src.width + sx1) * 4;
      const sum = a[p + 3] + a[q + 3] + a[r + 3] + a[s + 3];
      b[d + 3] = (sum + 2) >> 2;
      if (a[p + 3] === a[q + 3] && a[q + 3] === a[r + 3] && a[r + 3] === a[s + 3]) {
        b[d] = (a[p] + a[q] + a[r] + a[s] + 2) >> 2;
        b[d + 1] = (a[p + 1] + a[q + 1] + a[r + 1] + a[s + 1] + 2) >> 2;
        b[d + 2] = (a[p + 2] + a[q + 2] + a[r + 2] + a[s + 2] + 2) >> 2;
      } else
        for (let c = 0; c < 3; c++)
          b[d + c] =
            (a[p + c] * a[p + 3] + a[q + c] * a[q + 3] + a[r + c] * a[r + 3] + a[s + c] * a[s + 3]) / sum +
            0.5;
    }
  }
}

/** The pyramid above a picture, halved until the longer side is at most `smallestPx`. Level 0 is the picture. */
export function buildPyramid(level0: Raster, smallestPx = 256, shared = false): Raster[] {
  const levels = [level0];
  while (Math.max(levels[levels.length - 1].width, levels[levels.length - 1].height) > smallestPx)
    levels.push(halve(levels[levels.length - 1], shared));
  return levels;
}
