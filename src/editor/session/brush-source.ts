import { ontoRail, type PlanePoint } from '../../core/geometry';
import type { Rail, Source } from '../../core/job';
import type { Point } from '../viewport/camera';
import type { NextMend, Vary } from './state';

/** Where a brush takes from, and what is done to it on the way. */
export interface BrushSource {
  /** The point set; null: none yet. */
  readonly at: Point | null;
  /** The shift, once a stroke has fixed it, and the target point that it carries. */
  readonly fixed: { readonly dx: number; readonly dy: number; readonly about: PlanePoint } | null;
  readonly turnDeg: number;
  readonly scale: number;
  readonly mirror: boolean;
  /** The plane that was in use with it when another source was taken; while it is in use: {@link NextMend.plane}. */
  readonly plane: readonly PlanePoint[] | null;
}

export const emptySource: BrushSource = {
  at: null,
  fixed: null,
  turnDeg: 0,
  scale: 1,
  mirror: false,
  plane: null,
};

/** The source of a stroke that begins at a point; null as long as none is set. */
export function sourceAt(brush: BrushSource, point: Point, next: NextMend): Source | null {
  if (!brush.at) return null;
  const kept = next.keepsDistance ? brush.fixed : null;
  const free = kept ?? { dx: Math.round(brush.at.x - point.x), dy: Math.round(brush.at.y - point.y) };
  const { dx, dy } = kept ? free : onRail(next.rail, free);
  const turned = brush.turnDeg !== 0 || brush.scale !== 1 || brush.mirror;
  if (!turned && !next.plane) return { dx, dy };
  return {
    dx,
    dy,
    ...(turned && { turnDeg: brush.turnDeg, scale: brush.scale, mirror: brush.mirror }),
    about: kept?.about ?? [point.x, point.y],
  };
}

const onRail = (rail: Rail | null, shift: { dx: number; dy: number }) =>
  rail ? ontoRail(rail, shift) : shift;

/** A stroke's source a little otherwise than it would be.
 *  @param count   strokes so far
 *  @param chance  two numbers 0…1 */
export function varied(source: Source, vary: Vary, count: number, chance: readonly [number, number]): Source {
  const angle = chance[0] * 2 * Math.PI;
  const reach = Math.sqrt(chance[1]) * vary.jitterPx;
  const moved = {
    ...source,
    dx: source.dx + Math.round(Math.cos(angle) * reach),
    dy: source.dy + Math.round(Math.sin(angle) * reach),
  };
  return vary.mirror && count % 2 === 1 ? { ...moved, mirror: !source.mirror } : moved;
}

/** Strokes whose sources lie nearer together than this share of the brush's size take the same patch. */
const sameShare = 0.5;

/** How many earlier mends took from about the same place. */
export function takenBefore(
  from: Point,
  sizePx: number,
  earlier: readonly { readonly from: Point; readonly sizePx: number }[],
): number {
  return earlier.filter(
    (e) => Math.hypot(e.from.x - from.x, e.from.y - from.y) < sameShare * Math.min(sizePx, e.sizePx),
  ).length;
}
