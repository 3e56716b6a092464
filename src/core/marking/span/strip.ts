import { labOfPixels } from '../../colour';
import { grow, intersect, isEmpty, type Rect } from '../../raster';
import type { Seen } from '../seen';

export type SpanPoint = readonly [x: number, y: number];

/** Clicks are off the line by so much at most, in pixels. */
export const clickSlack = 9;
export const halfWidths = [1, 1.5, 2.5, 4, 6, 9, 13, 18] as const;
/** Samples along a leg are a pixel apart, or farther on very long ones. */
const mostSamples = 4000;

/** Colours along a leg's normals, as differences from the line's own hue: high on the line. */
export interface Strip {
  readonly n: number;
  /** Offsets from −reach to reach, a pixel apart. */
  readonly reach: number;
  readonly width: number;
  readonly signal: Float32Array;
  /** CIELAB, three a sample. */
  readonly lab: Float32Array;
  readonly at: (along: number, offset: number) => SpanPoint;
}

/** Samples the picture along the normals of a leg, and turns colours into how much they are the line's. */
export function readStrip(seen: Seen, a: SpanPoint, b: SpanPoint, reach: number): Strip | null {
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

/** The gap between two wires stands out as they do: what is a pixel farther from the click counts less by so much. */
const offClick = 0.06;

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
  const most = Math.max(3, Math.min(40, Math.floor(n / 6)));
  for (const [k0, k1] of [
    [0, most],
    [n - most, n],
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
        const near = 1 - offClick * Math.abs(o - reach);
        if (near * strength > best.strength) best = { strength: near * strength, difference };
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
