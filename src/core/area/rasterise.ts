import { InvariantError } from '../errors';
import { emptyRect, enclosing, grow, intersect, isEmpty, type Rect, rows, rowsOf, unite } from '../raster';
import { squaredDistance } from './distance';
import { bitsWhere } from './mask';
import { dropCrumbs, fillHoles, keepOff, smoothed, smoothReach } from './refine';
import {
  type Area,
  type BoxShape,
  type EllipseShape,
  type MaskLookup,
  type MaskShape,
  type PolygonShape,
  pressureTargets,
  type Shape,
  type StrokeShape,
} from './types';

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
  if (isWhole(area)) return partOf(wholeCoverage(area, masks), rect);
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

function partOf({ rect, data }: Covered, wanted: Rect): Float32Array {
  const out = new Float32Array(wanted.w * wanted.h);
  const part = intersect(rect, wanted);
  for (let y = part.y; y < part.y + part.h; y++) {
    const i = (y - rect.y) * rect.w + part.x - rect.x;
    out.set(data.subarray(i, i + part.w), (y - wanted.y) * wanted.w + part.x - wanted.x);
  }
  return out;
}

/** Smoothed, rid of holes and crumbs, grown by the margin, kept off the guard and made soft at the edge, in this order. */
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
  const toInside = isSharp ? null : squaredDistance(inside, wide.w, wide.h);
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
      if (!toInside) {
        out[y * rect.w + x] = cover[i];
        continue;
      }
      // The outline runs half a pixel outside the outermost marked pixel centres.
      const signed = inside[i]
        ? toOutside
          ? 0.5 - Math.sqrt(toOutside[i])
          : -1e6
        : Math.sqrt(toInside[i]) - 0.5;
      const past = signed - from;
      let v: number;
      if (featherPx > 0) {
        const t = 1 - Math.min(1, Math.max(0, past / featherPx));
        v = t * t * (3 - 2 * t);
      } else v = Math.min(1, Math.max(0, 0.5 - past));
      out[y * rect.w + x] = v;
    }
  }
  if (area.guard?.length) {
    const kept = combineShapes(area.guard, rect, masks);
    const own = new Uint8Array(out.length);
    for (let y = 0; y < rect.h; y++)
      own.set(
        inside.subarray((y + reach) * wide.w + reach, (y + reach) * wide.w + reach + rect.w),
        y * rect.w,
      );
    keepOff(out, own, kept, rect.w, rect.h);
  }
  return out;
}

/** The smallest rectangle outside which an area's coverage is 0 for sure. */
export function boundsOfArea(area: Area): Rect {
  const known = boundsCache.get(area);
  if (known) return known;
  const bounds = findBounds(area);
  boundsCache.set(area, bounds);
  return bounds;
}

/** Areas are never mutated, and long strokes are asked for their bounds at every change of the job. */
const boundsCache = new WeakMap<Area, Rect>();

function findBounds(area: Area): Rect {
  let box = emptyRect;
  for (const shape of area.shapes) {
    if (shape.op === 'add') box = unite(box, boundsOfShape(shape));
    else if (shape.op === 'intersect') box = intersect(box, boundsOfShape(shape));
  }
  return isEmpty(box) ? emptyRect : grow(box, growthOf(area));
}

/** How far an area's margin and feather reach beyond its shapes. */
function growthOf({ marginPx, featherPx, featherSide = 'outside' }: Area): number {
  const soft = featherSide === 'outside' ? featherPx : featherSide === 'both' ? featherPx / 2 : 0;
  return Math.ceil(marginPx + soft) + (marginPx !== 0 || featherPx > 0 ? 1 : 0);
}

/** Boxes along a stroke are about so long. */
const boxPx = 128;
const boxesCache = new WeakMap<Area, readonly Rect[]>();

/** Rectangles outside which an area's coverage is 0 for sure: many small ones along its strokes. They may overlap. */
export function boxesOfArea(area: Area): readonly Rect[] {
  let boxes = boxesCache.get(area);
  if (!boxes) {
    const bounds = boundsOfArea(area);
    // What lies within a ring may be far from it; an outline that is smoothed is moved a little.
    const reach = growthOf(area) + smoothReach(area.smoothPx ?? 0);
    boxes = area.fillHoles
      ? [bounds]
      : area.shapes
          .filter(({ op }) => op === 'add')
          .flatMap((shape) => (shape.kind === 'stroke' ? boxesAlong(shape) : [boundsOfShape(shape)]))
          .map((box) => intersect(grow(box, reach), bounds))
          .filter((box) => !isEmpty(box));
    boxesCache.set(area, boxes);
  }
  return boxes;
}

function boxesAlong({ points, radiusPx }: StrokeShape): Rect[] {
  const out: Rect[] = [];
  for (let first = 0; first < points.length; ) {
    let last = first;
    let [x0, y0] = points[first];
    let [x1, y1] = [x0, y0];
    do {
      last++;
      if (last >= points.length) break;
      const [x, y] = points[last];
      [x0, y0, x1, y1] = [Math.min(x0, x), Math.min(y0, y), Math.max(x1, x), Math.max(y1, y)];
    } while (Math.max(x1 - x0, y1 - y0) < boxPx);
    const reach = radiusPx + 1;
    out.push(enclosing(x0 - reach, y0 - reach, x1 + reach, y1 + reach));
    // The next one begins where this one ends.
    first = last >= points.length - 1 ? points.length : last;
  }
  return out;
}

export function boundsOfShape(shape: Shape): Rect {
  switch (shape.kind) {
    case 'stroke': {
      const r = shape.radiusPx + 1;
      return boundsOfPoints(shape.points, r);
    }
    case 'polygon':
      return boundsOfPoints(shape.points, 0);
    case 'box':
    case 'ellipse':
    case 'mask':
      return enclosing(shape.x, shape.y, shape.x + shape.w, shape.y + shape.h);
  }
}

function boundsOfPoints(points: readonly (readonly number[])[], reach: number): Rect {
  if (points.length === 0) return emptyRect;
  let x0 = Infinity;
  let y0 = Infinity;
  let x1 = -Infinity;
  let y1 = -Infinity;
  for (const p of points) {
    x0 = Math.min(x0, p[0]);
    y0 = Math.min(y0, p[1]);
    x1 = Math.max(x1, p[0]);
    y1 = Math.max(y1, p[1]);
  }
  return enclosing(x0 - reach, y0 - reach, x1 + reach, y1 + reach);
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

/** Rows of a rectangle that is no wider go through the kernel whole. */
const narrow = 512;

/** Raises `out` to the coverage of the stroke's segments from number `firstSegment` on. Coverage is the greatest over
 *  the path of a profile of distance over radius, hence independent of how many points the pointer delivered.
 *  Calling it again with later segments gives the same as drawing all at once. @returns where coverage rose */
export function addStroke(
  stroke: StrokeShape,
  firstSegment: number,
  box: Rect,
  rect: Rect,
  out: Float32Array,
): Rect {
  const { radiusPx, hardness, pressureTo = 'size' } = stroke;
  const { kernel, coverage, counts: rose } = rows();
  const none = 2 ** 31 - 1;
  const risen = [none, none, -none, -none];
  for (const { from, to, goesOn } of segmentsOf(stroke.points, firstSegment)) {
    const [ax, ay, ap] = from;
    const [bx, by, bp] = to;
    const ra = pressureTo === 'size' ? radiusPx * ap : radiusPx;
    const rb = pressureTo === 'size' ? radiusPx * bp : radiusPx;
    const r = Math.max(ra, rb) + 1;
    const seg = intersect(
      enclosing(Math.min(ax, bx) - r, Math.min(ay, by) - r, Math.max(ax, bx) + r, Math.max(ay, by) + r),
      box,
    );
    const goesTo = pressureTargets.indexOf(pressureTo);
    kernel.segment(ax, ay, bx - ax, by - ay, ra, rb, hardness, ap, bp, goesTo, goesOn ? 1 : 0);
    rose.set(risen);
    for (const part of rowsOf(rect.w <= narrow ? { ...seg, x: rect.x, w: rect.w } : seg, rect)) {
      const i = (part.y - rect.y) * rect.w + part.x - rect.x;
      coverage.set(out.subarray(i, i + part.w * part.h));
      const [left, right] = [Math.max(part.x, seg.x), Math.min(part.x + part.w, seg.x + seg.w)];
      kernel.raise(
        coverage.byteOffset + 4 * (left - part.x),
        part.w,
        left,
        part.y,
        right - left,
        part.h,
        rose.byteOffset,
      );
      out.set(coverage.subarray(0, part.w * part.h), i);
    }
    for (let c = 0; c < 4; c++) risen[c] = rose[c];
  }
  const [x0, y0, x1, y1] = risen;
  return x1 > x0 ? { x: x0, y: y0, w: x1 - x0, h: y1 - y0 } : emptyRect;
}

type StrokePoint = StrokeShape['points'][number];

interface Segment {
  readonly from: StrokePoint;
  readonly to: StrokePoint;
  /** A segment of one pressure led to where it begins: what is nearest to that is covered as much or more. */
  readonly goesOn: boolean;
}

function* segmentsOf(points: readonly StrokePoint[], first: number): Generator<Segment> {
  // Where a stroke begins is a dab of its own, which may be larger than what comes after.
  const [start] = points;
  if (first <= 0 && start) yield { from: start, to: start, goesOn: false };
  for (let k = Math.max(0, first); k < points.length - 1; k++) {
    const goesOn = k === 0 || points[k - 1][2] === points[k][2];
    yield { from: points[k], to: points[k + 1], goesOn };
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
