import { contours } from 'd3-contour';
import { grow, isEmpty } from '../raster';
import { boundsOfArea } from './bounds';
import { rasteriseArea } from './rasterise';
import { scaleArea } from './reshape';
import type { Area, MaskLookup } from './types';

/** Closed lines in document pixels, for drawing. */
export type Outline = readonly (readonly (readonly [x: number, y: number])[])[];

/** The lines where coverage passes `level`, found on a grid of at most `maxCells` cells so that it is immediate at
 *  any size of area. Holes and separate parts each give a line of their own. */
export function outlineOf(area: Area, masks: MaskLookup, level = 0.5, maxCells = 90_000): Outline {
  const bounds = boundsOfArea(area);
  if (isEmpty(bounds)) return [];
  const by = Math.min(1, Math.sqrt(maxCells / (bounds.w * bounds.h)));
  const scaled = by < 1 ? scaleArea(area, by) : area;
  const rect = grow(boundsOfArea(scaled), 1);
  const box = { x: Math.floor(rect.x), y: Math.floor(rect.y), w: Math.ceil(rect.w), h: Math.ceil(rect.h) };
  const coverage = rasteriseArea(scaled, box, masks);
  const found = contours().size([box.w, box.h]).smooth(true).contour(Array.from(coverage), level);
  return found.coordinates.flatMap((polygon) =>
    polygon.map((ring) => ring.map((p) => [(p[0] + box.x) / by, (p[1] + box.y) / by] as const)),
  );
}
