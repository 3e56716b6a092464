import type { SourceShift } from '../job/types';
import type { Rect } from '../raster';

/** A small picture of the photo, 8-bit RGBA, and how much fine detail there was under each of its pixels. */
export interface Overview {
  readonly w: number;
  readonly h: number;
  readonly data: Uint8ClampedArray;
  /** Mean |Laplacian| of lightness, in 8-bit levels, at a finer size. */
  readonly detail: Float32Array;
  /** Document pixels along a side of one of its pixels. */
  readonly scale: number;
}

/** How well each place would serve as a source for an area. */
export interface SourceMap {
  readonly w: number;
  readonly h: number;
  /** Document pixels along a side of a cell. */
  readonly scale: number;
  /** 0 (poor) … 1 (as good as can be) for a source whose middle lies in the cell; NaN where none may or can lie. */
  readonly score: Float32Array;
  /** The middle of the area that is to be covered, in document pixels. */
  readonly middle: readonly [number, number];
}

/** Rim points that are compared at most. */
const mostRimPoints = 40;
/** Colours that differ by less are of one ground; 8-bit levels. */
const ofOneGround = 14;

/** Shades an overview by how well each place would serve: the difference of mean colour and detail between the place and
 *  the area's rim (by summed-area tables; Crow 1984, doi:10.1145/800031.808600), and how evenly the place's rim differs
 *  from the area's, so that lines meet. Colours that are nowhere along the area's rim count against a place: a thing stands there.
 *
 *  @param spot      the area's rectangle with its rim, in document pixels
 *  @param covered   whether a document pixel belongs to the area
 *  @param serves    false for shifts that zones or a rail rule out
 *  Cost: cells × rim points, whatever the size of the photo.
 */
export function makeSourceMap(
  { w, h, data, detail, scale }: Overview,
  spot: Rect,
  covered: (x: number, y: number) => boolean,
  serves: (shift: SourceShift) => boolean,
): SourceMap {
  const n = w * h;
  const planes = [new Float32Array(n), new Float32Array(n), new Float32Array(n), detail];
  for (let i = 0; i < n; i++) {
    const [r, g, b] = [data[4 * i], data[4 * i + 1], data[4 * i + 2]];
    const light = 0.299 * r + 0.587 * g + 0.114 * b;
    planes[0][i] = light;
    planes[1][i] = 0.564 * (b - light);
    planes[2][i] = 0.713 * (r - light);
  }
  const middle = [spot.x + spot.w / 2, spot.y + spot.h / 2] as const;
  const [cx, cy] = [Math.floor(middle[0] / scale), Math.floor(middle[1] / scale)];
  const [hx, hy] = [Math.max(1, Math.round(spot.w / scale / 2)), Math.max(1, Math.round(spot.h / scale / 2))];
  const rim = rimPoints(spot, covered, scale, w, h);
  const wanted = [0, 0, 0, 0];
  for (const { at } of rim) for (let p = 0; p < 4; p++) wanted[p] += planes[p][at] / rim.length;
  const sums = planes.map((plane) => summed(plane, w, h));
  const score = new Float32Array(n).fill(Number.NaN);
  if (rim.length === 0) return { w, h, scale, score, middle };
  const light = planes[0];
  const strange = summed(strangeness(planes, rim), w, h);
  for (let y = hy; y < h - hy; y++)
    for (let x = hx; x < w - hx; x++) {
      const [ox, oy] = [x - cx, y - cy];
      if (Math.abs(ox) <= 2 * hx && Math.abs(oy) <= 2 * hy) continue;
      if (!serves({ dx: Math.round(ox * scale), dy: Math.round(oy * scale) })) continue;
      const box = (p: number) => boxMean(sums[p], w, x - hx, y - hy, x + hx + 1, y + hy + 1);
      const tone = Math.abs(box(0) - wanted[0]);
      const colour = Math.hypot(box(1) - wanted[1], box(2) - wanted[2]);
      const sharp = Math.abs(Math.log2((box(3) + 1) / (wanted[3] + 1)));
      const things = boxMean(strange, w, x - hx, y - hy, x + hx + 1, y + hy + 1);
      let [sum, squares, count] = [0, 0, 0];
      const step = oy * w + ox;
      for (const { at, x: rx, y: ry } of rim) {
        if (rx + ox < 0 || ry + oy < 0 || rx + ox >= w || ry + oy >= h) continue;
        const d = light[at] - light[at + step];
        sum += d;
        squares += d * d;
        count++;
      }
      if (count < rim.length / 2) continue;
      const uneven = Math.sqrt(Math.max(0, squares / count - (sum / count) ** 2));
      score[y * w + x] = Math.exp(-(tone / 28 + colour / 9 + sharp / 0.8 + uneven / 12 + things / 5));
    }
  return { w, h, scale, score, middle };
}

/** How far each cell's colour lies from the nearest one along the rim. */
function strangeness(
  [light, blue, red]: readonly Float32Array[],
  rim: readonly { at: number }[],
): Float32Array {
  const out = new Float32Array(light.length);
  const known = Float32Array.from(rim.flatMap(({ at }) => [light[at], blue[at], red[at]]));
  const near = ofOneGround ** 2;
  for (let i = 0; i < out.length; i++) {
    const own = light[i];
    const ownBlue = blue[i];
    const ownRed = red[i];
    let least = Infinity;
    // Most cells are of the ground, which the first few colours show.
    for (let k = 0; k < known.length && least > near; k += 3) {
      const l = own - known[k];
      const b = ownBlue - known[k + 1];
      const r = ownRed - known[k + 2];
      const d = l * l + 2 * (b * b + r * r);
      if (d < least) least = d;
    }
    out[i] = Math.max(0, Math.sqrt(least) - ofOneGround);
  }
  return out;
}

function rimPoints(
  spot: Rect,
  covered: (x: number, y: number) => boolean,
  scale: number,
  w: number,
  h: number,
): { at: number; x: number; y: number }[] {
  const [x0, y0] = [Math.floor(spot.x / scale) - 2, Math.floor(spot.y / scale) - 2];
  const [x1, y1] = [Math.ceil((spot.x + spot.w) / scale) + 2, Math.ceil((spot.y + spot.h) / scale) + 2];
  const inside = (x: number, y: number) => {
    // A cell belongs to the area when its middle or a corner of it does.
    for (const [u, v] of [
      [0.5, 0.5],
      [0, 0],
      [1, 0],
      [0, 1],
      [1, 1],
    ])
      if (covered((x + u) * scale, (y + v) * scale)) return true;
    return false;
  };
  const found: { at: number; x: number; y: number }[] = [];
  for (let y = Math.max(0, y0); y <= Math.min(h - 1, y1); y++)
    for (let x = Math.max(0, x0); x <= Math.min(w - 1, x1); x++) {
      if (inside(x, y)) continue;
      if (inside(x - 1, y) || inside(x + 1, y) || inside(x, y - 1) || inside(x, y + 1))
        found.push({ at: y * w + x, x, y });
    }
  if (found.length <= mostRimPoints) return found;
  return Array.from(
    { length: mostRimPoints },
    (_, k) => found[Math.floor((k * found.length) / mostRimPoints)],
  );
}

function summed(plane: Float32Array, w: number, h: number): Float64Array {
  const out = new Float64Array((w + 1) * (h + 1));
  for (let y = 0; y < h; y++) {
    let row = 0;
    for (let x = 0; x < w; x++) {
      row += plane[y * w + x];
      out[(y + 1) * (w + 1) + x + 1] = out[y * (w + 1) + x + 1] + row;
    }
  }
  return out;
}

function boxMean(sums: Float64Array, w: number, x0: number, y0: number, x1: number, y1: number): number {
  const row = w + 1;
  const sum = sums[y1 * row + x1] - sums[y0 * row + x1] - sums[y1 * row + x0] + sums[y0 * row + x0];
  return sum / ((x1 - x0) * (y1 - y0));
}

/** The best places of a map as shifts from the area, best first, no two nearer to each other than `apartPx`. */
export function bestShifts(
  { w, scale, score, middle }: SourceMap,
  apartPx: number,
  most: number,
): SourceShift[] {
  const order = [...score.keys()].filter((i) => score[i] > 0).sort((a, b) => score[b] - score[a] || a - b);
  const chosen: SourceShift[] = [];
  for (const i of order) {
    const dx = Math.round(((i % w) - Math.floor(middle[0] / scale)) * scale);
    const dy = Math.round((Math.floor(i / w) - Math.floor(middle[1] / scale)) * scale);
    if (chosen.some((c) => Math.hypot(c.dx - dx, c.dy - dy) < apartPx)) continue;
    chosen.push({ dx, dy });
    if (chosen.length === most) break;
  }
  return chosen;
}
