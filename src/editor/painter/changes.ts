import { intersect, isEmpty, type Rect, unite } from '../../core/raster';

/** More of the view than this is not drawn in parts. */
const mostInParts = 0.6;

/** What is to be drawn anew where some rectangles have changed, on whole pixels and apart from each other; null when that is
 *  so much that all may be drawn as well. */
export function apart(parts: readonly Rect[], view: Rect): Rect[] | null {
  const out: Rect[] = [];
  for (const part of parts) {
    let joined = intersect(onWholePixels(part), view);
    if (isEmpty(joined)) continue;
    for (let k = 0; k < out.length; k++) {
      if (isEmpty(intersect(out[k], joined))) continue;
      joined = unite(joined, out[k]);
      out.splice(k, 1);
      // What is larger now may meet what it did not meet before.
      k = -1;
    }
    out.push(joined);
  }
  const area = out.reduce((sum, { w, h }) => sum + w * h, 0);
  return area > mostInParts * view.w * view.h ? null : out;
}

function onWholePixels({ x, y, w, h }: Rect): Rect {
  const [left, top] = [Math.floor(x), Math.floor(y)];
  return { x: left, y: top, w: Math.ceil(x + w) - left, h: Math.ceil(y + h) - top };
}
