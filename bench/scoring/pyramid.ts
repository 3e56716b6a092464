/** One band of a Laplacian pyramid, and which of its pixels lie inside. */
export interface Band {
  readonly w: number;
  readonly h: number;
  readonly data: Float32Array;
  readonly inside: Uint8Array;
}

const kernel = [1 / 16, 4 / 16, 6 / 16, 4 / 16, 1 / 16];

function blurLine(src: Float32Array, w: number, h: number, across: boolean): Float32Array {
  const out = new Float32Array(src.length);
  const n = across ? w : h;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const p = across ? x : y;
      let sum = 0;
      for (let k = -2; k <= 2; k++) {
        const q = Math.min(n - 1, Math.max(0, p + k));
        sum += kernel[k + 2] * (across ? src[y * w + q] : src[q * w + x]);
      }
      out[y * w + x] = sum;
    }
  return out;
}

function halve(src: Float32Array, w: number, h: number): { data: Float32Array; w: number; h: number } {
  const soft = blurLine(blurLine(src, w, h, true), w, h, false);
  const cw = (w + 1) >> 1;
  const ch = (h + 1) >> 1;
  const data = new Float32Array(cw * ch);
  for (let y = 0; y < ch; y++) for (let x = 0; x < cw; x++) data[y * cw + x] = soft[2 * y * w + 2 * x];
  return { data, w: cw, h: ch };
}

function spread(src: Float32Array, cw: number, ch: number, w: number, h: number): Float32Array {
  const out = new Float32Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const [fx, fy] = [x / 2, y / 2];
      const [x0, y0] = [Math.floor(fx), Math.floor(fy)];
      const [x1, y1] = [Math.min(cw - 1, x0 + 1), Math.min(ch - 1, y0 + 1)];
      const [u, v] = [fx - x0, fy - y0];
      out[y * w + x] =
        (1 - v) * ((1 - u) * src[y0 * cw + x0] + u * src[y0 * cw + x1]) +
        v * ((1 - u) * src[y1 * cw + x0] + u * src[y1 * cw + x1]);
    }
  return out;
}

/** Bands of a plane from fine to coarse, the residual last. A coarse pixel is inside when its fine one is.
 *  Source: Burt & Adelson 1983, The Laplacian Pyramid as a Compact Image Code, doi:10.1109/TCOM.1983.1095851. */
export function laplacianBands(
  plane: Float32Array,
  inside: Uint8Array,
  w: number,
  h: number,
  levels: number,
): Band[] {
  const bands: Band[] = [];
  let now = { data: plane, w, h };
  let mask = inside;
  for (let k = 0; k < levels && Math.min(now.w, now.h) >= 2; k++) {
    const next = halve(now.data, now.w, now.h);
    const up = spread(next.data, next.w, next.h, now.w, now.h);
    bands.push({ w: now.w, h: now.h, data: now.data.map((v, i) => v - up[i]), inside: mask });
    const coarse = new Uint8Array(next.w * next.h);
    for (let y = 0; y < next.h; y++)
      for (let x = 0; x < next.w; x++) coarse[y * next.w + x] = mask[2 * y * now.w + 2 * x];
    mask = coarse;
    now = next;
  }
  bands.push({ w: now.w, h: now.h, data: now.data, inside: mask });
  return bands;
}
