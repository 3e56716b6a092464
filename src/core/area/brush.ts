import { emptyRect, enclosing, intersect, type Rect, rows, rowsOf, unite } from '../raster';
import { pressureTargets, type StrokeShape } from './types';

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
  const goesTo = pressureTargets.indexOf(pressureTo);
  const segments = [...segmentsOf(stroke.points, firstSegment)].map(({ from, to, goesOn }) => {
    const [ax, ay, ap] = from;
    const [bx, by, bp] = to;
    const ra = pressureTo === 'size' ? radiusPx * ap : radiusPx;
    const rb = pressureTo === 'size' ? radiusPx * bp : radiusPx;
    const r = Math.max(ra, rb) + 1;
    const reach = intersect(
      enclosing(Math.min(ax, bx) - r, Math.min(ay, by) - r, Math.max(ax, bx) + r, Math.max(ay, by) + r),
      box,
    );
    const say = () =>
      kernel.segment(ax, ay, bx - ax, by - ay, ra, rb, hardness, ap, bp, goesTo, goesOn ? 1 : 0);
    return { reach, say };
  });
  const reach = segments.reduce((all, segment) => unite(all, segment.reach), emptyRect);
  const none = 2 ** 31 - 1;
  rose.set([none, none, -none, -none]);
  for (const part of rowsOf(rect.w <= narrow ? { ...reach, x: rect.x, w: rect.w } : reach, rect)) {
    const i = (part.y - rect.y) * rect.w + part.x - rect.x;
    coverage.set(out.subarray(i, i + part.w * part.h));
    let hasRisen = 0;
    for (const segment of segments) {
      const { x, y, w, h } = intersect(segment.reach, part);
      if (w <= 0 || h <= 0) continue;
      segment.say();
      const at = coverage.byteOffset + 4 * ((y - part.y) * part.w + x - part.x);
      hasRisen |= kernel.raise(at, part.w, x, y, w, h, rose.byteOffset);
    }
    if (hasRisen) out.set(coverage.subarray(0, part.w * part.h), i);
  }
  const [x0, y0, x1, y1] = rose;
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
    const [from, to] = [points[k], points[k + 1]];
    // Pressed harder, or less, where it is: a dab of its own.
    if (from[0] === to[0] && from[1] === to[1]) {
      if (from[2] !== to[2]) yield { from: to, to, goesOn: false };
    } else yield { from, to, goesOn: k === 0 || points[k - 1][2] === points[k][2] };
  }
}
