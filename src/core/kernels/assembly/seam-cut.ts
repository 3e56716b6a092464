// Choosing one of several shifts for every pixel of a hole by graph cuts. AssemblyScript; see core/methods/fill/cut/seam-cut.ts
// for the contract and the papers. Nodes are the pixels of a w×h box; pictures are 8 bytes a pixel over a larger frame.

import { claim } from './arena';
import { fh, fw, isKnownPixel, isSeenTwice, picture, SEEN_TWICE } from './seam-cut/frame';
import { addTerminal, beginGraph, capAt, clearGraph, isBeyond, maxFlow } from './seam-cut/max-flow';
import { FORBIDDEN } from './seam-cut/prices';

export { claim, release } from './arena';
export { setFrame } from './seam-cut/frame';
export { addGuideCost, guideScratch, sumGuide } from './seam-cut/guide';
export { keepCheapest, nearestLabels, price } from './seam-cut/prices';

let lastPixel: i32 = 0;
/** u8 a node of the graph: whether it may change. */
let free: usize = 0;
/** What a node pays for a pixel that another node takes as well, from not too far off. 0: nothing. */
let takenAgain: i32 = 0;
/** i32 a pixel of the frame: 1 + the label of the node there, 0 where there is none. */
let labelAt: usize = 0;
/** i32 a label: how many nodes have it. */
let holders: usize = 0;
/** i32 a label and place: how many others are near to it, and which they are. */
let nearLabels: usize = 0;

/** Makes room for sweeps over a box.
 *  @param again   what nodes pay for taking the same pixel when they lie no farther apart than so many pixels
 *  @param steps   i32 dx and dy a label
 *  @returns false when memory is short */
export function begin(w: i32, h: i32, again: i32, nearPx: i32, steps: usize, count: i32): bool {
  free = claim(w * h);
  takenAgain = again;
  if (again > 0) {
    labelAt = claim(fw * fh * 4);
    holders = claim(count * 4);
    nearLabels = claim(count * (count + 1) * 4);
    if (!labelAt || !holders || !nearLabels) return false;
    findNear(nearPx, steps, count);
  }
  return free != 0 && beginGraph(w, h);
}

// Two nodes that take the same pixel lie as far apart as their shifts.
function findNear(nearPx: i32, steps: usize, count: i32): void {
  for (let l = 0; l < count; l++) {
    const list = nearLabels + (<usize>(l * (count + 1)) << 2);
    let found = 0;
    for (let m = 0; m < count; m++) {
      if (m == l) continue;
      const dx = load<i32>(steps + (<usize>l << 3)) - load<i32>(steps + (<usize>m << 3));
      const dy = load<i32>(steps + (<usize>l << 3), 4) - load<i32>(steps + (<usize>m << 3), 4);
      if (dx * dx + dy * dy > nearPx * nearPx) continue;
      found++;
      store<i32>(list + (<usize>found << 2), m);
    }
    store<i32>(list, found);
  }
}

// @ts-ignore: decorator
@inline function inFrame(p: i32): i32 { return min(lastPixel, max(0, p)); }

// @ts-ignore: decorator
@inline function colourStep(a: i32, b: i32): i32 {
  // Just past a piece the shifted pixel may lie beyond the frame; any fixed pixel serves there.
  const pa = picture + (<usize>inFrame(a) << 3), pb = picture + (<usize>inFrame(b) << 3);
  return abs(<i32>load<u8>(pa) - <i32>load<u8>(pb)) + abs(<i32>load<u8>(pa, 1) - <i32>load<u8>(pb, 1)) + abs(<i32>load<u8>(pa, 2) - <i32>load<u8>(pb, 2));
}

// Texture features of a pixel: sum over both directions.
// @ts-ignore: decorator
@inline function texture(a: i32): i32 {
  const p = picture + (<usize>inFrame(a) << 3);
  return <i32>load<u8>(p, 3) + <i32>load<u8>(p, 4);
}

const JOIN_GAIN: i32 = 260, PLAIN: i32 = 120;
/** What two pieces would show of each other where neither is known, as a step at both pixels. */
const UNSEEN_STEP: i32 = 120;

// Summed colour difference at both pixels when p takes shift a and q takes shift b, against how much texture there is to hide it in.
// Just past a piece something may lie that is not known, as what is to go: it says nothing, and the other pixel speaks for both.
// @ts-ignore: decorator
@inline function seam(p: i32, q: i32, a: i32, b: i32): i32 {
  if (a == b) return 0;
  const atP = isKnownPixel(inFrame(p + b)), atQ = isKnownPixel(inFrame(q + a));
  let step = UNSEEN_STEP;
  if (atP && atQ) step = colourStep(p + a, p + b) + colourStep(q + a, q + b);
  else if (atP) step = 2 * colourStep(p + a, p + b);
  else if (atQ) step = 2 * colourStep(q + a, q + b);
  const join = step * JOIN_GAIN / (PLAIN + texture(p + a) + texture(p + b) + texture(q + a) + texture(q + b));
  return isSeenTwice(inFrame(p + a), inFrame(p + b)) ? join + SEEN_TWICE : join;
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
 *  Two nodes that take the same pixel never have the same label, so that what one pays for that is known as long as only one of them
 *  changes: it is counted before each label.
 *  @returns nodes that changed */
export function expand(w: i32, h: i32, frame: usize, label: usize, shifts: usize, tables: usize, costs: usize, count: i32, usedOnly: bool): i32 {
  let changed = 0;
  lastPixel = fw * fh - 1;
  const n = w * h;
  nodes = frame; labels = label; shiftOf = shifts; costTables = tables; allCosts = costs;
  labelCount = count;
  if (takenAgain > 0) placeLabels(n);
  for (alpha = 0; alpha < count; alpha++) {
    const table = tableOf(alpha);
    const left = max(0, load<i32>(table) - 1), top = max(0, load<i32>(table, 4) - 1), right = min(w, load<i32>(table, 8) + 1), bottom = min(h, load<i32>(table, 12) + 1);
    if (load<i32>(table, 8) <= load<i32>(table)) continue;
    if (usedOnly && !isUsed(alpha, label, n)) continue;
    const gw = right - left, gh = bottom - top;
    shiftA = load<i32>(shifts + (<usize>alpha << 2));
    let any = false;
    clearGraph(gw, gh);
    memory.fill(free, 0, gw * gh);
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
        addTerminal(node, to + againOf(i, alpha) - costOf(own, x, y) - againOf(i, own));
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
        if (!load<u8>(free + node) || !isBeyond(<i32>node)) continue;
        const i = y * w + x;
        if (takenAgain > 0) {
          hold(load<i32>(label + (<usize>i << 2)), -1);
          hold(alpha, 1);
          store<i32>(labelAt + (<usize>load<i32>(frame + (<usize>i << 2)) << 2), alpha + 1);
        }
        store<i32>(label + (<usize>i << 2), alpha);
        changed++;
      }
  }
  return changed;
}

function placeLabels(n: i32): void {
  memory.fill(labelAt, 0, <usize>(fw * fh) << 2);
  memory.fill(holders, 0, <usize>labelCount << 2);
  for (let i = 0; i < n; i++) {
    const f = load<i32>(nodes + (<usize>i << 2));
    if (f < 0) continue;
    const l = load<i32>(labels + (<usize>i << 2));
    store<i32>(labelAt + (<usize>f << 2), l + 1);
    hold(l, 1);
  }
}

// @ts-ignore: decorator
@inline function hold(l: i32, by: i32): void {
  const at = holders + (<usize>l << 2);
  store<i32>(at, load<i32>(at) + by);
}

// @ts-ignore: decorator
@inline function shift(l: i32): i32 { return load<i32>(shiftOf + (<usize>l << 2)); }

// What a node pays with a label when another node takes the same pixel.
function againOf(i: i32, l: i32): i32 {
  if (takenAgain == 0) return 0;
  const source = load<i32>(nodes + (<usize>i << 2)) + shift(l);
  const list = nearLabels + (<usize>(l * (labelCount + 1)) << 2);
  const found = load<i32>(list);
  for (let k = 1; k <= found; k++) {
    const m = load<i32>(list + (<usize>k << 2));
    if (load<i32>(holders + (<usize>m << 2)) == 0) continue;
    const other = source - shift(m);
    if (other >= 0 && other <= lastPixel && load<i32>(labelAt + (<usize>other << 2)) == m + 1) return takenAgain;
  }
  return 0;
}

function isUsed(l: i32, label: usize, n: i32): bool {
  for (let i = 0; i < n; i++) if (load<i32>(label + (<usize>i << 2)) == l) return true;
  return false;
}

// What the sweep in hand works on.
let nodes: usize = 0, labels: usize = 0, shiftOf: usize = 0, costTables: usize = 0, allCosts: usize = 0;
let alpha: i32 = 0, shiftA: i32 = 0, labelCount: i32 = 0;

// @ts-ignore: decorator
@inline function tableOf(l: i32): usize { return costTables + <usize>(l * 20); }

// @ts-ignore: decorator
@inline function costOf(l: i32, x: i32, y: i32): i32 {
  const table = tableOf(l);
  const left = load<i32>(table), top = load<i32>(table, 4), right = load<i32>(table, 8);
  if (x < left || y < top || x >= right || y >= load<i32>(table, 12)) return FORBIDDEN;
  return load<i32>(allCosts + (<usize>(load<i32>(table, 16) + (y - top) * (right - left) + x - left) << 2));
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
