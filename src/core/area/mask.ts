import type { Mask } from './types';

/** A mask without the empty rows and columns round what it marks, and where the rest of it lies in the old one.
 *  An empty mask becomes one empty pixel. */
export function trimMask(mask: Mask): { mask: Mask; x: number; y: number } {
  const { w, h, data } = mask;
  let [x0, y0, x1, y1] = [w, h, -1, -1];
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      if (data[y * w + x] === 0) continue;
      x0 = Math.min(x0, x);
      x1 = Math.max(x1, x);
      y0 = Math.min(y0, y);
      y1 = y;
    }
  if (x1 < 0) return { mask: { w: 1, h: 1, data: new Uint8Array(1) }, x: 0, y: 0 };
  const out = new Uint8Array((x1 - x0 + 1) * (y1 - y0 + 1));
  for (let y = y0; y <= y1; y++) out.set(data.subarray(y * w + x0, y * w + x1 + 1), (y - y0) * (x1 - x0 + 1));
  return { mask: { w: x1 - x0 + 1, h: y1 - y0 + 1, data: out }, x: x0, y: y0 };
}

/** 1 where a value is as asked, 0 elsewhere. A plain loop: typed arrays made by `from` with a function take ten times as long. */
export function bitsWhere(values: ArrayLike<number>, isSo: (value: number) => boolean): Uint8Array {
  const out = new Uint8Array(values.length);
  for (let i = 0; i < out.length; i++) if (isSo(values[i])) out[i] = 1;
  return out;
}
