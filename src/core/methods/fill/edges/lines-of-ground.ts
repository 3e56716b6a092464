import type { RuledGround } from './ruled-ground';
import type { SeenEdge } from './straight-edges';

/** Sine of the angle at which an edge still runs along the lines of ruled ground. */
const alongLines = 0.2;
/** An edge's drift is looked at in so many steps. */
const driftSteps = 8;

/** Whether most edges that run nearly along a ground's lines keep their places between them. One line taken for the next makes up a
 *  ground that turns away from all of them.
 *  @param mostDrift  in pixels, as {@link isLineOf} has it. With no such edge it agrees. */
export function agreesWith(ground: RuledGround, edges: readonly SeenEdge[], mostDrift: number): boolean {
  const drifts = edges.flatMap((edge) => driftOf(ground, edge) ?? []);
  return 2 * drifts.filter((drift) => drift > mostDrift).length <= drifts.length;
}

/** Whether an edge is one of the lines that rule a ground: where those run on is told better by all of them.
 *  @param mostDrift  so many pixels at most it drifts across them within the hole */
export function isLineOf(ground: RuledGround, edge: SeenEdge, mostDrift: number): boolean {
  const drift = driftOf(ground, edge);
  return drift !== null && drift <= mostDrift;
}

/** How far an edge drifts across a ground's lines from where it enters the hole to where it leaves it, in pixels; null where it runs in
 *  another direction or is mostly elsewhere. */
function driftOf({ ux, uy, placeOf }: RuledGround, { line: [x0, y0, x1, y1] }: SeenEdge): number | null {
  const turned = Math.abs(ux * (y1 - y0) - uy * (x1 - x0)) / Math.hypot(x1 - x0, y1 - y0);
  if (turned >= alongLines) return null;
  const on: { share: number; across: number }[] = [];
  for (let k = 0; k <= driftSteps; k++) {
    const share = k / driftSteps;
    const place = placeOf(x0 + share * (x1 - x0), y0 + share * (y1 - y0));
    if (place) on.push({ share, across: place.across });
  }
  if (on.length < 2 || on.length <= driftSteps / 2) return null;
  const [first, last] = [on[0], on[on.length - 1]];
  return Math.abs(last.across - first.across) / (last.share - first.share);
}
