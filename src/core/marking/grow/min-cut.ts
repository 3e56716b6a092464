/** A graph of nodes with up to eight neighbours each, to be parted in two at the least cost. */
export interface CutGraph {
  /** n×8 node numbers, −1: none. Neighbour k of a node has that node as its neighbour 7 − k. */
  readonly neighbours: Int32Array;
  /** n×8, 0 or more: what it costs to part a node from its neighbour. */
  readonly links: Float32Array;
  /** n: what it costs not to be inside, less what it costs to be. */
  readonly pull: Float32Array;
}

/** What flows through a graph's links: kept from cut to cut, those with other pulls find most of it done. */
export interface Flow {
  /** n×8: what each link still carries. */
  readonly left: Float32Array;
  /** n: the pulls so far, and what is left of them. */
  readonly pull: Float32Array;
  readonly pulled: Float32Array;
}

export const noFlow = ({ links }: Pick<CutGraph, 'links'>): Flow => ({
  left: links.slice(),
  pull: new Float32Array(links.length / 8),
  pulled: new Float32Array(links.length / 8),
});

const none = -1;
const terminal = -2;
const orphan = -3;
const free = 0;
const inner = 1;
const outer = 2;

/** Parts a graph so that the links between the two sides, and the pulls that are not followed, cost least together.
 *
 *  @param flow  of earlier cuts of the same graph; changed. What is found does not depend on it.
 *  @returns n, 1 for inside; nodes that neither side reaches are outside
 *  Degenerate: no node gives an empty answer. Links are taken in both directions alike.
 *  Source: Boykov & Kolmogorov 2004, An Experimental Comparison of Min-Cut/Max-Flow Algorithms for Energy Minimization
 *  in Vision, doi:10.1109/TPAMI.2004.60: two search trees that are kept from path to path; Kohli & Torr 2007, Dynamic Graph Cuts for
 *  Efficient Inference in Markov Random Fields, doi:10.1109/TPAMI.2007.1128: the flow is kept from cut to cut.
 */
export function minCut({ neighbours, links, pull }: CutGraph, flow = noFlow({ links })): Uint8Array {
  const n = pull.length;
  const { left, pulled } = flow;
  for (let p = 0; p < n; p++) {
    pulled[p] += pull[p] - flow.pull[p];
    flow.pull[p] = pull[p];
  }
  const tree = new Uint8Array(n);
  /** The arc (8·node + k) that leads to the parent. */
  const parent = new Int32Array(n).fill(none);
  const stamp = new Int32Array(n);
  const depth = new Int32Array(n);
  const queue = new Int32Array(n + 1);
  const queued = new Uint8Array(n);
  let head = 0;
  let tail = 0;
  let time = 0;
  const enqueue = (p: number) => {
    if (queued[p]) return;
    queued[p] = 1;
    queue[tail] = p;
    tail = tail === n ? 0 : tail + 1;
  };
  const reverse = (arc: number) => 8 * neighbours[arc] + 7 - (arc & 7);
  for (let p = 0; p < n; p++) {
    if (pulled[p] === 0) continue;
    tree[p] = pulled[p] > 0 ? inner : outer;
    parent[p] = terminal;
    depth[p] = 1;
    enqueue(p);
  }
  const orphans: number[] = [];
  const orphaned = (p: number) => {
    parent[p] = orphan;
    orphans.push(p);
  };

  /** Sends all it can along the path through an arc from the inner to the outer tree. */
  const augment = (middle: number) => {
    let most = left[middle];
    const first = middle >> 3;
    const second = neighbours[middle];
    let p = first;
    for (; parent[p] !== terminal; p = neighbours[parent[p]]) most = Math.min(most, left[reverse(parent[p])]);
    most = Math.min(most, pulled[p]);
    for (p = second; parent[p] !== terminal; p = neighbours[parent[p]])
      most = Math.min(most, left[parent[p]]);
    most = Math.min(most, -pulled[p]);
    left[middle] -= most;
    left[reverse(middle)] += most;
    for (p = first; parent[p] !== terminal; ) {
      const up = parent[p];
      const q = neighbours[up];
      left[up] += most;
      left[reverse(up)] -= most;
      if (left[reverse(up)] <= 0) orphaned(p);
      p = q;
    }
    pulled[p] -= most;
    if (pulled[p] <= 0) {
      pulled[p] = 0;
      orphaned(p);
    }
    for (p = second; parent[p] !== terminal; ) {
      const up = parent[p];
      const q = neighbours[up];
      left[reverse(up)] += most;
      left[up] -= most;
      if (left[up] <= 0) orphaned(p);
      p = q;
    }
    pulled[p] += most;
    if (pulled[p] >= 0) {
      pulled[p] = 0;
      orphaned(p);
    }
  };

  /** How far a node is from its tree's root; −1 when its branch was cut off. */
  const rootDistance = (from: number): number => {
    let steps = 0;
    let p = from;
    for (;;) {
      if (stamp[p] === time) {
        steps += depth[p];
        break;
      }
      const up = parent[p];
      steps++;
      if (up === terminal) {
        stamp[p] = time;
        depth[p] = 1;
        break;
      }
      if (up < 0) return -1;
      p = neighbours[up];
    }
    let d = steps;
    for (p = from; stamp[p] !== time; p = neighbours[parent[p]]) {
      stamp[p] = time;
      depth[p] = d--;
    }
    return steps;
  };

  const adopt = (p: number) => {
    const side = tree[p];
    let best = none;
    let nearest = Infinity;
    for (let arc = 8 * p; arc < 8 * p + 8; arc++) {
      const q = neighbours[arc];
      if (q < 0 || tree[q] !== side || parent[q] === none || parent[q] === orphan) continue;
      if ((side === inner ? left[reverse(arc)] : left[arc]) <= 0) continue;
      const d = rootDistance(q);
      if (d >= 0 && d < nearest) {
        nearest = d;
        best = arc;
      }
    }
    if (best !== none) {
      parent[p] = best;
      stamp[p] = time;
      depth[p] = nearest + 1;
      return;
    }
    for (let arc = 8 * p; arc < 8 * p + 8; arc++) {
      const q = neighbours[arc];
      if (q < 0 || tree[q] !== side) continue;
      if ((side === inner ? left[reverse(arc)] : left[arc]) > 0) enqueue(q);
      if (parent[q] >= 0 && neighbours[parent[q]] === p) orphaned(q);
    }
    tree[p] = free;
    parent[p] = none;
  };

  while (head !== tail) {
    const p = queue[head];
    head = head === n ? 0 : head + 1;
    queued[p] = 0;
    if (tree[p] === free || parent[p] === none) continue;
    for (let k = 0; k < 8; k++) {
      const arc = 8 * p + k;
      const q = neighbours[arc];
      if (q < 0) continue;
      const side = tree[p];
      if (side === free) break;
      if ((side === inner ? left[arc] : left[reverse(arc)]) <= 0) continue;
      if (tree[q] === free) {
        tree[q] = side;
        parent[q] = reverse(arc);
        stamp[q] = stamp[p];
        depth[q] = depth[p] + 1;
        enqueue(q);
      } else if (tree[q] !== side) {
        augment(side === inner ? arc : reverse(arc));
        time++;
        while (orphans.length > 0) adopt(orphans.pop()!);
        // The same arc may carry more, and p must be looked at again if it is still in a tree.
        if (tree[p] !== side) break;
        k--;
      }
    }
  }
  const inside = new Uint8Array(n);
  for (let p = 0; p < n; p++) if (tree[p] === inner) inside[p] = 1;
  return inside;
}
