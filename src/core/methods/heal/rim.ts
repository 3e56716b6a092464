import type { FloatImage, Rect } from '../../raster';

/** Pixels right beside what is covered, row by row; xs and ys count from the rectangle's corner. */
export interface Rim {
  readonly rect: Rect;
  readonly xs: readonly number[];
  readonly ys: readonly number[];
}

/** Numbers at the points of a rim, one list a channel. */
export type AlongRim = readonly (readonly number[])[];

/** The rim of what is covered in a rectangle. @param valid  where there is a source; null: everywhere */
export function rimOf(rect: Rect, coverage: Float32Array, valid: Uint8Array | null): Rim {
  const { w, h } = rect;
  const [xs, ys]: number[][] = [[], []];
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      if (coverage[i] > 0 || (valid && !valid[i])) continue;
      const touches =
        (x > 0 && coverage[i - 1] > 0) ||
        (x < w - 1 && coverage[i + 1] > 0) ||
        (y > 0 && coverage[i - w] > 0) ||
        (y < h - 1 && coverage[i + w] > 0);
      if (!touches) continue;
      xs.push(x);
      ys.push(y);
    }
  return { rect, xs, ys };
}

/** Colours along a rim, each the mean of what lies on the rim up to so far off, across and down: grain is no edge.
 *  @param image  of the rim's rectangle */
export function evenedAlong({ rect, xs, ys }: Rim, { data }: FloatImage, reach: number): AlongRim {
  const columns = Math.ceil(rect.w / reach);
  const cellOf = (x: number, y: number) => Math.floor(y / reach) * columns + Math.floor(x / reach);
  const cells = new Map<number, number[]>();
  xs.forEach((x, k) => {
    const cell = cellOf(x, ys[k]);
    const inCell = cells.get(cell);
    if (inCell) inCell.push(k);
    else cells.set(cell, [k]);
  });
  const out: [number[], number[], number[]] = [[], [], []];
  xs.forEach((x, k) => {
    const y = ys[k];
    let [r, g, b, count] = [0, 0, 0, 0];
    for (let v = y - reach; v <= y + reach; v += reach)
      for (let u = Math.max(0, x - reach); u <= x + reach && u < columns * reach; u += reach)
        for (const j of cells.get(cellOf(u, v)) ?? []) {
          if (Math.abs(xs[j] - x) > reach || Math.abs(ys[j] - y) > reach) continue;
          const q = 4 * (ys[j] * rect.w + xs[j]);
          r += data[q];
          g += data[q + 1];
          b += data[q + 2];
          count++;
        }
    out[0].push(r / count);
    out[1].push(g / count);
    out[2].push(b / count);
  });
  return out;
}
