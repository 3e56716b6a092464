import { halfWidths, type Strip } from './strip';

/** How much a bar stands out from both its sides, everywhere in the strip; 0 where it is an edge only. */
export function respond({ n, width, signal }: Strip, half: number): Float32Array {
  const out = new Float32Array(n * width);
  const r = Math.max(1, Math.round(half));
  const sums = new Float64Array(width + 1);
  const raw = new Float32Array(width);
  for (let k = 0; k < n; k++) {
    for (let o = 0; o < width; o++) sums[o + 1] = sums[o] + signal[k * width + o];
    const mean = (from: number, to: number) => (sums[to] - sums[from]) / (to - from);
    for (let o = 3 * r + 1; o + 3 * r + 2 < width; o++) {
      const bar = mean(o - r + 1, o + r);
      raw[o] = Math.max(0, Math.min(bar - mean(o - 3 * r, o - r), bar - mean(o + r + 1, o + 3 * r + 1)));
    }
    out.set(raw, k * width);
  }
  return out;
}

/** Some rows of a strip, evenly spread. */
function sparse(strip: Strip, most: number): Strip {
  const step = Math.max(1, Math.floor(strip.n / most));
  const n = Math.ceil(strip.n / step);
  const signal = new Float32Array(n * strip.width);
  for (let k = 0; k < n; k++)
    signal.set(strip.signal.subarray(k * step * strip.width, (k * step + 1) * strip.width), k * strip.width);
  return { ...strip, n, signal };
}

/** The width at which a bar near the middle of the strip stands out most: wider ones must be clearly better. */
export function bestHalfWidth(strip: Strip): number {
  let best = halfWidths[0] as number;
  let most = 0;
  const few = sparse(strip, 200);
  for (const half of halfWidths) {
    const response = respond(few, half);
    const path = follow(few, response, () => ({ middle: 0, slack: 40 }));
    const mean = meanAlong(few, response, path, 0);
    if (mean > 1.08 * most) {
      most = mean;
      best = half;
    }
  }
  return best;
}

/** The path of greatest response that bends by at most a pixel a sample, within slack of where it may be. */
export function follow(
  { n, reach, width }: Strip,
  response: Float32Array,
  where: (k: number) => { middle: number; slack: number },
): Float32Array {
  const from = new Int8Array(n * width);
  let score = new Float32Array(width).fill(-Infinity);
  let next = new Float32Array(width);
  const bend = 0.35;
  for (let k = 0; k < n; k++) {
    const { middle, slack } = where(k);
    for (let o = 0; o < width; o++) {
      if (Math.abs(o - reach - middle) > slack) {
        next[o] = -Infinity;
        continue;
      }
      let best = k === 0 ? 0 : score[o];
      let step = 0;
      if (k > 0 && o > 0 && score[o - 1] - bend > best) {
        best = score[o - 1] - bend;
        step = -1;
      }
      if (k > 0 && o < width - 1 && score[o + 1] - bend > best) {
        best = score[o + 1] - bend;
        step = 1;
      }
      from[k * width + o] = step;
      // What stands out a little everywhere is the line rather than what stands out a lot in places.
      next[o] = best + Math.sqrt(response[k * width + o]);
    }
    [score, next] = [next, score];
  }
  let at = 0;
  for (let o = 1; o < width; o++) if (score[o] > score[at]) at = o;
  const path = new Float32Array(n);
  for (let k = n - 1; k >= 0; k--) {
    path[k] = at - reach;
    at += from[k * width + at];
  }
  return path;
}

export function meanAlong(
  { n, reach, width }: Strip,
  response: Float32Array,
  path: Float32Array,
  shift: number,
): number {
  let sum = 0;
  for (let k = 0; k < n; k++) {
    const o = Math.round(path[k] + shift) + reach;
    if (o >= 0 && o < width) sum += response[k * width + o];
  }
  return sum / n;
}

/** How far to the sides like lines run beside a path, the strongest first. */
export function besideOf(
  strip: Strip,
  response: Float32Array,
  path: Float32Array,
  half: number,
  most: number,
): number[] {
  const own = meanAlong(strip, response, path, 0);
  const found: { shift: number; mean: number }[] = [];
  const at = (shift: number) => {
    let best = 0;
    for (let d = -2; d <= 2; d++) best = Math.max(best, meanAlong(strip, response, path, shift + d));
    return best;
  };
  const least = Math.ceil(2 * half + 3);
  for (let shift = -most; shift <= most; shift++) {
    if (Math.abs(shift) < least) continue;
    const mean = at(shift);
    if (mean < 0.3 * own) continue;
    if (at(shift - 1) > mean || at(shift + 1) >= mean) continue;
    found.push({ shift, mean });
  }
  found.sort((p, q) => q.mean - p.mean);
  const kept: number[] = [];
  for (const { shift } of found)
    if (kept.every((other) => Math.abs(other - shift) >= least)) kept.push(shift);
  return kept;
}

/** The straight line nearest to a path. */
export function straightened(path: Float32Array): Float32Array {
  const n = path.length;
  const sorted = (from: number, to: number) => [...path.subarray(from, to)].sort((a, b) => a - b);
  const third = Math.max(1, Math.floor(n / 3));
  const [head, tail] = [sorted(0, third), sorted(n - third, n)].map((s) => s[Math.floor(s.length / 2)]);
  const slope = n > third ? (tail - head) / (n - third) : 0;
  return path.map((_, k) => head + slope * (k - third / 2));
}
