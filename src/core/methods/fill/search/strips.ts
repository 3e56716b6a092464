import { type Frame, mostAcross, withoutPeriods } from '../frame';

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
  const served = isRuled ? usable.filter((q) => ofLines[q] < mostAcross(period)) : usable;
  const across = (p: number) => {
    if (isRuled) return Math.floor(withoutPeriods(ofLines[p], period));
    return Math.floor(views ? nx * views.x[p] + ny * views.y[p] : nx * (p % w) + ny * Math.floor(p / w));
  };
  let [least, most] = [Infinity, -Infinity];
  for (const q of served) {
    const a = across(q);
    if (a < least) least = a;
    if (a > most) most = a;
  }
  // Counted by strip, then laid out strip after strip.
  const starts = new Int32Array(Math.max(0, most - least) + 2);
  for (const q of served) starts[across(q) - least + 1]++;
  for (let k = 1; k < starts.length; k++) starts[k] += starts[k - 1];
  const list = new Int32Array(served.length);
  const next = starts.slice();
  for (const q of served) list[next[across(q) - least]++] = q;
  const startAt = (strip: number) => starts[Math.max(0, Math.min(starts.length - 1, strip - least))];
  const room = Math.ceil(slack) + 1;
  return { near: (p) => ({ list, from: startAt(across(p) - room), to: startAt(across(p) + room + 1) }) };
}
