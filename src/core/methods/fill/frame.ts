import { InputError } from '../../errors';
import type { FloatImage, Rect } from '../../raster';

/** One level of what fill works on. Pictures hold 8 bytes a pixel: red, green, blue, two texture features, padding. */
export interface Frame {
  readonly w: number;
  readonly h: number;
  readonly img: Uint8Array;
  /** 1 where the pixel is to be filled. */
  readonly hole: Uint8Array;
  /** 1 where something is known: neither to be filled nor beyond what is seen. */
  readonly known: Uint8Array;
  /** 1 where the pixel may be taken as a source: known and not forbidden. */
  readonly source: Uint8Array;
  readonly rules: FrameRules | null;
}

/** Directions that some pixels' sources must keep to. */
export interface FrameRules {
  /** For each pixel: 0 = free, k = must keep to `list[k − 1]`. */
  readonly index: Uint8Array;
  readonly list: readonly Rule[];
  /** Where each pixel's content lies in the ground, in pixels of this level; null: where the pixel itself lies. */
  readonly home: { readonly x: Float32Array; readonly y: Float32Array } | null;
}

/** A source must not lie farther from the straight line through its target than this. The normal has length 1. */
export interface Rule {
  readonly nx: number;
  readonly ny: number;
  /** In pixels of the level. */
  readonly slack: number;
}

/** Whole pixels cannot keep to a slanting line more closely than this. */
export const leastSlack = 0.75;

/** What a pixel is to a fill. */
export const role = {
  /** Beyond the photo, or not seen. */
  void: 0,
  /** Known, but never drawn from. */
  context: 1,
  /** Known, and may be drawn from. */
  source: 2,
  /** To be filled. */
  target: 3,
} as const;

/** Bytes a pixel in the kernels' pictures. */
export const pixelBytes = 8;

/** Weight of the texture features against colour. */
const featureGain = 6;

/** The finest level from float pixels and each pixel's {@link role}.
 *  The features are the mean |∂x| and |∂y| of luma over known pixels in a box; they tell textures apart that have the same
 *  mean colour (Newson et al. 2014, Video Inpainting of Complex Scenes, doi:10.1137/140954933, section 3.2). */
export function makeFrame(
  image: FloatImage,
  roles: Uint8Array,
  radius: number,
  rules: FrameRules | null = null,
): Frame {
  const { w, h } = image.rect;
  const n = w * h;
  const img = new Uint8Array(n * pixelBytes);
  const luma = new Float32Array(n);
  const hole = roles.map((r) => (r === role.target ? 1 : 0));
  const content = roles.map((r) => (r === role.context || r === role.source ? 1 : 0));
  const source = roles.map((r) => (r === role.source ? 1 : 0));
  const rounded = new Uint8ClampedArray(img.buffer);
  const { data } = image;
  for (let i = 0, p = 0, d = 0; i < n; i++, p += 4, d += pixelBytes) {
    const [red, green, blue] = [data[p], data[p + 1], data[p + 2]];
    rounded[d] = red * 255;
    rounded[d + 1] = green * 255;
    rounded[d + 2] = blue * 255;
    luma[i] = 76.245 * red + 149.685 * green + 29.07 * blue;
  }
  const across = new Float32Array(n);
  const along = new Float32Array(n);
  const known = new Float32Array(n);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const right = x + 1 < w ? i + 1 : i;
      const below = y + 1 < h ? i + w : i;
      if (!content[i] || !content[right] || !content[below]) continue;
      known[i] = 1;
      across[i] = Math.abs(luma[right] - luma[i]);
      along[i] = Math.abs(luma[below] - luma[i]);
    }
  const weight = boxSum(known, w, h, radius);
  const features = [boxSum(across, w, h, radius), boxSum(along, w, h, radius)];
  for (let f = 0; f < 2; f++) {
    const feature = features[f];
    for (let i = 0, d = 3 + f; i < n; i++, d += pixelBytes)
      if (weight[i] > 0) rounded[d] = (feature[i] / weight[i]) * featureGain;
  }
  return { w, h, img, hole, known: content, source, rules };
}

/** Sums over squares of the given radius, cut off at the edges. */
function boxSum(src: Float32Array | Uint8Array, w: number, h: number, radius: number): Float32Array {
  const rows = new Float32Array(src.length);
  for (let y = 0; y < h; y++) {
    const row = y * w;
    let sum = 0;
    for (let x = 0; x < Math.min(radius, w); x++) sum += src[row + x];
    for (let x = 0; x < w; x++) {
      if (x + radius < w) sum += src[row + x + radius];
      if (x > radius) sum -= src[row + x - radius - 1];
      rows[row + x] = sum;
    }
  }
  const out = new Float32Array(src.length);
  const sums = new Float64Array(w);
  for (let y = -radius; y < h; y++) {
    const [enters, leaves, at] = [(y + radius) * w, (y - radius - 1) * w, y * w];
    if (y + radius < h) for (let x = 0; x < w; x++) sums[x] += rows[enters + x];
    if (y > radius) for (let x = 0; x < w; x++) sums[x] -= rows[leaves + x];
    if (y >= 0) for (let x = 0; x < w; x++) out[at + x] = sums[x];
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
  const known = new Uint8Array(w * h);
  const source = new Uint8Array(w * h);
  const from = fine.img;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const a = 2 * y * fine.w + 2 * x;
      const b = a + fine.w;
      hole[i] = fine.hole[a] | fine.hole[a + 1] | fine.hole[b] | fine.hole[b + 1];
      source[i] = fine.source[a] & fine.source[a + 1] & fine.source[b] & fine.source[b + 1];
      let [total, red, green, blue, across, along] = [0, 0, 0, 0, 0, 0];
      for (let v = 0; v < 4; v++) {
        const yy = 2 * y + v - 1;
        if (yy < 0 || yy >= fine.h) continue;
        for (let u = 0; u < 4; u++) {
          const xx = 2 * x + u - 1;
          if (xx < 0 || xx >= fine.w || !fine.known[yy * fine.w + xx]) continue;
          const weight = kernel[u] * kernel[v];
          const p = (yy * fine.w + xx) * pixelBytes;
          total += weight;
          red += weight * from[p];
          green += weight * from[p + 1];
          blue += weight * from[p + 2];
          across += weight * from[p + 3];
          along += weight * from[p + 4];
        }
      }
      if (total === 0) continue;
      if (!hole[i]) known[i] = 1;
      const to = i * pixelBytes;
      img[to] = Math.round(red / total);
      img[to + 1] = Math.round(green / total);
      img[to + 2] = Math.round(blue / total);
      img[to + 3] = Math.round(across / total);
      img[to + 4] = Math.round(along / total);
    }
  return { w, h, img, hole, known, source, rules: fine.rules && shrinkRules(fine.rules, fine.w, w, h) };
}

function shrinkRules(rules: FrameRules, fineW: number, w: number, h: number): FrameRules {
  const index = new Uint8Array(w * h);
  const mean = (of: Float32Array) => {
    const out = new Float32Array(w * h);
    eachQuad(fineW, w, h, (i, a, b) => {
      out[i] = (of[a] + of[a + 1] + of[b] + of[b + 1]) / 8;
    });
    return out;
  };
  // Later rules are the narrower ones.
  eachQuad(fineW, w, h, (i, a, b) => {
    index[i] = Math.max(rules.index[a], rules.index[a + 1], rules.index[b], rules.index[b + 1]);
  });
  return {
    index,
    list: rules.list.map((r) => ({ ...r, slack: Math.max(leastSlack, r.slack / 2) })),
    home: rules.home && { x: mean(rules.home.x), y: mean(rules.home.y) },
  };
}

function eachQuad(
  fineW: number,
  w: number,
  h: number,
  visit: (i: number, a: number, b: number) => void,
): void {
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const a = 2 * y * fineW + 2 * x;
      visit(y * w + x, a, a + fineW);
    }
}

/** Whether a pixel may take its source at a shift: a source pixel, and one that keeps to the pixel's rule. */
export function mayTake(frame: Frame, p: number, dx: number, dy: number): boolean {
  const x = (p % frame.w) + dx;
  const y = Math.floor(p / frame.w) + dy;
  if (x < 0 || y < 0 || x >= frame.w || y >= frame.h) return false;
  const q = y * frame.w + x;
  return frame.source[q] === 1 && keepsRule(frame, p, q);
}

export function keepsRule(frame: Frame, p: number, q: number): boolean {
  const { rules, w } = frame;
  const k = rules ? rules.index[p] : 0;
  if (!rules || k === 0) return true;
  const { nx, ny, slack } = rules.list[k - 1];
  const { home } = rules;
  const dx = home ? home.x[q] - home.x[p] : (q % w) - (p % w);
  const dy = home ? home.y[q] - home.y[p] : Math.floor(q / w) - Math.floor(p / w);
  return Math.abs(nx * dx + ny * dy) <= slack + 1e-3;
}

/** The nearest pixel that a pixel may be taken from, −1 when there is none. */
export function nearestSource(frame: Frame, p: number): number {
  const px = p % frame.w;
  const py = Math.floor(p / frame.w);
  let best = -1;
  let least = Infinity;
  for (let q = 0; q < frame.source.length; q++) {
    if (!frame.source[q]) continue;
    const d = ((q % frame.w) - px) ** 2 + (Math.floor(q / frame.w) - py) ** 2;
    if (d >= least || !keepsRule(frame, p, q)) continue;
    least = d;
    best = q;
  }
  return best;
}

/** Where a whole patch of the given radius lies on source pixels within the frame. */
export function usableCentres(frame: Frame, radius: number): Uint8Array {
  const { w, h } = frame;
  const out = new Uint8Array(w * h);
  const count = boxSum(frame.source, w, h, radius);
  const full = (2 * radius + 1) ** 2;
  for (let y = radius; y < h - radius; y++)
    for (let x = radius; x < w - radius; x++) if (count[y * w + x] === full) out[y * w + x] = 1;
  return out;
}

/** Pixels whose patch lies in the frame and touches the hole, row by row. */
export function targetCentres(frame: Frame, radius: number): Int32Array {
  const { w, h } = frame;
  const count = boxSum(frame.hole, w, h, radius);
  const out: number[] = [];
  for (let y = radius; y < h - radius; y++)
    for (let x = radius; x < w - radius; x++) if (count[y * w + x] > 0) out.push(y * w + x);
  return Int32Array.from(out);
}

/** The smallest rectangle round all that is to be filled. */
export function boxOfTargets(roles: Uint8Array, w: number): Rect {
  let [x0, y0, x1, y1] = [w, Infinity, -1, -1];
  for (let i = 0; i < roles.length; i++) {
    if (roles[i] !== role.target) continue;
    const x = i % w;
    const y = Math.floor(i / w);
    x0 = Math.min(x0, x);
    x1 = Math.max(x1, x);
    y0 = Math.min(y0, y);
    y1 = y;
  }
  return { x: x0, y: y0, w: x1 - x0 + 1, h: y1 - y0 + 1 };
}

export function indicesOf(mask: Uint8Array): Int32Array {
  let n = 0;
  for (const v of mask) if (v) n++;
  const out = new Int32Array(n);
  n = 0;
  for (let i = 0; i < mask.length; i++) if (mask[i]) out[n++] = i;
  return out;
}

/** Says what would help. */
export function nothingToDrawFrom(frame: Frame): InputError {
  return new InputError(
    'no-source',
    frame.rules
      ? 'There is not enough along the rail or guide line to draw from. Widen the rail, let it look farther, or mark less.'
      : 'There is not enough round this area to draw from. Mark less, let it look farther, or widen the allow zone.',
  );
}
