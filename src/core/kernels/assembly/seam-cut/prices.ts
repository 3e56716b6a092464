// What labels cost their pixels. AssemblyScript.

import { at, fh, fw, isKnownAt, isSeenTwice, mayTake, picture, SEEN_TWICE } from './frame';

/** A node whose cost is as high as this must not take the label. */
export const FORBIDDEN: i32 = 1 << 30;

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
  for (let l = 0; l < count; l++) {
    const table = tables + <usize>(l * 20);
    const left = load<i32>(table), top = load<i32>(table, 4), right = load<i32>(table, 8), bottom = load<i32>(table, 12);
    if (right <= left) continue;
    const dx = load<i32>(steps + (<usize>l << 3)), dy = load<i32>(steps + (<usize>l << 3), 4);
    if (reach >= 0) openNear(l, frame, label, left, top, right, bottom, w, reach, open);
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
function openNear(l: i32, frame: usize, label: usize, left: i32, top: i32, right: i32, bottom: i32, w: i32, reach: i32, open: usize): void {
  for (let y = top; y < bottom; y++) memory.fill(open + <usize>(y * w + left), 0, right - left);
  for (let y = top; y < bottom; y++)
    for (let x = left; x < right; x++) {
      if (!has(l, frame, label, y * w + x)) continue;
      const from = max(left, x - reach);
      while (x + 1 < right && has(l, frame, label, y * w + x + 1)) x++;
      const to = min(right, x + reach + 1);
      for (let v = max(top, y - reach); v <= min(bottom - 1, y + reach); v++) memory.fill(open + <usize>(v * w + from), 1, to - from);
    }
}

// @ts-ignore: decorator
@inline function has(l: i32, frame: usize, label: usize, i: i32): bool { return load<i32>(label + (<usize>i << 2)) == l && load<i32>(frame + (<usize>i << 2)) >= 0; }

/** As a poor join costs. */
const UNSEEN: i32 = 240;

/** Difference, at the known neighbours of a pixel, between what is there and what its shift would put there: in colour,
 *  and in the step from one known pixel further out; more where it is another view of what is there. What lies there in the
 *  source may not be known, at the picture's edge or beside what is to go: such a rim is no good one for being unseen. */
function rimJump(x: i32, y: i32, dx: i32, dy: i32): i32 {
  let sum = 0;
  for (let d = 0; d < 4; d++) {
    const ux = d == 0 ? -1 : d == 1 ? 1 : 0, uy = d == 2 ? -1 : d == 3 ? 1 : 0;
    const nx = x + ux, ny = y + uy;
    if (!isKnownAt(nx, ny)) continue;
    if (!isKnownAt(nx + dx, ny + dy)) { sum += UNSEEN; continue; }
    const a = at(nx, ny), b = at(nx + dx, ny + dy);
    if (isSeenTwice(ny * fw + nx, (ny + dy) * fw + nx + dx)) sum += SEEN_TWICE;
    for (let c: usize = 0; c < 3; c++) sum += abs(<i32>load<u8>(a + c) - <i32>load<u8>(b + c));
    const ox = nx + ux, oy = ny + uy;
    if (!isKnownAt(ox, oy) || !isKnownAt(ox + dx, oy + dy)) continue;
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
