import { framesWasm, instantiateKernel } from '../../kernels';
import type { FloatImage } from '../../raster';
import {
  type Frame,
  type FrameRules,
  type FrameViews,
  hasSources,
  holePixels,
  leastSlack,
  liesAcross,
  pixelBytes,
  role,
  withoutPeriods,
} from './frame';

interface Kernel {
  release(): void;
  beginFrame(w: number, h: number, radius: number, featureGain: number): number;
  inputRow(): number;
  roleRow(): number;
  knownRow(y: number): number;
  holeRow(): number;
  sourceRow(): number;
  takeRow(y: number): void;
  endRows(): void;
  finishRow(y: number): number;
  beginHalving(w: number): number;
  fineRow(k: number): number;
  seenRow(k: number): number;
  halveRows(): number;
  innerHoleRow(k: number): number;
  innerSourceRow(k: number): number;
  halvedKnown(): number;
  halvedHole(): number;
  halvedSource(): number;
}

let kernel: (Kernel & { memory: WebAssembly.Memory }) | null = null;

/** Weight of the texture features against colour. */
const featureGain = 6;
/** {@link FrameViews.apart} of any level is at least this. */
const leastApart = 3;

/** The finest level from float pixels and each pixel's {@link role}.
 *  The features are the mean |∂x| and |∂y| of luma over known pixels in a box; they tell textures apart that have the same
 *  mean colour (Newson et al. 2014, Video Inpainting of Complex Scenes, doi:10.1137/140954933, section 3.2).
 *  @throws RangeError when memory is short */
export function makeFrame(
  image: FloatImage,
  roles: Uint8Array,
  radius: number,
  rules: FrameRules | null = null,
  views: FrameViews | null = null,
): Frame {
  const { w, h } = image.rect;
  const img = new Uint8Array(w * h * pixelBytes);
  const hole = new Uint8Array(w * h);
  const known = new Uint8Array(w * h);
  const source = new Uint8Array(w * h);
  kernel ??= instantiateKernel<Kernel>(framesWasm);
  const k = kernel;
  k.release();
  if (!k.beginFrame(w, h, radius, featureGain)) throw new RangeError('The frame kernel ran out of memory.');
  const memory = k.memory.buffer;
  const input = new Float32Array(memory, k.inputRow(), 4 * w);
  const given = new Uint8Array(memory, k.roleRow(), w);
  const knownRows = [0, 1].map((y) => new Uint8Array(memory, k.knownRow(y), w));
  const holeRow = new Uint8Array(memory, k.holeRow(), w);
  const sourceRow = new Uint8Array(memory, k.sourceRow(), w);
  const finish = (y: number) =>
    img.set(new Uint8Array(memory, k.finishRow(y), w * pixelBytes), y * w * pixelBytes);
  for (let y = 0; y < h; y++) {
    input.set(image.data.subarray(4 * y * w, 4 * (y + 1) * w));
    given.set(roles.subarray(y * w, (y + 1) * w));
    k.takeRow(y);
    known.set(knownRows[y & 1], y * w);
    hole.set(holeRow, y * w);
    source.set(sourceRow, y * w);
    // The steps of a row are known once the row below it is in.
    if (y - 1 - radius >= 0) finish(y - 1 - radius);
  }
  k.endRows();
  for (let y = Math.max(0, h - 1 - radius); y < h; y++) finish(y);
  return {
    w,
    h,
    img,
    hole,
    known,
    source,
    rules: rules && withoutUnserved(rules, hole, source),
    layout: null,
    views,
  };
}

/** The next coarser level: known pixels only, by 1-3-3-1 in both directions. A pixel is hole when any child is, and a
 *  source only when all children are. @throws RangeError when memory is short */
export function shrink(fine: Frame): Frame {
  const w = fine.w >> 1;
  const h = fine.h >> 1;
  const img = new Uint8Array(w * h * pixelBytes);
  const hole = new Uint8Array(w * h);
  const known = new Uint8Array(w * h);
  const source = new Uint8Array(w * h);
  kernel ??= instantiateKernel<Kernel>(framesWasm);
  const k = kernel;
  k.release();
  if (!k.beginHalving(fine.w)) throw new RangeError('The frame kernel ran out of memory.');
  const memory = k.memory.buffer;
  const rows = [0, 1, 2, 3].map((row) => ({
    pixels: new Uint8Array(memory, k.fineRow(row), fine.w * pixelBytes),
    seen: new Uint8Array(memory, k.seenRow(row), fine.w),
  }));
  const inner = [0, 1].map((row) => ({
    hole: new Uint8Array(memory, k.innerHoleRow(row), fine.w),
    source: new Uint8Array(memory, k.innerSourceRow(row), fine.w),
  }));
  const halved = {
    known: new Uint8Array(memory, k.halvedKnown(), w),
    hole: new Uint8Array(memory, k.halvedHole(), w),
    source: new Uint8Array(memory, k.halvedSource(), w),
  };
  for (let y = 0; y < h; y++) {
    for (const [row, { pixels, seen }] of rows.entries()) {
      const from = 2 * y + row - 1;
      if (from < 0 || from >= fine.h) seen.fill(0);
      else {
        pixels.set(fine.img.subarray(from * fine.w * pixelBytes, (from + 1) * fine.w * pixelBytes));
        seen.set(fine.known.subarray(from * fine.w, (from + 1) * fine.w));
      }
    }
    for (const [row, masks] of inner.entries()) {
      const [from, to] = [(2 * y + row) * fine.w, (2 * y + row + 1) * fine.w];
      masks.hole.set(fine.hole.subarray(from, to));
      masks.source.set(fine.source.subarray(from, to));
    }
    img.set(new Uint8Array(memory, k.halveRows(), w * pixelBytes), y * w * pixelBytes);
    known.set(halved.known, y * w);
    hole.set(halved.hole, y * w);
    source.set(halved.source, y * w);
  }
  return {
    w,
    h,
    img,
    hole,
    known,
    source,
    rules: fine.rules && withoutUnserved(shrinkRules(fine.rules, fine.w, w, h), hole, source),
    layout: null,
    views: fine.views && shrinkViews(fine.views, fine.w, w, h),
  };
}

/** Levels, from the finest to the coarsest, for what looks at joins: what was only guessed counts as not known. */
export function withoutGuesses(levels: readonly Frame[], roles: Uint8Array): readonly Frame[] {
  if (!roles.includes(role.guessed)) return levels;
  const fineW = levels[0].w;
  const all = levels.map(({ known }) => known.slice());
  for (let p = 0; p < roles.length; p++) {
    if (roles[p] !== role.guessed) continue;
    const [x, y] = [p % fineW, Math.floor(p / fineW)];
    for (const [k, { w, h }] of levels.entries())
      if (x >> k < w && y >> k < h) all[k][(y >> k) * w + (x >> k)] = 0;
  }
  return levels.map((frame, k) => ({ ...frame, known: all[k] }));
}

/** Places of a level in pixels of the next coarser one. */
function halvedPlaces(of: Float32Array, fineW: number, w: number, h: number): Float32Array {
  const out = new Float32Array(w * h);
  eachQuad(fineW, w, h, (i, a, b) => {
    out[i] = (of[a] + of[a + 1] + of[b] + of[b + 1]) / 8;
  });
  return out;
}

const shrinkViews = (
  { x, y, stride, apart }: FrameViews,
  fineW: number,
  w: number,
  h: number,
): FrameViews => ({
  x: halvedPlaces(x, fineW, w, h),
  y: halvedPlaces(y, fineW, w, h),
  stride: stride >> 1,
  apart: Math.max(leastApart, apart / 2),
});

function shrinkRules(rules: FrameRules, fineW: number, w: number, h: number): FrameRules {
  const index = new Uint8Array(w * h);
  // Later rules are the narrower ones.
  eachQuad(fineW, w, h, (i, a, b) => {
    index[i] = Math.max(rules.index[a], rules.index[a + 1], rules.index[b], rules.index[b + 1]);
  });
  return {
    index,
    list: rules.list.map((r) => ({
      ...r,
      slack: Math.max(leastSlack, r.slack / 2),
      period: r.period && r.period / 2,
    })),
    across: rules.across && halvedPlaces(rules.across, fineW, w, h),
  };
}

/** How finely places across ruled ground are told apart. */
const placesPerPx = 4;

/** Hole pixels of ruled ground that can be taken from nowhere in it are free: at a coarse level a narrow strip of it may have no
 *  source left. */
function withoutUnserved(rules: FrameRules, hole: Uint8Array, source: Uint8Array): FrameRules {
  const { across, list } = rules;
  if (!across) return rules;
  const index = rules.index.slice();
  for (const [k, { period, slack }] of list.entries()) {
    if (period === null) continue;
    const isOn = (p: number) => liesAcross(across[p], period);
    const placeOf = (p: number) => Math.round(placesPerPx * withoutPeriods(across[p], period));
    const served = new Set<number>();
    for (let p = 0; p < source.length; p++) if (source[p] && isOn(p)) served.add(placeOf(p));
    const room = Math.floor(placesPerPx * slack) - 1;
    const isServed = (p: number): boolean => {
      if (!isOn(p)) return false;
      const place = placeOf(p);
      for (let d = -room; d <= room; d++) if (served.has(place + d)) return true;
      return false;
    };
    for (const p of holePixels({ hole })) if (index[p] === k + 1 && !isServed(p)) index[p] = 0;
  }
  return { ...rules, index };
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

/** Takes pixels of one level out of what may be drawn from, and what they are in all others: in coarser ones where they are half of it.
 *  What kept to a rule and was served by these alone is free then.
 *  @returns the same levels when nothing would be left */
export function withoutSources(
  levels: readonly Frame[],
  level: number,
  out: Uint8Array,
  radius: number,
): readonly Frame[] {
  const left = levels.slice();
  const take = (k: number, mask: Uint8Array) => {
    const source = levels[k].source.slice();
    for (let p = 0; p < source.length; p++) if (mask[p]) source[p] = 0;
    const { rules, hole } = levels[k];
    left[k] = { ...levels[k], source, rules: rules && withoutUnserved(rules, hole, source) };
    return mask;
  };
  for (let k = level, mask = take(k, out); k > 0; k--)
    mask = take(k - 1, doubled(mask, levels[k], levels[k - 1]));
  for (let k = level, mask = out; k + 1 < levels.length; k++)
    mask = take(k + 1, halved(mask, levels[k], levels[k + 1]));
  return left.every((frame) => hasSources(frame, radius)) ? left : levels;
}

type Size = Pick<Frame, 'w' | 'h'>;

/** Set where at least half of what a coarser pixel covers is: what is thin there would take all round it with it. */
function halved(mask: Uint8Array, from: Size, to: Size): Uint8Array {
  const out = new Uint8Array(to.w * to.h);
  eachQuad(from.w, to.w, to.h, (i, a, b) => {
    out[i] = mask[a] + mask[a + 1] + mask[b] + mask[b + 1] >= 2 ? 1 : 0;
  });
  return out;
}

/** What is left over at the far sides goes with the last row and column. */
function doubled(mask: Uint8Array, from: Size, to: Size): Uint8Array {
  const out = new Uint8Array(to.w * to.h);
  for (let y = 0; y < to.h; y++) {
    const row = Math.min(y >> 1, from.h - 1) * from.w;
    const last = row + from.w - 1;
    for (let x = 0, p = y * to.w; x < to.w; x++, p++) out[p] = mask[Math.min(row + (x >> 1), last)];
  }
  return out;
}
