/** Lightness of a part of the photo, its sign turned round when dark things are looked for, and how steep it is. */
export interface Relief {
  readonly w: number;
  readonly h: number;
  readonly values: Float32Array;
  /** Size of the central differences, a pixel. */
  readonly slopes: Float32Array;
  /** The number of the candidate that came by each pixel last; and how many there were. */
  readonly visits: { readonly by: Uint32Array; count: number };
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
  return { w, h, values, slopes, visits: { by: new Uint32Array(w * h), count: 0 } };
}

/** How a candidate stands out. Lightness is CIELAB, lengths are pixels of the level that it was found on. */
export interface FaultTraits {
  /** Deviations of what is usual in blocks round about. */
  readonly strength: number;
  /** Its strongest third less the median just round it. */
  readonly step: number;
  /** Deviation just round it. */
  readonly unrest: number;
  /** Its strongest third less what the strongest twentieth round about exceeds, in deviations there. */
  readonly above: number;
  /** The steepest third of its outline over the step: the sharper, the less it went through the lens. */
  readonly sharpness: number;
  /** That steepness over what the steepest twentieth round about exceeds. */
  readonly steepness: number;
  /** In pixels of the level. */
  readonly size: number;
}

/** Rings round a candidate that are just round it, and those that are round about. */
const just = { from: 2, to: 3 };
const roundAbout = { from: 3, to: 12 };

/** Measures a candidate.
 *  @param pixels  indices of the candidate's pixels; at least one */
export function traitsOf(
  { w, h, values, slopes, visits }: Relief,
  pixels: readonly number[],
  strength: number,
): FaultTraits {
  const inside = topThird(Float32Array.from(pixels, (i) => values[i]));
  const [outline, near, far, farSlopes]: number[][] = [[], [], [], []];
  const visit = ++visits.count;
  for (const i of pixels) visits.by[i] = visit;
  let front = pixels;
  for (let k = 1; k <= roundAbout.to; k++) {
    const next: number[] = [];
    for (const i of front) {
      const x = i % w;
      const y = (i - x) / w;
      const [left, right] = [x > 0 ? -1 : 0, x < w - 1 ? 1 : 0];
      for (let v = Math.max(0, y - 1); v <= Math.min(h - 1, y + 1); v++)
        for (let j = v * w + x + left; j <= v * w + x + right; j++) {
          if (visits.by[j] === visit) continue;
          visits.by[j] = visit;
          next.push(j);
        }
    }
    for (const j of next) {
      if (k === 1) outline.push(slopes[j]);
      if (k >= just.from && k <= just.to) near.push(values[j]);
      if (k >= roundAbout.from) {
        far.push(values[j]);
        farSlopes.push(slopes[j]);
      }
    }
    front = next;
  }
  const step = Math.max(0.1, inside - quantile(near, 0.5));
  const edge = topThird(Float32Array.from(outline));
  return {
    strength,
    step,
    unrest: deviation(near),
    above: (inside - quantile(far, 0.95)) / (deviation(far) + 1),
    sharpness: edge / step,
    steepness: edge / (quantile(farSlopes, 0.95) + 0.2),
    size: pixels.length,
  };
}

/** Log-odds that a candidate is a fault, by logistic regression (Cox 1958, doi:10.1111/j.2517-6161.1958.tb00292.x). The
 *  weights were fitted to 2,600 made-up specks and hairs on five clean demo photographs, each as it is and as an old print;
 *  neither the demo's old print nor its studio picture was among them. */
export function likelihoodOf(t: FaultTraits): number {
  const log = (v: number, least: number) => Math.log(Math.max(least, v));
  return (
    3.02 * log(t.strength, 0.05) +
    1.17 * log(t.step / (t.unrest + 1), 0.05) -
    0.18 * t.above +
    2.0 * log(t.sharpness, 0.02) +
    4.77 * log(t.steepness, 0.05) +
    0.59 * log(t.size, 1) -
    7.93
  );
}

/** The mean of the upper third. */
function topThird(values: Float32Array): number {
  const sorted = values.sort();
  const from = Math.min(sorted.length - 1, Math.ceil((sorted.length * 2) / 3));
  let sum = 0;
  for (let k = from; k < sorted.length; k++) sum += sorted[k];
  return sorted.length > 0 ? sum / (sorted.length - from) : 0;
}

const quantile = (values: readonly number[], share: number): number =>
  values.length > 0 ? Float32Array.from(values).sort()[Math.floor(share * (values.length - 1))] : 0;

function deviation(values: readonly number[]): number {
  const mean = values.reduce((n, v) => n + v, 0) / Math.max(1, values.length);
  return Math.sqrt(values.reduce((n, v) => n + (v - mean) ** 2, 0) / Math.max(1, values.length));
}
