// Bends of least energy on a net of nodes. f64, x and y of each node beside each other. AssemblyScript.

import { f, n, putF } from './memory';

function dot(a: usize, b: usize, count: i32): f64 {
  let sum: f64 = 0;
  for (let i = 0; i < count; i++) sum += f(a, i) * f(b, i);
  return sum;
}

/** Solves each node's own block (xx, xy, yy). */
function ease(blocks: usize, nodes: i32, from: usize, out: usize): void {
  for (let node = 0; node < nodes; node++) {
    const xx = f(blocks, 3 * node), xy = f(blocks, 3 * node + 1), yy = f(blocks, 3 * node + 2);
    const scale = 1 / (xx * yy - xy * xy);
    putF(out, 2 * node, scale * (yy * f(from, 2 * node) - xy * f(from, 2 * node + 1)));
    putF(out, 2 * node + 1, scale * (xx * f(from, 2 * node + 1) - xy * f(from, 2 * node)));
  }
}

/** Conjugate gradients, preconditioned by each node's own block.
 *  @param weights    f64 a node: what its links weigh together, and it itself
 *  @param linkStart, heldStart  i32, nodes + 1: where the links of each begin, and the places where it is held
 *  @param linkTo     i32; `stiff` f64
 *  @param heldTo     i32, −1: to what is never moved; `held` 5 f64: xx, xy, yy, and what is asked in x and y
 *  @param room       11·nodes f64
 *  @param bends      2 f64 a node, 0 */
export function solve(nodes: i32, weights: usize, linkStart: usize, linkTo: usize, stiff: usize, heldStart: usize, heldTo: usize, held: usize, mostSteps: i32, settled: f64, room: usize, bends: usize): void {
  const size = 2 * nodes, bytes = <usize>size << 3;
  const rest = room, eased = rest + bytes, way = eased + bytes, along = way + bytes, blocks = along + bytes;
  memory.fill(room, 0, 11 * (<usize>nodes << 3));
  for (let node = 0; node < nodes; node++) {
    let xx = f(weights, node), xy: f64 = 0, yy = xx, x: f64 = 0, y: f64 = 0;
    for (let k = n(heldStart, node); k < n(heldStart, node + 1); k++) {
      xx += f(held, 5 * k);
      xy += f(held, 5 * k + 1);
      yy += f(held, 5 * k + 2);
      x += f(held, 5 * k + 3);
      y += f(held, 5 * k + 4);
    }
    putF(blocks, 3 * node, xx);
    putF(blocks, 3 * node + 1, xy);
    putF(blocks, 3 * node + 2, yy);
    putF(rest, 2 * node, x);
    putF(rest, 2 * node + 1, y);
  }
  ease(blocks, nodes, rest, eased);
  memory.copy(way, eased, bytes);
  let left = dot(rest, eased, size);
  const enough = settled * left;
  for (let step = 0; step < mostSteps && left > enough; step++) {
    for (let node = 0; node < nodes; node++) {
      const ownX = f(way, 2 * node), ownY = f(way, 2 * node + 1), weight = f(weights, node);
      let x = weight * ownX, y = weight * ownY;
      for (let k = n(linkStart, node); k < n(linkStart, node + 1); k++) {
        const to = n(linkTo, k), by = f(stiff, k);
        x -= by * f(way, 2 * to);
        y -= by * f(way, 2 * to + 1);
      }
      for (let k = n(heldStart, node); k < n(heldStart, node + 1); k++) {
        const to = n(heldTo, k), xy = f(held, 5 * k + 1);
        const dx = ownX - (to < 0 ? 0 : f(way, 2 * to)), dy = ownY - (to < 0 ? 0 : f(way, 2 * to + 1));
        x += f(held, 5 * k) * dx + xy * dy;
        y += xy * dx + f(held, 5 * k + 2) * dy;
      }
      putF(along, 2 * node, x);
      putF(along, 2 * node + 1, y);
    }
    const far = left / dot(way, along, size);
    for (let i = 0; i < size; i++) {
      putF(bends, i, f(bends, i) + far * f(way, i));
      putF(rest, i, f(rest, i) - far * f(along, i));
    }
    ease(blocks, nodes, rest, eased);
    const before = left;
    left = dot(rest, eased, size);
    const kept = left / before;
    for (let i = 0; i < size; i++) putF(way, i, f(eased, i) + kept * f(way, i));
  }
}
