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
@inline function colourStep(img: usize, a: i32, b: i32): i32 {
  // Just past a piece the shifted pixel may lie beyond the frame; any fixed pixel serves there.
  const pa = img + (<usize>min(lastPixel, max(0, a)) << 3), pb = img + (<usize>min(lastPixel, max(0, b)) << 3);
  return abs(<i32>load<u8>(pa) - <i32>load<u8>(pb)) + abs(<i32>load<u8>(pa, 1) - <i32>load<u8>(pb, 1)) + abs(<i32>load<u8>(pa, 2) - <i32>load<u8>(pb, 2));
}

// Texture features of a pixel: sum over both directions.
// @ts-ignore: decorator
@inline function texture(img: usize, a: i32): i32 {
  const p = img + (<usize>min(lastPixel, max(0, a)) << 3);
  return <i32>load<u8>(p, 3) + <i32>load<u8>(p, 4);
}

const JOIN_GAIN: i32 = 260, PLAIN: i32 = 120;

// Summed colour difference at both pixels when one side of a link takes shift a and the other shift b, against how much
// texture there is to hide it in.
// @ts-ignore: decorator
@inline function seam(img: usize, p: i32, q: i32, a: i32, b: i32): i32 {
  if (a == b) return 0;
  const step = colourStep(img, p + a, p + b) + colourStep(img, q + a, q + b);
  return step * JOIN_GAIN / (PLAIN + texture(img, p + a) + texture(img, p + b) + texture(img, q + a) + texture(img, q + b));
}

/** One α-expansion sweep over the labels. The graph of a label is the box that holds all nodes which may take it, and their
 *  neighbours.
 *
 *  @param img      frame picture, 8 bytes a pixel
 *  @param frame    index in the frame of each node, −1 where the node is no part of the problem
 *  @param label    i32 a node, changed in place
 *  @param shifts   i32 a label: frame index distance
 *  @param tables   5 i32 a label: left, top, right and bottom of the nodes that may take it, ends left out, and where
 *                  their costs begin
 *  @param costs    i32 a node of a label's box; 2³⁰ or more forbids
 *  @param count    number of labels
 *  @param usedOnly  leaves out labels that no node has
 *  @returns nodes that changed */
export function expand(img: usize, framePixels: i32, w: i32, h: i32, frame: usize, label: usize, shifts: usize, tables: usize, costs: usize, count: i32, usedOnly: bool): i32 {
  let changed = 0;
  lastPixel = framePixels - 1;
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
        if (x + 1 < right) link(img, i, i + 1, node, node + 1, 1);
        if (y + 1 < bottom) link(img, i, i + w, node, node + gw, 3);
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
function link(img: usize, i: i32, j: i32, a: i32, b: i32, d: i32): void {
  const f = load<i32>(nodes + (<usize>i << 2)), g = load<i32>(nodes + (<usize>j << 2));
  if (g < 0) return;
  const freeI = load<u8>(free + <usize>a), freeJ = load<u8>(free + <usize>b);
  if (!freeI && !freeJ) return;
  const si = load<i32>(shiftOf + (<usize>load<i32>(labels + (<usize>i << 2)) << 2)), sj = load<i32>(shiftOf + (<usize>load<i32>(labels + (<usize>j << 2)) << 2));
  const stay = seam(img, f, g, si, sj);
  if (freeI && freeJ) {
    const onlyJ = seam(img, f, g, si, shiftA), onlyI = seam(img, f, g, shiftA, sj);
    addTerminal(a, onlyI - stay);
    addTerminal(b, -onlyI);
    store<i32>(capAt(a, d), max(0, onlyJ + onlyI - stay));
  } else if (freeI) addTerminal(a, seam(img, f, g, shiftA, sj) - stay);
  else addTerminal(b, seam(img, f, g, si, shiftA) - stay);
}

// Box sums over 7×7 of one value a pixel: rows, then columns, in place of `box` (w×h i32).
function boxSums(values: usize, rows: usize, box: usize, w: i32, h: i32): void {
  const ww = w + 6, hh = h + 6;
  for (let y = 0; y < hh; y++) {
    let sum = 0;
    const from = values + (<usize>(y * ww) << 2);
    for (let x = 0; x < 6; x++) sum += load<i32>(from + (<usize>x << 2));
    for (let x = 0; x < w; x++) {
      sum += load<i32>(from + (<usize>(x + 6) << 2));
      store<i32>(rows + (<usize>(y * w + x) << 2), sum);
      sum -= load<i32>(from + (<usize>x << 2));
    }
  }
  for (let x = 0; x < w; x++) {
    let sum = 0;
    for (let y = 0; y < 6; y++) sum += load<i32>(rows + (<usize>(y * w + x) << 2));
    for (let y = 0; y < h; y++) {
      sum += load<i32>(rows + (<usize>((y + 6) * w + x) << 2));
      store<i32>(box + (<usize>(y * w + x) << 2), sum);
      sum -= load<i32>(rows + (<usize>(y * w + x) << 2));
    }
  }
}

// @ts-ignore: decorator
@inline function pixelOf(frameW: i32, frameH: i32, x: i32, y: i32): usize {
  return <usize>(min(frameH - 1, max(0, y)) * frameW + min(frameW - 1, max(0, x))) << 3;
}

// Box sums of a picture's channel 0…4, or of the sum of its squared colours (5), or of colours times another's (6).
function sumsOf(a: usize, b: usize, frameW: i32, frameH: i32, x0: i32, y0: i32, w: i32, h: i32, dx: i32, dy: i32, what: i32, scratch: usize, out: usize): void {
  const ww = w + 6, hh = h + 6;
  for (let y = 0; y < hh; y++)
    for (let x = 0; x < ww; x++) {
      const gx = min(frameW - 1, max(0, x0 + x - 3)), gy = min(frameH - 1, max(0, y0 + y - 3));
      const p = a + pixelOf(frameW, frameH, gx + dx, gy + dy);
      let v: i32;
      if (what < 5) v = load<u8>(p + <usize>what);
      else {
        const q = what == 5 ? p : b + pixelOf(frameW, frameH, gx, gy);
        v = <i32>load<u8>(p) * load<u8>(q) + <i32>load<u8>(p, 1) * load<u8>(q, 1) + <i32>load<u8>(p, 2) * load<u8>(q, 2);
      }
      store<i32>(scratch + (<usize>(y * ww + x) << 2), v);
    }
  boxSums(scratch, scratch + (<usize>(ww * hh) << 2), out, w, h);
}

/** Sums of the guide over 7×7 windows, for {@link addGuideCost}. `out` holds 6·w·h i32, `scratch` 2·(w+6)·(h+6). */
export function sumGuide(guide: usize, frameW: i32, frameH: i32, x0: i32, y0: i32, w: i32, h: i32, out: usize, scratch: usize): void {
  for (let c = 0; c < 6; c++) sumsOf(guide, guide, frameW, frameH, x0, y0, w, h, 0, 0, c, scratch, out + (<usize>(c * w * h) << 2));
}

/** How unlike the guide the picture is at one label's shift, over 7×7 windows: means of colour and texture compared as
 *  they are, the pattern by correlation, so that a guide blurred by votes does not speak for soft sources.
 *  Adds to `out` (i32 a node). `sums` is what {@link sumGuide} gave; `work` holds 7·w·h i32. */
export function addGuideCost(img: usize, guide: usize, sums: usize, frameW: i32, frameH: i32, x0: i32, y0: i32, w: i32, h: i32, dx: i32, dy: i32, out: usize, scratch: usize, work: usize, featureWeight: f32): void {
  const n = <usize>(w * h) << 2;
  for (let c = 0; c < 7; c++) sumsOf(img, guide, frameW, frameH, x0, y0, w, h, dx, dy, c, scratch, work + <usize>c * n);
  const by: f32 = 1.0 / 49.0;
  for (let i = 0; i < w * h; i++) {
    const at = <usize>i << 2;
    if (load<i32>(out + at) >= FORBIDDEN) continue;
    let means: f32 = 0, ga: f32 = 0, sa: f32 = 0, gs: f32 = 0;
    for (let c = 0; c < 3; c++) {
      const g = <f32>load<i32>(sums + <usize>c * n + at) * by, s = <f32>load<i32>(work + <usize>c * n + at) * by;
      means += (g - s) * (g - s);
      ga += g * g; sa += s * s; gs += g * s;
    }
    let features: f32 = 0;
    for (let c = 3; c < 5; c++) {
      const d = <f32>(load<i32>(sums + <usize>c * n + at) - load<i32>(work + <usize>c * n + at)) * by;
      features += d * d;
    }
    const vg = max<f32>(0, <f32>load<i32>(sums + 5 * n + at) * by - ga), vs = max<f32>(0, <f32>load<i32>(work + 5 * n + at) * by - sa);
    const cov = <f32>load<i32>(work + 6 * n + at) * by - gs;
    const like = cov / (sqrt<f32>(vg * vs) + <f32>4.0);
    const pattern: f32 = vg * <f32>2.0 * (<f32>1.0 - max<f32>(-1, min<f32>(1, like)));
    store<i32>(out + at, load<i32>(out + at) + <i32>(<f32>0.5 * sqrt<f32>(means + pattern + featureWeight * features)));
  }
}
