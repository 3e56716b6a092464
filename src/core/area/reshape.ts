import { intersect, isEmpty, type Rect } from '../raster';
import { boundsOfArea } from './bounds';
import { trimMask } from './mask';
import { rasteriseArea } from './rasterise';
import type { Area, Mask, MaskLookup, Shape } from './types';

/** The area moved by whole or part pixels. */
export function moveArea(area: Area, dx: number, dy: number): Area {
  return mapShapes(area, (shape) => moveShape(shape, dx, dy));
}

/** The area with every shape of it changed, the guard's too. */
function mapShapes(area: Area, change: (shape: Shape) => Shape): Area {
  return {
    ...area,
    shapes: area.shapes.map(change),
    ...(area.guard && { guard: area.guard.map(change) }),
  };
}

function moveShape(shape: Shape, dx: number, dy: number): Shape {
  switch (shape.kind) {
    case 'stroke':
      return { ...shape, points: shape.points.map(([x, y, p]) => [x + dx, y + dy, p] as const) };
    case 'polygon':
      return { ...shape, points: shape.points.map(([x, y]) => [x + dx, y + dy] as const) };
    default:
      return { ...shape, x: shape.x + dx, y: shape.y + dy };
  }
}

/** The area seen at another scale: what is drawn of it when the photo is shown small. */
export function scaleArea(area: Area, by: number): Area {
  return {
    ...mapShapes(area, (shape) => scaleShape(shape, by)),
    marginPx: area.marginPx * by,
    featherPx: area.featherPx * by,
    ...(area.smoothPx && { smoothPx: area.smoothPx * by }),
    ...(area.crumbPx && { crumbPx: area.crumbPx * by }),
  };
}

const swapped = { add: 'subtract', subtract: 'add', intersect: 'intersect' } as const;
const otherSide = { outside: 'inside', inside: 'outside', both: 'both' } as const;

/** Everything within `bounds` that the area leaves out. Null where only pixels can tell: with shapes that keep only what
 *  lies in both, with holes, crumbs or a guard; then {@link bakeArea} comes first. */
export function invertArea(area: Area, bounds: Rect): Area | null {
  const { shapes, fillHoles, crumbPx, guard } = area;
  if (fillHoles || crumbPx || guard?.length || shapes.some((s) => s.op === 'intersect')) return null;
  return {
    ...area,
    shapes: [{ kind: 'box', op: 'add', ...bounds }, ...shapes.map((s) => ({ ...s, op: swapped[s.op] }))],
    // What grows outwards from an area grows inwards from the rest.
    marginPx: -area.marginPx,
    featherSide: otherSide[area.featherSide ?? 'outside'],
  };
}

/** An area as the pixels it covers within `bounds`. */
export function bakeArea(area: Area, bounds: Rect, masks: MaskLookup): { mask: Mask; x: number; y: number } {
  const rect = intersect(boundsOfArea(area), bounds);
  const data = Uint8Array.from(rasteriseArea(area, rect, masks), (v) => Math.round(v * 255));
  if (isEmpty(rect)) return { mask: { w: 1, h: 1, data: new Uint8Array(1) }, x: 0, y: 0 };
  const { mask, x, y } = trimMask({ w: rect.w, h: rect.h, data });
  return { mask, x: rect.x + x, y: rect.y + y };
}

function scaleShape(shape: Shape, by: number): Shape {
  switch (shape.kind) {
    case 'stroke':
      return {
        ...shape,
        radiusPx: shape.radiusPx * by,
        points: shape.points.map(([x, y, p]) => [x * by, y * by, p] as const),
      };
    case 'polygon':
      return { ...shape, points: shape.points.map(([x, y]) => [x * by, y * by] as const) };
    default:
      return { ...shape, x: shape.x * by, y: shape.y * by, w: shape.w * by, h: shape.h * by };
  }
}
