import {
  type Frame,
  farAcross,
  holePixels,
  keepsRule,
  mayTake,
  nearestSource,
  nothingToDrawFrom,
  periodAt,
  pixelBytes,
  type Rule,
  withoutPeriods,
} from '../frame';
import type { Shift, ShiftMap } from './seam-cut';

/** A coarse choice of shifts brought to the next finer level, all shifts doubled.
 *  @throws InputError `no-source` when the rules leave a pixel nothing to be taken from */
export function refineMap(fine: Frame, coarse: Frame, map: ShiftMap): ShiftMap {
  const { w } = fine;
  const shifts: Shift[] = map.shifts.map((s) => ({ dx: 2 * s.dx, dy: 2 * s.dy }));
  const label = new Int32Array(fine.w * fine.h).fill(-1);
  const kept = new Map<number, number>();
  const offLines = meanOffLines(fine, coarse, map);
  /** A label as a pixel's rule will have it: doubling carries a shift off a slanting line. */
  const underRule = (l: number, p: number): number => {
    const rule = fine.rules ? fine.rules.index[p] : 0;
    if (!fine.rules || rule === 0) return l;
    const key = l * 256 + rule;
    let known = kept.get(key);
    if (known === undefined) {
      const snapped = snap(shifts[l], fine.rules.list[rule - 1], offLines.get(key) ?? 0);
      known = l;
      if (snapped.dx !== shifts[l].dx || snapped.dy !== shifts[l].dy) {
        known = shifts.length;
        shifts.push(snapped);
      }
      kept.set(key, known);
    }
    return known;
  };
  const late: number[] = [];
  for (const p of holePixels(fine)) {
    const x = p % w;
    const y = Math.floor(p / w);
    const l = map.label[Math.min(coarse.h - 1, y >> 1) * coarse.w + Math.min(coarse.w - 1, x >> 1)];
    const own = l >= 0 ? underRule(l, p) : -1;
    if (own >= 0 && mayTake(fine, p, shifts[own].dx, shifts[own].dy)) label[p] = own;
    else late.push(p);
  }
  // An odd last row or column has no coarse pixel of its own either. Take what the neighbours have, or nearly that, or any shift that
  // serves.
  const numbers = new Map(shifts.map(({ dx, dy }, l) => [`${dx},${dy}`, l]));
  const numberOf = (shift: Shift): number => {
    const key = `${shift.dx},${shift.dy}`;
    const known = numbers.get(key) ?? shifts.length;
    if (known === shifts.length) {
      numbers.set(key, known);
      shifts.push(shift);
    }
    return known;
  };
  for (const p of late) {
    const serves = ({ dx, dy }: Shift) => mayTake(fine, p, dx, dy);
    const near = [p - 1, p + 1, p - w, p + w].map((q) => label[q]).filter((l) => l >= 0);
    const same = near.find((l) => serves(shifts[l]));
    if (same !== undefined) {
      label[p] = same;
      continue;
    }
    const found = near
      .flatMap((l) => besides.map(([x, y]) => ({ dx: shifts[l].dx + x, dy: shifts[l].dy + y })))
      .concat(shifts)
      .find(serves);
    const q = found ? -1 : nearestSource(fine, p);
    if (!found && q < 0) throw nothingToDrawFrom(fine);
    label[p] = numberOf(found ?? { dx: (q % w) - (p % w), dy: Math.floor(q / w) - Math.floor(p / w) });
  }
  return { shifts, label };
}

/** How far the sources of each label's pixels lie off their places across the lines of ruled ground, in the mean, once all shifts are
 *  doubled; by label and rule. */
function meanOffLines(
  { rules, hole, w }: Frame,
  coarse: Frame,
  { shifts, label }: ShiftMap,
): Map<number, number> {
  const sums = new Map<number, { sum: number; count: number }>();
  if (rules?.across) {
    const { across, index } = rules;
    for (const p of holePixels({ hole })) {
      const period = periodAt({ rules }, p);
      const [x, y] = [p % w, Math.floor(p / w)];
      const l = label[Math.min(coarse.h - 1, y >> 1) * coarse.w + Math.min(coarse.w - 1, x >> 1)];
      if (period === null || l < 0) continue;
      const [sx, sy] = [x + 2 * shifts[l].dx, y + 2 * shifts[l].dy];
      if (sx < 0 || sx >= w || sy < 0 || sy * w >= hole.length) continue;
      const there = across[sy * w + sx];
      if (Math.abs(there - across[p]) >= farAcross) continue;
      const key = l * 256 + index[p];
      const found = sums.get(key) ?? { sum: 0, count: 0 };
      found.sum += withoutPeriods(there - across[p], period);
      found.count++;
      sums.set(key, found);
    }
  }
  return new Map([...sums].map(([key, { sum, count }]) => [key, sum / count]));
}

/** What is nearly the same shift, the nearest first. */
const besides = [
  [-1, 0],
  [1, 0],
  [0, -1],
  [0, 1],
  [-2, 0],
  [2, 0],
  [0, -2],
  [0, 2],
] as const;

/** The shift nearest to a given one that keeps to a rule, by steps across the line's steeper side.
 *  @param offLines  how far off it is, for a rule of ruled ground */
function snap(shift: Shift, rule: Rule, offLines: number): Shift {
  let { dx, dy } = shift;
  if (rule.period !== null) {
    if (rule.nx === 0 && rule.ny === 0) return shift;
    return Math.abs(rule.nx) > Math.abs(rule.ny)
      ? { dx: dx - Math.round(offLines / rule.nx), dy }
      : { dx, dy: dy - Math.round(offLines / rule.ny) };
  }
  for (let step = 0; step < 4; step++) {
    const off = rule.nx * dx + rule.ny * dy;
    if (Math.abs(off) <= rule.slack) return { dx, dy };
    if (Math.abs(rule.nx) > Math.abs(rule.ny)) dx -= Math.sign(off) * Math.sign(rule.nx);
    else dy -= Math.sign(off) * Math.sign(rule.ny);
  }
  return shift;
}

/** Moves each piece by at most one pixel each way so that it fits its border best: doubling a shift leaves it up to a
 *  pixel off, which shows as a break in fine lines. */
export function nudgeShifts(frame: Frame, map: ShiftMap): ShiftMap {
  const shifts = map.shifts.slice();
  const holes = holePixels(frame);
  const members = byLabel(
    holes,
    Int32Array.from(holes, (p) => map.label[p]),
    shifts.length,
  );
  const links = linksOf(frame, map.label, holes);
  const borders = byLabel(links.to, links.from, shifts.length);
  const bySize = shifts
    .map((_, l) => l)
    .filter((l) => members[l].length > 0)
    .sort((a, b) => members[b].length - members[a].length || a - b);
  for (const l of bySize) {
    let best = Infinity;
    let chosen = shifts[l];
    for (const [nx, ny] of nudges) {
      const s = { dx: shifts[l].dx + nx, dy: shifts[l].dy + ny };
      if (!mayAllTake(frame, members[l], s)) continue;
      const price = nx === 0 && ny === 0 ? 0 : borders[l].length * 0.5;
      const cost = price + misfits(frame, map, shifts, borders[l], s);
      if (cost < best) {
        best = cost;
        chosen = s;
      }
    }
    shifts[l] = chosen;
  }
  return { shifts, label: map.label };
}

/** Pixels of each label together, in their order. */
function byLabel(pixels: Int32Array, labels: Int32Array, count: number): Int32Array[] {
  const starts = new Int32Array(count + 1);
  for (let k = 0; k < labels.length; k++) starts[labels[k] + 1]++;
  for (let l = 0; l < count; l++) starts[l + 1] += starts[l];
  const next = starts.slice();
  const out = new Int32Array(pixels.length);
  for (let k = 0; k < pixels.length; k++) out[next[labels[k]]++] = pixels[k];
  return Array.from({ length: count }, (_, l) => out.subarray(starts[l], starts[l + 1]));
}

/** Where a pixel that is to be filled has one of another label beside it: its own label, and that pixel. */
function linksOf({ w, h }: Frame, label: Int32Array, holes: Int32Array) {
  const from = new Int32Array(4 * holes.length);
  const to = new Int32Array(4 * holes.length);
  let n = 0;
  for (let k = 0; k < holes.length; k++) {
    const p = holes[k];
    const x = p % w;
    for (let d = 0; d < 4; d++) {
      if (d === 0 ? x === 0 : d === 1 ? x === w - 1 : d === 2 ? p < w : p >= w * (h - 1)) continue;
      const q = p + (d === 0 ? -1 : d === 1 ? 1 : d === 2 ? -w : w);
      if (label[q] === label[p]) continue;
      from[n] = label[p];
      to[n++] = q;
    }
  }
  return { from: from.subarray(0, n), to: to.subarray(0, n) };
}

/** Whether all of some pixels may take their sources at a shift. */
function mayAllTake(frame: Frame, pixels: Int32Array, { dx, dy }: Shift): boolean {
  const { w, source } = frame;
  const away = dy * w + dx;
  for (let i = 0; i < pixels.length; i++) {
    const x = (pixels[i] % w) + dx;
    if (x < 0 || x >= w || source[pixels[i] + away] !== 1) return false;
  }
  return !frame.rules || pixels.every((p) => keepsRule(frame, p, p + away));
}

const nudges = [
  [0, 0],
  [-1, 0],
  [1, 0],
  [0, -1],
  [0, 1],
  [-1, -1],
  [1, -1],
  [-1, 1],
  [1, 1],
] as const;

/** What a piece costs where it is not known what it, or the other one, would show. */
const unseen = 60;

/** Colour differences along a piece's border, between what it would put there and what is there. */
function misfits(
  { w, h, img, known }: Frame,
  { label }: ShiftMap,
  shifts: readonly Shift[],
  border: Int32Array,
  { dx, dy }: Shift,
): number {
  let sum = 0;
  for (let k = 0; k < border.length; k++) {
    const q = border[k];
    const x = (q % w) + dx;
    const y = Math.floor(q / w) + dy;
    const other = label[q];
    const there = other >= 0 ? q + shifts[other].dy * w + shifts[other].dx : q;
    if (x < 0 || y < 0 || x >= w || y >= h || !known[y * w + x] || !known[there]) {
      sum += unseen;
      continue;
    }
    const a = (y * w + x) * pixelBytes;
    const b = there * pixelBytes;
    for (let c = 0; c < 3; c++) sum += Math.abs(img[a + c] - img[b + c]);
  }
  return sum;
}
