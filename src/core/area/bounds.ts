import { emptyRect, enclosing, grow, intersect, isEmpty, type Rect, unite } from '../raster';
import { smoothReach } from './refine';
import type { Area, Shape, StrokeShape } from './types';

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

/** How far an area's margin and feather, and the soft edge that smoothing leaves, reach beyond its shapes. */
function growthOf({ marginPx, featherPx, featherSide = 'outside', smoothPx = 0 }: Area): number {
  const soft = featherSide === 'outside' ? featherPx : featherSide === 'both' ? featherPx / 2 : 0;
  return Math.ceil(marginPx + soft) + (marginPx !== 0 || featherPx > 0 || smoothPx > 0 ? 1 : 0);
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
