import { type Area, type MaskLookup, outlineOf } from '../../core/area';
import { type Homography, project } from '../../core/geometry';
import type { Found } from '../../core/marking';
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

/** A place within something found, near its middle. */
export function middleOf({ x, y, w, h, mask }: Found): Point {
  const [cx, cy] = [mask.w / 2, mask.h / 2];
  let best = { x: cx, y: cy };
  let nearest = Infinity;
  for (let v = 0; v < mask.h; v += 2)
    for (let u = 0; u < mask.w; u += 2) {
      const d = (u - cx) ** 2 + (v - cy) ** 2;
      if (d >= nearest || mask.data[v * mask.w + u] < 128) continue;
      nearest = d;
      best = { x: u, y: v };
    }
  return { x: x + (best.x * w) / mask.w, y: y + (best.y * h) / mask.h };
}
