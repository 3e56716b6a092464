import type { Area, Shape } from './types';

/** The area moved by whole or part pixels. */
export function moveArea(area: Area, dx: number, dy: number): Area {
  return { ...area, shapes: area.shapes.map((shape) => moveShape(shape, dx, dy)) };
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
    shapes: area.shapes.map((shape) => scaleShape(shape, by)),
    marginPx: area.marginPx * by,
    featherPx: area.featherPx * by,
  };
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
