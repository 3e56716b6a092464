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
export function rimPlaces(rect: Rect, coverage: Float32Array, valid: Uint8Array | null): Rim {
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

/** Red, green and blue along a rim. @param image  of the rim's rectangle */
export function coloursAlong({ rect, xs, ys }: Rim, { data }: FloatImage): AlongRim {
  return [0, 1, 2].map((c) => xs.map((x, k) => data[4 * (ys[k] * rect.w + x) + c]));
}

/** Each the mean of those that lie on the rim up to so far off, across and down: grain is no edge. */
export function evened(d: AlongRim, { rect, xs, ys }: Rim, reach: number): AlongRim {
  const columns = Math.ceil(rect.w / reach);
  const cellOf = (x: number, y: number) => Math.floor(y / reach) * columns + Math.floor(x / reach);
  const cells = new Map<number, number[]>();
  xs.forEach((x, k) => {
    const cell = cellOf(x, ys[k]);
    const inCell = cells.get(cell);
    if (inCell) inCell.push(k);
    else cells.set(cell, [k]);
  });
  const out = d.map((channel) => channel.slice());
  xs.forEach((x, k) => {
    const y = ys[k];
    const near: number[] = [];
    for (let v = y - reach; v <= y + reach; v += reach)
      for (let u = Math.max(0, x - reach); u <= x + reach && u < columns * reach; u += reach)
        for (const j of cells.get(cellOf(u, v)) ?? [])
          if (Math.abs(xs[j] - x) <= reach && Math.abs(ys[j] - y) <= reach) near.push(j);
    d.forEach((channel, c) => {
      let sum = 0;
      for (const j of near) sum += channel[j];
      out[c][k] = sum / near.length;
    });
  });
  return out;
}
