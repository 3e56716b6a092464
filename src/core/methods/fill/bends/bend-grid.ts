import { bendsWasm, keptKernel } from '../../../kernels';
import type { LineFit } from './line-fit';
import type { Parts } from './parts';

/** Bends are found at points so many pixels apart, farther where the area would have more than so many. */
const leastCellPx = 4;
const mostCells = 3000;
/** From point to point along a line a bend is up to so many times as stiff as over plain ground: with a mean squared step of brightness
 *  across it of so many squared 8-bit steps. A line is bent over its length, not at one place. */
const alongLines = { stiffest: 30, squared: 100 };
/** A bend has faded so far from what asks for it, in pixels. */
const fadePx = 60;
const mostSteps = 200;
/** What is left to do, of what there was, when it is done. */
const settled = 1e-5;

/** How parts are bent: smoothly within each, as lines at joins ask for, and not at all far from those. The sum of the squared steps
 *  from point to point, of the firmness times the squared miss at each join, and of the squared bends themselves, a little, is least
 *  (conjugate gradients, preconditioned by each node's own block). That what lines ask for at a join spreads smoothly inwards is after
 *  Jia & Tang 2008, Image Stitching Using Structure Deformation, doi:10.1109/TPAMI.2007.70729; the ties between parts and the stiff
 *  lines are ours. */
export class BendGrid {
  private readonly cellPx: number;
  private readonly across: number;
  private readonly points: number;
  /** The node of each part at each point that lies round one of its pixels. */
  private readonly nodes = new Map<number, number>();
  private readonly links: Links = { from: [], to: [], values: [] };
  /** xx, xy and yy of each, and what is asked in x and y. */
  private readonly held: Links = { from: [], to: [], values: [] };

  /** @param steps  of the area's box: the squared steps of brightness across and down of what each pixel is copied from, in squared
   *                8-bit steps */
  constructor(
    private readonly parts: Parts,
    steps: Float32Array,
  ) {
    const { box } = parts;
    this.cellPx = Math.max(leastCellPx, Math.ceil(Math.sqrt((box.w * box.h) / mostCells)));
    this.across = Math.ceil(box.w / this.cellPx) + 1;
    this.points = this.across * (Math.ceil(box.h / this.cellPx) + 1);
    const across: number[] = [];
    const down: number[] = [];
    const count: number[] = [];
    this.eachRun((u, v, part, y, from, to) => {
      let itsAcross = 0;
      let itsDown = 0;
      for (let i = y * box.w + from; i < y * box.w + to; i++) {
        itsAcross += steps[2 * i];
        itsDown += steps[2 * i + 1];
      }
      for (let k = 0; k < 4; k++) {
        const node = this.addNode(u + (k & 1), v + (k >> 1), part);
        across[node] = (across[node] ?? 0) + itsAcross;
        down[node] = (down[node] ?? 0) + itsDown;
        count[node] = (count[node] ?? 0) + to - from;
      }
    });
    const link = (a: number, b: number | undefined, squared: readonly number[]) => {
      if (b === undefined) return;
      const share = Math.min(1, (squared[a] / count[a] + squared[b] / count[b]) / 2 / alongLines.squared);
      const stiff = 1 + (alongLines.stiffest - 1) * share;
      add(this.links, a, b, stiff);
      add(this.links, b, a, stiff);
    };
    for (const [key, node] of this.nodes) {
      if ((key % this.points) % this.across < this.across - 1) link(node, this.nodes.get(key + 1), down);
      if (key % this.points < this.points - this.across)
        link(node, this.nodes.get(key + this.across), across);
    }
  }

  /** At a pixel of the box: the part is to be moved as the fit says, seen from the other part, or from where it is. Null is what is
   *  known, and where it is. */
  hold(x: number, y: number, part: number | null, other: number | null, fit: LineFit): void {
    const own = part === null ? fixed : this.nearestNode(x, y, part);
    const to = other === null ? fixed : this.nearestNode(x, y, other);
    if (own === undefined || own === fixed || to === undefined) return;
    const [askedX, askedY] = [fit.xx * fit.x + fit.xy * fit.y, fit.xy * fit.x + fit.yy * fit.y];
    add(this.held, own, to, fit.xx, fit.xy, fit.yy, askedX, askedY);
    if (to !== fixed) add(this.held, to, own, fit.xx, fit.xy, fit.yy, -askedX, -askedY);
  }

  /** @returns x and y for each pixel of the box, in pixels; 0 outside the area */
  settle(): Float32Array {
    const bends = this.solve();
    const { number, box } = this.parts;
    const out = new Float32Array(number.length * 2);
    this.eachRun((u, v, part, y, x0, x1) => {
      const a = 2 * this.nodeAt(u, v, part)!;
      const b = 2 * this.nodeAt(u + 1, v, part)!;
      const d = 2 * this.nodeAt(u, v + 1, part)!;
      const e = 2 * this.nodeAt(u + 1, v + 1, part)!;
      const fy = y / this.cellPx - v;
      for (let x = x0, i = 2 * (y * box.w + x0); x < x1; x++) {
        const fx = x / this.cellPx - u;
        for (let c = 0; c < 2; c++, i++)
          out[i] =
            (1 - fy) * ((1 - fx) * bends[a + c] + fx * bends[b + c]) +
            fy * ((1 - fx) * bends[d + c] + fx * bends[e + c]);
      }
    });
    return out;
  }

  /** x and y of every node's bend. */
  private solve(): Float64Array {
    const count = this.nodes.size;
    const links = byNode(this.links, count);
    const held = byNode(this.held, count);
    const still = (this.cellPx / fadePx) ** 2;
    const weights = Float64Array.from({ length: count }, (_, node) => {
      let sum = 0;
      for (let k = links.start[node]; k < links.start[node + 1]; k++) sum += links.values[k];
      return still + sum;
    });
    const given = [weights, links.start, links.to, links.values, held.start, held.to, held.values];
    const sizes = [...given.map(({ byteLength }) => byteLength), 88 * count, 16 * count];
    const { kernel, buffer, at } = bendsKernel(sizes);
    given.forEach((array, i) => {
      new Uint8Array(buffer).set(new Uint8Array(array.buffer), at[i]);
    });
    const out = new Float64Array(buffer, at[8], 2 * count).fill(0);
    kernel.solve(count, at[0], at[1], at[2], at[3], at[4], at[5], at[6], mostSteps, settled, at[7], at[8]);
    return out.slice();
  }

  /** Goes over the area by runs of pixels of one part within one cell. */
  private eachRun(
    visit: (u: number, v: number, part: number, y: number, from: number, to: number) => void,
  ): void {
    const { box, number } = this.parts;
    for (let y = 0; y < box.h; y++)
      for (let x = 0, end: number; x < box.w; x = end) {
        const part = number[y * box.w + x];
        const u = Math.floor(x / this.cellPx);
        const cellEnd = Math.min(box.w, (u + 1) * this.cellPx);
        end = x + 1;
        while (end < cellEnd && number[y * box.w + end] === part) end++;
        if (part >= 0) visit(u, Math.floor(y / this.cellPx), part, y, x, end);
      }
  }

  private nearestNode(x: number, y: number, part: number): number | undefined {
    const near = this.nodeAt(Math.round(x / this.cellPx), Math.round(y / this.cellPx), part);
    if (near !== undefined) return near;
    const [u, v] = [Math.floor(x / this.cellPx), Math.floor(y / this.cellPx)];
    for (let k = 0; k < 4; k++) {
      const node = this.nodeAt(u + (k & 1), v + (k >> 1), part);
      if (node !== undefined) return node;
    }
    return undefined;
  }

  private readonly keyOf = (u: number, v: number, part: number) => part * this.points + v * this.across + u;

  private nodeAt(u: number, v: number, part: number): number | undefined {
    return this.nodes.get(this.keyOf(u, v, part));
  }

  private addNode(u: number, v: number, part: number): number {
    const key = this.keyOf(u, v, part);
    const known = this.nodes.get(key);
    if (known !== undefined) return known;
    return this.nodes.set(key, this.nodes.size).size - 1;
  }
}

/** What ties one node to another, in any order: one value or more for each tie. */
interface Links {
  readonly from: number[];
  readonly to: number[];
  readonly values: number[];
}

function add({ from, to, values }: Links, a: number, b: number, ...value: number[]): void {
  from.push(a);
  to.push(b);
  values.push(...value);
}

/** The links of each node together, in the order in which they came. */
function byNode({ from, to, values }: Links, count: number) {
  const each = from.length > 0 ? values.length / from.length : 0;
  const start = new Int32Array(count + 1);
  for (const node of from) start[node + 1]++;
  for (let node = 0; node < count; node++) start[node + 1] += start[node];
  const next = start.slice();
  const out = { start, to: new Int32Array(to.length), values: new Float64Array(values.length) };
  for (let k = 0; k < from.length; k++) {
    const at = next[from[k]]++;
    out.to[at] = to[k];
    for (let c = 0; c < each; c++) out.values[at * each + c] = values[k * each + c];
  }
  return out;
}

export interface BendKernel {
  release(): void;
  claim(bytes: number): number;
  solve(
    nodes: number,
    weights: number,
    linkStart: number,
    linkTo: number,
    stiff: number,
    heldStart: number,
    heldTo: number,
    held: number,
    mostSteps: number,
    settled: number,
    room: number,
    bends: number,
  ): void;
}

const bendsKernel = keptKernel<BendKernel>(bendsWasm);

/** What is known is never moved. */
const fixed = -1;
