import type { FloatImage } from '../../raster';

/** One level of what fill works on. Pictures hold 8 bytes a pixel: red, green, blue, two texture features, padding. */
export interface Frame {
  readonly w: number;
  readonly h: number;
  readonly img: Uint8Array;
  /** 1 where the pixel is to be filled. */
  readonly hole: Uint8Array;
  /** 1 where the pixel may be taken as a source: known and not forbidden. */
  readonly source: Uint8Array;
}

/** Bytes a pixel in the kernels' pictures. */
export const pixelBytes = 8;

/** Weight of the texture features against colour. */
const featureGain = 6;

/** The finest level from float pixels.
 *  The features are the mean |∂x| and |∂y| of luma over known pixels in a box; they tell textures apart that have the same
 *  mean colour (Newson et al. 2014, Video Inpainting of Complex Scenes, doi:10.1137/140954933, section 3.2). */
export function makeFrame(
  image: FloatImage,
  hole: Uint8Array,
  allowed: Uint8Array | null,
  radius: number,
): Frame {
  const { w, h } = image.rect;
  const n = w * h;
  const img = new Uint8Array(n * pixelBytes);
  const luma = new Float32Array(n);
  const source = new Uint8Array(n);
  for (let i = 0, p = 0, d = 0; i < n; i++, p += 4, d += pixelBytes) {
    for (let c = 0; c < 3; c++) img[d + c] = Math.min(255, Math.max(0, Math.round(image.data[p + c] * 255)));
    luma[i] = 76.245 * image.data[p] + 149.685 * image.data[p + 1] + 29.07 * image.data[p + 2];
    source[i] = hole[i] || (allowed && !allowed[i]) ? 0 : 1;
  }
  const across = new Float32Array(n);
  const along = new Float32Array(n);
  const known = new Float32Array(n);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const right = x + 1 < w ? i + 1 : i;
      const below = y + 1 < h ? i + w : i;
      if (hole[i] || hole[right] || hole[below]) continue;
      known[i] = 1;
      across[i] = Math.abs(luma[right] - luma[i]);
      along[i] = Math.abs(luma[below] - luma[i]);
    }
  const weight = boxSum(known, w, h, radius);
  const features = [boxSum(across, w, h, radius), boxSum(along, w, h, radius)];
  for (let i = 0; i < n; i++)
    for (let f = 0; f < 2; f++)
      img[i * pixelBytes + 3 + f] =
        weight[i] > 0 ? Math.min(255, Math.round((features[f][i] / weight[i]) * featureGain)) : 0;
  return { w, h, img, hole, source };
}

function boxSum(src: Float32Array, w: number, h: number, radius: number): Float32Array {
  const rows = new Float32Array(src.length);
  const out = new Float32Array(src.length);
  for (let y = 0; y < h; y++) {
    let sum = 0;
    for (let x = -radius; x < w; x++) {
      if (x + radius < w) sum += src[y * w + x + radius];
      if (x >= 0) rows[y * w + x] = sum;
      if (x - radius >= 0) sum -= src[y * w + x - radius];
    }
  }
  for (let x = 0; x < w; x++) {
    let sum = 0;
    for (let y = -radius; y < h; y++) {
      if (y + radius < h) sum += rows[(y + radius) * w + x];
      if (y >= 0) out[y * w + x] = sum;
      if (y - radius >= 0) sum -= rows[(y - radius) * w + x];
    }
  }
  return out;
}

const kernel = [1, 3, 3, 1];

/** The next coarser level: known pixels only, by 1-3-3-1 in both directions. A pixel is hole when any child is, and a
 *  source only when all children are. */
export function shrink(fine: Frame): Frame {
  const w = fine.w >> 1;
  const h = fine.h >> 1;
  const img = new Uint8Array(w * h * pixelBytes);
  const hole = new Uint8Array(w * h);
  const source = new Uint8Array(w * h);
  const sum = new Float64Array(5);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const a = 2 * y * fine.w + 2 * x;
      const b = a + fine.w;
      hole[i] = fine.hole[a] | fine.hole[a + 1] | fine.hole[b] | fine.hole[b + 1];
      source[i] = fine.source[a] & fine.source[a + 1] & fine.source[b] & fine.source[b + 1];
      sum.fill(0);
      let total = 0;
      for (let v = 0; v < 4; v++) {
        const yy = 2 * y + v - 1;
        if (yy < 0 || yy >= fine.h) continue;
        for (let u = 0; u < 4; u++) {
          const xx = 2 * x + u - 1;
          if (xx < 0 || xx >= fine.w || fine.hole[yy * fine.w + xx]) continue;
          const weight = kernel[u] * kernel[v];
          const p = (yy * fine.w + xx) * pixelBytes;
          total += weight;
          for (let c = 0; c < 5; c++) sum[c] += weight * fine.img[p + c];
        }
      }
      if (total > 0) for (let c = 0; c < 5; c++) img[i * pixelBytes + c] = Math.round(sum[c] / total);
    }
  return { w, h, img, hole, source };
}

/** Where a whole patch of the given radius lies on source pixels within the frame. */
export function usableCentres(frame: Frame, radius: number): Uint8Array {
  const { w, h } = frame;
  const out = new Uint8Array(w * h);
  const count = boxSum(Float32Array.from(frame.source), w, h, radius);
  const full = (2 * radius + 1) ** 2;
  for (let y = radius; y < h - radius; y++)
    for (let x = radius; x < w - radius; x++) if (count[y * w + x] === full) out[y * w + x] = 1;
  return out;
}

/** Pixels whose patch lies in the frame and touches the hole, row by row. */
export function targetCentres(frame: Frame, radius: number): Int32Array {
  const { w, h } = frame;
  const count = boxSum(Float32Array.from(frame.hole), w, h, radius);
  const out: number[] = [];
  for (let y = radius; y < h - radius; y++)
    for (let x = radius; x < w - radius; x++) if (count[y * w + x] > 0) out.push(y * w + x);
  return Int32Array.from(out);
}

export function indicesOf(mask: Uint8Array): Int32Array {
  let n = 0;
  for (const v of mask) if (v) n++;
  const out = new Int32Array(n);
  n = 0;
  for (let i = 0; i < mask.length; i++) if (mask[i]) out[n++] = i;
  return out;
}
