import { type Frame, farAcross, holePixels, mostAcross, withoutPeriods } from '../frame';

/** Sources sorted by how far across a rule's line they lie, so that those that keep to it are found at once. */
export interface Strips {
  /** `list[from … to − 1]` holds all sources that a target may take, and a few that lie a little farther out. */
  near(p: number): { list: Int32Array; from: number; to: number };
}

export function stripsOf(frame: Frame, rule: number, usable: Int32Array): Strips {
  const { w, views } = frame;
  const { list: rules, across: ofLines } = frame.rules!;
  const { nx, ny, slack, period } = rules[rule - 1];
  const isRuled = ofLines !== null && period !== null;
  const served = isRuled ? between(usable, ofLines, ...reachOf(frame, rule)) : usable;
  const across = (p: number) => {
    if (isRuled) return Math.floor(withoutPeriods(ofLines[p], period));
    return Math.floor(views ? nx * views.x[p] + ny * views.y[p] : nx * (p % w) + ny * Math.floor(p / w));
  };
  const strips = new Int32Array(served.length);
  for (let k = 0; k < served.length; k++) strips[k] = across(served[k]);
  const { list, least, starts } = sorted(served, strips);
  const startAt = (strip: number) => starts[Math.max(0, Math.min(starts.length - 1, strip - least))];
  const room = Math.ceil(slack) + 1;
  return { near: (p) => ({ list, from: startAt(across(p) - room), to: startAt(across(p) + room + 1) }) };
}

/** Between which places across its lines the sources of a rule lie. What has nothing to do with each other lies so far apart that
 *  strips for all of it would be far more than there are pixels. */
function reachOf({ hole, rules }: Frame, rule: number): [number, number] {
  const { list, index, across } = rules!;
  const { period, slack } = list[rule - 1];
  const most = mostAcross(period!);
  if (period! > 0) return [-farAcross, most];
  let [from, to] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const p of holePixels({ hole })) {
    if (index[p] !== rule || across![p] >= most) continue;
    from = Math.min(from, across![p] - slack - 1);
    to = Math.max(to, across![p] + slack + 1);
  }
  return [from, Math.min(most, to)];
}

/** Those of which a number lies between these. */
function between(pixels: Int32Array, numbers: Float32Array, from: number, to: number): Int32Array {
  const out = new Int32Array(pixels.length);
  let n = 0;
  for (let k = 0; k < pixels.length; k++) {
    const v = numbers[pixels[k]];
    if (v >= from && v < to) out[n++] = pixels[k];
  }
  return out.subarray(0, n);
}

/** Pixels strip after strip: counted, then laid out.
 *  @returns the least strip, and where it and each one after it begin in the list */
function sorted(pixels: Int32Array, strips: Int32Array) {
  let least = Number.POSITIVE_INFINITY;
  let most = Number.NEGATIVE_INFINITY;
  for (let k = 0; k < strips.length; k++) {
    if (strips[k] < least) least = strips[k];
    if (strips[k] > most) most = strips[k];
  }
  const starts = new Int32Array(Math.max(0, most - least) + 2);
  for (let k = 0; k < strips.length; k++) starts[strips[k] - least + 1]++;
  for (let k = 1; k < starts.length; k++) starts[k] += starts[k - 1];
  const list = new Int32Array(pixels.length);
  const next = starts.slice();
  for (let k = 0; k < strips.length; k++) list[next[strips[k] - least]++] = pixels[k];
  return { list, least, starts };
}
