import { instantiateKernel, seamCutWasm } from '../../kernels';
import { type Frame, mayTake, pixelBytes } from './frame';

interface Kernel {
  release(): void;
  claim(bytes: number): number;
  beginGraph(w: number, h: number): number;
  expand(
    img: number,
    framePixels: number,
    w: number,
    h: number,
    frame: number,
    label: number,
    shifts: number,
    data: number,
    count: number,
  ): number;
  sumGuide(
    guide: number,
    frameW: number,
    frameH: number,
    x0: number,
    y0: number,
    w: number,
    h: number,
    out: number,
    scratch: number,
  ): void;
  addGuideCost(
    img: number,
    guide: number,
    sums: number,
    frameW: number,
    frameH: number,
    x0: number,
    y0: number,
    w: number,
    h: number,
    dx: number,
    dy: number,
    out: number,
    scratch: number,
    work: number,
    texture: number,
  ): void;
}

let kernel: (Kernel & { memory: WebAssembly.Memory }) | null = null;

export interface Shift {
  readonly dx: number;
  readonly dy: number;
}

/** A choice of shift for every hole pixel of a frame. */
export interface ShiftMap {
  readonly shifts: readonly Shift[];
  /** Index into `shifts` for each pixel of the frame, −1 outside the hole. */
  readonly label: Int32Array;
}

/** Of the texture features against colour, in the data term. */
const textureWeight = 0.5;
const forbidden = 1 << 30;

/** Chooses shifts for the hole so that the pieces agree with the guide and join where the join shows least.
 *
 *  Data term: half the root of three unlikenesses over 7×7 between guide and shifted picture, of mean colours, of pattern
 *  (by correlation, so that a blurred guide does not speak for soft sources) and of texture; plus the jump to known
 *  neighbours, in colour and in slope. Smoothness: summed colour difference of both shifts at both pixels of a link,
 *  divided by the texture that hides it (after Kwatra et al. 2003, Graphcut Textures, doi:10.1145/882262.882264, eq. 1
 *  and 2: else smooth pieces, which join cheaply anywhere, crowd out textured ones). Minimised by α-expansion (Boykov, Veksler & Zabih 2001,
 *  doi:10.1109/34.969114) on augmenting paths (Boykov & Kolmogorov 2004, doi:10.1109/TPAMI.2004.60).
 *
 *  @param start    labels to begin with, all allowed
 *  @param allowed  whether a pixel may take a label; one that {@link mayTake} forbids is never taken
 *  @param guide    picture to be near to, or null: then only joins count
 */
export function cutSeams(
  frame: Frame,
  start: ShiftMap,
  guide: Uint8Array | null,
  sweeps: number,
  allowed: (pixel: number, label: number) => boolean,
): ShiftMap {
  const { w: fw, h: fh } = frame;
  const box = boxOf(start.label, fw);
  const n = box.w * box.h;
  const count = start.shifts.length;
  kernel ??= instantiateKernel<Kernel>(seamCutWasm);
  const k = kernel;
  k.release();
  const claim = (bytes: number) => {
    const at = k.claim(bytes);
    if (at === 0) throw new RangeError('The seam kernel ran out of memory.');
    return at;
  };
  const imgAt = claim(frame.img.length + 64);
  const guideAt = guide ? claim(guide.length + 64) : 0;
  const frameAt = claim(n * 4);
  const labelAt = claim(n * 4);
  const shiftsAt = claim(count * 4);
  const dataAt = claim(n * count * 4);
  const scratchAt = guide ? claim(2 * (box.w + 6) * (box.h + 6) * 4) : 0;
  const sumsAt = guide ? claim(6 * n * 4) : 0;
  const workAt = guide ? claim(7 * n * 4) : 0;
  if (!k.beginGraph(box.w, box.h)) throw new RangeError('The seam kernel ran out of memory.');
  const memory = k.memory.buffer;
  new Uint8Array(memory, imgAt, frame.img.length).set(frame.img);
  if (guide) new Uint8Array(memory, guideAt, guide.length).set(guide);
  const nodes = new Int32Array(memory, frameAt, n);
  const labels = new Int32Array(memory, labelAt, n);
  const shiftIndex = new Int32Array(memory, shiftsAt, count);
  start.shifts.forEach((s, i) => {
    shiftIndex[i] = s.dy * fw + s.dx;
  });
  for (let y = 0; y < box.h; y++)
    for (let x = 0; x < box.w; x++) {
      const f = (box.y + y) * fw + box.x + x;
      const own = start.label[f];
      nodes[y * box.w + x] = own >= 0 ? f : -1;
      labels[y * box.w + x] = Math.max(0, own);
    }
  if (guide) k.sumGuide(guideAt, fw, fh, box.x, box.y, box.w, box.h, sumsAt, scratchAt);
  const data = new Int32Array(memory, dataAt, n * count);
  const atRim = nodes.map((f) => (f >= 0 && touchesKnown(frame, f) ? 1 : 0));
  for (let l = 0; l < count; l++) {
    const { dx, dy } = start.shifts[l];
    for (let i = 0; i < n; i++) {
      const f = nodes[i];
      if (f < 0) continue;
      if (!allowed(f, l) || !mayTake(frame, f, dx, dy)) data[l * n + i] = forbidden;
      else data[l * n + i] = atRim[i] ? rimJump(frame, f, dx, dy) : 0;
    }
    if (guide)
      k.addGuideCost(
        imgAt,
        guideAt,
        sumsAt,
        fw,
        fh,
        box.x,
        box.y,
        box.w,
        box.h,
        dx,
        dy,
        dataAt + l * n * 4,
        scratchAt,
        workAt,
        textureWeight,
      );
  }
  for (let sweep = 0; sweep < sweeps; sweep++)
    if (k.expand(imgAt, fw * fh, box.w, box.h, frameAt, labelAt, shiftsAt, dataAt, count) === 0) break;
  const out = new Int32Array(start.label.length).fill(-1);
  for (let i = 0; i < n; i++) if (nodes[i] >= 0) out[nodes[i]] = labels[i];
  return { shifts: start.shifts, label: out };
}

function touchesKnown({ w, h, known }: Frame, f: number): boolean {
  const x = f % w;
  return (
    (x > 0 && known[f - 1] === 1) ||
    (x < w - 1 && known[f + 1] === 1) ||
    (f >= w && known[f - w] === 1) ||
    (f < w * (h - 1) && known[f + w] === 1)
  );
}

/** Difference, at the known neighbours of a pixel, between what is there and what its shift would put there: in colour,
 *  and in the step from one known pixel further out. */
function rimJump(frame: Frame, f: number, dx: number, dy: number): number {
  const { w, h, img, known } = frame;
  const x = f % w;
  const y = Math.floor(f / w);
  let sum = 0;
  for (let d = 0; d < 4; d++) {
    const nx = x + (d === 0 ? -1 : d === 1 ? 1 : 0);
    const ny = y + (d === 2 ? -1 : d === 3 ? 1 : 0);
    if (nx < 0 || ny < 0 || nx >= w || ny >= h || !known[ny * w + nx]) continue;
    const sx = nx + dx;
    const sy = ny + dy;
    if (sx < 0 || sy < 0 || sx >= w || sy >= h) continue;
    const a = (ny * w + nx) * pixelBytes;
    const b = (sy * w + sx) * pixelBytes;
    for (let c = 0; c < 3; c++) sum += Math.abs(img[a + c] - img[b + c]);
    const [ox, oy] = [2 * nx - x, 2 * ny - y];
    const [tx, ty] = [ox + dx, oy + dy];
    if (ox < 0 || oy < 0 || ox >= w || oy >= h || !known[oy * w + ox]) continue;
    if (tx < 0 || ty < 0 || tx >= w || ty >= h) continue;
    const further = (oy * w + ox) * pixelBytes - a;
    const beyond = (ty * w + tx) * pixelBytes - b;
    for (let c = 0; c < 3; c++)
      sum += Math.abs(img[a + c] - img[b + c] - img[a + further + c] + img[b + beyond + c]);
  }
  return sum;
}

function boxOf(label: Int32Array, w: number) {
  let x0 = Infinity;
  let y0 = Infinity;
  let x1 = -1;
  let y1 = -1;
  for (let i = 0; i < label.length; i++) {
    if (label[i] < 0) continue;
    const x = i % w;
    const y = Math.floor(i / w);
    x0 = Math.min(x0, x);
    y0 = Math.min(y0, y);
    x1 = Math.max(x1, x);
    y1 = Math.max(y1, y);
  }
  return { x: x0, y: y0, w: x1 - x0 + 1, h: y1 - y0 + 1 };
}

/** The most frequent shifts of a patch field over the hole's pixels of one rule; near neighbours of a chosen one are
 *  left out, so that the list is varied (after He & Sun 2012, Statistics of Patch Offsets, doi:10.1007/978-3-642-33709-3_2). */
export function frequentShifts(frame: Frame, sources: Int32Array, most: number, rule = 0): Shift[] {
  const counts = new Map<number, number>();
  const { w } = frame;
  const span = 2 * Math.max(frame.w, frame.h) + 1;
  for (let p = 0; p < sources.length; p++) {
    const s = sources[p];
    if (s < 0 || !frame.hole[p] || (frame.rules ? frame.rules.index[p] : 0) !== rule) continue;
    const dx = (s % w) - (p % w);
    const dy = Math.floor(s / w) - Math.floor(p / w);
    const key = (dy + span) * 2 * span + dx + span;
    counts.set(key, (counts.get(key) ?? 0) + 1);
  }
  const sorted = [...counts].sort((a, b) => b[1] - a[1] || a[0] - b[0]);
  const chosen: Shift[] = [];
  for (const [key] of sorted) {
    const dx = (key % (2 * span)) - span;
    const dy = Math.floor(key / (2 * span)) - span;
    if (chosen.some((c) => Math.abs(c.dx - dx) <= 1 && Math.abs(c.dy - dy) <= 1)) continue;
    chosen.push({ dx, dy });
    if (chosen.length === most) break;
  }
  return chosen;
}
