import type { StrokeShape } from '../area';
import { labOfPixels } from '../colour';
import { grow, intersect, isEmpty, type Rect } from '../raster';
import type { Seen } from './seen';

export type SpanPoint = readonly [x: number, y: number];

export interface SpanOptions {
  /** How many lines beside each other are looked for, 1…8. */
  readonly lines: number;
  /** Whether the line may bend or sag between the clicks; otherwise it is straight. */
  readonly bends: boolean;
}

/** Clicks are off the line by so much at most, in pixels. */
const clickSlack = 9;
const halfWidths = [1, 1.5, 2.5, 4, 6, 9, 13, 18] as const;
/** Samples along a leg are a pixel apart, or farther on very long ones. */
const mostSamples = 4000;

/** Colours along a leg's normals, as differences from the line's own hue: high on the line. */
interface Strip {
  readonly n: number;
  /** Offsets from −reach to reach, a pixel apart. */
  readonly reach: number;
  readonly width: number;
  readonly signal: Float32Array;
  /** CIELAB, three a sample. */
  readonly lab: Float32Array;
  readonly at: (along: number, offset: number) => SpanPoint;
}

/** Finds the line that clicks were put on: a wire, pole, crack or hair; its true middle and width.
 *
 *  @param clicks  two or more, in order along it
 *  @returns one stroke a line, the clicked one first, each point with its own half width; empty where nothing like a line lies under the clicks
 *  The path is the best one through the responses of a bar against both its sides, found by dynamic programming
 *  (Montanari 1971, On the Optimal Detection of Curves in Noisy Pictures, doi:10.1145/362588.362594).
 *  Cost: the clicks' distance times how far it may sag.
 */
export function findSpan(seen: Seen, clicks: readonly SpanPoint[], options: SpanOptions): StrokeShape[] {
  const lines: [number, number, number][][] = [];
  let beside: readonly number[] | null = options.lines > 1 ? null : [];
  for (let leg = 0; leg + 1 < clicks.length; leg++) {
    const found = findLeg(seen, clicks[leg], clicks[leg + 1], options, beside);
    if (!found) continue;
    // The lines beside the clicked one are looked for on the first leg and followed on the others.
    beside = found.beside;
    found.lines.forEach((points, i) => {
      lines[i] = [...(lines[i] ?? []), ...points];
    });
  }
  return lines.map((points) => {
    const radiusPx = points.reduce((r, p) => Math.max(r, p[2]), 0.5);
    return {
      kind: 'stroke',
      op: 'add',
      radiusPx,
      hardness: 1,
      points: thinned(points).map(([x, y, r]) => [sixteenth(x), sixteenth(y), r / radiusPx] as const),
    };
  });
}

const sixteenth = (v: number): number => Math.round(v * 16) / 16;

function findLeg(
  seen: Seen,
  a: SpanPoint,
  b: SpanPoint,
  { lines, bends }: SpanOptions,
  known: readonly number[] | null,
): { lines: [number, number, number][][]; beside: readonly number[] } | null {
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
  if (length < 2) return null;
  const sag = bends ? Math.min(200, Math.max(12, 0.08 * length)) : clickSlack;
  const room = lines > 1 && !known ? Math.min(320, Math.max(120, 0.25 * length)) : 0;
  const beside = known ? known.reduce((r, v) => Math.max(r, Math.abs(v)), 0) : room;
  const strip = readStrip(seen, a, b, Math.ceil(sag + beside) + 3 * halfWidths[halfWidths.length - 1] + 4);
  if (!strip) return null;
  const half = bestHalfWidth(strip);
  const response = respond(strip, half);
  const path = follow(strip, response, (k) => {
    const towardsEnd = Math.min(k, strip.n - 1 - k) / Math.max(1, (strip.n - 1) / 2);
    return { middle: 0, slack: clickSlack + (bends ? sag * Math.min(1, 2 * towardsEnd) : 0) };
  });
  if (meanAlong(strip, response, path, 0) < leastResponse) return null;
  const shifts = known ?? besideOf(strip, response, path, half, beside).slice(0, lines - 1);
  const others = shifts.map((shift) =>
    follow(strip, response, (k) => ({ middle: path[k] + shift, slack: 6 })),
  );
  const all = [path, ...others].map((p) => (bends ? p : straightened(p)));
  return {
    lines: all.map((p) => measured(strip, p, half)),
    beside: others.map((p) => p[p.length - 1] - path[path.length - 1]),
  };
}

/** A bar must stand out from both sides by so much of CIELAB, on the mean. */
const leastResponse = 1.2;

/** Samples the picture along the normals of a leg, and turns colours into how much they are the line's. */
function readStrip(seen: Seen, a: SpanPoint, b: SpanPoint, reach: number): Strip | null {
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
  const n = Math.max(3, Math.min(mostSamples, Math.round(length) + 1));
  const [tx, ty] = [(b[0] - a[0]) / (n - 1), (b[1] - a[1]) / (n - 1)];
  const [nx, ny] = [-ty / Math.hypot(tx, ty), tx / Math.hypot(tx, ty)];
  const width = 2 * reach + 1;
  const lab = new Float32Array(3 * n * width);
  const photo: Rect = { x: 0, y: 0, w: seen.width, h: seen.height };
  const at = (along: number, offset: number): SpanPoint => [
    a[0] + tx * along + nx * offset,
    a[1] + ty * along + ny * offset,
  ];
  const piece = 256;
  for (let from = 0; from < n; from += piece) {
    const to = Math.min(n, from + piece);
    const corners = [at(from, -reach), at(from, reach), at(to, -reach), at(to, reach)];
    const xs = corners.map((p) => p[0]);
    const ys = corners.map((p) => p[1]);
    const [x0, y0] = [Math.floor(Math.min(...xs)), Math.floor(Math.min(...ys))];
    const rect = intersect(
      grow({ x: x0, y: y0, w: Math.ceil(Math.max(...xs)) - x0, h: Math.ceil(Math.max(...ys)) - y0 }, 2),
      photo,
    );
    if (isEmpty(rect)) return null;
    const pixels = labOfPixels(seen.region(0, rect), rect.w * rect.h);
    for (let k = from; k < to; k++)
      for (let o = 0; o < width; o++) {
        const [x, y] = at(k, o - reach);
        bilinear(pixels, rect, x - 0.5, y - 0.5, lab, 3 * (k * width + o));
      }
  }
  const hue = lineColour(lab, n, width, reach);
  if (!hue) return null;
  const signal = new Float32Array(n * width);
  for (let i = 0; i < signal.length; i++)
    signal[i] = lab[3 * i] * hue[0] + lab[3 * i + 1] * hue[1] + lab[3 * i + 2] * hue[2];
  return { n, reach, width, signal, lab, at };
}

function bilinear(
  pixels: Float32Array,
  rect: Rect,
  x: number,
  y: number,
  into: Float32Array,
  at: number,
): void {
  const fx = Math.min(rect.w - 1.001, Math.max(0, x - rect.x));
  const fy = Math.min(rect.h - 1.001, Math.max(0, y - rect.y));
  const [ix, iy] = [Math.floor(fx), Math.floor(fy)];
  const [u, v] = [fx - ix, fy - iy];
  const right = Math.min(rect.w - 1, ix + 1);
  const low = Math.min(rect.h - 1, iy + 1);
  for (let c = 0; c < 3; c++) {
    const top = (1 - u) * pixels[3 * (iy * rect.w + ix) + c] + u * pixels[3 * (iy * rect.w + right) + c];
    const bottom = (1 - u) * pixels[3 * (low * rect.w + ix) + c] + u * pixels[3 * (low * rect.w + right) + c];
    into[at + c] = (1 - v) * top + v * bottom;
  }
}

/** The direction in colour in which the line differs from both its sides, near its ends. */
function lineColour(lab: Float32Array, n: number, width: number, reach: number): number[] | null {
  const sum = [0, 0, 0];
  const mean = (k0: number, k1: number, o0: number, o1: number): number[] => {
    const out = [0, 0, 0];
    const count = (k1 - k0) * (o1 - o0);
    for (let k = k0; k < k1; k++)
      for (let o = o0; o < o1; o++)
        for (let c = 0; c < 3; c++) out[c] += lab[3 * (k * width + o) + c] / count;
    return out;
  };
  const near = Math.max(3, Math.min(40, Math.floor(n / 6)));
  for (const [k0, k1] of [
    [0, near],
    [n - near, n],
  ]) {
    let best = { strength: 0, difference: [0, 0, 0] };
    for (let o = reach - clickSlack; o <= reach + clickSlack; o++)
      for (const half of halfWidths) {
        const r = Math.max(1, Math.round(half));
        if (o - 3 * r < 0 || o + 3 * r + 1 > width) continue;
        const bar = mean(k0, k1, o - r + 1, o + r);
        const left = mean(k0, k1, o - 3 * r, o - r);
        const right = mean(k0, k1, o + r + 1, o + 3 * r + 1);
        const difference = bar.map((v, c) => v - (left[c] + right[c]) / 2);
        const strength =
          Math.min(
            Math.hypot(...bar.map((v, c) => v - left[c])),
            Math.hypot(...bar.map((v, c) => v - right[c])),
          ) -
          0.5 * Math.hypot(...left.map((v, c) => v - right[c]));
        if (strength > best.strength) best = { strength, difference };
      }
    // Ends may lie before different grounds: what they have in common counts.
    const sign = sum[0] * best.difference[0] + sum[1] * best.difference[1] + sum[2] * best.difference[2];
    if (sign < 0 && Math.hypot(...sum) > Math.hypot(...best.difference)) continue;
    if (sign < 0) sum.fill(0);
    best.difference.forEach((v, c) => {
      sum[c] += v;
    });
  }
  const size = Math.hypot(...sum);
  return size < 0.5 ? null : sum.map((v) => v / size);
}

/** How much a bar stands out from both its sides, everywhere in the strip; 0 where it is an edge only. */
function respond({ n, width, signal }: Strip, half: number): Float32Array {
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
function bestHalfWidth(strip: Strip): number {
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
function follow(
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

function meanAlong(
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
function besideOf(
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
function straightened(path: Float32Array): Float32Array {
  const n = path.length;
  const sorted = (from: number, to: number) => [...path.subarray(from, to)].sort((a, b) => a - b);
  const third = Math.max(1, Math.floor(n / 3));
  const [head, tail] = [sorted(0, third), sorted(n - third, n)].map((s) => s[Math.floor(s.length / 2)]);
  const slope = n > third ? (tail - head) / (n - third) : 0;
  return path.map((_, k) => head + slope * (k - third / 2));
}

/** Middle and half width along a path, to a part of a pixel. */
function measured(strip: Strip, path: Float32Array, half: number): [number, number, number][] {
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

/** A side of another tone differs from the ground beside it by so much of CIELAB, and ends within so many pixels. */
const otherTones = { least: 8, edgePx: 6 };

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
  for (let d = begin; d <= most; d++) if (unlike[d] > unlike[top]) top = d;
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

/** How far a line is seen to reach from its middle, its soft edge included: from the mean profile of a stretch of it. */
function soft(
  value: (k: number, offset: number) => number,
  middles: Float32Array,
  from: number,
  to: number,
  most: number,
): number {
  const profile = (d: number): number => {
    let sum = 0;
    for (let k = from; k < to; k++) sum += value(k, middles[k] + d);
    return sum / (to - from);
  };
  const peak = profile(0);
  const reaches = [-1, 1].map((side) => {
    const ground = (profile(side * most) + profile(side * (most - 1)) + profile(side * (most - 2))) / 3;
    const level = ground + edgeShare * (peak - ground);
    let before = peak;
    for (let d = 1; d <= most; d++) {
      const here = profile(side * d);
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

/** Leaves out points that lie on the line between their neighbours (Ramer 1972, doi:10.1016/S0146-664X(72)80017-0). */
function thinned(points: readonly [number, number, number][]): [number, number, number][] {
  const keep = new Uint8Array(points.length);
  keep[0] = 1;
  keep[points.length - 1] = 1;
  const stack: [number, number][] = [[0, points.length - 1]];
  for (let part = stack.pop(); part; part = stack.pop()) {
    const [from, to] = part;
    const [a, b] = [points[from], points[to]];
    const length = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    let far = -1;
    let most = 0.4;
    for (let k = from + 1; k < to; k++) {
      const off =
        Math.abs((b[0] - a[0]) * (points[k][1] - a[1]) - (b[1] - a[1]) * (points[k][0] - a[0])) / length;
      const t = (k - from) / (to - from);
      const d = Math.max(off, Math.abs(points[k][2] - (a[2] + t * (b[2] - a[2]))));
      if (d > most) {
        most = d;
        far = k;
      }
    }
    if (far < 0) continue;
    keep[far] = 1;
    stack.push([from, far], [far, to]);
  }
  return points.filter((_, k) => keep[k]);
}
