import { makeRandom } from '../../random';
import { type FloatImage, makeFloatImage, type Rect } from '../../raster';
import { computeFill, type FillInput, type FillProgress, type FillSteering, unsteered } from './compute';
import { type Frame, role } from './frame';
import { makeFrame } from './levels';
import { planPieces } from './pieces';

/** Fills part of one small picture, for tests: the plan and its windows are cut out of it. */
export interface PictureFill {
  readonly image: FloatImage;
  /** image in size, non-zero = to be filled. */
  readonly hole: Uint8Array;
  readonly allowed?: Uint8Array;
  readonly pending?: Uint8Array;
  readonly steering?: Partial<FillSteering>;
  readonly reach?: number;
  readonly seed?: number;
}

export function inputOf({
  image,
  hole,
  allowed,
  pending,
  steering,
  reach = 1,
  seed = 1,
}: PictureFill): FillInput {
  const { rect } = image;
  const plan = planPieces(hole, rect, rect, reach);
  return {
    plan,
    windows: plan.pieces.map(({ window }) => ({
      image: cut(image, window),
      allowed: allowed ? cutMask(allowed, rect, window) : null,
      pending: pending ? cutMask(pending, rect, window) : null,
      beside: null,
    })),
    steering: { ...unsteered, ...steering },
    seed,
  };
}

export interface PictureFilled {
  /** Filled pixels in the hole, transparent black elsewhere. */
  readonly image: FloatImage;
  /** Two numbers a pixel; NaN outside the hole. */
  readonly origin: Float32Array;
}

export function fillPicture(fill: PictureFill, onProgress?: FillProgress): PictureFilled {
  const { rect } = fill.image;
  const image = makeFloatImage(rect);
  const origin = new Float32Array(rect.w * rect.h * 2).fill(Number.NaN);
  for (const part of computeFill(inputOf(fill), onProgress)) {
    const { rect: box, data } = part.image;
    for (let y = 0; y < box.h; y++)
      for (let x = 0; x < box.w; x++) {
        const from = y * box.w + x;
        if (Number.isNaN(part.origin[2 * from])) continue;
        const to = (box.y + y) * rect.w + box.x + x;
        image.data.set(data.subarray(4 * from, 4 * from + 4), 4 * to);
        origin.set(part.origin.subarray(2 * from, 2 * from + 2), 2 * to);
      }
  }
  return { image, origin };
}

function cut(image: FloatImage, rect: Rect): FloatImage {
  const out = makeFloatImage(rect);
  for (let y = 0; y < rect.h; y++) {
    const from = 4 * ((rect.y + y) * image.rect.w + rect.x);
    out.data.set(image.data.subarray(from, from + 4 * rect.w), 4 * y * rect.w);
  }
  return out;
}

function cutMask(mask: Uint8Array, { w }: Rect, rect: Rect): Uint8Array {
  const out = new Uint8Array(rect.w * rect.h);
  for (let y = 0; y < rect.h; y++)
    out.set(mask.subarray((rect.y + y) * w + rect.x, (rect.y + y) * w + rect.x + rect.w), y * rect.w);
  return out;
}

export function picture(
  w: number,
  h: number,
  at: (x: number, y: number) => readonly [number, number, number],
): FloatImage {
  const image = makeFloatImage({ x: 0, y: 0, w, h });
  for (let y = 0, i = 0; y < h; y++) for (let x = 0; x < w; x++, i += 4) image.data.set([...at(x, y), 1], i);
  return image;
}

export function boxHole(w: number, h: number, x0: number, y0: number, bw: number, bh: number): Uint8Array {
  const hole = new Uint8Array(w * h);
  for (let y = y0; y < y0 + bh; y++) hole.fill(1, y * w + x0, y * w + x0 + bw);
  return hole;
}

export const noisy = (w: number, h: number, seed: number) => {
  const random = makeRandom(seed);
  return picture(w, h, (x, y) => {
    const v = 0.5 + 0.15 * Math.sin(x / 7) + 0.1 * Math.cos(y / 5) + 0.1 * (random.next() - 0.5);
    return [v, v * 0.9, 0.3 + 0.2 * v];
  });
};

/** Blots without any order, so that no two places are alike. */
export const grainy = (w: number, h: number, seed: number) => {
  const random = makeRandom(seed);
  const side = 8;
  const across = Math.ceil(w / side) + 2;
  const dots = Float32Array.from({ length: across * (Math.ceil(h / side) + 2) }, () => random.next());
  const ease = (t: number) => t * t * (3 - 2 * t);
  return picture(w, h, (x, y) => {
    const [i, j] = [Math.floor(x / side), Math.floor(y / side)];
    const [u, v] = [ease(x / side - i), ease(y / side - j)];
    const at = (a: number, b: number) => dots[(j + b) * across + i + a];
    const value = (at(0, 0) * (1 - u) + at(1, 0) * u) * (1 - v) + (at(0, 1) * (1 - u) + at(1, 1) * u) * v;
    return [0.2 + 0.6 * value, 0.3 + 0.4 * value, 0.6 - 0.4 * value];
  });
};

export const frameOf = (image: FloatImage, hole: Uint8Array, radius = 2): Frame =>
  makeFrame(
    image,
    hole.map((v) => (v ? role.target : role.source)),
    radius,
  );

/** Checks every filled pixel's source, and that nothing else was filled. */
export function checkSources(
  { image, origin }: PictureFilled,
  w: number,
  h: number,
  hole: Uint8Array,
  allowed: Uint8Array | null = null,
): void {
  hole.forEach((inHole, p) => {
    const [x, y] = origin.subarray(2 * p, 2 * p + 2);
    if (Number.isNaN(x) === (inHole === 1))
      throw new Error(`pixel ${p} should ${inHole ? '' : 'not '}be filled`);
    if (!inHole) {
      if (image.data.subarray(4 * p, 4 * p + 4).some((v) => v !== 0))
        throw new Error(`pixel ${p} was written`);
      return;
    }
    const q = y * w + x;
    if (x < 0 || y < 0 || x >= w || y >= h || hole[q] || (allowed && !allowed[q]))
      throw new Error(`pixel ${p} comes from ${x}, ${y}`);
  });
}

export const mostError = (image: FloatImage, wanted: FloatImage, hole: Uint8Array) => {
  let most = 0;
  hole.forEach((v, i) => {
    if (v)
      for (let c = 0; c < 3; c++)
        most = Math.max(most, Math.abs(image.data[4 * i + c] - wanted.data[4 * i + c]));
  });
  return most * 255;
};

/** What solves a system of linear equations, by Gaussian elimination. */
export function solvedDensely(rows: number[][], right: number[]): number[] {
  const n = right.length;
  const all = rows.map((row, k) => [...row, right[k]]);
  for (let k = 0; k < n; k++) {
    const pivot = all
      .slice(k)
      .reduce((best, row, r) => (Math.abs(row[k]) > Math.abs(all[best][k]) ? k + r : best), k);
    [all[k], all[pivot]] = [all[pivot], all[k]];
    for (let r = 0; r < n; r++) {
      if (r === k) continue;
      const by = all[r][k] / all[k][k];
      for (let j = k; j <= n; j++) all[r][j] -= by * all[k][j];
    }
  }
  return all.map((row, k) => row[n] / row[k]);
}
