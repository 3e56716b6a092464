import type { Frame } from '../frame';

/** An edge that is only seen is in doubt when what keeps to it differs so many times as much from its sources as what is free does, and
 *  by so much more, in squared 8-bit steps a pixel. Edges that run on behind the hole cost up to three times as much, in made-up
 *  pictures of boards, tiles, bricks and roads; a fence's pales, and a board taken for the next, from four to seventy times. */
const mostDear = { times: 3.5, more: 50 };
/** Edges are let go when that saves so much of what it promised. */
const leastSaved = 0.5;

/** Numbers of the rules of edges that are only seen; none where ruled ground, sides or bends count as well: what an edge's band had of
 *  these is not known any more. */
export function onlySeen({ rules }: Frame): Set<number> {
  const out = new Set<number>();
  if (rules && !rules.across)
    for (const [k, { isOnlySeen }] of rules.list.entries()) if (isOnlySeen) out.add(k + 1);
  return out;
}

/** Which rules cost too much: what is near such an edge is unlike all that lies along it, so that either it was seen where none is, one
 *  board taken for the next, or other such edges beside it serve better, as in a fence.
 *  @param inQuestion  numbers of rules
 *  @param kept  by how much what lies round each pixel differs from its source when all rules are kept, in squared 8-bit steps a pixel;
 *               NaN where nothing is sought
 *  @param free  and when none of these is
 *  @returns as well how much less that promises to be in the mean of all pixels without them */
export function tooDear(
  { rules }: Frame,
  inQuestion: ReadonlySet<number>,
  kept: Float32Array,
  free: Float32Array,
): { rules: Set<number>; promised: number } {
  const sums = new Map([...inQuestion].map((k) => [k, { kept: 0, free: 0, count: 0 }]));
  let all = 0;
  rules?.index.forEach((k, p) => {
    if (Number.isNaN(kept[p]) || Number.isNaN(free[p])) return;
    all++;
    const sum = sums.get(k);
    if (!sum) return;
    sum.kept += kept[p];
    sum.free += free[p];
    sum.count++;
  });
  const dear = [...sums].filter(
    ([, sum]) => sum.kept > mostDear.times * sum.free + mostDear.more * sum.count,
  );
  const promised = dear.reduce((more, [, sum]) => more + sum.kept - sum.free, 0) / Math.max(1, all);
  return { rules: new Set(dear.map(([k]) => k)), promised };
}

/** Whether letting rules go saves enough of what it promised: what is free to leave an edge out altogether is cheap as well.
 *  @param kept, after  costs of all pixels before and after they were let go, as {@link tooDear} has them */
export const savesEnough = (kept: Float32Array, after: Float32Array, promised: number): boolean =>
  meanOf(kept) - meanOf(after) > leastSaved * promised;

/** The mean of the numbers that are any. */
function meanOf(values: Float32Array): number {
  let [sum, count] = [0, 0];
  for (const v of values)
    if (!Number.isNaN(v)) {
      sum += v;
      count++;
    }
  return sum / Math.max(1, count);
}

/** A frame in which some rules ask nothing any more. Numbers of the others stay. */
export function withoutRules(frame: Frame, dropped: ReadonlySet<number>): Frame {
  const { rules } = frame;
  if (!rules) return frame;
  const index = rules.index.map((k) => (dropped.has(k) ? 0 : k));
  return { ...frame, rules: { ...rules, index } };
}
