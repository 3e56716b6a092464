import { type Area, type MaskLookup, outlineOf } from '../../core/area';
import { type Homography, project } from '../../core/geometry';
import { type Found, placeWithin } from '../../core/marking';
import type { Point } from '../viewport/camera';

const paths = new WeakMap<Area, Path2D>();

/** An area's outline in document pixels, found once per area. */
export function outlinePath(area: Area, masks: MaskLookup): Path2D {
  const known = paths.get(area);
  if (known) return known;
  const path = new Path2D();
  for (const ring of outlineOf(area, masks)) {
    ring.forEach(([x, y], i) => {
      if (i === 0) path.moveTo(x, y);
      else path.lineTo(x, y);
    });
    path.closePath();
  }
  paths.set(area, path);
  return path;
}

/** An area's outline carried through a map. */
export function mappedOutline(area: Area, masks: MaskLookup, map: Homography): Path2D {
  const path = new Path2D();
  for (const ring of outlineOf(area, masks)) {
    let first = true;
    for (const [x, y] of ring) {
      const p = project(map, x, y);
      if (!p) continue;
      if (first) path.moveTo(p[0], p[1]);
      else path.lineTo(p[0], p[1]);
      first = false;
    }
    path.closePath();
  }
  return path;
}

const foundPaths = new WeakMap<Found, Path2D>();

/** The outline of something found, in document pixels. */
export function foundPath(found: Found): Path2D {
  const known = foundPaths.get(found);
  if (known) return known;
  const { x, y, w, h, mask } = found;
  const area: Area = {
    shapes: [{ kind: 'mask', op: 'add', x, y, w, h, maskId: 'found' }],
    marginPx: 0,
    featherPx: 0,
  };
  const path = outlinePath(area, () => mask);
  foundPaths.set(found, path);
  return path;
}

const places = new WeakMap<Found, Point>();

/** Where the number of something found stands: deep within it, looked for once. */
export function numberPlace(found: Found): Point {
  const known = places.get(found);
  if (known) return known;
  const [x, y] = placeWithin(found);
  places.set(found, { x, y });
  return { x, y };
}
