import { squaredDistance } from '../../../area';
import { instantiateKernel, patchSearchWasm } from '../../../kernels';
import { type Frame, pixelBytes, usableCentres } from '../frame';
import { withoutSources } from '../levels';

export interface PatchKernel {
  release(): void;
  claim(bytes: number): number;
  favour(table: number): void;
  nearestPatch(img: number, w: number, p: number, list: number, n: number, apart: number, r: number): number;
  isAmong(
    img: number,
    w: number,
    p: number,
    list: number,
    n: number,
    apart: number,
    r: number,
    limit: number,
    wanted: number,
  ): number;
}

let kernel: (PatchKernel & { memory: WebAssembly.Memory }) | null = null;

/** Patches whose centres lie so near to the area, beyond their own radius, say what may be behind it. */
const rimPx = 4;
/** The rest of the picture is looked at in every second row and column, or at so many places. */
const leastStride = 2;
const mostPlaces = 9000;
/** So many patches of the rim, and of the picture, are compared with. */
const mostOfRim = 200;
const mostOfPicture = 300;
/** Patches nearer to each other than this are no two opinions. */
const apartPx = { rim: 8, picture: 12 };
/** A patch is a stranger when it differs from all others by more than so many times what half of those at the rim differ by;
 *  within limits, in 8-bit steps a channel. */
const limits = {
  clearly: { times: 2.2, least: 26, most: 80 },
  somewhat: { times: 1.2, least: 12, most: 26 },
};
/** It is common in the picture when so many patches are like it. */
const common = 3;
/** What lies so near to the area, squared, stays. */
const staysSquared = 9;
/** When more of the picture than this is strange, nothing is: it is all different. */
const mostStrange = 0.6;

export type Different = keyof typeof limits;

/** Takes out of what may be drawn from whatever is unlike all that is seen at the area's rim, and rare elsewhere: another thing
 *  that stands there, which nobody would expect behind this one. The measure is ours.
 *
 *  @param levels  from the finest to the coarsest; the coarsest is looked at
 *  @param radius  of its patches
 *  @param different  how much unlike the rim a stranger is: the less it takes, the more variety of the ground is lost as well
 *  @returns the levels without strangers; the same ones when there are none, or nothing would be left
 */
export function withoutStrangers(
  levels: readonly Frame[],
  radius: number,
  different: Different,
): readonly Frame[] {
  const last = levels.length - 1;
  const strange = strangersIn(levels[last], radius, different);
  return strange ? withoutSources(levels, last, strange, radius) : levels;
}

function strangersIn(frame: Frame, radius: number, different: Different): Uint8Array | null {
  const { w, h, hole, img } = frame;
  const usable = usableCentres(frame, radius);
  const near = squaredDistance(hole, w, h);
  const isRim = (p: number) => near[p] <= (radius + rimPx) ** 2;
  const stride = Math.max(leastStride, Math.ceil(Math.sqrt((w * h) / mostPlaces)));
  const rim: number[] = [];
  const places: number[] = [];
  for (let p = 0; p < w * h; p++) {
    if (!usable[p]) continue;
    if (isRim(p)) rim.push(p);
    if ((p % w) % stride === 0 && Math.floor(p / w) % stride === 0) places.push(p);
  }
  if (rim.length < 20) return null;
  const isStranger = comparing(frame, radius, rim, places, limits[different]);
  const out = new Uint8Array(w * h);
  const reach = Math.max(1, radius - 2, Math.ceil(stride / 2));
  let count = 0;
  for (const p of places) {
    if (isRim(p) || !isStranger(p)) continue;
    count++;
    const [x, y] = [p % w, Math.floor(p / w)];
    for (let v = Math.max(0, y - reach); v <= Math.min(h - 1, y + reach); v++)
      for (let u = Math.max(0, x - reach); u <= Math.min(w - 1, x + reach); u++)
        if (near[v * w + u] > staysSquared) out[v * w + u] = 1;
  }
  if (img.length / pixelBytes > keepPixels) kernel = null;
  return count > 0 && count <= mostStrange * places.length ? out : null;
}

/** Tells whether the patch at a pixel is unlike those at the rim, and like few of the whole picture. */
function comparing(
  frame: Frame,
  radius: number,
  rim: readonly number[],
  places: readonly number[],
  { times, least, most }: (typeof limits)[Different],
): (p: number) => boolean {
  const { w, img } = frame;
  kernel ??= instantiateKernel<PatchKernel>(patchSearchWasm);
  const k = kernel;
  k.release();
  k.favour(0);
  const [imgAt, rimAt, pictureAt] = [img.length + 64, mostOfRim * 4, mostOfPicture * 4].map(k.claim);
  if (!imgAt || !rimAt || !pictureAt) throw new RangeError('The fill kernel ran out of memory.');
  new Uint8Array(k.memory.buffer, imgAt, img.length).set(img);
  const put = (list: readonly number[], at: number) =>
    new Int32Array(k.memory.buffer, at, list.length).set(list);
  const rimSample = thinned(rim, mostOfRim);
  const picture = thinned(places, mostOfPicture);
  put(rimSample, rimAt);
  put(picture, pictureAt);
  const values = 3 * (2 * radius + 1) ** 2;
  const among = rimSample
    .map((p) => Math.sqrt(k.nearestPatch(imgAt, w, p, rimAt, rimSample.length, apartPx.rim, radius) / values))
    .sort((a, b) => a - b);
  const usual = among[among.length >> 1];
  const limit = Math.floor(Math.min(most, Math.max(least, times * usual)) ** 2 * values);
  return (p) =>
    !k.isAmong(imgAt, w, p, rimAt, rimSample.length, 0, radius, limit, 1) &&
    !k.isAmong(imgAt, w, p, pictureAt, picture.length, apartPx.picture, radius, limit, common);
}

/** WebAssembly memory never shrinks, so an instance that held more than this is let go. */
const keepPixels = 4_000_000;

/** At most so many of a list, evenly. */
function thinned(list: readonly number[], most: number): number[] {
  const every = Math.max(1, list.length / most);
  return Array.from({ length: Math.floor(list.length / every) }, (_, k) => list[Math.floor(k * every)]);
}
