import { squaredDistance } from '../../area';
import { instantiateKernel, patchSearchWasm } from '../../kernels';
import { type Frame, hasSources, pixelBytes, usableCentres } from './frame';

interface Kernel {
  release(): void;
  claim(bytes: number): number;
  favour(table: number): void;
  nearestPatch(
    img: number,
    w: number,
    p: number,
    list: number,
    n: number,
    apart: number,
    r: number,
    third: number,
  ): number;
}

let kernel: (Kernel & { memory: WebAssembly.Memory }) | null = null;

/** Patches whose centres lie so near to the area, beyond their own radius, say what may be behind it. */
const rimPx = 4;
/** The rest of the picture is looked at in every so manieth row and column. */
const stride = 2;
/** So many patches of the rim, and of the picture, are compared with. */
const mostOfRim = 200;
const mostOfPicture = 300;
/** Patches nearer to each other than this are no two opinions. */
const apartPx = { rim: 8, picture: 12 };
/** A patch is a stranger when it differs from all others by more than so many times what half of those at the rim differ by;
 *  within limits, in 8-bit steps a channel. */
const strangeTimes = 1.2;
const least = 12;
const most = 26;
/** What lies so near to the area, squared, stays. */
const staysSquared = 9;
/** When more of the picture than this is strange, nothing is: it is all different. */
const mostStrange = 0.6;

/** Takes out of what may be drawn from whatever is unlike all that is seen at the area's rim, and rare elsewhere: another thing
 *  that stands there, which nobody would expect behind this one. The measure is ours.
 *
 *  @param levels  from the finest to the coarsest; the coarsest is looked at
 *  @param radius  of its patches
 *  @returns the levels without strangers; the same ones when there are none, or nothing would be left
 */
export function withoutStrangers(levels: readonly Frame[], radius: number): readonly Frame[] {
  const coarse = levels[levels.length - 1];
  const strange = strangersIn(coarse, radius);
  if (!strange) return levels;
  const out = levels.map((frame, level) => {
    const source = frame.source.slice();
    const halved = levels.length - 1 - level;
    for (let y = 0, i = 0; y < frame.h; y++) {
      const row = Math.min(coarse.h - 1, y >> halved) * coarse.w;
      for (let x = 0; x < frame.w; x++, i++)
        if (strange[row + Math.min(coarse.w - 1, x >> halved)]) source[i] = 0;
    }
    return { ...frame, source };
  });
  return out.every((frame) => hasSources(frame, radius)) ? out : levels;
}

function strangersIn(frame: Frame, radius: number): Uint8Array | null {
  const { w, h, hole, img } = frame;
  const usable = usableCentres(frame, radius);
  const near = squaredDistance(hole, w, h);
  const isRim = (p: number) => near[p] <= (radius + rimPx) ** 2;
  const rim: number[] = [];
  const all: number[] = [];
  for (let p = 0; p < w * h; p++) {
    if (!usable[p]) continue;
    if (isRim(p)) rim.push(p);
    if ((p % w) % stride === 0 && Math.floor(p / w) % stride === 0) all.push(p);
  }
  if (rim.length < 20) return null;
  kernel ??= instantiateKernel<Kernel>(patchSearchWasm);
  const k = kernel;
  k.release();
  k.favour(0);
  const [imgAt, rimAt, pictureAt] = [img.length + 64, mostOfRim * 4, mostOfPicture * 4].map(k.claim);
  if (!imgAt || !rimAt || !pictureAt) throw new RangeError('The fill kernel ran out of memory.');
  new Uint8Array(k.memory.buffer, imgAt, img.length).set(img);
  const put = (list: readonly number[], at: number) =>
    new Int32Array(k.memory.buffer, at, list.length).set(list);
  const rimSample = thinned(rim, mostOfRim);
  const picture = thinned(all, mostOfPicture);
  put(rimSample, rimAt);
  put(picture, pictureAt);
  const values = 3 * (2 * radius + 1) ** 2;
  const nearestOf = (p: number, at: number, n: number, apart: number, third: boolean) =>
    Math.sqrt(k.nearestPatch(imgAt, w, p, at, n, apart, radius, third ? 1 : 0) / values);
  const among = rimSample
    .map((p) => nearestOf(p, rimAt, rimSample.length, apartPx.rim, false))
    .sort((a, b) => a - b);
  const limit = Math.min(most, Math.max(least, strangeTimes * among[among.length >> 1]));
  const out = new Uint8Array(w * h);
  let count = 0;
  const reach = Math.max(1, radius - 2);
  for (const p of all) {
    if (isRim(p)) continue;
    if (nearestOf(p, rimAt, rimSample.length, 0, false) <= limit) continue;
    if (nearestOf(p, pictureAt, picture.length, apartPx.picture, true) <= limit) continue;
    count++;
    for (let v = -reach; v <= reach; v++)
      for (let u = -reach; u <= reach; u++) {
        const q = p + v * w + u;
        if (near[q] > staysSquared) out[q] = 1;
      }
  }
  if (img.length / pixelBytes > keepPixels) kernel = null;
  return count > 0 && count <= mostStrange * all.length ? out : null;
}

/** WebAssembly memory never shrinks, so an instance that held more than this is let go. */
const keepPixels = 4_000_000;

/** At most so many of a list, evenly. */
function thinned(list: readonly number[], most: number): number[] {
  const every = Math.max(1, list.length / most);
  return Array.from({ length: Math.floor(list.length / every) }, (_, k) => list[Math.floor(k * every)]);
}
