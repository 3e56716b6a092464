// Maximum flow through a grid of nodes. AssemblyScript.

import { claim } from '../arena';

// Graph: four links a node (left, right, up, down) and one to a terminal (positive: from the source side).
// Its columns, and how many nodes it has.
let gw: i32 = 0, gn: i32 = 0;
let cap: usize = 0, terminal: usize = 0, tree: usize = 0, parent: usize = 0, queueNext: usize = 0, stamp: usize = 0, depth: usize = 0, inGraph: usize = 0;
let head: i32 = -1, tail: i32 = -1, time: i32 = 0;
let orphans: usize = 0, orphanCount: i32 = 0;

const NONE: i8 = -1, TERMINAL: i8 = 4, ORPHAN: i8 = 5;

// @ts-ignore: decorator
@inline function neighbour(i: i32, d: i32): i32 { return d == 0 ? i - 1 : d == 1 ? i + 1 : d == 2 ? i - gw : i + gw; }
// @ts-ignore: decorator
@inline export function capAt(i: i32, d: i32): usize { return cap + ((<usize>i * 4 + d) << 2); }
// @ts-ignore: decorator
@inline function getTree(i: i32): i32 { return load<u8>(tree + <usize>i); }
// @ts-ignore: decorator
@inline function getParent(i: i32): i8 { return load<i8>(parent + <usize>i); }

/** Makes room for a graph of so many nodes. @returns false when memory is short */
export function beginGraph(w: i32, h: i32): bool {
  gw = w;
  gn = w * h;
  cap = claim(gn * 16);
  terminal = claim(gn * 4);
  tree = claim(gn);
  parent = claim(gn);
  queueNext = claim(gn * 4);
  stamp = claim(gn * 4);
  depth = claim(gn * 4);
  orphans = claim(gn * 4);
  return orphans != 0;
}

function activate(i: i32): void {
  const at = queueNext + (<usize>i << 2);
  if (load<i32>(at) != -1) return;
  store<i32>(at, i); // the last one points to itself
  if (tail >= 0) store<i32>(queueNext + (<usize>tail << 2), i);
  else head = i;
  tail = i;
}

function nextActive(): i32 {
  while (head >= 0) {
    const i = head;
    if (getParent(i) != NONE) return i;
    dropHead();
  }
  return -1;
}

function dropHead(): void {
  const i = head;
  const at = queueNext + (<usize>i << 2);
  const n = load<i32>(at);
  store<i32>(at, -1);
  if (n == i) { head = -1; tail = -1; } else head = n;
}

/** A grid without any links, within the room that there is. */
export function clearGraph(w: i32, h: i32): void {
  gw = w;
  gn = w * h;
  memory.fill(cap, 0, <usize>gn << 4);
  memory.fill(terminal, 0, <usize>gn << 2);
}

/** Links a node to the source side, or with less than 0 to the other. */
// @ts-ignore: decorator
@inline export function addTerminal(node: i32, cost: i32): void {
  const at = terminal + (<usize>node << 2);
  store<i32>(at, load<i32>(at) + cost);
}

/** Whether a node is on the sink's side, after {@link maxFlow}. */
// @ts-ignore: decorator
@inline export function isBeyond(node: i32): bool { return getTree(node) == 2; }

/** Boykov & Kolmogorov's augmenting paths on the grid. After it, tree 1 is the source side. */
export function maxFlow(): void {
  head = -1; tail = -1; time = 0; orphanCount = 0;
  memory.fill(tree, 0, gn);
  memory.fill(parent, 0xff, gn);
  memory.fill(queueNext, 0xff, <usize>gn << 2);
  memory.fill(stamp, 0, <usize>gn << 2);
  for (let i = 0; i < gn; i++) {
    const t = load<i32>(terminal + (<usize>i << 2));
    if (t == 0) continue;
    store<u8>(tree + <usize>i, t > 0 ? 1 : 2);
    store<i8>(parent + <usize>i, TERMINAL);
    store<i32>(depth + (<usize>i << 2), 1);
    activate(i);
  }
  let current = -1;
  while (true) {
    let i = current;
    if (i < 0 || getParent(i) == NONE) {
      i = nextActive();
      if (i < 0) break;
    }
    const side = getTree(i);
    let meet = -1, dir = 0;
    for (let d = 0; d < 4; d++) {
      // A link is usable towards the sink: out of source-tree nodes, into sink-tree nodes.
      const j = neighbour(i, d);
      if (j < 0 || j >= gn) continue;
      const room = side == 1 ? load<i32>(capAt(i, d)) : load<i32>(capAt(j, d ^ 1));
      if (room <= 0) continue;
      if (getParent(j) == NONE) {
        store<u8>(tree + <usize>j, <u8>side);
        store<i8>(parent + <usize>j, <i8>(d ^ 1));
        store<i32>(stamp + (<usize>j << 2), load<i32>(stamp + (<usize>i << 2)));
        store<i32>(depth + (<usize>j << 2), load<i32>(depth + (<usize>i << 2)) + 1);
        activate(j);
      } else if (getTree(j) != side) { meet = j; dir = d; break; }
      else if (load<i32>(stamp + (<usize>j << 2)) <= load<i32>(stamp + (<usize>i << 2)) && load<i32>(depth + (<usize>j << 2)) > load<i32>(depth + (<usize>i << 2)) + 1) {
        store<i8>(parent + <usize>j, <i8>(d ^ 1));
        store<i32>(stamp + (<usize>j << 2), load<i32>(stamp + (<usize>i << 2)));
        store<i32>(depth + (<usize>j << 2), load<i32>(depth + (<usize>i << 2)) + 1);
      }
    }
    time++;
    if (meet >= 0) {
      current = i;
      if (side == 1) augment(i, meet, dir);
      else augment(meet, i, dir ^ 1);
      while (orphanCount > 0) { orphanCount--; adopt(load<i32>(orphans + (<usize>orphanCount << 2))); }
    } else {
      current = -1;
      if (head == i) dropHead();
    }
  }
}

function orphan(i: i32): void {
  store<i8>(parent + <usize>i, ORPHAN);
  store<i32>(orphans + (<usize>orphanCount << 2), i);
  orphanCount++;
}

/** Pushes flow along source tree → a → b → sink tree. */
function augment(a: i32, b: i32, d: i32): void {
  let flow = load<i32>(capAt(a, d));
  for (let i = a; ; ) {
    const p = getParent(i);
    if (p == TERMINAL) { flow = min(flow, load<i32>(terminal + (<usize>i << 2))); break; }
    const j = neighbour(i, p);
    flow = min(flow, load<i32>(capAt(j, p ^ 1)));
    i = j;
  }
  for (let i = b; ; ) {
    const p = getParent(i);
    if (p == TERMINAL) { flow = min(flow, -load<i32>(terminal + (<usize>i << 2))); break; }
    flow = min(flow, load<i32>(capAt(i, p)));
    i = neighbour(i, p);
  }
  store<i32>(capAt(a, d), load<i32>(capAt(a, d)) - flow);
  store<i32>(capAt(b, d ^ 1), load<i32>(capAt(b, d ^ 1)) + flow);
  for (let i = a; ; ) {
    const p = getParent(i);
    if (p == TERMINAL) {
      const at = terminal + (<usize>i << 2);
      store<i32>(at, load<i32>(at) - flow);
      if (load<i32>(at) == 0) orphan(i);
      break;
    }
    const j = neighbour(i, p);
    store<i32>(capAt(i, p), load<i32>(capAt(i, p)) + flow);
    store<i32>(capAt(j, p ^ 1), load<i32>(capAt(j, p ^ 1)) - flow);
    if (load<i32>(capAt(j, p ^ 1)) == 0) orphan(i);
    i = j;
  }
  for (let i = b; ; ) {
    const p = getParent(i);
    if (p == TERMINAL) {
      const at = terminal + (<usize>i << 2);
      store<i32>(at, load<i32>(at) + flow);
      if (load<i32>(at) == 0) orphan(i);
      break;
    }
    const j = neighbour(i, p);
    store<i32>(capAt(j, p ^ 1), load<i32>(capAt(j, p ^ 1)) + flow);
    store<i32>(capAt(i, p), load<i32>(capAt(i, p)) - flow);
    if (load<i32>(capAt(i, p)) == 0) orphan(i);
    i = j;
  }
}

/** Distance to the terminal along parents, −1 when the path ends in an orphan. Marks the path as checked. */
function origin(start: i32): i32 {
  let j = start, d = 0;
  while (true) {
    if (load<i32>(stamp + (<usize>j << 2)) == time) { d += load<i32>(depth + (<usize>j << 2)); break; }
    const p = getParent(j);
    d++;
    if (p == TERMINAL) { store<i32>(stamp + (<usize>j << 2), time); store<i32>(depth + (<usize>j << 2), 1); break; }
    if (p == ORPHAN || p == NONE) return -1;
    j = neighbour(j, p);
  }
  let left = d;
  for (let k = start; load<i32>(stamp + (<usize>k << 2)) != time; k = neighbour(k, getParent(k))) {
    store<i32>(stamp + (<usize>k << 2), time);
    store<i32>(depth + (<usize>k << 2), left--);
  }
  return d;
}

function adopt(i: i32): void {
  const side = getTree(i);
  let best = i32.MAX_VALUE, from = -1;
  for (let d = 0; d < 4; d++) {
    const j = neighbour(i, d);
    if (j < 0 || j >= gn || getTree(j) != side || getParent(j) == NONE) continue;
    const room = side == 1 ? load<i32>(capAt(j, d ^ 1)) : load<i32>(capAt(i, d));
    if (room <= 0) continue;
    const far = origin(j);
    if (far >= 0 && far < best) { best = far; from = d; }
  }
  if (from >= 0) {
    store<i8>(parent + <usize>i, <i8>from);
    store<i32>(stamp + (<usize>i << 2), time);
    store<i32>(depth + (<usize>i << 2), best + 1);
    return;
  }
  for (let d = 0; d < 4; d++) {
    const j = neighbour(i, d);
    if (j < 0 || j >= gn || getTree(j) != side || getParent(j) == NONE) continue;
    const room = side == 1 ? load<i32>(capAt(j, d ^ 1)) : load<i32>(capAt(i, d));
    if (room > 0) activate(j);
    const p = getParent(j);
    if (p >= 0 && p < 4 && neighbour(j, p) == i) orphan(j);
  }
  store<u8>(tree + <usize>i, 0);
  store<i8>(parent + <usize>i, NONE);
}
