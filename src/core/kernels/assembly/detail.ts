// How much fine detail pixels of each colour have. AssemblyScript; see core/methods/fill/finish/detail-by-colour.ts for the
// contract. Pictures: 4 f32 a pixel.

export { claim, release } from './arena';

/** Colours are told apart in so many steps a channel. */
const STEPS: i32 = 20;

// @ts-ignore: decorator
@inline function f(at: usize, i: i32): f64 { return <f64>load<f32>(at + (<usize>i << 2)); }
// @ts-ignore: decorator
@inline function d(at: usize, i: i32): f64 { return load<f64>(at + (<usize>i << 3)); }
// @ts-ignore: decorator
@inline function put(at: usize, i: i32, v: f64): void { store<f32>(at + (<usize>i << 2), <f32>v); }
// @ts-ignore: decorator
@inline function putD(at: usize, i: i32, v: f64): void { store<f64>(at + (<usize>i << 3), v); }
// @ts-ignore: decorator
@inline function isSet(at: usize, i: i32): bool { return load<u8>(at + <usize>i) != 0; }

// @ts-ignore: decorator
@inline function step(v: f64): i32 { return min(STEPS - 1, max(0, <i32>floor(v * <f64>STEPS))); }

/** Sorts pixels by their colours.
 *  @param wanted   u8: whether it is to be sorted
 *  @param numbers  room of 20³ i32
 *  @param midst    3 f64 a kind, up to 20³: grey, and how warm and cool
 *  @param kindOf      i32 a pixel: its kind, −1 where it has none
 *  @returns how many kinds there are */
export function sort(colours: usize, wanted: usize, count: i32, numbers: usize, midst: usize, kindOf: usize): i32 {
  memory.fill(numbers, 0xff, <usize>(STEPS * STEPS * STEPS) << 2);
  memory.fill(kindOf, 0xff, <usize>count << 2);
  let kinds = 0;
  for (let i = 0; i < count; i++) {
    if (!isSet(wanted, i)) continue;
    const r = step(f(colours, 4 * i)), g = step(f(colours, 4 * i + 1)), b = step(f(colours, 4 * i + 2));
    const at = numbers + (<usize>((r * STEPS + g) * STEPS + b) << 2);
    if (load<i32>(at) < 0) {
      store<i32>(at, kinds);
      putD(midst, 3 * kinds, <f64>(r + 2 * g + b) / <f64>(4 * STEPS));
      putD(midst, 3 * kinds + 1, <f64>(r - g) / <f64>STEPS);
      putD(midst, 3 * kinds + 2, <f64>(b - g) / <f64>STEPS);
      kinds++;
    }
    store<i32>(kindOf + (<usize>i << 2), load<i32>(at));
  }
  return kinds;
}

/** Sums up the sizes of the details of each kind, of pixels that are set only, or of the others (0).
 *  @param details  f64 a pixel
 *  @param set      u8 a pixel
 *  @param sums     f64 a kind; `pixels` as well
 *  @returns how many pixels they are */
export function gather(kindOf: usize, details: usize, set: usize, which: i32, count: i32, kinds: i32, sums: usize, pixels: usize): i32 {
  memory.fill(sums, 0, <usize>kinds << 3);
  memory.fill(pixels, 0, <usize>kinds << 3);
  let all = 0;
  for (let i = 0; i < count; i++) {
    const kind = load<i32>(kindOf + (<usize>i << 2));
    if (kind < 0 || isSet(set, i) != (which != 0)) continue;
    putD(sums, kind, d(sums, kind) + abs(d(details, i)));
    putD(pixels, kind, d(pixels, kind) + 1);
    all++;
  }
  return all;
}

/** The square of the mean size of the details of colours like each; NaN where there are fewer than so many pixels of such a colour.
 *  @param alike  how far colours count as alike: deviation, of full scale */
export function near(midst: usize, kinds: i32, sums: usize, pixels: usize, alike: f64, fewest: f64, out: usize): void {
  for (let kind = 0; kind < kinds; kind++) {
    let sum: f64 = 0, all: f64 = 0;
    for (let other = 0; other < kinds; other++) {
      if (d(pixels, other) == 0) continue;
      const grey = d(midst, 3 * kind) - d(midst, 3 * other);
      const warm = d(midst, 3 * kind + 1) - d(midst, 3 * other + 1);
      const cool = d(midst, 3 * kind + 2) - d(midst, 3 * other + 2);
      const w = Math.exp(-(grey * grey + warm * warm + cool * cool) / (2 * alike * alike));
      sum += w * d(sums, other);
      all += w * d(pixels, other);
    }
    const mean = sum / all;
    putD(out, kind, all >= fewest ? mean * mean : NaN);
  }
}

/** Of a window with a part filled in: the colours of what is known, transparent black elsewhere.
 *  @param values    the window's, w × h; changed to these
 *  @param roles     u8 each
 *  @param part      the part's, pw × ph, and where it was filled, u8; it begins at (px, py), which may lie outside
 *  @param own       u8: 1 where it was filled; `around` where there is a source */
export function compose(values: usize, roles: usize, w: i32, h: i32, part: usize, filled: usize, px: i32, py: i32, pw: i32, ph: i32, own: usize, around: usize): void {
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const u = x - px, v = y - py;
      const isOwn = u >= 0 && v >= 0 && u < pw && v < ph && isSet(filled, v * pw + u);
      const isSource = !isOwn && load<u8>(roles + <usize>i) == SOURCE;
      store<u8>(own + <usize>i, isOwn ? 1 : 0);
      store<u8>(around + <usize>i, isSource ? 1 : 0);
      const at = values + (<usize>i << 4);
      if (isOwn) v128.store(at, v128.load(part + (<usize>(v * pw + u) << 4)));
      else if (!isSource) v128.store(at, i64x2.splat(0));
    }
}

const SOURCE: u8 = 2;

/** Colours, and 1 where they are known (0: nothing), to be blurred. @param either, or  u8 a pixel: it is known when one is set */
export function weigh(values: usize, either: usize, or: usize, count: i32, out: usize): void {
  for (let i = 0; i < count; i++) {
    const at = out + (<usize>i << 4);
    v128.store(at, isSet(either, i) || isSet(or, i) ? f32x4.replace_lane(v128.load(values + (<usize>i << 4)), 3, 1) : i64x2.splat(0));
  }
}

/** The same of bytes, so many a pixel. @param known, hole  u8: it is known where the first is 1 and the second is not */
export function weighBytes(img: usize, bytes: i32, known: usize, hole: usize, count: i32, out: usize): void {
  for (let i = 0; i < count; i++) {
    const isSeen = load<u8>(known + <usize>i) == 1 && !isSet(hole, i);
    const at = img + <usize>(i * bytes);
    for (let c = 0; c < 3; c++) put(out, 4 * i + c, isSeen ? <f64>load<u8>(at + c) / 255 : 0);
    put(out, 4 * i + 3, isSeen ? 1 : 0);
  }
}

/** Makes means of sums and how much they weigh. */
export function means(sums: usize, count: i32): void {
  for (let i = 0; i < count; i++) {
    const weight = f(sums, 4 * i + 3);
    if (weight > 0) for (let c = 4 * i; c < 4 * i + 3; c++) put(sums, c, f(sums, c) / weight);
  }
}

/** How much lighter than the mean round it each pixel is. @param out  f64 */
export function details(values: usize, low: usize, count: i32, out: usize): void {
  for (let i = 0; i < count; i++) {
    const k = 4 * i;
    putD(out, i, (f(values, k) - f(low, k) + 2 * (f(values, k + 1) - f(low, k + 1)) + f(values, k + 2) - f(low, k + 2)) / 4);
  }
}

/** How far from the mean round it each pixel lies, in 8-bit steps, and 1; what is not known has neither.
 *  @param sums  as weighBytes gives them, blurred; changed to means */
export function sizes(img: usize, bytes: i32, known: usize, hole: usize, count: i32, sums: usize, out: usize): void {
  memory.fill(out, 0, <usize>count << 4);
  for (let i = 0; i < count; i++) {
    if (load<u8>(known + <usize>i) != 1 || isSet(hole, i)) continue;
    const k = 4 * i, at = img + <usize>(i * bytes);
    for (let c = k; c < k + 3; c++) put(sums, c, f(sums, c) / f(sums, k + 3));
    const round = 255 * (f(sums, k) + 2 * f(sums, k + 1) + f(sums, k + 2));
    put(out, k, abs(<f64>load<u8>(at) + 2 * <f64>load<u8>(at, 1) + <f64>load<u8>(at, 2) - round) / 4);
    put(out, k + 1, 1);
  }
}

/** In octaves, of what has a kind. @param sizes  as `sizes` gives them, blurred; @param out  f64 */
export function octaves(kindOf: usize, sizes: usize, noise: f64, count: i32, out: usize): void {
  for (let i = 0; i < count; i++)
    if (load<i32>(kindOf + (<usize>i << 2)) >= 0) putD(out, i, Math.log2(f(sizes, 4 * i) / f(sizes, 4 * i + 1) + noise));
}

/** Each kind's two values less one, with 1 between them, where a pixel is set. @param fine, coarse  f32 a kind */
export function spread(kindOf: usize, set: usize, fine: usize, coarse: usize, count: i32, out: usize): void {
  memory.fill(out, 0, <usize>count << 4);
  for (let i = 0; i < count; i++) {
    if (!isSet(set, i)) continue;
    const kind = load<i32>(kindOf + (<usize>i << 2));
    put(out, 4 * i, f(fine, kind) - 1);
    put(out, 4 * i + 1, 1);
    put(out, 4 * i + 2, f(coarse, kind) - 1);
  }
}

/** Multiplies the detail of a part where it was filled, what is finer than `soft` and what lies between that and `low`: as `spread` gives
 *  it, blurred, setting in within `ramp` pixels.
 *  @param deep  f32: squared distance from what was not filled; all but part and filled are of the window of `compose` */
export function multiply(part: usize, filled: usize, px: i32, py: i32, pw: i32, ph: i32, soft: usize, low: usize, gains: usize, deep: usize, w: i32, ramp: f64): void {
  for (let y = 0; y < ph; y++)
    for (let x = 0; x < pw; x++) {
      const p = y * pw + x;
      if (!isSet(filled, p)) continue;
      const i = (py + y) * w + px + x;
      const set = min<f64>(1, max<f64>(0, (sqrt(f(deep, i)) - 1) / ramp)) / f(gains, 4 * i + 1);
      const fine = set * f(gains, 4 * i), coarse = set * f(gains, 4 * i + 2);
      const alpha = f(part, 4 * p + 3);
      for (let c = 0; c < 3; c++) {
        const v = f(part, 4 * p + c);
        const its = f(soft, 4 * i + c);
        put(part, 4 * p + c, max<f64>(0, min<f64>(alpha, v + fine * (v - its) + coarse * (its - f(low, 4 * i + c)))));
      }
    }
}

/** What it costs to take each pixel, by how far its detail is from the usual of its kind. @param usual  f32 a kind; @param out  f32 */
export function prices(kindOf: usize, strengths: usize, usual: usize, count: i32, perOctave: f64, most: f64, freeSurplus: f64, out: usize): void {
  for (let i = 0; i < count; i++) {
    const kind = load<i32>(kindOf + (<usize>i << 2));
    const less = kind < 0 ? 0 : f(usual, kind) - d(strengths, i);
    put(out, i, kind < 0 ? 0 : perOctave * min<f64>(most, max<f64>(max<f64>(less, -less - freeSurplus), 0)));
  }
}
