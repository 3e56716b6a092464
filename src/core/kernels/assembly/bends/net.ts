// A net of nodes over the parts, tied to each other and held at joins. AssemblyScript.

import { claim } from '../arena';
import { f, n, put, putF } from './memory';
import { bh, bw, bx, by, dxOf, dyOf, fh, fw, joinCount, number, numberAt, picture } from './parts';
import { solve } from './solve';

/** Pixels from one point of the net to the next, and points in a row and in all. */
let cell: i32 = 1, across: i32 = 0, points: i32 = 0;
/** i32 a point: the first node there, −1; of each node the next one at its point, its part and its point. */
let first: usize = 0, next: usize = 0, partOf: usize = 0, pointOf: usize = 0;
/** f64 a node: the squared steps of brightness round it, across and down, and how many pixels. */
let acrossSum: usize = 0, downSum: usize = 0, pixels: usize = 0;
export let nodes: i32 = 0;
/** f32 of the box: squared steps of brightness across and down, where each pixel is copied from. */
let steps: usize = 0;
/** Links of each node: where they begin, to which node, and how stiff they are. */
let linkStart: usize = 0, linkTo: usize = 0, stiff: usize = 0, weights: usize = 0;
/** What is held, in the order in which it came: node, to which, and 5 f64; how many, and for how many there is room. */
let heldFrom: usize = 0, heldTo: usize = 0, held: usize = 0, heldCount: i32 = 0, heldMost: i32 = 0;
let sortedStart: usize = 0, sortedTo: usize = 0, sorted: usize = 0, filled: usize = 0;
let room: usize = 0, nodeBends: usize = 0;
/** f32 x and y for each pixel of the box; 0 until they are found. */
export let bends: usize = 0;

/** What is known is never moved. */
const FIXED: i32 = -1;
/** There is no such node. */
const NOWHERE: i32 = -2;

// @ts-ignore: decorator
@inline function luma(p: i32): f64 {
  const at = picture + (<usize>p << 4);
  return 63.75 * (<f64>load<f32>(at) + 2 * <f64>load<f32>(at, 4) + <f64>load<f32>(at, 8));
}

function measureSteps(): void {
  memory.fill(steps, 0, <usize>(bw * bh) << 3);
  for (let y = 0, i = 0; y < bh; y++)
    for (let x = 0; x < bw; x++, i++) {
      const part = numberAt(i);
      if (part < 0) continue;
      const sx = bx + x + dxOf(part), sy = by + y + dyOf(part);
      const q = sy * fw + sx;
      if (sx > 0 && sx < fw - 1) {
        const step = (luma(q + 1) - luma(q - 1)) / 2;
        store<f32>(steps + (<usize>i << 3), <f32>(step * step));
      }
      if (sy > 0 && sy < fh - 1) {
        const step = (luma(q + fw) - luma(q - fw)) / 2;
        store<f32>(steps + (<usize>i << 3), <f32>(step * step), 4);
      }
    }
}

/** Where a run of pixels of one part within one cell ends. */
function endOfRun(x: i32, row: i32): i32 {
  const part = numberAt(row + x), cellEnd = min(bw, (x / cell + 1) * cell);
  let end = x + 1;
  while (end < cellEnd && numberAt(row + end) == part) end++;
  return end;
}

function nodeAt(u: i32, v: i32, part: i32): i32 {
  if (u < 0 || v < 0 || u >= across || v * across + u >= points) return NOWHERE;
  for (let node = n(first, v * across + u); node >= 0; node = n(next, node)) if (n(partOf, node) == part) return node;
  return NOWHERE;
}

function madeNode(u: i32, v: i32, part: i32): i32 {
  const known = nodeAt(u, v, part);
  if (known >= 0) return known;
  const point = v * across + u;
  put(partOf, nodes, part);
  put(pointOf, nodes, point);
  put(next, nodes, n(first, point));
  put(first, point, nodes);
  putF(acrossSum, nodes, 0);
  putF(downSum, nodes, 0);
  putF(pixels, nodes, 0);
  return nodes++;
}

/** Lays a net over the parts: each has nodes of its own at the points round its pixels.
 *  @param cellPx    pixels from point to point
 *  @param stiffest  how many times as stiff links are along lines with this mean squared step across them
 *  @param still     what holds every node, a little
 *  @returns false when memory is short */
export function lay(cellPx: i32, stiffest: f64, squared: f64, still: f64): bool {
  cell = cellPx;
  across = (bw + cell - 1) / cell + 1;
  points = across * ((bh + cell - 1) / cell + 1);
  let runs = 0;
  for (let y = 0; y < bh; y++)
    for (let x = 0; x < bw; x = endOfRun(x, y * bw)) if (numberAt(y * bw + x) >= 0) runs++;
  const most = 4 * runs;
  first = claim(points << 2);
  next = claim(most << 2); partOf = claim(most << 2); pointOf = claim(most << 2);
  acrossSum = claim(most << 3); downSum = claim(most << 3); pixels = claim(most << 3);
  steps = claim((bw * bh) << 3);
  bends = claim((bw * bh) << 3);
  if (!first || !next || !partOf || !pointOf || !acrossSum || !downSum || !pixels || !steps || !bends) return false;
  measureSteps();
  memory.fill(bends, 0, <usize>(bw * bh) << 3);
  for (let i = 0; i < points; i++) put(first, i, -1);
  nodes = 0;
  for (let y = 0; y < bh; y++)
    for (let x = 0, end = 0; x < bw; x = end) {
      const row = y * bw, part = numberAt(row + x);
      end = endOfRun(x, row);
      if (part < 0) continue;
      let itsAcross: f64 = 0, itsDown: f64 = 0;
      for (let i = row + x; i < row + end; i++) {
        itsAcross += <f64>load<f32>(steps + (<usize>i << 3));
        itsDown += <f64>load<f32>(steps + (<usize>i << 3), 4);
      }
      for (let k = 0; k < 4; k++) {
        const node = madeNode(x / cell + (k & 1), y / cell + (k >> 1), part);
        putF(acrossSum, node, f(acrossSum, node) + itsAcross);
        putF(downSum, node, f(downSum, node) + itsDown);
        putF(pixels, node, f(pixels, node) + <f64>(end - x));
      }
    }
  return tie(stiffest, squared, still) && makeRoom();
}

/** Ties each node to those of its part beside and above it. */
function tie(stiffest: f64, squared: f64, still: f64): bool {
  linkStart = claim((nodes + 1) << 2); filled = claim((nodes + 1) << 2);
  linkTo = claim(nodes << 4); stiff = claim(nodes << 5); weights = claim(nodes << 3);
  if (!linkStart || !filled || !linkTo || !stiff || !weights) return false;
  memory.fill(linkStart, 0, <usize>(nodes + 1) << 2);
  for (let node = 0; node < nodes; node++)
    for (let way = 0; way < 2; way++) {
      const to = linked(node, way);
      if (to < 0) continue;
      put(linkStart, node + 1, n(linkStart, node + 1) + 1);
      put(linkStart, to + 1, n(linkStart, to + 1) + 1);
    }
  for (let node = 0; node < nodes; node++) put(linkStart, node + 1, n(linkStart, node + 1) + n(linkStart, node));
  memory.copy(filled, linkStart, <usize>(nodes + 1) << 2);
  for (let node = 0; node < nodes; node++)
    for (let way = 0; way < 2; way++) {
      const to = linked(node, way);
      if (to < 0) continue;
      const sums = way == 0 ? downSum : acrossSum;
      const share = min<f64>(1, (f(sums, node) / f(pixels, node) + f(sums, to) / f(pixels, to)) / 2 / squared);
      const by = 1 + (stiffest - 1) * share;
      addLink(node, to, by);
      addLink(to, node, by);
    }
  for (let node = 0; node < nodes; node++) {
    let sum: f64 = 0;
    for (let k = n(linkStart, node); k < n(linkStart, node + 1); k++) sum += f(stiff, k);
    putF(weights, node, still + sum);
  }
  return true;
}

/** The node of the same part to the right of one, or below it. */
function linked(node: i32, way: i32): i32 {
  const point = n(pointOf, node);
  return nodeAt((point % across) + 1 - way, point / across + way, n(partOf, node));
}

function addLink(from: i32, to: i32, by: f64): void {
  const at = n(filled, from);
  put(filled, from, at + 1);
  put(linkTo, at, to);
  putF(stiff, at, by);
}

function makeRoom(): bool {
  heldMost = 2 * max(64, joinCount);
  heldCount = 0;
  heldFrom = claim(heldMost << 2); heldTo = claim(heldMost << 2); held = claim(40 * heldMost);
  sortedStart = claim((nodes + 1) << 2); sortedTo = claim(heldMost << 2); sorted = claim(40 * heldMost);
  room = claim(88 * nodes); nodeBends = claim(nodes << 4);
  return heldFrom != 0 && heldTo != 0 && held != 0 && sortedStart != 0 && sortedTo != 0 && sorted != 0 && room != 0 && nodeBends != 0;
}

/** Forgets all that was held. */
export function letGo(): void { heldCount = 0; }

/** At a pixel of the box a part, or what is known, is to be moved, seen from another or from where it is.
 *  @returns false when too much is held */
export function hold(x: i32, y: i32, part: i32, other: i32, xx: f64, xy: f64, yy: f64, askedX: f64, askedY: f64): bool {
  const own = part < 0 ? NOWHERE : nearestNode(x, y, part), to = other < 0 ? FIXED : nearestNode(x, y, other);
  if (own == NOWHERE || to == NOWHERE) return true;
  if (heldCount + 2 > heldMost) return false;
  addHeld(own, to, xx, xy, yy, askedX, askedY);
  if (to != FIXED) addHeld(to, own, xx, xy, yy, -askedX, -askedY);
  return true;
}

function addHeld(from: i32, to: i32, xx: f64, xy: f64, yy: f64, x: f64, y: f64): void {
  put(heldFrom, heldCount, from);
  put(heldTo, heldCount, to);
  const at = 5 * heldCount++;
  putF(held, at, xx);
  putF(held, at + 1, xy);
  putF(held, at + 2, yy);
  putF(held, at + 3, x);
  putF(held, at + 4, y);
}

function nearestNode(x: i32, y: i32, part: i32): i32 {
  const near = nodeAt(<i32>Math.floor(<f64>x / <f64>cell + 0.5), <i32>Math.floor(<f64>y / <f64>cell + 0.5), part);
  if (near >= 0) return near;
  for (let k = 0; k < 4; k++) {
    const node = nodeAt(x / cell + (k & 1), y / cell + (k >> 1), part);
    if (node >= 0) return node;
  }
  return NOWHERE;
}

/** Finds the bends.
 *  @returns where they are: f32 x and y for each pixel of the box, 0 outside the area */
export function settle(mostSteps: i32, settled: f64): usize {
  sortHeld();
  memory.fill(nodeBends, 0, <usize>nodes << 4);
  solve(nodes, weights, linkStart, linkTo, stiff, sortedStart, sortedTo, sorted, mostSteps, settled, room, nodeBends);
  for (let y = 0; y < bh; y++)
    for (let x = 0, end = 0; x < bw; x = end) {
      const row = y * bw, part = numberAt(row + x);
      end = endOfRun(x, row);
      if (part < 0) continue;
      const u = x / cell, v = y / cell;
      const a = 2 * nodeAt(u, v, part), b = 2 * nodeAt(u + 1, v, part);
      const d = 2 * nodeAt(u, v + 1, part), e = 2 * nodeAt(u + 1, v + 1, part);
      const fy = <f64>y / <f64>cell - <f64>v;
      for (let at = x; at < end; at++) {
        const fx = <f64>at / <f64>cell - <f64>u;
        for (let c = 0; c < 2; c++) {
          const above = (1 - fx) * f(nodeBends, a + c) + fx * f(nodeBends, b + c);
          const below = (1 - fx) * f(nodeBends, d + c) + fx * f(nodeBends, e + c);
          store<f32>(bends + (<usize>(2 * (row + at) + c) << 2), <f32>((1 - fy) * above + fy * below));
        }
      }
    }
  return bends;
}

/** What holds each node together, in the order in which it came. */
function sortHeld(): void {
  memory.fill(sortedStart, 0, <usize>(nodes + 1) << 2);
  for (let k = 0; k < heldCount; k++) {
    const node = n(heldFrom, k);
    put(sortedStart, node + 1, n(sortedStart, node + 1) + 1);
  }
  for (let node = 0; node < nodes; node++) put(sortedStart, node + 1, n(sortedStart, node + 1) + n(sortedStart, node));
  memory.copy(filled, sortedStart, <usize>(nodes + 1) << 2);
  for (let k = 0; k < heldCount; k++) {
    const from = n(heldFrom, k), at = n(filled, from);
    put(filled, from, at + 1);
    put(sortedTo, at, n(heldTo, k));
    memory.copy(sorted + <usize>at * 40, held + <usize>k * 40, 40);
  }
}
