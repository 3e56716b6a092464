// Choosing one of several shifts for every pixel of a hole by graph cuts. AssemblyScript; see core/methods/fill/seam-cut.ts
// for the contract and the papers. Nodes are the pixels of a w×h box; pictures are 8 bytes a pixel over a larger frame.

import { claim } from './arena';

export { claim, release } from './arena';

// Graph: four links a node (left, right, up, down) and one to a terminal (positive: from the source side).
let gw: i32 = 0, gn: i32 = 0;
let cap: usize = 0, terminal: usize = 0, tree: usize = 0, parent: usize = 0, queueNext: usize = 0, stamp: usize = 0, depth: usize = 0, inGraph: usize = 0;
let lastPixel: i32 = 0;
let head: i32 = -1, tail: i32 = -1, time: i32 = 0;
let orphans: usize = 0, orphanCount: i32 = 0;
let free: usize = 0;

const NONE: i8 = -1, TERMINAL: i8 = 4, ORPHAN: i8 = 5;

// @ts-ignore: decorator
@inline function neighbour(i: i32, d: i32): i32 { return d == 0 ? i - 1 : d == 1 ? i + 1 : d == 2 ? i - gw : i + gw; }
// @ts-ignore: decorator
@inline function capAt(i: i32, d: i32): usize { return cap + ((<usize>i * 4 + d) << 2); }
// @ts-ignore: decorator
@inline function getTree(i: i32): i32 { return load<u8>(tree + <usize>i); }
// @ts-ignore: decorator
@inline function getParent(i: i32): i8 { return load<i8>(parent + <usize>i); }

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
  free = claim(gn);
  return free != 0;
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

/** Boykov & Kolmogorov's augmenting paths on the grid. After it, tree 1 is the source side. */
function maxFlow(): void {
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

// @ts-ignore: decorator
@inline function colourStep(a: i32, b: i32): i32 {
  // Just past a piece the shifted pixel may lie beyond the frame; any fixed pixel serves there.
  const pa = picture + (<usize>min(lastPixel, max(0, a)) << 3), pb = picture + (<usize>min(lastPixel, max(0, b)) << 3);
  return abs(<i32>load<u8>(pa) - <i32>load<u8>(pb)) + abs(<i32>load<u8>(pa, 1) - <i32>load<u8>(pb, 1)) + abs(<i32>load<u8>(pa, 2) - <i32>load<u8>(pb, 2));
}

// Texture features of a pixel: sum over both directions.
// @ts-ignore: decorator
@inline function texture(a: i32): i32 {
  const p = picture + (<usize>min(lastPixel, max(0, a)) << 3);
  return <i32>load<u8>(p, 3) + <i32>load<u8>(p, 4);
}

const JOIN_GAIN: i32 = 260, PLAIN: i32 = 120;

// Summed colour difference at both pixels when one side of a link takes shift a and the other shift b, against how much
// texture there is to hide it in.
// @ts-ignore: decorator
@inline function seam(p: i32, q: i32, a: i32, b: i32): i32 {
  if (a == b) return 0;
  const step = colourStep(p + a, p + b) + colourStep(q + a, q + b);
  return step * JOIN_GAIN / (PLAIN + texture(p + a) + texture(p + b) + texture(q + a) + texture(q + b));
}

/** One α-expansion sweep over the labels. The graph of a label is the box that holds all nodes which may take it, and their
 *  neighbours.
 *
 *  @param frame    index in the frame of each node, −1 where the node is no part of the problem
 *  @param label    i32 a node, changed in place
 *  @param shifts   i32 a label: frame index distance
 *  @param tables   5 i32 a label: left, top, right and bottom of the nodes that may take it, ends left out, and where
 *                  their costs begin
 *  @param costs    i32 a node of a label's box; 2³⁰ or more forbids
 *  @param count    number of labels
 *  @param usedOnly  leaves out labels that no node has
 *  @returns nodes that changed */
export function expand(w: i32, h: i32, frame: usize, label: usize, shifts: usize, tables: usize, costs: usize, count: i32, usedOnly: bool): i32 {
  let changed = 0;
  lastPixel = fw * fh - 1;
  const n = w * h;
  nodes = frame; labels = label; shiftOf = shifts; costTables = tables; allCosts = costs;
  for (alpha = 0; alpha < count; alpha++) {
    const table = tableOf(alpha);
    const left = max(0, load<i32>(table) - 1), top = max(0, load<i32>(table, 4) - 1), right = min(w, load<i32>(table, 8) + 1), bottom = min(h, load<i32>(table, 12) + 1);
    if (load<i32>(table, 8) <= load<i32>(table)) continue;
    if (usedOnly && !isUsed(alpha, label, n)) continue;
    gw = right - left;
    gn = gw * (bottom - top);
    shiftA = load<i32>(shifts + (<usize>alpha << 2));
    let any = false;
    memory.fill(cap, 0, <usize>gn << 4);
    memory.fill(terminal, 0, <usize>gn << 2);
    memory.fill(free, 0, gn);
    for (let y = top; y < bottom; y++)
      for (let x = left; x < right; x++) {
        const i = y * w + x;
        if (load<i32>(frame + (<usize>i << 2)) < 0) continue;
        const own = load<i32>(label + (<usize>i << 2));
        const to = costOf(alpha, x, y);
        if (own == alpha || to >= FORBIDDEN) continue;
        any = true;
        const node = (y - top) * gw + x - left;
        store<u8>(free + <usize>node, 1);
        addTerminal(node, to - costOf(own, x, y));
      }
    if (!any) continue;
    for (let y = top; y < bottom; y++)
      for (let x = left; x < right; x++) {
        const i = y * w + x, node = (y - top) * gw + x - left;
        if (load<i32>(frame + (<usize>i << 2)) < 0) continue;
        if (x + 1 < right) link(i, i + 1, node, node + 1, 1);
        if (y + 1 < bottom) link(i, i + w, node, node + gw, 3);
      }
    maxFlow();
    for (let y = top; y < bottom; y++)
      for (let x = left; x < right; x++) {
        const node = <usize>((y - top) * gw + x - left);
        if (!load<u8>(free + node) || getTree(<i32>node) != 2) continue;
        store<i32>(label + (<usize>(y * w + x) << 2), alpha);
        changed++;
      }
  }
  return changed;
}

const FORBIDDEN: i32 = 1 << 30;

function isUsed(l: i32, label: usize, n: i32): bool {
  for (let i = 0; i < n; i++) if (load<i32>(label + (<usize>i << 2)) == l) return true;
  return false;
}

// What the sweep in hand works on; `free` says of each node of the graph whether it may change.
let nodes: usize = 0, labels: usize = 0, shiftOf: usize = 0, costTables: usize = 0, allCosts: usize = 0;
let alpha: i32 = 0, shiftA: i32 = 0;

// @ts-ignore: decorator
@inline function tableOf(l: i32): usize { return costTables + <usize>(l * 20); }

// @ts-ignore: decorator
@inline function costOf(l: i32, x: i32, y: i32): i32 {
  const table = tableOf(l);
  const left = load<i32>(table), top = load<i32>(table, 4), right = load<i32>(table, 8);
  if (x < left || y < top || x >= right || y >= load<i32>(table, 12)) return FORBIDDEN;
  return load<i32>(allCosts + (<usize>(load<i32>(table, 16) + (y - top) * (right - left) + x - left) << 2));
}

// @ts-ignore: decorator
@inline function addTerminal(node: i32, cost: i32): void {
  const at = terminal + (<usize>node << 2);
  store<i32>(at, load<i32>(at) + cost);
}

// Nodes i and j of the box are a and b of the graph.
function link(i: i32, j: i32, a: i32, b: i32, d: i32): void {
  const f = load<i32>(nodes + (<usize>i << 2)), g = load<i32>(nodes + (<usize>j << 2));
  if (g < 0) return;
  const freeI = load<u8>(free + <usize>a), freeJ = load<u8>(free + <usize>b);
  if (!freeI && !freeJ) return;
  const si = load<i32>(shiftOf + (<usize>load<i32>(labels + (<usize>i << 2)) << 2)), sj = load<i32>(shiftOf + (<usize>load<i32>(labels + (<usize>j << 2)) << 2));
  const stay = seam(f, g, si, sj);
  if (freeI && freeJ) {
    const onlyJ = seam(f, g, si, shiftA), onlyI = seam(f, g, shiftA, sj);
    addTerminal(a, onlyI - stay);
    addTerminal(b, -onlyI);
    store<i32>(capAt(a, d), max(0, onlyJ + onlyI - stay));
  } else if (freeI) addTerminal(a, seam(f, g, shiftA, sj) - stay);
  else addTerminal(b, seam(f, g, si, shiftA) - stay);
}

// What a pixel may be taken from, as core/methods/fill/frame.ts has it.
let fw: i32 = 0, fh: i32 = 0;
let picture: usize = 0, known: usize = 0, source: usize = 0;
let ruleIndex: usize = 0, homeX: usize = 0, homeY: usize = 0, ruleTable: usize = 0;

/** The frame that the labels' pixels lie in.
 *  @param img         8 bytes a pixel
 *  @param isKnown     u8 a pixel
 *  @param isSource    u8 a pixel
 *  @param rules       u8 a pixel, 0 = free, else the rule's number; or 0 when there are none
 *  @param x, y        f32 a pixel, or 0: where its content lies
 *  @param table       f64 normal x, normal y and slack of each rule */
export function setFrame(img: usize, w: i32, h: i32, isKnown: usize, isSource: usize, rules: usize, x: usize, y: usize, table: usize): void {
  picture = img; fw = w; fh = h; known = isKnown; source = isSource;
  ruleIndex = rules; homeX = x; homeY = y; ruleTable = table;
}

function mayTake(p: i32, px: i32, dx: i32, dy: i32): bool {
  const x = px + dx, q = p + dy * fw + dx;
  if (x < 0 || x >= fw || q < 0 || q >= fw * fh || load<u8>(source + <usize>q) != 1) return false;
  const rule = ruleIndex ? <i32>load<u8>(ruleIndex + <usize>p) : 0;
  if (rule == 0) return true;
  let stepX = <f64>dx, stepY = <f64>dy;
  if (homeX) {
    stepX = <f64>load<f32>(homeX + (<usize>q << 2)) - <f64>load<f32>(homeX + (<usize>p << 2));
    stepY = <f64>load<f32>(homeY + (<usize>q << 2)) - <f64>load<f32>(homeY + (<usize>p << 2));
  }
  const t = ruleTable + <usize>(rule - 1) * 24;
  return abs<f64>(load<f64>(t) * stepX + load<f64>(t, 8) * stepY) <= load<f64>(t, 16) + 1e-3;
}

/** The label of each pixel whose source is nearest to the guide in colour, of those that it may take.
 *  @param pixels  i32 frame index of each
 *  @param count   of the labels
 *  @param steps   2 i32 a label: dx, dy
 *  @param out     i32 a pixel: the label, the first of equals; −1 where there is none */
export function nearestLabels(guide: usize, pixels: usize, n: i32, steps: usize, count: i32, out: usize): void {
  for (let k = 0; k < n; k++) {
    const p = load<i32>(pixels + (<usize>k << 2));
    const px = p % fw;
    const g = guide + (<usize>p << 3);
    const red = <i32>load<u8>(g), green = <i32>load<u8>(g, 1), blue = <i32>load<u8>(g, 2);
    let best = -1, least = i32.MAX_VALUE;
    for (let l = 0; l < count; l++) {
      const dx = load<i32>(steps + (<usize>l << 3)), dy = load<i32>(steps + (<usize>l << 3), 4);
      if (!mayTake(p, px, dx, dy)) continue;
      const s = picture + (<usize>(p + dy * fw + dx) << 3);
      const r = <i32>load<u8>(s) - red, e = <i32>load<u8>(s, 1) - green, b = <i32>load<u8>(s, 2) - blue;
      const d = r * r + e * e + b * b;
      if (d < least) { least = d; best = l; }
    }
    store<i32>(out + (<usize>k << 2), best);
  }
}

/** What each label costs each node before a guide has its say: {@link rimJump}, or what forbids it.
 *  @param x0, y0  where the box of the nodes lies in the frame
 *  @param steps   2 i32 a label: dx, dy
 *  @param reach   a node may take what nodes so many columns and rows away have; negative: any label
 *  @param open    u8 a node: scratch
 *  The others as {@link expand} takes them; costs are filled in. */
export function price(x0: i32, y0: i32, w: i32, h: i32, frame: usize, label: usize, steps: usize, tables: usize, costs: usize, count: i32, reach: i32, open: usize): void {
  nodes = frame; labels = label; costTables = tables; allCosts = costs;
  for (let l = 0; l < count; l++) {
    const table = tableOf(l);
    const left = load<i32>(table), top = load<i32>(table, 4), right = load<i32>(table, 8), bottom = load<i32>(table, 12);
    if (right <= left) continue;
    const dx = load<i32>(steps + (<usize>l << 3)), dy = load<i32>(steps + (<usize>l << 3), 4);
    if (reach >= 0) openNear(l, left, top, right, bottom, w, reach, open);
    let to = costs + (<usize>load<i32>(table, 16) << 2);
    for (let y = top; y < bottom; y++)
      for (let x = left; x < right; x++, to += 4) {
        const i = y * w + x;
        const f = load<i32>(frame + (<usize>i << 2));
        const isOpen = f >= 0 && (reach < 0 || load<u8>(open + <usize>i)) && mayTake(f, x0 + x, dx, dy);
        store<i32>(to, isOpen ? rimJump(x0 + x, y0 + y, dx, dy) : FORBIDDEN);
      }
  }
}

// Marks the nodes of a box that lie near ones which have a label; run by run.
function openNear(l: i32, left: i32, top: i32, right: i32, bottom: i32, w: i32, reach: i32, open: usize): void {
  for (let y = top; y < bottom; y++) memory.fill(open + <usize>(y * w + left), 0, right - left);
  for (let y = top; y < bottom; y++)
    for (let x = left; x < right; x++) {
      if (!has(l, y * w + x)) continue;
      const from = max(left, x - reach);
      while (x + 1 < right && has(l, y * w + x + 1)) x++;
      const to = min(right, x + reach + 1);
      for (let v = max(top, y - reach); v <= min(bottom - 1, y + reach); v++) memory.fill(open + <usize>(v * w + from), 1, to - from);
    }
}

// @ts-ignore: decorator
@inline function has(l: i32, i: i32): bool { return load<i32>(labels + (<usize>i << 2)) == l && load<i32>(nodes + (<usize>i << 2)) >= 0; }

// @ts-ignore: decorator
@inline function isInside(x: i32, y: i32): bool { return x >= 0 && y >= 0 && x < fw && y < fh; }

// @ts-ignore: decorator
@inline function isKnownAt(x: i32, y: i32): bool { return isInside(x, y) && load<u8>(known + <usize>(y * fw + x)) != 0; }

// @ts-ignore: decorator
@inline function at(x: i32, y: i32): usize { return picture + (<usize>(y * fw + x) << 3); }

/** Difference, at the known neighbours of a pixel, between what is there and what its shift would put there: in colour,
 *  and in the step from one known pixel further out. */
function rimJump(x: i32, y: i32, dx: i32, dy: i32): i32 {
  let sum = 0;
  for (let d = 0; d < 4; d++) {
    const ux = d == 0 ? -1 : d == 1 ? 1 : 0, uy = d == 2 ? -1 : d == 3 ? 1 : 0;
    const nx = x + ux, ny = y + uy;
    if (!isKnownAt(nx, ny) || !isInside(nx + dx, ny + dy)) continue;
    const a = at(nx, ny), b = at(nx + dx, ny + dy);
    for (let c: usize = 0; c < 3; c++) sum += abs(<i32>load<u8>(a + c) - <i32>load<u8>(b + c));
    const ox = nx + ux, oy = ny + uy;
    if (!isKnownAt(ox, oy) || !isInside(ox + dx, oy + dy)) continue;
    const further = at(ox, oy), beyond = at(ox + dx, oy + dy);
    for (let c: usize = 0; c < 3; c++)
      sum += abs(<i32>load<u8>(a + c) - <i32>load<u8>(b + c) - <i32>load<u8>(further + c) + <i32>load<u8>(beyond + c));
  }
  return sum;
}

/** Leaves each node the labels that cost it least, and the one that it has. Every label's box is all nodes.
 *  @param least  i32: scratch of `most` */
export function keepCheapest(n: i32, label: usize, costs: usize, count: i32, most: i32, least: usize): void {
  const last = least + (<usize>(most - 1) << 2);
  const plane = <usize>n << 2;
  for (let i = 0; i < n; i++) {
    for (let k = 0; k < most; k++) store<i32>(least + (<usize>k << 2), FORBIDDEN);
    let from = costs + (<usize>i << 2);
    for (let l = 0; l < count; l++, from += plane) {
      const v = load<i32>(from);
      if (v >= load<i32>(last)) continue;
      let to = last;
      for (; to > least && load<i32>(to - 4) > v; to -= 4) store<i32>(to, load<i32>(to - 4));
      store<i32>(to, v);
    }
    const limit = load<i32>(last), own = load<i32>(label + (<usize>i << 2));
    from = costs + (<usize>i << 2);
    for (let l = 0; l < count; l++, from += plane) if (load<i32>(from) > limit && l != own) store<i32>(from, FORBIDDEN);
  }
}

// Sums over 7×7 windows hold 8 i32 a pixel: channels 0 to 4, squared colours, colours times the guide's, and nothing.
const SUMS: usize = 32;

// @ts-ignore: decorator
@inline function clamped(v: i32, end: i32): i32 { return min(end - 1, max(0, v)); }

/** The seven values at each pixel of a row of the picture `a` at a shift, summed over seven columns.
 *  @param y       row of the frame, within it
 *  @param values  scratch of w + 6 pixels
 *  @param out     w pixels */
function sumAcross(a: usize, guide: usize, x0: i32, y: i32, w: i32, dx: i32, dy: i32, values: usize, out: usize): void {
  const row = a + (<usize>(clamped(y + dy, fh) * fw) << 3), own = guide + (<usize>(y * fw) << 3);
  const colours = i64x2(0xffffffffffff, 0);
  for (let x = 0; x < w + 6; x++) {
    const gx = clamped(x0 + x - 3, fw);
    const v = i16x8.extend_low_i8x16_u(v128.load64_zero(row + (<usize>clamped(gx + dx, fw) << 3)));
    const g = i16x8.extend_low_i8x16_u(v128.load64_zero(own + (<usize>gx << 3)));
    const rgb = v128.and(v, colours);
    const squares = i32x4.dot_i16x8_s(rgb, rgb), products = i32x4.dot_i16x8_s(rgb, g);
    const to = values + <usize>x * SUMS;
    v128.store(to, i32x4.extend_low_i16x8_u(v));
    store<i32>(to, i16x8.extract_lane_u(v, 4), 16);
    store<i32>(to, i32x4.extract_lane(squares, 0) + i32x4.extract_lane(squares, 1), 20);
    store<i32>(to, i32x4.extract_lane(products, 0) + i32x4.extract_lane(products, 1), 24);
    store<i32>(to, 0, 28);
  }
  let lo = i32x4.splat(0), hi = i32x4.splat(0);
  for (let x = 0; x < w + 6; x++) {
    const from = values + <usize>x * SUMS;
    lo = i32x4.add(lo, v128.load(from));
    hi = i32x4.add(hi, v128.load(from, 16));
    if (x < 6) continue;
    const to = out + <usize>(x - 6) * SUMS;
    v128.store(to, lo);
    v128.store(to, hi, 16);
    lo = i32x4.sub(lo, v128.load(from - 6 * SUMS));
    hi = i32x4.sub(hi, v128.load(from - 6 * SUMS, 16));
  }
}

/** Bytes of scratch that {@link sumGuide} and {@link addGuideCost} work in, for a box so wide. */
export function guideScratch(w: i32): i32 { return 9 * (w + 6) * <i32>SUMS; }

// Goes on to row y of a box, counted from three above it: from y = 6 on, the sums over the windows of row y − 6 are returned.
// Scratch holds the last seven rows, the columns' sums and a row of values.
function advance(a: usize, guide: usize, x0: i32, y0: i32, y: i32, w: i32, dx: i32, dy: i32, scratch: usize): usize {
  const row = <usize>(w + 6) * SUMS;
  const sums = scratch + 7 * row, own = scratch + <usize>(y % 7) * row;
  const bytes = <usize>w * SUMS;
  if (y == 0) memory.fill(sums, 0, bytes);
  if (y > 6) for (let k: usize = 0; k < bytes; k += 16) v128.store(sums + k, i32x4.sub(v128.load(sums + k), v128.load(own + k)));
  sumAcross(a, guide, x0, clamped(y0 + y - 3, fh), w, dx, dy, sums + row, own);
  for (let k: usize = 0; k < bytes; k += 16) v128.store(sums + k, i32x4.add(v128.load(sums + k), v128.load(own + k)));
  return sums;
}

/** Sums of the guide over the 7×7 windows of a box, for {@link addGuideCost}. `out` holds 8 i32 a node. */
export function sumGuide(guide: usize, x0: i32, y0: i32, w: i32, h: i32, scratch: usize, out: usize): void {
  for (let y = 0; y < h + 6; y++) {
    const sums = advance(guide, guide, x0, y0, y, w, 0, 0, scratch);
    if (y >= 6) memory.copy(out + <usize>((y - 6) * w) * SUMS, sums, <usize>w * SUMS);
  }
}

/** How unlike the guide the picture is at one label's shift, over 7×7 windows: means of colour and texture compared as
 *  they are, the pattern by correlation, so that a guide blurred by votes does not speak for soft sources.
 *  Adds to `out` (i32 a node). `sums` is what {@link sumGuide} gave. */
export function addGuideCost(guide: usize, sums: usize, x0: i32, y0: i32, w: i32, h: i32, dx: i32, dy: i32, out: usize, scratch: usize, featureWeight: f32): void {
  const by: f32 = 1.0 / 49.0;
  for (let row = 0; row < h + 6; row++) {
    let there = advance(picture, guide, x0, y0, row, w, dx, dy, scratch);
    if (row < 6) continue;
    let here = sums + <usize>((row - 6) * w) * SUMS, to = out + (<usize>((row - 6) * w) << 2);
    for (let x = 0; x < w; x++, there += SUMS, here += SUMS, to += 4) {
      if (load<i32>(to) >= FORBIDDEN) continue;
      let means: f32 = 0, ga: f32 = 0, sa: f32 = 0, gs: f32 = 0;
      for (let c: usize = 0; c < 12; c += 4) {
        const g = <f32>load<i32>(here + c) * by, s = <f32>load<i32>(there + c) * by;
        means += (g - s) * (g - s);
        ga += g * g; sa += s * s; gs += g * s;
      }
      let features: f32 = 0;
      for (let c: usize = 12; c < 20; c += 4) {
        const d = <f32>(load<i32>(here + c) - load<i32>(there + c)) * by;
        features += d * d;
      }
      const vg = max<f32>(0, <f32>load<i32>(here, 20) * by - ga), vs = max<f32>(0, <f32>load<i32>(there, 20) * by - sa);
      const cov = <f32>load<i32>(there, 24) * by - gs;
      const like = cov / (sqrt<f32>(vg * vs) + <f32>4.0);
      const pattern: f32 = vg * <f32>2.0 * (<f32>1.0 - max<f32>(-1, min<f32>(1, like)));
      store<i32>(to, load<i32>(to) + <i32>(<f32>0.5 * sqrt<f32>(means + pattern + featureWeight * features)));
    }
  }
}
