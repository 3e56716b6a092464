import type { CutGraph } from './min-cut';
import type { Ground } from './way';

/** What it costs to part two pixels of equal colour, where pulls are differences of log-likelihoods. */
const linkStrength = 25;

/** Where an outline may run: only there labels change. */
export interface Band {
  readonly labels: Uint8Array;
  readonly free: Uint8Array;
}

/** Pixels to be parted, and what it costs to part them from each other. */
export interface Links extends Omit<CutGraph, 'pull'> {
  /** The pixel of each node. */
  readonly nodes: readonly number[];
  /** For each node what the band's fixed neighbours pull. */
  readonly fromBand: Float32Array;
}

/** Neighbours in the order that a cut wants: the k-th is opposite to the (7 − k)-th. */
export const steps = [
  [-1, -1],
  [0, -1],
  [1, -1],
  [-1, 0],
  [1, 0],
  [-1, 1],
  [0, 1],
  [1, 1],
] as const;

/** The links between the pixels of a picture and their neighbours.
 *
 *  @param band  null: all pixels are free
 *  @param cost  of parting two pixels side by side; those that touch at a corner cost less as they are farther
 */
export function linksOf(
  { w, h }: { readonly w: number; readonly h: number },
  band: Band | null,
  cost: (one: number, other: number) => number,
): Links {
  const index = new Int32Array(w * h).fill(-1);
  const nodes: number[] = [];
  for (let i = 0; i < w * h; i++) {
    if (band && !band.free[i]) continue;
    index[i] = nodes.length;
    nodes.push(i);
  }
  const neighbours = new Int32Array(8 * nodes.length).fill(-1);
  const links = new Float32Array(8 * nodes.length);
  const fromBand = new Float32Array(nodes.length);
  nodes.forEach((i, node) => {
    const x = i % w;
    const y = (i - x) / w;
    for (let k = 0; k < 8; k++) {
      const [dx, dy] = steps[k];
      if (x + dx < 0 || x + dx >= w || y + dy < 0 || y + dy >= h) continue;
      const j = i + dy * w + dx;
      const other = index[j];
      if (other >= 0 && k < 4) continue;
      const parting = cost(i, j) / (dx !== 0 && dy !== 0 ? Math.SQRT2 : 1);
      if (other >= 0) {
        neighbours[8 * node + k] = other;
        neighbours[8 * other + 7 - k] = node;
        links[8 * node + k] = parting;
        links[8 * other + 7 - k] = parting;
      } else if (band) fromBand[node] += band.labels[j] ? parting : -parting;
    }
  });
  return { nodes, neighbours, links, fromBand };
}

/** Labels after a cut: those of the band, with its free pixels parted anew. */
export function partedLabels({ nodes }: Links, parted: Uint8Array, labels: Uint8Array): Uint8Array {
  const out = labels.slice();
  nodes.forEach((i, node) => {
    out[i] = parted[node];
  });
  return out;
}

/** What it costs to part neighbours: little across an edge of the picture, by the mean difference of its neighbours.
 *
 *  Source: Boykov & Jolly 2001, doi:10.1109/ICCV.2001.937505; the mean for a scale: Rother, Kolmogorov & Blake 2004,
 *  doi:10.1145/1186562.1015720.
 */
export function costAcrossEdges({ w, h, values }: Ground): (one: number, other: number) => number {
  let sum = 0;
  let count = 0;
  for (let y = 0; y < h - 1; y += 2)
    for (let x = 0; x < w - 1; x += 2) {
      const p = y * w + x;
      sum += squaredBetween(values, p, p + 1) + squaredBetween(values, p, p + w);
      count += 2;
    }
  const contrast = 1 / (2 * Math.max(1e-3, sum / Math.max(1, count)));
  return (one, other) => linkStrength * Math.exp(-contrast * squaredBetween(values, one, other));
}

/** Squared difference of two pixels' colours. @param values  CIELAB, three a pixel */
export const squaredBetween = (values: Float32Array, p: number, q: number): number =>
  (values[3 * p] - values[3 * q]) ** 2 +
  (values[3 * p + 1] - values[3 * q + 1]) ** 2 +
  (values[3 * p + 2] - values[3 * q + 2]) ** 2;
