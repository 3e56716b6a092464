import { squaredDistance } from '../../../area';
import { type Frame, holePixels, pixelBytes, withoutPeriods } from '../frame';
import type { Shift } from './seam-cut';

/** What lies so near to a hole is compared. */
const rimPx = 3;
/** So many pixels of rim and hole stand for all. */
const mostOfRim = 300;
const mostOfHole = 80;
/** A quick look takes a fourth of them. */
const quickShare = 4;
/** So many shifts are looked at: of more, only those on a grid. */
const mostShifts = 45_000;
/** So many of the best are looked at closely, with their neighbours. */
const mostClosely = 400;
/** At least this much of a hole must find a source, and of its rim something to be compared with. */
const leastServed = 0.5;
/** Squared difference of a pixel's colour and texture at most: more is no worse. */
const mostUnlike = 3000;
/** Shifts nearer to each other than this along both sides are one. */
const apartPx = 2;

/** Shifts under which the rim of a hole looks as it does: what lies there can be taken for the hole in one piece, with all that
 *  is in it. Every shift is tried (after the same idea for single pieces in Efros & Freeman 2001, doi:10.1145/383259.383296, and
 *  whole pictures in Kwatra et al. 2003, doi:10.1145/882262.882264, section 3); those that do not fit in part are of use as well,
 *  since a cut takes the part that does.
 *
 *  @param rule  number of the rule that they must keep to; of ruled ground only that part of the hole is looked at. 0: none
 *  @returns at most `most`, the best first; none where nothing serves
 *  Cost: {@link mostShifts} quick looks at most, whatever the frame's size. */
export function rimShifts(frame: Frame, most: number, rule = 0): Shift[] {
  const { w, h, known, source, rules } = frame;
  const kept = rules && rule > 0 ? rules.list[rule - 1] : null;
  const hole =
    rules && kept && kept.period !== null
      ? frame.hole.map((v, p) => (rules.index[p] === rule ? v : 0))
      : frame.hole;
  const near = squaredDistance(hole, w, h);
  const rim: number[] = [];
  for (let p = 0; p < w * h; p++) if (known[p] && !frame.hole[p] && near[p] <= rimPx ** 2) rim.push(p);
  const inside = Array.from(holePixels({ hole }));
  if (rim.length === 0 || inside.length === 0) return [];
  const [looked, quick] = [1, quickShare].map((share) => placesOf(rim, mostOfRim / share, w));
  const [ofHole, someOfHole] = [1, quickShare].map((share) => placesOf(inside, mostOfHole / share, w));

  const keeps = (dx: number, dy: number) =>
    !kept || Math.abs(withoutPeriods(kept.nx * dx + kept.ny * dy, kept.period ?? 0)) <= kept.slack;
  const serves = (dx: number, dy: number, places: Int32Array): boolean => {
    let served = 0;
    for (let k = 0; k < places.length; k += 2) {
      const [x, y] = [places[k] + dx, places[k + 1] + dy];
      if (x >= 0 && y >= 0 && x < w && y < h && source[y * w + x]) served++;
    }
    return served >= (leastServed * places.length) / 2;
  };
  const unlikeness = (dx: number, dy: number, places: Int32Array): number => {
    const { img } = frame;
    let [sum, seen] = [0, 0];
    for (let k = 0; k < places.length; k += 2) {
      const [x, y] = [places[k] + dx, places[k + 1] + dy];
      if (x < 0 || y < 0 || x >= w || y >= h) continue;
      const q = y * w + x;
      if (!known[q] || frame.hole[q]) continue;
      seen++;
      const [a, b] = [(places[k + 1] * w + places[k]) * pixelBytes, q * pixelBytes];
      let d = 0;
      for (let c = 0; c < 5; c++) d += (img[a + c] - img[b + c]) ** 2;
      sum += Math.min(d, mostUnlike);
    }
    return seen >= (leastServed * places.length) / 2 ? sum / seen : Number.POSITIVE_INFINITY;
  };

  // Along a line there are few.
  const isOneLine = kept !== null && !kept.period;
  const step = isOneLine ? 1 : Math.max(1, Math.ceil(Math.sqrt((4 * w * h) / mostShifts)));
  const first: Candidate[] = [];
  for (let dy = -Math.floor(h / step) * step; dy < h; dy += step)
    for (let dx = -Math.floor(w / step) * step; dx < w; dx += step) {
      if (!keeps(dx, dy) || !serves(dx, dy, someOfHole)) continue;
      const cost = unlikeness(dx, dy, quick);
      if (cost < Number.POSITIVE_INFINITY) first.push({ dx, dy, cost });
    }
  const closely = new Map<string, Candidate>();
  for (const { dx, dy } of first.sort(byCost).slice(0, mostClosely))
    for (let v = dy - (step >> 1); v <= dy + (step >> 1); v++)
      for (let u = dx - (step >> 1); u <= dx + (step >> 1); u++) {
        const key = `${u},${v}`;
        if (closely.has(key) || !keeps(u, v) || !serves(u, v, ofHole)) continue;
        closely.set(key, { dx: u, dy: v, cost: unlikeness(u, v, looked) });
      }
  const chosen: Shift[] = [];
  for (const { dx, dy, cost } of [...closely.values()].sort(byCost)) {
    if (chosen.length === most || cost === Number.POSITIVE_INFINITY) break;
    if (!chosen.some((c) => Math.abs(c.dx - dx) <= apartPx && Math.abs(c.dy - dy) <= apartPx))
      chosen.push({ dx, dy });
  }
  return chosen;
}

interface Candidate extends Shift {
  readonly cost: number;
}

const byCost = (a: Candidate, b: Candidate) => a.cost - b.cost || a.dy - b.dy || a.dx - b.dx;

/** At most so many of the pixels, evenly, as x and y one after the other. */
function placesOf(pixels: readonly number[], most: number, w: number): Int32Array {
  const count = Math.min(most, pixels.length);
  const out = new Int32Array(2 * count);
  for (let k = 0; k < count; k++) {
    const p = pixels[Math.floor((k * pixels.length) / count)];
    out[2 * k] = p % w;
    out[2 * k + 1] = Math.floor(p / w);
  }
  return out;
}
