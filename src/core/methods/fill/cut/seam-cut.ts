import { instantiateKernel, keepBytes, seamCutWasm } from '../../../kernels';
import type { Rect } from '../../../raster';
import type { Frame } from '../frame';

interface Kernel {
  release(): void;
  claim(bytes: number): number;
  setFrame(
    img: number,
    w: number,
    h: number,
    known: number,
    source: number,
    rules: number,
    x: number,
    y: number,
    stride: number,
    apart: number,
    across: number,
    table: number,
  ): void;
  nearestLabels(guide: number, pixels: number, n: number, steps: number, count: number, out: number): void;
  price(
    x0: number,
    y0: number,
    w: number,
    h: number,
    frame: number,
    label: number,
    steps: number,
    tables: number,
    costs: number,
    count: number,
    reach: number,
    open: number,
  ): void;
  guideScratch(w: number): number;
  sumGuide(guide: number, x0: number, y0: number, w: number, h: number, scratch: number, out: number): void;
  addGuideCost(
    guide: number,
    sums: number,
    x0: number,
    y0: number,
    w: number,
    h: number,
    dx: number,
    dy: number,
    out: number,
    scratch: number,
    texture: number,
    share: number,
  ): void;
  keepCheapest(n: number, label: number, costs: number, count: number, most: number, least: number): void;
  begin(w: number, h: number, again: number, nearPx: number, steps: number, count: number): number;
  expand(
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
}

let kernel: (Kernel & { memory: WebAssembly.Memory }) | null = null;

/** Lets the kernel's memory go when it has grown large: another one is made when it is wanted. */
export function letGoOfCut(): void {
  if (kernel && kernel.memory.buffer.byteLength > keepBytes) kernel = null;
}

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

/** What a hole is to look like once it is cut. */
export interface Wish {
  readonly guide: Uint8Array;
  /** How much it counts against joins, of the root of its unlikeness. */
  readonly share: number;
  /** A pixel chooses among so many labels, those that agree best with the guide. */
  readonly choices: number;
  /** What it costs to take what another pixel takes too, in 8-bit steps, when that one is no farther off, in pixels of the
   *  frame. */
  readonly again: { readonly cost: number; readonly nearPx: number };
  /** What else it costs to take one pixel from another, in 8-bit steps; null: nothing. */
  readonly cost: ((target: number, source: number) => number) | null;
}

/** The kernel's price of what is not allowed. */
const forbidden = 1 << 30;
/** Of the texture features against colour, in the data term. */
const textureWeight = 0.5;

/** Chooses shifts for the hole so that the pieces agree with the guide and join where the join shows least.
 *
 *  Data term: a share of the root of three unlikenesses over 7×7 between guide and shifted picture, of mean colours, of pattern
 *  (by correlation, so that a blurred guide does not speak for soft sources) and of texture; plus the jump to known
 *  neighbours, in colour and in slope. Smoothness: summed colour difference of both shifts at both pixels of a link,
 *  divided by the texture that hides it (after Kwatra et al. 2003, Graphcut Textures, doi:10.1145/882262.882264, eq. 1
 *  and 2: else smooth pieces, which join cheaply anywhere, crowd out textured ones). Minimised by α-expansion (Boykov, Veksler & Zabih 2001,
 *  doi:10.1109/34.969114) on augmenting paths (Boykov & Kolmogorov 2004, doi:10.1109/TPAMI.2004.60).
 *  Nothing is to be taken twice: what a pixel pays for that is counted anew before each expansion (after Kaspar et al. 2015,
 *  Self Tuning Texture Optimization, doi:10.1111/cgf.12565, who count how often patches are used).
 *  Of many labels, only so many as the wish says are open to a pixel, those that agree best with it; from the second sweep on,
 *  only labels that some pixel has.
 *
 *  @param start    labels to begin with, all allowed
 *  @param wish     what to be near to, or null: then only joins count
 *  @param reach    a pixel may take what pixels so many columns and rows away begin with; null: any label. One that
 *                  {@link mayTake} forbids is never taken
 *  Cost: a label's graph covers the box of the pixels that may take it.
 */
export function cutSeams(
  frame: Frame,
  start: ShiftMap,
  wish: Wish | null,
  sweeps: number,
  reach: number | null,
): ShiftMap {
  const box = boxOfLabels(frame, start.label);
  const { x, y, w, h } = box;
  const n = w * h;
  const count = start.shifts.length;
  // What a guide says is computed for all pixels at once.
  const { ints, total } =
    reach === null || wish ? wholeTables(box, count) : nearTables(frame, start, box, reach);
  const memory = begin(frame);
  const { k } = memory;
  const guideAt = wish ? memory.put(wish.guide, 64) : 0;
  const nodes = new Int32Array(n).fill(-1);
  const labels = new Int32Array(n);
  for (let row = 0, i = 0; row < h; row++)
    for (let f = (y + row) * frame.w + x; i < (row + 1) * w; f++, i++)
      if (start.label[f] >= 0) {
        nodes[i] = f;
        labels[i] = start.label[f];
      }
  const frameAt = memory.put(nodes);
  const labelAt = memory.put(labels);
  const stepsAt = memory.put(stepsOf(start.shifts));
  const shiftsAt = memory.put(Int32Array.from(start.shifts, (s) => s.dy * frame.w + s.dx));
  const tablesAt = memory.put(ints);
  const costsAt = memory.claim(total * 4);
  const openAt = memory.claim(n);
  k.price(x, y, w, h, frameAt, labelAt, stepsAt, tablesAt, costsAt, count, reach ?? -1, openAt);
  if (wish) {
    const { share, choices } = wish;
    const scratchAt = memory.claim(k.guideScratch(w));
    const sumsAt = memory.claim(n * 32);
    k.sumGuide(guideAt, x, y, w, h, scratchAt, sumsAt);
    for (const [l, { dx, dy }] of start.shifts.entries())
      k.addGuideCost(
        guideAt,
        sumsAt,
        x,
        y,
        w,
        h,
        dx,
        dy,
        costsAt + l * n * 4,
        scratchAt,
        textureWeight,
        share,
      );
    if (wish.cost) addCosts(memory.ints(costsAt, total), start.shifts, nodes, frame.w, wish.cost);
    if (count > choices) k.keepCheapest(n, labelAt, costsAt, count, choices, memory.claim(choices * 4));
  }
  const again = wish?.again ?? { cost: 0, nearPx: 0 };
  if (!k.begin(w, h, again.cost, Math.round(again.nearPx), stepsAt, count)) throw outOfMemory();
  for (let sweep = 0; sweep < sweeps; sweep++)
    if (k.expand(w, h, frameAt, labelAt, shiftsAt, tablesAt, costsAt, count, sweep) === 0) break;
  const chosen = memory.ints(labelAt, n);
  const label = new Int32Array(start.label.length).fill(-1);
  for (let i = 0; i < n; i++) if (nodes[i] >= 0) label[nodes[i]] = chosen[i];
  return { shifts: start.shifts, label };
}

function addCosts(
  costs: Int32Array,
  shifts: readonly Shift[],
  nodes: Int32Array,
  frameWidth: number,
  cost: (target: number, source: number) => number,
): void {
  const n = nodes.length;
  for (const [l, { dx, dy }] of shifts.entries()) {
    const away = dy * frameWidth + dx;
    for (let i = 0; i < n; i++) {
      const at = l * n + i;
      if (nodes[i] >= 0 && costs[at] < forbidden) costs[at] += Math.round(cost(nodes[i], nodes[i] + away));
    }
  }
}

/** For each pixel the label that it may take whose source is nearest to the guide in colour, −1 where there is none. */
export function nearestLabels(
  frame: Frame,
  guide: Uint8Array,
  pixels: Int32Array,
  shifts: readonly Shift[],
): Int32Array {
  const memory = begin(frame);
  const out = memory.claim(pixels.length * 4);
  memory.k.nearestLabels(
    memory.put(guide),
    memory.put(pixels),
    pixels.length,
    memory.put(stepsOf(shifts)),
    shifts.length,
    out,
  );
  return memory.ints(out, pixels.length).slice();
}

const stepsOf = (shifts: readonly Shift[]): Int32Array =>
  Int32Array.from(shifts.flatMap((s) => [s.dx, s.dy]));

const outOfMemory = () => new RangeError('The seam kernel ran out of memory.');

/** The kernel with a frame in its memory, and whatever else is put there. */
interface KernelMemory {
  readonly k: Kernel;
  claim(bytes: number): number;
  put(values: Uint8Array | Int32Array | Float32Array | Float64Array, room?: number): number;
  ints(at: number, count: number): Int32Array;
}

function begin(frame: Frame): KernelMemory {
  kernel ??= instantiateKernel<Kernel>(seamCutWasm);
  const k = kernel;
  k.release();
  const claim = (bytes: number) => {
    const at = k.claim(bytes);
    if (at === 0) throw outOfMemory();
    return at;
  };
  const put: KernelMemory['put'] = (values, room = 0) => {
    const at = claim(values.byteLength + room);
    new Uint8Array(k.memory.buffer, at, values.byteLength).set(
      new Uint8Array(values.buffer, values.byteOffset, values.byteLength),
    );
    return at;
  };
  const { rules, views } = frame;
  k.setFrame(
    put(frame.img, 64),
    frame.w,
    frame.h,
    put(frame.known),
    put(frame.source),
    rules ? put(rules.index) : 0,
    views ? put(views.x) : 0,
    views ? put(views.y) : 0,
    views ? views.stride : 0,
    views ? views.apart : 0,
    rules?.across ? put(rules.across) : 0,
    rules ? put(Float64Array.from(rules.list.flatMap((r) => [r.nx, r.ny, r.slack, r.period ?? -1]))) : 0,
  );
  return { k, claim, put, ints: (at, count) => new Int32Array(k.memory.buffer, at, count) };
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

/** Round the pixels that have a label to begin with. */
function nearTables(frame: Frame, { shifts, label }: ShiftMap, box: Rect, reach: number): CostTables {
  const { w, h } = box;
  const ints = new Int32Array(shifts.length * tableInts);
  for (let l = 0; l < shifts.length; l++) ints.set([w, h, 0, 0, 0], l * tableInts);
  for (let y = 0; y < h; y++)
    for (let x = 0, f = (box.y + y) * frame.w + box.x; x < w; x++, f++) {
      const at = label[f] * tableInts;
      if (at < 0) continue;
      if (x - reach < ints[at]) ints[at] = Math.max(0, x - reach);
      if (y - reach < ints[at + 1]) ints[at + 1] = Math.max(0, y - reach);
      if (x + reach >= ints[at + 2]) ints[at + 2] = Math.min(w, x + reach + 1);
      if (y + reach >= ints[at + 3]) ints[at + 3] = Math.min(h, y + reach + 1);
    }
  let total = 0;
  for (let l = 0; l < shifts.length; l++) {
    const at = l * tableInts;
    ints[at + 4] = total;
    total += Math.max(0, ints[at + 2] - ints[at]) * Math.max(0, ints[at + 3] - ints[at + 1]);
  }
  return { ints, total };
}

/** The smallest rectangle round all pixels that have a label. */
export function boxOfLabels({ w }: Frame, label: Int32Array): Rect {
  let [x0, y0, x1, y1] = [w, Infinity, -1, -1];
  for (let y = 0, row = 0; row < label.length; y++, row += w) {
    let first = 0;
    while (first < w && label[row + first] < 0) first++;
    if (first === w) continue;
    let last = w - 1;
    while (label[row + last] < 0) last--;
    x0 = Math.min(x0, first);
    x1 = Math.max(x1, last);
    y0 = Math.min(y0, y);
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
