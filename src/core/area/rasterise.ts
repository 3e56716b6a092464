import { InvariantError } from '../errors';
import { grow, intersect, isEmpty, partOfPlane, type Rect } from '../raster';
import { boundsOfArea, boundsOfShape } from './bounds';
import { addStroke } from './brush';
import { squaredDistance } from './distance';
import { bitsWhere } from './mask';
import { distanceRound, dropCrumbs, fillHoles, smoothed, smoothReach } from './refine';
import type { Area, BoxShape, EllipseShape, MaskLookup, MaskShape, PolygonShape, Shape } from './types';

/** Coverage of an area within a rectangle.
 *
 *  @param rect  document pixels; may reach beyond the photo
 *  @returns rect.w×rect.h float32, 0…1. The value of a pixel does not depend on the rectangle asked for.
 *  @throws InvariantError when a mask shape's pixels are missing
 *  Degenerate: no shapes, or an empty rectangle, gives zeros. Cost: the pixels of the rectangle (grown by margin,
 *  feather and smoothing when these are set) times the shapes that meet it; with holes, crumbs or a guard, which only the
 *  whole area can tell, the pixels of its bounds, once for as long as it is asked for.
 */
export function rasteriseArea(area: Area, rect: Rect, masks: MaskLookup): Float32Array {
  if (isEmpty(rect)) return new Float32Array(0);
  if (isWhole(area)) {
    const whole = wholeCoverage(area, masks);
    return partOfPlane(whole.data, whole.rect, rect);
  }
  if (area.marginPx === 0 && area.featherPx === 0 && !area.smoothPx)
    return combineShapes(area.shapes, rect, masks);
  return adjusted(area, rect, masks);
}

/** Whether far-off parts of an area decide about a pixel of it. */
const isWhole = (area: Area): boolean =>
  area.fillHoles === true || (area.crumbPx ?? 0) > 0 || (area.guard?.length ?? 0) > 0;

interface Covered {
  readonly rect: Rect;
  readonly data: Float32Array;
}

const wholeCache = new WeakMap<Area, Covered>();

function wholeCoverage(area: Area, masks: MaskLookup): Covered {
  const known = wholeCache.get(area);
  if (known) return known;
  const rect = boundsOfArea(area);
  const covered = { rect, data: isEmpty(rect) ? new Float32Array(0) : adjusted(area, rect, masks) };
  wholeCache.set(area, covered);
  return covered;
}

/** The way round a guard is that much longer than the straight one before what lies there counts as behind it. */
const oneTurnPx = 1.5;

/** Smoothed, rid of holes and crumbs, grown by the margin round the guard and made soft at the edge, in this order. */
function adjusted(area: Area, rect: Rect, masks: MaskLookup): Float32Array {
  const { marginPx, featherPx, featherSide = 'outside', smoothPx = 0 } = area;
  const isSharp = marginPx === 0 && featherPx === 0;
  const reach = Math.ceil(Math.abs(marginPx) + featherPx) + smoothReach(smoothPx) + 2;
  const wide = grow(rect, reach);
  const shape = combineShapes(area.shapes, wide, masks);
  const cover = smoothPx > 0 ? smoothed(shape, wide.w, wide.h, smoothPx) : shape;
  if (area.fillHoles) fillHoles(cover, wide.w, wide.h);
  if (area.crumbPx) dropCrumbs(cover, wide.w, wide.h, area.crumbPx ** 2);
  const inside = bitsWhere(cover, (v) => v >= 0.5);
  const needsInner = marginPx < 0 || (featherPx > 0 && featherSide !== 'outside');
  const round = area.guard?.length
    ? distanceRound(partOfPlane(inside, wide, rect), combineShapes(area.guard, rect, masks), rect.w, rect.h)
    : null;
  const toInside = isSharp && !round ? null : squaredDistance(inside, wide.w, wide.h);
  const toOutside = needsInner
    ? squaredDistance(
        inside.map((v) => 1 - v),
        wide.w,
        wide.h,
      )
    : null;
  const from = marginPx - (featherSide === 'inside' ? featherPx : featherSide === 'both' ? featherPx / 2 : 0);
  const out = new Float32Array(rect.w * rect.h);
  for (let y = 0; y < rect.h; y++) {
    for (let x = 0; x < rect.w; x++) {
      const i = (y + reach) * wide.w + x + reach;
      const k = y * rect.w + x;
      const straight = toInside && !inside[i] ? Math.sqrt(toInside[i]) : 0;
      if (isSharp) {
        out[k] = round && !inside[i] && round[k] > straight + oneTurnPx ? 0 : cover[i];
        continue;
      }
      const away = round && !inside[i] ? Math.max(straight, round[k]) : straight;
      // The outline runs half a pixel outside the outermost marked pixel centres.
      const signed = inside[i] ? (toOutside ? 0.5 - Math.sqrt(toOutside[i]) : -1e6) : away - 0.5;
      const past = signed - from;
      let v: number;
      if (featherPx > 0) {
        const t = 1 - Math.min(1, Math.max(0, past / featherPx));
        v = t * t * (3 - 2 * t);
      } else v = Math.min(1, Math.max(0, 0.5 - past));
      out[k] = v;
    }
  }
  return out;
}

function combineShapes(shapes: readonly Shape[], rect: Rect, masks: MaskLookup): Float32Array {
  const out = new Float32Array(Math.max(0, rect.w * rect.h));
  if (out.length === 0) return out;
  let scratch: Float32Array | null = null;
  for (const shape of shapes) {
    const box = intersect(boundsOfShape(shape), rect);
    if (isEmpty(box)) {
      if (shape.op === 'intersect') out.fill(0);
      continue;
    }
    if (shape.op === 'add' && shape.kind === 'stroke') {
      addStroke(shape, 0, box, rect, out);
      continue;
    }
    scratch ??= new Float32Array(out.length);
    scratch.fill(0);
    drawShape(shape, box, rect, scratch, masks);
    if (shape.op === 'intersect') {
      for (let i = 0; i < out.length; i++) out[i] = Math.min(out[i], scratch[i]);
      continue;
    }
    for (let y = box.y - rect.y; y < box.y - rect.y + box.h; y++) {
      const end = y * rect.w + box.x - rect.x + box.w;
      for (let i = end - box.w; i < end; i++) {
        const v = scratch[i];
        if (shape.op === 'add') {
          if (v > out[i]) out[i] = v;
        } else if (1 - v < out[i]) out[i] = 1 - v;
      }
    }
  }
  return out;
}

function drawShape(shape: Shape, box: Rect, rect: Rect, out: Float32Array, masks: MaskLookup): void {
  switch (shape.kind) {
    case 'stroke':
      addStroke(shape, 0, box, rect, out);
      return;
    case 'polygon':
      return addPolygon(shape, box, rect, out);
    case 'box':
      return addBox(shape, box, rect, out);
    case 'ellipse':
      return addEllipse(shape, box, rect, out);
    case 'mask':
      return addMask(shape, box, rect, out, masks);
  }
}

const rowsPerPixel = 4;
/** So many crossings of a row are put in order one by one. */
const mostInserted = 24;

function addPolygon(polygon: PolygonShape, box: Rect, rect: Rect, out: Float32Array): void {
  const p = polygon.points;
  if (p.length < 3) return;
  const rows = box.h * rowsPerPixel;
  const heightOf = (row: number) =>
    box.y + Math.floor(row / rowsPerPixel) + ((row % rowsPerPixel) + 0.5) / rowsPerPixel;
  /** Calls for every row that an edge crosses. */
  const crossed = (each: (row: number, x: number, winding: number) => void) => {
    for (let i = 0, j = p.length - 1; i < p.length; j = i++) {
      const [x0, y0] = p[j];
      const [x1, y1] = p[i];
      const rowOf = (y: number) => (y - box.y) * rowsPerPixel - 0.5;
      const last = Math.min(rows - 1, Math.ceil(rowOf(Math.max(y0, y1))));
      for (let row = Math.max(0, Math.floor(rowOf(Math.min(y0, y1)))); row <= last; row++) {
        const sy = heightOf(row);
        if (y0 <= sy !== y1 <= sy) each(row, x0 + ((sy - y0) / (y1 - y0)) * (x1 - x0), y1 > y0 ? 1 : -1);
      }
    }
  };
  // Counted row by row, then laid out row after row.
  const starts = new Int32Array(rows + 1);
  crossed((row) => starts[row + 1]++);
  for (let row = 0; row < rows; row++) starts[row + 1] += starts[row];
  const at = new Float64Array(starts[rows]);
  const windings = new Int8Array(starts[rows]);
  const ends = starts.slice(0, rows);
  crossed((row, x, winding) => {
    const k = ends[row]++;
    at[k] = x;
    windings[k] = winding;
  });
  for (let row = 0; row < rows; row++) {
    const y = box.y + Math.floor(row / rowsPerPixel);
    sortTogether(at, windings, starts[row], starts[row + 1]);
    let winding = 0;
    let start = 0;
    for (let k = starts[row]; k < starts[row + 1]; k++) {
      if (winding === 0) start = at[k];
      winding += windings[k];
      if (winding === 0) addSpan(start, at[k], y, 1 / rowsPerPixel, box, rect, out);
    }
  }
}

/** Sorts a stretch by place, and what goes with it; equal ones stay as they are. */
function sortTogether(at: Float64Array, values: Int8Array, from: number, to: number): void {
  if (to - from > mostInserted) {
    const order = Array.from({ length: to - from }, (_, k) => from + k).sort((a, b) => at[a] - at[b]);
    const [places, own] = [order.map((k) => at[k]), order.map((k) => values[k])];
    at.set(places, from);
    values.set(own, from);
    return;
  }
  for (let i = from + 1; i < to; i++) {
    const [x, value] = [at[i], values[i]];
    let k = i;
    for (; k > from && at[k - 1] > x; k--) {
      at[k] = at[k - 1];
      values[k] = values[k - 1];
    }
    at[k] = x;
    values[k] = value;
  }
}

function addSpan(
  x0: number,
  x1: number,
  y: number,
  weight: number,
  box: Rect,
  rect: Rect,
  out: Float32Array,
): void {
  const first = Math.max(box.x, Math.floor(x0));
  const last = Math.min(box.x + box.w, Math.ceil(x1));
  const row = (y - rect.y) * rect.w - rect.x;
  const [from, to] = [Math.max(first, Math.ceil(x0)), Math.min(last, Math.floor(x1))];
  const addPart = (at: number) => {
    const v = out[row + at] + weight * (Math.min(x1, at + 1) - Math.max(x0, at));
    out[row + at] = Math.min(v, 1);
  };
  let x = first;
  if (x < Math.min(from, last)) addPart(x++);
  for (let i = row + from; i < row + to; i++) {
    const v = out[i] + weight;
    out[i] = Math.min(v, 1);
  }
  for (x = Math.max(x, to); x < last; x++) addPart(x);
}

function addBox(shape: BoxShape, box: Rect, rect: Rect, out: Float32Array): void {
  for (let y = box.y; y < box.y + box.h; y++) {
    const high = Math.min(shape.y + shape.h, y + 1) - Math.max(shape.y, y);
    if (high > 0) addSpan(shape.x, shape.x + shape.w, y, high, box, rect, out);
  }
}

/** In rows as a polygon is, with the exact chord of each. */
function addEllipse(shape: EllipseShape, box: Rect, rect: Rect, out: Float32Array): void {
  const [rx, ry] = [shape.w / 2, shape.h / 2];
  const [cx, cy] = [shape.x + rx, shape.y + ry];
  if (rx <= 0 || ry <= 0) return;
  for (let y = box.y; y < box.y + box.h; y++)
    for (let k = 0; k < rowsPerPixel; k++) {
      const v = (y + (k + 0.5) / rowsPerPixel - cy) / ry;
      if (Math.abs(v) >= 1) continue;
      const half = rx * Math.sqrt(1 - v * v);
      addSpan(cx - half, cx + half, y, 1 / rowsPerPixel, box, rect, out);
    }
}

function addMask(shape: MaskShape, box: Rect, rect: Rect, out: Float32Array, masks: MaskLookup): void {
  const mask = masks(shape.maskId);
  if (!mask) throw new InvariantError(`The pixels of mask ${shape.maskId} are missing.`);
  for (let y = box.y; y < box.y + box.h; y++) {
    const my = Math.max(0, Math.min(mask.h - 1, Math.floor(((y - shape.y) * mask.h) / shape.h)));
    const row = (y - rect.y) * rect.w - rect.x;
    for (let x = box.x; x < box.x + box.w; x++) {
      const mx = Math.max(0, Math.min(mask.w - 1, Math.floor(((x - shape.x) * mask.w) / shape.w)));
      out[row + x] = mask.data[my * mask.w + mx] / 255;
    }
  }
}
