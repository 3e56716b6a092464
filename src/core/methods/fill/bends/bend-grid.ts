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
  private readonly links: { readonly to: number; readonly stiff: number }[][] = [];
  /** What the links of each node weigh together. */
  private readonly weights: number[] = [];
  private readonly held: { readonly to: number; readonly sign: number; readonly fit: LineFit }[][] = [];

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
    const lines: { across: number; down: number; count: number }[] = [];
    this.eachRun((u, v, part, y, from, to) => {
      let [across, down] = [0, 0];
      for (let i = y * box.w + from; i < y * box.w + to; i++) {
        across += steps[2 * i];
        down += steps[2 * i + 1];
      }
      for (let k = 0; k < 4; k++) {
        const node = this.addNode(u + (k & 1), v + (k >> 1), part);
        lines[node] ??= { across: 0, down: 0, count: 0 };
        lines[node].across += across;
        lines[node].down += down;
        lines[node].count += to - from;
      }
    });
    const stiffness = (squared: number) =>
      1 + (alongLines.stiffest - 1) * Math.min(1, squared / alongLines.squared);
    for (const [key, node] of this.nodes) {
      const link = (other: number | undefined, squaredOf: (k: number) => number) => {
        if (other === undefined) return;
        this.link(node, other, stiffness((squaredOf(node) + squaredOf(other)) / 2));
      };
      if ((key % this.points) % this.across < this.across - 1)
        link(this.nodes.get(key + 1), (k) => lines[k].down / lines[k].count);
      if (key % this.points < this.points - this.across)
        link(this.nodes.get(key + this.across), (k) => lines[k].across / lines[k].count);
    }
    this.links.forEach((links, node) => {
      this.weights[node] = this.still + links.reduce((sum, { stiff }) => sum + stiff, 0);
    });
  }

  /** At a pixel of the box: the part is to be moved as the fit says, seen from the other part, or from where it is. Null is what is
   *  known, and where it is. */
  hold(x: number, y: number, part: number | null, other: number | null, fit: LineFit): void {
    const [own, to] = [part, other].map((one) => (one === null ? fixed : this.nearestNode(x, y, one)));
    if (own === undefined || own === fixed || to === undefined) return;
    this.held[own].push({ to, sign: 1, fit });
    if (to !== fixed) this.held[to].push({ to: own, sign: -1, fit });
  }

  /** @returns x and y for each pixel of the box, in pixels; 0 outside the area */
  settle(): Float32Array {
    const bends = this.solve();
    const { number, box } = this.parts;
    const out = new Float32Array(number.length * 2);
    this.eachRun((u, v, part, y, x0, x1) => {
      const corners = [0, 1, 2, 3].map((k) => this.nodeAt(u + (k & 1), v + (k >> 1), part)!);
      const fy = y / this.cellPx - v;
      for (let x = x0; x < x1; x++) {
        const fx = x / this.cellPx - u;
        for (let c = 0; c < 2; c++) {
          const [a, b, d, e] = corners.map((node) => bends[2 * node + c]);
          out[2 * (y * box.w + x) + c] = (1 - fy) * ((1 - fx) * a + fx * b) + fy * ((1 - fx) * d + fx * e);
        }
      }
    });
    return out;
  }

  /** x and y of every node's bend. */
  private solve(): Float64Array {
    const size = 2 * this.links.length;
    const bends = new Float64Array(size);
    const [rest, eased, way, along] = [0, 1, 2, 3].map(() => new Float64Array(size));
    const blocks = this.blocks(rest);
    ease(blocks, rest, eased);
    way.set(eased);
    let left = dot(rest, eased);
    const enough = settled * left;
    for (let step = 0; step < mostSteps && left > enough; step++) {
      this.apply(way, along);
      const far = left / dot(way, along);
      for (let i = 0; i < size; i++) {
        bends[i] += far * way[i];
        rest[i] -= far * along[i];
      }
      ease(blocks, rest, eased);
      const before = left;
      left = dot(rest, eased);
      for (let i = 0; i < size; i++) way[i] = eased[i] + (left / before) * way[i];
    }
    return bends;
  }

  private get still(): number {
    return (this.cellPx / fadePx) ** 2;
  }

  /** Each node's own block (xx, xy, yy), and what it is asked for. */
  private blocks(asked: Float64Array): Float64Array {
    const blocks = new Float64Array(3 * this.links.length);
    for (let node = 0; node < this.links.length; node++) {
      blocks[3 * node] = this.weights[node];
      blocks[3 * node + 2] = blocks[3 * node];
      for (const { sign, fit } of this.held[node]) {
        blocks[3 * node] += fit.xx;
        blocks[3 * node + 1] += fit.xy;
        blocks[3 * node + 2] += fit.yy;
        asked[2 * node] += sign * (fit.xx * fit.x + fit.xy * fit.y);
        asked[2 * node + 1] += sign * (fit.xy * fit.x + fit.yy * fit.y);
      }
    }
    return blocks;
  }

  private apply(bends: Float64Array, out: Float64Array): void {
    const { held, links, weights } = this;
    for (let node = 0; node < links.length; node++) {
      let [x, y] = [weights[node] * bends[2 * node], weights[node] * bends[2 * node + 1]];
      for (const { to, stiff } of links[node]) {
        x -= stiff * bends[2 * to];
        y -= stiff * bends[2 * to + 1];
      }
      for (const { to, fit } of held[node]) {
        const dx = bends[2 * node] - (to === fixed ? 0 : bends[2 * to]);
        const dy = bends[2 * node + 1] - (to === fixed ? 0 : bends[2 * to + 1]);
        x += fit.xx * dx + fit.xy * dy;
        y += fit.xy * dx + fit.yy * dy;
      }
      out[2 * node] = x;
      out[2 * node + 1] = y;
    }
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
    this.links.push([]);
    this.held.push([]);
    return this.nodes.set(key, this.nodes.size).size - 1;
  }

  private link(a: number, b: number, stiff: number): void {
    this.links[a].push({ to: b, stiff });
    this.links[b].push({ to: a, stiff });
  }
}

function dot(a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += a[i] * b[i];
  return sum;
}

/** Solves each node's own block (xx, xy, yy). */
function ease(blocks: Float64Array, from: Float64Array, out: Float64Array): void {
  for (let node = 0; 3 * node < blocks.length; node++) {
    const [xx, xy, yy] = [blocks[3 * node], blocks[3 * node + 1], blocks[3 * node + 2]];
    const scale = 1 / (xx * yy - xy * xy);
    out[2 * node] = scale * (yy * from[2 * node] - xy * from[2 * node + 1]);
    out[2 * node + 1] = scale * (xx * from[2 * node + 1] - xy * from[2 * node]);
  }
}

/** What is known is never moved. */
const fixed = -1;
