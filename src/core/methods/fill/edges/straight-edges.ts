import type { GuideLine } from '../../../job/types';
import { type FloatImage, grow, intersect } from '../../../raster';
import { boxOfTargets } from '../frame';
import { Ballot, Directions, leastPoints, offAngle, offLinePx } from './ballot';
import { belonging, type Crossing, fitted } from './fit';
import { Ground } from './ground';
import { edgesOf } from './points';

/** The hole's longer side is brought to about this many pixels before edges are looked for. */
const workingSidePx = 160;
const mostEdges = 12;
/** Edges that meet at less than this are one. */
const leastTurn = Math.PI / 6;
/** In 8-bit steps: the ground on one side of an edge that runs on differs by less before and behind the hole; that on the two sides
 *  of one that ends in it differs by more. */
const ofOneGround = 30;
/** An edge that ends in the hole is so sharp at least: that of a cloud bends off anywhere. */
const leastSharp = 0.45;

/** An edge as it may lie behind what was marked, in pixels counted from pixel centres. */
export interface SeenEdge {
  /** From where it enters the hole to where it leaves it, or ends. */
  readonly line: GuideLine;
  /** It goes no farther than the second end: another edge passes there. */
  readonly ends: boolean;
}

/** Straight edges that are likely to run on behind what was marked: those that enter the hole on one side and leave it on the
 *  other, with the same direction, the same side light and the same ground on one side at least; and those that enter it and
 *  meet one of these, as a door's edge meets the ground.
 *
 *  @param image  the ground; pixels of targets are not read
 *  @param w, h   the ground's size, the first rows of the image
 *  @returns those that run through, the clearest first, then those that end
 *  Source: Duda & Hart 1972, Use of the Hough Transformation to Detect Lines and Curves in Pictures,
 *  doi:10.1145/361237.361242; thinned and counted by gradient direction as in Ballard 1981,
 *  doi:10.1016/0031-3203(81)90009-1. What is made of them is ours.
 */
export function straightEdges(image: FloatImage, roles: Uint8Array, w: number, h: number): SeenEdge[] {
  const box = boxOfTargets(roles, image.rect.w);
  const scale = Math.max(1, Math.round(Math.max(box.w, box.h) / workingSidePx));
  const reach = Math.max(16, Math.min(60, Math.round((0.5 * Math.max(box.w, box.h)) / scale)));
  const seen = intersect(grow(box, (reach + 4) * scale), { x: 0, y: 0, w, h });
  const { small, points } = edgesOf(image, roles, seen, scale, reach);
  const ground = new Ground(image, roles, seen, scale, reach);
  const ballot = new Ballot(small, points);
  const through: Crossing[] = [];
  const entering: Crossing[] = [];
  const left = new Directions(points);
  const near = new Int32Array(points.x.length);
  for (let trial = 0; trial < 90 && through.length < mostEdges && left.count >= leastPoints; trial++) {
    const line = ballot.strongest();
    if (!line) break;
    const count = left.takeOut(belonging(points, line, 4 * offLinePx, 2 * offAngle), line.angle, near);
    const found = fitted(line, points, near.subarray(0, count), small, reach);
    if (found?.isThrough) {
      if (ground.changeAlong(found.ends) < ofOneGround) through.push(found);
    } else if (found) entering.push(found);
    const isOn = belonging(points, line, 2 * offLinePx);
    for (let k = 0; k < count; k++)
      if (isOn(near[k])) ballot.withdraw(near[k]);
      else left.putBack(near[k]);
  }
  const placed = (line: GuideLine, ends: boolean): SeenEdge => {
    const [x0, y0, x1, y1] = line.map((v, k) => (k % 2 ? seen.y : seen.x) + v * scale + (scale - 1) / 2);
    return { line: [x0, y0, x1, y1], ends };
  };
  const ending = entering.flatMap(({ ends, isSeen: [isSeenBefore] }) => {
    const [x0, y0, x1, y1] = ends;
    const line = untilMet(isSeenBefore ? ends : [x1, y1, x0, y0], through);
    const isClear =
      line && ground.contrastBefore(line) > ofOneGround && ground.sharpnessBefore(line) >= leastSharp;
    return isClear ? [line] : [];
  });
  return [
    ...through.map(({ ends }) => placed(ends, false)),
    ...ending.slice(0, mostEdges).map((line) => placed(line, true)),
  ];
}

/** A line from where it enters the hole to the first edge that runs through there; null when there is none. */
function untilMet([x0, y0, x1, y1]: GuideLine, through: readonly Crossing[]): GuideLine | null {
  let least = Number.POSITIVE_INFINITY;
  for (const {
    ends: [a, b, c, d],
  } of through) {
    const cross = (x1 - x0) * (d - b) - (y1 - y0) * (c - a);
    const long = Math.hypot(x1 - x0, y1 - y0) * Math.hypot(c - a, d - b);
    if (Math.abs(cross) < Math.sin(leastTurn) * long) continue;
    const along = ((a - x0) * (d - b) - (b - y0) * (c - a)) / cross;
    const on = ((a - x0) * (y1 - y0) - (b - y0) * (x1 - x0)) / cross;
    if (along > 0 && along <= 1.05 && on >= -0.05 && on <= 1.05) least = Math.min(least, along);
  }
  return least === Number.POSITIVE_INFINITY ? null : [x0, y0, x0 + least * (x1 - x0), y0 + least * (y1 - y0)];
}
