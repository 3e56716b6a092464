import { select } from '../../statistics';
import net from './fault-net.json';

/** Lightness of a part of the photo, its sign turned round when dark things are looked for, and how steep it is. */
export interface Relief {
  readonly w: number;
  readonly h: number;
  readonly values: Float32Array;
  /** Size of the central differences, a pixel. */
  readonly slopes: Float32Array;
  /** The number of the candidate that came by each pixel last, how many there were, and room for the way. */
  readonly visits: { readonly by: Uint32Array; readonly queue: Int32Array; count: number };
}

export function reliefOf(values: Float32Array, w: number, h: number): Relief {
  const slopes = new Float32Array(w * h);
  for (let y = 0; y < h; y++) {
    const [above, below] = [Math.max(0, y - 1) * w, Math.min(h - 1, y + 1) * w];
    for (let x = 0; x < w; x++) {
      const across = values[y * w + Math.min(w - 1, x + 1)] - values[y * w + Math.max(0, x - 1)];
      const down = values[below + x] - values[above + x];
      slopes[y * w + x] = Math.sqrt(across * across + down * down) / 2;
    }
  }
  return {
    w,
    h,
    values,
    slopes,
    visits: { by: new Uint32Array(w * h), queue: new Int32Array(w * h), count: 0 },
  };
}

/** How a candidate stands out. Lightness is CIELAB, lengths are pixels of the level that it was found on. */
export interface FaultTraits {
  /** Its strongest third, its strongest pixel, and its mean. */
  readonly inside: number;
  readonly top: number;
  readonly mean: number;
  /** Its strongest third less the median just round it. */
  readonly step: number;
  /** Deviation just round it, and what nine tenths there lie below, less the median. */
  readonly unrest: number;
  readonly nearHigh: number;
  /** Means of the pixels one, two, three and five steps from it. */
  readonly rings: readonly [number, number, number, number];
  /** Round about: deviation, what the strongest twentieth exceeds, the strongest pixel, and the share that is nearly as strong. */
  readonly farDeviation: number;
  readonly farHigh: number;
  readonly farTop: number;
  readonly crowd: number;
  /** The steepest third of its outline, a pixel; the sharper, the less it went through the lens. */
  readonly edge: number;
  /** What the steepest twentieth round about exceeds. */
  readonly farEdge: number;
  /** In pixels, and the box round it. */
  readonly size: number;
  readonly w: number;
  readonly h: number;
}

/** At which size a candidate was found, and how. */
export interface FoundAt {
  /** Halvings of the photo. */
  readonly level: number;
  /** Half side of the squares that were compared. */
  readonly radius: number;
  /** Deviations of what is usual in blocks round about. */
  readonly strength: number;
  /** Lightness that it stands out by from both its sides. */
  readonly bar: number;
}

/** Rings round a candidate that are just round it, and those that are round about. */
const just = { from: 2, to: 3 };
const roundAbout = { from: 3, to: 12 };
const ringsTo = 5;
/** The net is given nothing farther from what it was fitted to, in deviations. */
const farthest = 6;

/** Numbers in a row, in memory that is used again and again. */
class Bag {
  values = new Float32Array(1024);
  count = 0;

  /** Takes the values at some places, which stand in a list. */
  take(values: Float32Array, places: Int32Array, from: number, to: number): void {
    this.count = to - from;
    if (this.count > this.values.length) this.values = new Float32Array(2 * this.count);
    for (let k = 0; k < this.count; k++) this.values[k] = values[places[from + k]];
  }

  /** What so great a share is at most. Changes the order. */
  quantile(share: number): number {
    return this.count > 0 ? select(this.values, this.count, Math.floor(share * (this.count - 1))) : 0;
  }

  deviation(): number {
    let [sum, squares] = [0, 0];
    for (let k = 0; k < this.count; k++) sum += this.values[k];
    const mean = sum / Math.max(1, this.count);
    for (let k = 0; k < this.count; k++) squares += (this.values[k] - mean) ** 2;
    return Math.sqrt(squares / Math.max(1, this.count));
  }
}

const [outline, near, far, farSlopes] = [new Bag(), new Bag(), new Bag(), new Bag()];

/** Lists what lies round a candidate, ring after ring, behind its own pixels.
 *  @returns where its pixels and each ring end in the queue */
function ringsRound(visits: Relief['visits'], w: number, h: number, pixels: readonly number[]): number[] {
  const { by, queue } = visits;
  const visit = ++visits.count;
  let count = 0;
  for (const i of pixels) {
    by[i] = visit;
    queue[count++] = i;
  }
  const ends = [count];
  let from = 0;
  for (let k = 1; k <= roundAbout.to; k++) {
    const to = count;
    for (; from < to; from++) {
      const i = queue[from];
      const x = i % w;
      const y = (i - x) / w;
      const left = x > 0 ? 1 : 0;
      const right = x < w - 1 ? 1 : 0;
      const last = y < h - 1 ? i + w : i;
      for (let row = y > 0 ? i - w : i; row <= last; row += w)
        for (let j = row - left; j <= row + right; j++) {
          if (by[j] === visit) continue;
          by[j] = visit;
          queue[count++] = j;
        }
    }
    ends.push(count);
  }
  return ends;
}

/** Measures a candidate.
 *  @param pixels  indices of the candidate's pixels; at least one */
export function traitsOf({ w, h, values, slopes, visits }: Relief, pixels: readonly number[]): FaultTraits {
  const own = Float32Array.from(pixels, (i) => values[i]);
  const inside = topThird(own);
  let [left, right, upper, lower, sum] = [w, -1, h, -1, 0];
  for (const i of pixels) {
    const x = i % w;
    const y = (i - x) / w;
    left = Math.min(left, x);
    right = Math.max(right, x);
    upper = Math.min(upper, y);
    lower = Math.max(lower, y);
    sum += values[i];
  }
  const ends = ringsRound(visits, w, h, pixels);
  const { queue } = visits;
  outline.take(slopes, queue, ends[0], ends[1]);
  near.take(values, queue, ends[just.from - 1], ends[just.to]);
  far.take(values, queue, ends[roundAbout.from - 1], ends[roundAbout.to]);
  farSlopes.take(slopes, queue, ends[roundAbout.from - 1], ends[roundAbout.to]);
  const rings: number[] = [];
  for (let k = 1; k <= ringsTo; k++) {
    let ring = 0;
    for (let j = ends[k - 1]; j < ends[k]; j++) ring += values[queue[j]];
    rings.push(ends[k] > ends[k - 1] ? ring / (ends[k] - ends[k - 1]) : inside);
  }
  const [unrest, farDeviation] = [near.deviation(), far.deviation()];
  const middle = near.quantile(0.5);
  const step = Math.max(0.1, inside - middle);
  let nearlyAsStrong = 0;
  for (let k = 0; k < far.count; k++) if (far.values[k] > inside - 0.3 * step) nearlyAsStrong++;
  return {
    inside,
    // Sorted by now.
    top: own[own.length - 1],
    mean: sum / pixels.length,
    step,
    unrest,
    nearHigh: near.quantile(0.9) - middle,
    rings: [rings[0], rings[1], rings[2], rings[4]],
    farDeviation,
    farHigh: far.quantile(0.95),
    farTop: far.quantile(1),
    crowd: nearlyAsStrong / Math.max(1, far.count),
    edge: topThird(outline.values.slice(0, outline.count)),
    farEdge: farSlopes.quantile(0.95),
    size: pixels.length,
    w: right - left + 1,
    h: lower - upper + 1,
  };
}

/** Log-odds that a candidate is a fault: a net of one hidden layer on logarithms and ratios of its traits. Its weights
 *  were fitted (Rumelhart, Hinton & Williams 1986, doi:10.1038/323533a0) to 449,000 candidates, among them 7,200 made-up
 *  specks and hairs that can be seen, light and dark, on five clean demo photographs, each as it is and as old prints of
 *  several kinds; neither the demo's old print nor its studio picture was among them. */
export function likelihoodOf(inputs: readonly number[]): number {
  const { hidden, bias, out, outBias } = net;
  let odds = outBias;
  for (let j = 0; j < bias.length; j++) {
    let sum = bias[j];
    for (let k = 0; k < inputs.length; k++) sum += hidden[k][j] * inputs[k];
    odds += out[j] * Math.tanh(sum);
  }
  return odds;
}

/** What the nets are given, in the order of their weights: logarithms and ratios, in deviations of what is usual. */
export function inputsOf(traits: FaultTraits, at: FoundAt): number[] {
  const { mean, scale } = net;
  return rawInputsOf(traits, at).map((v, k) =>
    Math.max(-farthest, Math.min(farthest, (v - mean[k]) / scale[k])),
  );
}

function rawInputsOf(t: FaultTraits, { level, radius, strength, bar }: FoundAt): number[] {
  const log = (v: number, least: number) => Math.log(Math.max(least, v));
  const unrestFar = t.farDeviation + 1;
  return [
    log(strength, 0.05),
    log(t.step, 0.05),
    log(t.step / (t.unrest + 1), 0.05),
    (t.inside - t.farHigh) / unrestFar,
    log(t.edge / t.step, 0.02),
    log(t.edge / (t.farEdge + 0.2), 0.05),
    log(t.size, 1),
    t.inside / 100,
    (t.inside - t.farHigh) / t.step,
    (t.inside - t.farTop) / t.step,
    (t.inside - t.farTop) / unrestFar,
    log(unrestFar, 0.1),
    log(t.edge, 0.1),
    log(t.farEdge + 0.2, 0.1),
    ...t.rings.map((ring) => (t.inside - ring) / t.step),
    t.nearHigh / t.step,
    t.crowd,
    log(Math.max(t.w, t.h), 1),
    log(t.size / (t.w * t.h), 0.01),
    level,
    radius,
    (t.top - t.mean) / t.step,
    log(bar, 0.1),
    t.top / 100,
  ];
}

/** The mean of the upper third. */
function topThird(values: Float32Array): number {
  const sorted = values.sort();
  const from = Math.min(sorted.length - 1, Math.ceil((sorted.length * 2) / 3));
  let sum = 0;
  for (let k = from; k < sorted.length; k++) sum += sorted[k];
  return sorted.length > 0 ? sum / (sorted.length - from) : 0;
}
