import { type Frame, pixelBytes } from '../frame';

/** Directions are told apart in so many steps of half a turn; a step shows what those beside it show as well. */
const steps = 12;
/** Half the side of the square that a direction is seen in, in pixels. */
const seenPx = 3;
/** A direction is seen where lightness changes by so much across it, in 8-bit steps over two pixels, and by so much more of all change
 *  across than along; a line that is seen goes as far as it somewhat is. */
const seen = { change: 8, coherence: 0.6 };
const somewhat = { change: 5, coherence: 0.35 };
/** At home is a direction that so large a share of the rim shows, this near to the hole. */
const leastShare = 0.004;
const homePx = 14;

/** Where something runs in a direction that nothing at the hole's rim runs in: reeds in water whose waves lie level, a trunk, the edge
 *  of a window. The measure is ours; directions by the structure tensor (Bigün, Granlund & Wiklund 1991, doi:10.1109/34.85668).
 *
 *  @param near  squared distance of each pixel to the hole
 *  @returns for each pixel that may be drawn from: 2 = it does, 1 = it somewhat does
 *  Cost: O(pixels).
 */
export function strangeLines(frame: Frame, near: ArrayLike<number>): Uint8Array {
  const { w, h, source, known, hole } = frame;
  const [directions, hints] = directionsIn(frame);
  const isBeyond = (p: number) => near[p] > (seenPx + 2) ** 2;
  const rim = new Float64Array(steps);
  let pixels = 0;
  for (let p = 0; p < w * h; p++) {
    if (hole[p] || !known[p] || !isBeyond(p) || near[p] > homePx ** 2) continue;
    pixels++;
    if (directions[p] < steps) rim[directions[p]]++;
  }
  const out = new Uint8Array(w * h);
  if (pixels === 0) return out;
  const isHome = Array.from(
    rim,
    (own, k) => own + rim[(k + 1) % steps] + rim[(k + steps - 1) % steps] >= leastShare * pixels,
  );
  const isStrange = (direction: number) => direction < steps && !isHome[direction];
  for (let p = 0; p < w * h; p++)
    if (source[p] && isBeyond(p)) out[p] = isStrange(directions[p]) ? 2 : isStrange(hints[p]) ? 1 : 0;
  return out;
}

/** The step of each pixel's direction, where it is seen and where it somewhat is; {@link steps} elsewhere. */
function directionsIn({ w, h, img }: Frame): readonly [Uint8Array, Uint8Array] {
  const lightness = new Float32Array(w * h);
  for (let p = 0, i = 0; p < w * h; p++, i += pixelBytes)
    lightness[p] = 0.299 * img[i] + 0.587 * img[i + 1] + 0.114 * img[i + 2];
  const [xx, xy, yy] = [0, 1, 2].map(() => new Float32Array(w * h));
  for (let y = 1; y < h - 1; y++)
    for (let p = y * w + 1; p < (y + 1) * w - 1; p++) {
      const across = lightness[p + 1] - lightness[p - 1];
      const down = lightness[p + w] - lightness[p - w];
      xx[p] = across * across;
      xy[p] = across * down;
      yy[p] = down * down;
    }
  const [a, b, c] = [xx, xy, yy].map((values) => boxMeans(values, w, h));
  const [clear, hints] = [new Uint8Array(w * h).fill(steps), new Uint8Array(w * h).fill(steps)];
  for (let p = 0; p < w * h; p++) {
    const all = a[p] + c[p];
    const more = Math.hypot(a[p] - c[p], 2 * b[p]);
    const is = (limit: typeof seen) => all >= limit.change ** 2 && more >= limit.coherence * all;
    if (!is(somewhat)) continue;
    const turns = (0.5 * Math.atan2(2 * b[p], a[p] - c[p])) / Math.PI + 0.5;
    hints[p] = Math.floor(turns * steps) % steps;
    if (is(seen)) clear[p] = hints[p];
  }
  return [clear, hints];
}

/** Means over squares round each pixel; 0 where the square does not lie in the picture. */
function boxMeans(values: Float32Array, w: number, h: number): Float32Array {
  const side = 2 * seenPx + 1;
  const rows = new Float32Array(w * h);
  for (let y = 0; y < h; y++) {
    let sum = 0;
    for (let x = 0; x < w; x++) {
      sum += values[y * w + x] - (x >= side ? values[y * w + x - side] : 0);
      if (x >= side - 1) rows[y * w + x - seenPx] = sum;
    }
  }
  const out = new Float32Array(w * h);
  const sums = new Float64Array(w);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      sums[x] += rows[y * w + x] - (y >= side ? rows[(y - side) * w + x] : 0);
      if (y >= side - 1) out[(y - seenPx) * w + x] = Math.max(0, sums[x]) / side ** 2;
    }
  return out;
}
