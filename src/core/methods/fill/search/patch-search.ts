import { instantiateKernel, keepBytes, patchSearchWasm } from '../../../kernels';
import type { Random } from '../../../random';
import { select } from '../../../statistics';
import type { Shift } from '../cut/seam-cut';
import {
  type Frame,
  holePixels,
  indicesOf,
  keepsRule,
  pixelBytes,
  squaredDepth,
  targetCentres,
  usableCentres,
} from '../frame';
import { type Strips, stripsOf } from './strips';

interface Kernel {
  release(): void;
  claim(bytes: number): number;
  favour(table: number): void;
  variation(
    img: number,
    w: number,
    n: number,
    usable: number,
    r: number,
    share: number,
    columns: number,
    out: number,
  ): void;
  keepLayout(kinds: number, table: number, count: number): void;
  keepRules(index: number, homeX: number, homeY: number, across: number, table: number): void;
  score(img: number, w: number, targets: number, n: number, nnf: number, cost: number, r: number): void;
  pass(
    img: number,
    w: number,
    h: number,
    targets: number,
    n: number,
    usable: number,
    nnf: number,
    cost: number,
    r: number,
    backwards: number,
    window: number,
    seed: number,
  ): number;
  vote(
    img: number,
    w: number,
    h: number,
    holes: number,
    n: number,
    nnf: number,
    weight: number,
    r: number,
    out: number,
  ): void;
  bestByKnown(
    img: number,
    w: number,
    h: number,
    known: number,
    sources: number,
    n: number,
    p: number,
    r: number,
    scratch: number,
  ): number;
}

/** Of a source's variation, taken off its distance. Squared differences favour smooth sources (between unrelated patches
 *  they come to the sum of both variations), so that texture would be lost round after round. */
const variationShare = 0.25;
/** A pass is the last one when targets find fewer better sources than this in it, in the mean. */
const leastBetter = 0.04;

let kernel: (Kernel & { memory: WebAssembly.Memory }) | null = null;

/** Lets the kernel's memory go when it has grown large: another one is made when it is wanted. */
export function letGoOfSearch(): void {
  if (kernel && kernel.memory.buffer.byteLength > keepBytes) kernel = null;
}

/** Patches of one level and where each is best taken from. Lives in kernel memory; one at a time. */
export class PatchSearch {
  readonly targets: Int32Array;
  readonly holes: Int32Array;
  readonly usable: Uint8Array;
  private readonly at: Record<
    'img' | 'targets' | 'holes' | 'usable' | 'nnf' | 'cost' | 'weight' | 'out' | 'known' | 'bonus',
    number
  >;
  /** Squared, of hole pixels. */
  private readonly depth: Float32Array;
  /** Of each target. */
  private readonly rimFactor: Float32Array;
  private readonly k: Kernel & { memory: WebAssembly.Memory };
  private readonly strips: Strips[] = [];

  constructor(
    readonly frame: Frame,
    readonly radius: number,
    private readonly random: Random,
  ) {
    kernel ??= instantiateKernel<Kernel>(patchSearchWasm);
    this.k = kernel;
    const n = frame.w * frame.h;
    this.usable = usableCentres(frame, radius);
    this.targets = targetCentres(frame, radius);
    this.holes = holePixels(frame);
    this.k.release();
    const claim = (bytes: number) => {
      const at = this.k.claim(bytes);
      if (at === 0) throw new RangeError('The fill kernel ran out of memory.');
      return at;
    };
    // 64 bytes of room behind the picture: the patch loop loads two pixels at a time.
    this.at = {
      img: claim(n * pixelBytes + 64),
      targets: claim(this.targets.length * 4),
      holes: claim(this.holes.length * 4),
      usable: claim(n),
      nnf: claim(n * 4),
      cost: claim(n * 4),
      weight: claim(n * 4),
      out: claim(this.holes.length * 32),
      known: claim(n),
      bonus: claim(n * 4),
    };
    this.setRules(claim);
    this.setLayout(claim);
    this.bytes('img', n * pixelBytes).set(frame.img);
    this.ints('targets', this.targets.length).set(this.targets);
    this.ints('holes', this.holes.length).set(this.holes);
    this.bytes('usable', n).set(this.usable);
    this.ints('nnf', n).fill(-1);
    this.k.favour(0);
    this.k.variation(
      this.at.img,
      frame.w,
      n,
      this.at.usable,
      radius,
      variationShare,
      claim(frame.w * 16),
      this.at.bonus,
    );
    this.depth = squaredDepth(frame);
    this.rimFactor = Float32Array.from(this.targets, (p) => 1.3 ** -Math.min(60, Math.sqrt(this.depth[p])));
  }

  private setLayout(claim: (bytes: number) => number): void {
    const { layout } = this.frame;
    if (!layout) {
      this.k.keepLayout(0, 0, 0);
      return;
    }
    const kinds = claim(layout.kind.length);
    new Uint8Array(this.k.memory.buffer, kinds, layout.kind.length).set(layout.kind);
    const table = claim(layout.table.length * 4);
    const pixels = (2 * this.radius + 1) ** 2;
    new Int32Array(this.k.memory.buffer, table, layout.table.length).set(layout.table.map((v) => v * pixels));
    this.k.keepLayout(kinds, table, layout.count);
  }

  private setRules(claim: (bytes: number) => number): void {
    const { rules, views } = this.frame;
    if (!rules) {
      this.k.keepRules(0, 0, 0, 0, 0);
      return;
    }
    const floats = (values: ArrayLike<number>) => {
      const at = claim(values.length * 4);
      new Float32Array(this.k.memory.buffer, at, values.length).set(values);
      return at;
    };
    const index = claim(rules.index.length);
    new Uint8Array(this.k.memory.buffer, index, rules.index.length).set(rules.index);
    const table = floats(rules.list.flatMap((r) => [r.nx, r.ny, r.slack + 1e-3, r.period ?? -1]));
    this.k.keepRules(
      index,
      views ? floats(views.x) : 0,
      views ? floats(views.y) : 0,
      rules.across ? floats(rules.across) : 0,
      table,
    );
  }

  /** The picture as filled so far; a copy. */
  picture(): Uint8Array {
    return this.bytes('img', this.frame.w * this.frame.h * pixelBytes).slice();
  }

  /** Source index of each target, −1 elsewhere; a copy. */
  sources(): Int32Array {
    return this.ints('nnf', this.frame.w * this.frame.h).slice();
  }

  /** By how much targets differ from their sources, all but the worst tenth: squared 8-bit steps a pixel, as of the last
   *  {@link improve}. */
  unlike(): number {
    const cost = this.ints('cost', this.frame.w * this.frame.h);
    const costs = Int32Array.from(this.targets, (p) => cost[p]);
    return select(costs, costs.length, Math.floor(costs.length * 0.9)) / (2 * this.radius + 1) ** 2;
  }

  /** By how much each target differs from its source, as {@link unlike} counts it, one number a pixel of the frame, NaN where
   *  there is no target. */
  costs(): Float32Array {
    const pixels = (2 * this.radius + 1) ** 2;
    const cost = this.ints('cost', this.frame.w * this.frame.h);
    const out = new Float32Array(cost.length).fill(Number.NaN);
    for (const p of this.targets) out[p] = cost[p] / pixels;
    return out;
  }

  setPicture(img: Uint8Array): void {
    this.bytes('img', img.length).set(img);
  }

  setSources(sources: Int32Array): void {
    this.ints('nnf', sources.length).set(sources);
  }

  /** Any usable centre, by chance. */
  private readonly allUsable = (() => {
    let list: Int32Array | null = null;
    return () => {
      list ??= indicesOf(this.usable);
      return list;
    };
  })();

  get usableCount(): number {
    return this.allUsable().length;
  }

  /** Some source that a target may take, by chance; −1 when its rule leaves none. */
  chanceSource(p: number): number {
    const { frame } = this;
    const rule = frame.rules ? frame.rules.index[p] : 0;
    if (rule === 0) {
      const list = this.allUsable();
      return list[this.random.below(list.length)];
    }
    this.strips[rule] ??= stripsOf(frame, rule, this.allUsable());
    const { list, from, to } = this.strips[rule].near(p);
    if (to <= from) return -1;
    const start = this.random.below(to - from);
    for (let k = 0; k < to - from; k++) {
      const q = list[from + ((start + k) % (to - from))];
      if (keepsRule(frame, p, q)) return q;
    }
    return -1;
  }

  /** Starts at the coarsest level by peeling: from the rim inwards each hole pixel takes the colour at the centre of the
   *  patch that best agrees with what is known round it. */
  peel(mostSources = 2500): void {
    const { w, h } = this.frame;
    const all = this.allUsable();
    let candidates = all;
    if (all.length > mostSources) {
      candidates = new Int32Array(mostSources);
      for (let i = 0; i < mostSources; i++) candidates[i] = all[this.random.below(all.length)];
    }
    const listAt = this.k.claim(candidates.length * 4);
    const scratchAt = this.k.claim(((2 * this.radius + 1) ** 2 + 1) * 24);
    new Int32Array(this.k.memory.buffer, listAt, candidates.length).set(candidates);
    const known = this.bytes('known', w * h);
    known.set(this.frame.known);
    const { depth } = this;
    const order = Array.from(this.holes).sort((a, b) => depth[a] - depth[b] || a - b);
    const nnf = this.ints('nnf', w * h);
    const isTarget = new Uint8Array(w * h);
    for (const p of this.targets) isTarget[p] = 1;
    for (const p of this.targets) nnf[p] = this.chanceSource(p);
    for (const p of order) {
      const best = this.k.bestByKnown(
        this.at.img,
        w,
        h,
        this.at.known,
        listAt,
        candidates.length,
        p,
        this.radius,
        scratchAt,
      );
      if (best < 0) continue;
      const img = this.bytes('img', w * h * pixelBytes);
      img.copyWithin(p * pixelBytes, best * pixelBytes, (best + 1) * pixelBytes);
      known[p] = 1;
      if (isTarget[p]) nnf[p] = best;
    }
    this.rescore();
  }

  rescore(): void {
    const { at, frame } = this;
    this.k.score(at.img, frame.w, at.targets, this.targets.length, at.nnf, at.cost, this.radius);
  }

  /** PatchMatch passes over all targets, until hardly any finds a better source (Barnes, Shechtman, Finkelstein & Goldman 2009,
   *  doi:10.1145/1531326.1531330). @returns how many better ones a target found in the first pass, in the mean */
  improve(passes: number, window: number): number {
    const { at, frame } = this;
    this.k.favour(at.bonus);
    this.rescore();
    let first = 0;
    for (let i = 0; i < passes; i++) {
      const better = this.k.pass(
        at.img,
        frame.w,
        frame.h,
        at.targets,
        this.targets.length,
        at.usable,
        at.nnf,
        at.cost,
        this.radius,
        i & 1,
        window,
        1 + this.random.below(4294967295),
      );
      if (i === 0) first = better / this.targets.length;
      if (better < leastBetter * this.targets.length) break;
    }
    this.k.favour(0);
    this.rescore();
    return first;
  }

  /** New colours by weighted votes (Wexler, Shechtman & Irani 2007, doi:10.1109/TPAMI.2007.60, eq. 5 to 7): the weight of
   *  a patch falls with its cost d against the 75th percentile and with the distance of its centre to the rim. */
  vote(evenly = false): void {
    const { at, frame } = this;
    const { targets, rimFactor } = this;
    const cost = this.ints('cost', frame.w * frame.h);
    const weight = new Float32Array(this.k.memory.buffer, at.weight, frame.w * frame.h);
    let spread = 1;
    if (!evenly) {
      const costs = new Int32Array(targets.length);
      for (let k = 0; k < targets.length; k++) costs[k] = cost[targets[k]];
      spread = Math.max(1, select(costs, costs.length, Math.floor(costs.length * 0.75)));
    }
    for (let k = 0; k < targets.length; k++) {
      const p = targets[k];
      weight[p] = (evenly ? 1 : Math.exp(-cost[p] / (2 * spread))) * rimFactor[k] + 1e-20;
    }
    this.k.vote(
      at.img,
      frame.w,
      frame.h,
      at.holes,
      this.holes.length,
      at.nnf,
      at.weight,
      this.radius,
      at.out,
    );
  }

  private bytes(name: keyof PatchSearch['at'], count: number): Uint8Array {
    return new Uint8Array(this.k.memory.buffer, this.at[name], count);
  }

  private ints(name: keyof PatchSearch['at'], count: number): Int32Array {
    return new Int32Array(this.k.memory.buffer, this.at[name], count);
  }
}

/** Sources to begin with: each target takes the first of some shifts that it may take. */
export function shiftedSources(shifts: readonly Shift[], search: PatchSearch): void {
  const { frame, usable } = search;
  const out = new Int32Array(frame.w * frame.h).fill(-1);
  for (const p of search.targets) {
    const [x, y] = [p % frame.w, Math.floor(p / frame.w)];
    const shift = shifts.find(({ dx, dy }) => {
      const [u, v] = [x + dx, y + dy];
      if (u < 0 || v < 0 || u >= frame.w || v >= frame.h) return false;
      const q = v * frame.w + u;
      return usable[q] === 1 && keepsRule(frame, p, q);
    });
    out[p] = shift ? p + shift.dy * frame.w + shift.dx : search.chanceSource(p);
  }
  search.setSources(out);
}

/** Sources of a finer level from those of the coarser one. */
export function refineSources(coarse: Frame, sources: Int32Array, fine: PatchSearch): void {
  const { w, h } = fine.frame;
  const out = new Int32Array(w * h).fill(-1);
  for (const p of fine.targets) {
    const x = p % w;
    const y = Math.floor(p / w);
    const cx = Math.min(coarse.w - 1, x >> 1);
    const cy = Math.min(coarse.h - 1, y >> 1);
    const s = sources[cy * coarse.w + cx];
    let best = -1;
    if (s >= 0) {
      const sx = 2 * (s % coarse.w) + x - 2 * cx;
      const sy = 2 * Math.floor(s / coarse.w) + y - 2 * cy;
      const q = sy * w + sx;
      if (sx >= 0 && sy >= 0 && sx < w && sy < h && fine.usable[q] && keepsRule(fine.frame, p, q)) best = q;
    }
    out[p] = best >= 0 ? best : fine.chanceSource(p);
  }
  fine.setSources(out);
}
