import { boundsOfArea, type StrokeShape } from '../../area';
import type { Mend } from '../../job/types';
import { hashAt } from '../../random';
import { type FloatImage, grow, intersect, makeFloatImage, type Rect } from '../../raster';
import { type MethodDefinition, type ParameterDefinition, parameterOf } from '../definition';

export const knitStrength: ParameterDefinition = {
  key: 'strength',
  label: 'Strength',
  unit: '%',
  min: 0,
  max: 100,
  step: 1,
  initial: 100,
};

/** Sources lie this many brush radii off the path, and at these angles to its normal. */
const reach = 2.1;
const angles = [-0.7, 0, 0.7];
/** What no stroke went along is knit along its middle, no wider than this: its sources lie no farther off however wide it is. */
const mostRadius = 120;

/** Draws a visible join together from both sides: tone runs over from one side to the other, and detail is taken from
 *  either side at several angles, as by many soft passes by hand, but without blurring it.
 *
 *  Across the path tone is the mean of low-passed samples of both sides, weighted by the distance from each; detail is
 *  what the low pass takes away, from the nearer side, faded over at the path with its deviation kept. */
export const knit: MethodDefinition = {
  id: 'knit',
  version: 2,
  title: 'Knit',
  says: 'Draws a visible join together: stroke along it, tone and texture run over from both sides.',
  parameters: [knitStrength],
  scope: 'tile',
  needsSource: false,
  requiredInput: (mend, output, bounds) => [intersect(grow(output, roomOf(mend)), bounds)],
  affectedOutput: (mend, bounds) => intersect(boundsOfArea(mend.area), bounds),
  evaluate(mend, output, context) {
    const below = context.read(intersect(grow(output, roomOf(mend)), context.bounds));
    const radius = radiusOf(mend);
    const low = boxBlur(below, blurOf(radius));
    const image = makeFloatImage(output);
    const path = pathOf(mend);
    const strength = parameterOf(mend, knitStrength) / 100;
    const coverage = context.coverage(output).map((v) => v * strength);
    for (let y = 0; y < output.h; y++)
      for (let x = 0; x < output.w; x++) {
        const i = y * output.w + x;
        if (coverage[i] <= 0) continue;
        knitPixel(image.data, 4 * i, output.x + x, output.y + y, below, low, path, radius);
      }
    return { image, coverage };
  },
};

const blurOf = (radius: number): number => Math.max(2, Math.round(radius / 2));

const roomOf = (mend: Mend): number => {
  const radius = radiusOf(mend);
  return Math.ceil(radius * reach + blurOf(radius)) + 2;
};

function radiusOf({ area }: Mend): number {
  const strokes = area.shapes.filter((s): s is StrokeShape => s.kind === 'stroke' && s.op === 'add');
  if (strokes.length > 0) return Math.max(...strokes.map((s) => s.radiusPx));
  const { w, h } = boundsOfArea(area);
  return Math.max(1, Math.min(mostRadius, w / 2, h / 2));
}

type Segment = readonly [ax: number, ay: number, bx: number, by: number];

/** The strokes' paths; for other shapes the line through the middle of the box, along its longer side. */
function pathOf({ area }: Mend): Segment[] {
  const segments: Segment[] = [];
  for (const shape of area.shapes) {
    if (shape.kind !== 'stroke' || shape.op !== 'add') continue;
    const least = Math.max(2, shape.radiusPx / 3);
    let [ax, ay] = shape.points[0];
    shape.points.forEach(([x, y], k) => {
      if (k === 0 || (Math.hypot(x - ax, y - ay) < least && k < shape.points.length - 1)) return;
      segments.push([ax, ay, x, y]);
      [ax, ay] = [x, y];
    });
    if (shape.points.length === 1) segments.push([ax, ay, ax + 1, ay]);
  }
  if (segments.length > 0) return segments;
  const { x, y, w, h } = boundsOfArea(area);
  return [w >= h ? [x, y + h / 2, x + w, y + h / 2] : [x + w / 2, y, x + w / 2, y + h]];
}

function knitPixel(
  out: Float32Array,
  at: number,
  x: number,
  y: number,
  below: FloatImage,
  low: FloatImage,
  path: readonly Segment[],
  radius: number,
): void {
  const { side, nx, ny } = nearestOn(path, x + 0.5, y + 0.5);
  const share = Math.min(1, Math.max(0, 0.5 + side / (2 * radius)));
  // Detail changes sides within the middle half of the brush.
  const fade = Math.min(1, Math.max(0, 0.5 + side / (0.5 * radius)));
  const keep = 1 / Math.sqrt(fade * fade + (1 - fade) ** 2);
  // Which angle gives the detail changes gently from place to place, so that no long stretch is seen twice.
  const cell = Math.max(6, radius);
  let [sum, squares] = [0, 0];
  for (let k = 0; k < angles.length; k++) {
    mixture[k] = Math.exp(9 * smoothNoise(x / cell, y / cell, k));
    sum += mixture[k];
  }
  for (let k = 0; k < angles.length; k++) {
    mixture[k] /= sum;
    squares += mixture[k] ** 2;
  }
  const keepMixed = 1 / Math.sqrt(squares);
  for (let c = 0; c < 4; c++) out[at + c] = 0;
  for (const way of [1, -1]) {
    const toneShare = (way > 0 ? share : 1 - share) / angles.length;
    const detailShare = (way > 0 ? fade : 1 - fade) * keep;
    for (let k = 0; k < angles.length; k++) {
      const [co, si] = [Math.cos(angles[k]), Math.sin(angles[k])];
      const dx = way * reach * radius * (nx * co - ny * si);
      const dy = way * reach * radius * (nx * si + ny * co);
      const from = indexOf(below.rect, Math.round(x + dx), Math.round(y + dy));
      for (let c = 0; c < 4; c++) {
        out[at + c] += toneShare * low.data[from + c];
        out[at + c] += detailShare * mixture[k] * keepMixed * (below.data[from + c] - low.data[from + c]);
      }
    }
  }
  const alpha = Math.min(1, Math.max(0, out[at + 3]));
  out[at + 3] = alpha;
  for (let c = at; c < at + 3; c++) out[c] = Math.min(alpha, Math.max(0, out[c]));
}

/** How much of the detail each angle gives at one pixel. */
const mixture = new Float64Array(angles.length);

/** 0…1, smooth, one hill or hollow a unit; another field for each k. */
function smoothNoise(x: number, y: number, k: number): number {
  const [x0, y0] = [Math.floor(x), Math.floor(y)];
  const ease = (t: number) => t * t * (3 - 2 * t);
  const [u, v] = [ease(x - x0), ease(y - y0)];
  const at = (i: number, j: number) => (hashAt(x0 + i + 7919 * k, y0 + j) & 0xffff) / 0xffff;
  return (at(0, 0) * (1 - u) + at(1, 0) * u) * (1 - v) + (at(0, 1) * (1 - u) + at(1, 1) * u) * v;
}

/** Signed distance to the path, and the normal towards its positive side. */
function nearestOn(path: readonly Segment[], x: number, y: number): { side: number; nx: number; ny: number } {
  let best = Infinity;
  let found = { side: 0, nx: 0, ny: 1 };
  for (const [ax, ay, bx, by] of path) {
    const [ex, ey] = [bx - ax, by - ay];
    const length2 = ex * ex + ey * ey || 1;
    const t = Math.min(1, Math.max(0, ((x - ax) * ex + (y - ay) * ey) / length2));
    const [dx, dy] = [x - ax - t * ex, y - ay - t * ey];
    const d2 = dx * dx + dy * dy;
    if (d2 >= best) continue;
    best = d2;
    const length = Math.sqrt(length2);
    const [nx, ny] = [-ey / length, ex / length];
    found = { side: dx * nx + dy * ny, nx, ny };
  }
  return found;
}

/** Index of a pixel's colour, held within the rectangle. */
function indexOf(rect: Rect, x: number, y: number): number {
  const u = Math.min(rect.w - 1, Math.max(0, x - rect.x));
  const v = Math.min(rect.h - 1, Math.max(0, y - rect.y));
  return 4 * (v * rect.w + u);
}

/** Means over (2r + 1)² pixels, over fewer at the edge. */
function boxBlur({ rect, data }: FloatImage, r: number): FloatImage {
  const { w, h } = rect;
  const rows = new Float32Array(data.length);
  const out = makeFloatImage(rect);
  for (let y = 0; y < h; y++) slide(data, rows, 4 * y * w, 4, w, r);
  for (let x = 0; x < w; x++) slide(rows, out.data, 4 * x, 4 * w, h, r);
  return out;
}

/** Means along one line of n pixels that lie `step` apart. */
function slide(
  from: Float32Array,
  to: Float32Array,
  start: number,
  step: number,
  n: number,
  r: number,
): void {
  for (let c = 0; c < 4; c++) {
    let sum = 0;
    let count = 0;
    for (let k = -r; k < n; k++) {
      if (k + r < n) {
        sum += from[start + c + (k + r) * step];
        count++;
      }
      if (k - r - 1 >= 0) {
        sum -= from[start + c + (k - r - 1) * step];
        count--;
      }
      if (k >= 0) to[start + c + k * step] = sum / count;
    }
  }
}
