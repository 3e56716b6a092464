import type { Strip } from './strip';

/** Middle and half width along a path, to a part of a pixel. */
export function measured(strip: Strip, path: Float32Array, half: number): [number, number, number][] {
  const { n, reach, width, signal } = strip;
  const value = (k: number, offset: number): number => {
    const o = Math.min(width - 1.001, Math.max(0, offset + reach));
    const i = Math.floor(o);
    return signal[k * width + i] * (1 - o + i) + signal[k * width + i + 1] * (o - i);
  };
  const middles = new Float32Array(n);
  for (let k = 0; k < n; k++) {
    // The middle of what lies above half, which the noise of single pixels moves least.
    let sum = 0;
    let weight = 1e-6;
    const ground = (value(k, path[k] - 2 * half - 2) + value(k, path[k] + 2 * half + 2)) / 2;
    const level = (value(k, path[k]) + ground) / 2;
    for (let d = -Math.ceil(half) - 1; d <= Math.ceil(half) + 1; d++) {
      const above = Math.max(0, value(k, path[k] + d) - level);
      sum += above * d;
      weight += above;
    }
    middles[k] = path[k] + sum / weight;
  }
  const even = medianAlong(middles, 15);
  const most = Math.min(Math.floor(reach / 2), Math.ceil(4 * half) + 8);
  const points: [number, number, number][] = [];
  const piece = 48;
  const halves: number[] = [];
  for (let k = 0; k < n; k += piece)
    halves.push(soft(value, even, Math.max(0, k - 100), Math.min(n, k + 148), most));
  const [more, less] = [1, -1].map((side) => otherTone(strip, even, side, half));
  for (let k = 0; k < n; k++) {
    const own = halves[Math.floor(k / piece)];
    const [up, down] = [Math.max(own, more), Math.max(own, less)];
    const [x, y] = strip.at(k, even[k] + (up - down) / 2);
    points.push([x, y, (up + down) / 2]);
  }
  return points;
}

/** A side of another tone differs from the ground beside it by so much of CIELAB, and ends within so many pixels; where ground is seen
 *  between it and the line for so many, it is another line. Ground differs by less than this share of the line's own difference. */
const otherTones = { least: 8, edgePx: 6, gapPx: 3, gapShare: 0.3 };

/** How far a line reaches to one side, counted from its middle, where that side has another tone: a pole has a lit and a shaded
 *  one. 0 where it has none. Each stretch of the line is held against its own ground. */
function otherTone(
  { n, reach, width, lab }: Strip,
  middles: Float32Array,
  side: number,
  half: number,
): number {
  const stretch = 48;
  const most = Math.min(Math.floor(0.7 * reach), Math.ceil(6 * half) + 24);
  const unlike = new Float64Array(most + 1);
  const profile = new Float64Array(3 * (most + 1));
  for (let from = 0; from < n; from += stretch) {
    const to = Math.min(n, from + stretch);
    profile.fill(0);
    for (let k = from; k < to; k++)
      for (let d = 0; d <= most; d++) {
        const o = Math.round(middles[k] + side * d) + reach;
        const at = 3 * (k * width + Math.max(0, Math.min(width - 1, o)));
        for (let c = 0; c < 3; c++) profile[3 * d + c] += lab[at + c] / (to - from);
      }
    const ground = [0, 1, 2].map(
      (c) => (profile[3 * most + c] + profile[3 * (most - 1) + c] + profile[3 * (most - 2) + c]) / 3,
    );
    for (let d = 0; d <= most; d++)
      unlike[d] += (Math.hypot(...ground.map((v, c) => profile[3 * d + c] - v)) * (to - from)) / n;
  }
  // What is so near belongs to the line's own soft edge.
  const begin = Math.ceil(1.5 * half) + 2;
  let top = begin;
  const ground = Math.max(otherTones.least, otherTones.gapShare * unlike[0]);
  let gap = 0;
  for (let d = Math.ceil(half); d <= most && gap < otherTones.gapPx; d++) {
    gap = unlike[d] < ground ? gap + 1 : 0;
    if (d > begin && unlike[d] > unlike[top]) top = d;
  }
  if (unlike[top] < otherTones.least) return 0;
  const fallsTo = (share: number): number => {
    let d = top;
    while (d < most && unlike[d] > share * unlike[top]) d++;
    return d;
  };
  const [low, high] = [fallsTo(0.25), fallsTo(0.7)];
  const isEdge = low < most && low - high <= otherTones.edgePx;
  return isEdge && unlike.subarray(low).every((v) => v < 0.5 * unlike[top]) ? low + 1 : 0;
}

/** How much of the line is left where its soft edge ends. */
const edgeShare = 0.03;
/** Where so much of the line's own colour is seen beyond ground, another line runs beside it. */
const nextLineShare = 0.3;

/** How far a line is seen to reach from its middle, its soft edge included: from the mean profile of a stretch of it. */
function soft(
  value: (k: number, offset: number) => number,
  middles: Float32Array,
  from: number,
  to: number,
  most: number,
): number {
  const reaches = [-1, 1].map((side) => {
    const profile = Float64Array.from({ length: most + 1 }, (_, d) => {
      let sum = 0;
      for (let k = from; k < to; k++) sum += value(k, middles[k] + side * d);
      return sum / (to - from);
    });
    const groundAt = (d: number) => (profile[d] + profile[d - 1] + profile[d - 2]) / 3;
    const peak = profile[0];
    let ground = groundAt(most);
    let between = ground;
    for (let d = 3; d < most; d++) between = Math.min(between, groundAt(d));
    if (ground - between > nextLineShare * (peak - between)) ground = between;
    const level = ground + edgeShare * (peak - ground);
    let before = peak;
    for (let d = 1; d <= most; d++) {
      const here = profile[d];
      if (here <= level) return d - 1 + (before - level) / Math.max(1e-6, before - here);
      // Where it rises again something else begins.
      if (here > before && before < (peak + ground) / 2) return d - 1;
      before = here;
    }
    return most;
  });
  return Math.max(0.75, Math.min((reaches[0] + reaches[1]) / 2, 1.5 * Math.min(...reaches)) + 0.5);
}

function medianAlong(values: Float32Array, span: number): Float32Array {
  const r = Math.floor(span / 2);
  return values.map((_, k) => {
    const part = values.slice(Math.max(0, k - r), k + r + 1).sort();
    // Medians alone move in steps; the mean of the middle third does not.
    const third = Math.floor(part.length / 3);
    const core = part.subarray(third, part.length - third);
    return core.reduce((s, v) => s + v, 0) / core.length;
  });
}
