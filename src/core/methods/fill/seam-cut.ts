import { instantiateKernel, seamCutWasm } from '../../kernels';
import type { Rect } from '../../raster';
import { type Frame, mayTake, pixelBytes, touches } from './frame';

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
    tables: number,
    costs: number,
    count: number,
    usedOnly: number,
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
/** A pixel chooses among so many labels, those that agree best with the guide. */
const mostChoices = 12;

/** Chooses shifts for the hole so that the pieces agree with the guide and join where the join shows least.
 *
 *  Data term: half the root of three unlikenesses over 7×7 between guide and shifted picture, of mean colours, of pattern
 *  (by correlation, so that a blurred guide does not speak for soft sources) and of texture; plus the jump to known
 *  neighbours, in colour and in slope. Smoothness: summed colour difference of both shifts at both pixels of a link,
 *  divided by the texture that hides it (after Kwatra et al. 2003, Graphcut Textures, doi:10.1145/882262.882264, eq. 1
 *  and 2: else smooth pieces, which join cheaply anywhere, crowd out textured ones). Minimised by α-expansion (Boykov, Veksler & Zabih 2001,
 *  doi:10.1109/34.969114) on augmenting paths (Boykov & Kolmogorov 2004, doi:10.1109/TPAMI.2004.60).
 *  Of many labels, only the {@link mostChoices} that agree best with the guide are open to a pixel; from the second sweep on,
 *  only labels that some pixel has.
 *
 *  @param start    labels to begin with, all allowed
 *  @param choice   which labels a pixel may take, null: any; one that {@link mayTake} forbids is never taken
 *  @param guide    picture to be near to, or null: then only joins count
 *  Cost: a label's graph covers the box of the pixels that may take it.
 */
export function cutSeams(
  frame: Frame,
  start: ShiftMap,
  guide: Uint8Array | null,
  sweeps: number,
  choice: LabelSets | null,
): ShiftMap {
  const { w: fw, h: fh } = frame;
  const box = boxOfLabels(frame, start.label);
  const n = box.w * box.h;
  const count = start.shifts.length;
  // What the guide says is computed for all pixels at once.
  const { ints, total } = choice && !guide ? tablesOf(choice, box, count) : wholeTables(box, count);
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
  const tablesAt = claim(count * tableInts * 4);
  const costsAt = claim(total * 4);
  const scratchAt = guide ? claim(2 * (box.w + 6) * (box.h + 6) * 4) : 0;
  const sumsAt = guide ? claim(6 * n * 4) : 0;
  const workAt = guide ? claim(7 * n * 4) : 0;
  if (!k.beginGraph(box.w, box.h)) throw new RangeError('The seam kernel ran out of memory.');
  const memory = k.memory.buffer;
  new Uint8Array(memory, imgAt, frame.img.length).set(frame.img);
  if (guide) new Uint8Array(memory, guideAt, guide.length).set(guide);
  const nodes = new Int32Array(memory, frameAt, n);
  const labels = new Int32Array(memory, labelAt, n);
  new Int32Array(memory, shiftsAt, count).set(start.shifts.map((s) => s.dy * fw + s.dx));
  new Int32Array(memory, tablesAt, count * tableInts).set(ints);
  const costs = new Int32Array(memory, costsAt, total).fill(forbidden);
  if (guide) k.sumGuide(guideAt, fw, fh, box.x, box.y, box.w, box.h, sumsAt, scratchAt);
  for (let i = 0; i < n; i++) {
    const x = i % box.w;
    const f = (box.y + (i - x) / box.w) * fw + box.x + x;
    const own = start.label[f];
    nodes[i] = own >= 0 ? f : -1;
    labels[i] = Math.max(0, own);
  }
  const atRim = Uint8Array.from(nodes, (f) => (f >= 0 && touches(frame.known, fw, fh, f) ? 1 : 0));
  /** What a label costs a pixel before anything else. */
  const price = (i: number, x: number, y: number, l: number) => {
    const f = nodes[i];
    const { dx, dy } = start.shifts[l];
    if (!mayTake(frame, f, dx, dy)) return;
    const at = l * tableInts;
    const [left, top, right, from] = [ints[at], ints[at + 1], ints[at + 2], ints[at + 4]];
    costs[from + (y - top) * (right - left) + x - left] = atRim[i] ? rimJump(frame, f, dx, dy) : 0;
  };
  for (let y = 0, i = 0; y < box.h; y++)
    for (let x = 0; x < box.w; x++, i++) {
      if (nodes[i] < 0) continue;
      if (choice) choice.each(x, y, (l) => price(i, x, y, l));
      else for (let l = 0; l < count; l++) price(i, x, y, l);
    }
  if (guide)
    for (const [l, { dx, dy }] of start.shifts.entries())
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
        costsAt + l * n * 4,
        scratchAt,
        workAt,
        textureWeight,
      );
  if (guide) keepCheapest(costs, labels, n);
  for (let sweep = 0; sweep < sweeps; sweep++)
    if (
      k.expand(imgAt, fw * fh, box.w, box.h, frameAt, labelAt, shiftsAt, tablesAt, costsAt, count, sweep) ===
      0
    )
      break;
  const out = new Int32Array(start.label.length).fill(-1);
  for (let i = 0; i < n; i++) if (nodes[i] >= 0) out[nodes[i]] = labels[i];
  return { shifts: start.shifts, label: out };
}

/** Leaves each pixel the labels that cost it least, and the one that it has. */
function keepCheapest(costs: Int32Array, labels: Int32Array, n: number): void {
  if (costs.length / n <= mostChoices) return;
  /** In rising order. */
  const least = new Int32Array(mostChoices);
  for (let i = 0; i < n; i++) {
    least.fill(forbidden);
    for (let at = i; at < costs.length; at += n) {
      const v = costs[at];
      let k = mostChoices - 1;
      if (v >= least[k]) continue;
      for (; k > 0 && least[k - 1] > v; k--) least[k] = least[k - 1];
      least[k] = v;
    }
    const limit = least[mostChoices - 1];
    for (let l = 0, at = i; at < costs.length; l++, at += n)
      if (costs[at] > limit && l !== labels[i]) costs[at] = forbidden;
  }
}

/** For each label, where those are that may take it, and where their costs begin. */
interface CostTables {
  /** {@link tableInts} a label: left, top, right and bottom in the box of the labels, and the beginning. */
  readonly ints: Int32Array;
  readonly total: number;
}

const tableInts = 5;

function wholeTables({ w, h }: Rect, count: number): CostTables {
  const ints = new Int32Array(count * tableInts);
  for (let l = 0; l < count; l++) ints.set([0, 0, w, h, l * w * h], l * tableInts);
  return { ints, total: count * w * h };
}

function tablesOf(choice: LabelSets, { w, h }: Rect, count: number): CostTables {
  const ints = new Int32Array(count * tableInts);
  for (let l = 0; l < count; l++) ints.set([w, h, 0, 0, 0], l * tableInts);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      choice.each(x, y, (l) => {
        const at = l * tableInts;
        if (x < ints[at]) ints[at] = x;
        if (y < ints[at + 1]) ints[at + 1] = y;
        if (x >= ints[at + 2]) ints[at + 2] = x + 1;
        if (y >= ints[at + 3]) ints[at + 3] = y + 1;
      });
  let total = 0;
  for (let l = 0; l < count; l++) {
    const at = l * tableInts;
    ints[at + 4] = total;
    total += Math.max(0, ints[at + 2] - ints[at]) * Math.max(0, ints[at + 3] - ints[at + 1]);
  }
  return { ints, total };
}

/** Some of the labels for each pixel of a box. */
export class LabelSets {
  private readonly words: number;
  private bits: Int32Array;

  constructor(
    private readonly box: { readonly w: number; readonly h: number },
    labels: number,
  ) {
    this.words = Math.ceil(labels / 32);
    this.bits = new Int32Array(box.w * box.h * this.words);
  }

  /** Of pixel x, y of the box. */
  add(x: number, y: number, label: number): void {
    this.bits[(y * this.box.w + x) * this.words + (label >> 5)] |= 1 << (label & 31);
  }

  each(x: number, y: number, visit: (label: number) => void): void {
    const at = (y * this.box.w + x) * this.words;
    for (let k = 0; k < this.words; k++)
      for (let left = this.bits[at + k]; left !== 0; left &= left - 1)
        visit(32 * k + 31 - Math.clz32(left & -left));
  }

  /** Gives each pixel what any pixel up to so many columns and rows away has. */
  spread(reach: number): void {
    const { w, h } = this.box;
    const { words } = this;
    for (const [step, along] of [
      [1, w],
      [w, h],
    ]) {
      const out = new Int32Array(this.bits.length);
      for (let p = 0; p < w * h; p++) {
        const at = step === 1 ? p % w : Math.floor(p / w);
        const [from, to] = [Math.max(0, at - reach) - at, Math.min(along - 1, at + reach) - at];
        for (let q = p + from * step; q <= p + to * step; q += step)
          for (let k = 0; k < words; k++) out[p * words + k] |= this.bits[q * words + k];
      }
      this.bits = out;
    }
  }
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

/** The smallest rectangle round all pixels that have a label. */
export function boxOfLabels({ w }: Frame, label: Int32Array): Rect {
  let [x0, y0, x1, y1] = [w, Infinity, -1, -1];
  for (let i = 0; i < label.length; i++) {
    if (label[i] < 0) continue;
    const x = i % w;
    const y = (i - x) / w;
    if (x < x0) x0 = x;
    if (x > x1) x1 = x;
    if (y < y0) y0 = y;
    y1 = y;
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
