import { squaredDistance } from '../../../area';
import { type FloatImage, grow, intersect, type Rect } from '../../../raster';
import { boxOfTargets, isKnownRole } from '../frame';
import { type EdgePoints, edgesOf, type Small } from './points';

/** Of an edge so much is looked at on either side of the hole, in pixels. */
const reachPx = 40;
/** It comes so near to the hole, and is seen over so much of its length. */
const mostGapPx = 3.5;
const leastSeenPx = 9;
const mostSeenPx = 36;
/** So much of it, from the hole on, says in which circle it bends; that passes its points so closely, in the mean and at each. */
const fittedPx = 20;
const mostOffPx = { mean: 0.6, each: 1.2 };
/** From one point of it to the next. */
const stepPx = 2.3;
const mostTurn = 0.45;
/** Half the angle of the arc within the hole: less is straight, more is anything. */
const bend = { least: 0.06, most: 0.9 };
/** Nobody knows how an edge bends over more than this. */
const longestChordPx = 90;
/** In 8-bit steps: what lies on the two sides differs by more; what lies on one of them is the same at both ends but for less. */
const leastContrast = 36;
const ofOneGround = 30;
/** The sides are looked at so far off. */
const besidePx = { from: 2, to: 5 };
/** Of an arc so much lies in the hole. */
const leastInHole = 0.8;
/** So far off the arc it still says where things belong. */
const bandPx = 4;

/** An edge that bends as it runs behind what was marked: a part of a circle. In pixels counted from pixel centres. */
export interface BentEdge {
  /** Where it enters the hole and where it leaves it. */
  readonly ends: readonly [readonly [number, number], readonly [number, number]];
  /** No pixel beyond lies near it. */
  readonly box: Rect;
  /** How far a pixel lies off it, away from the circle's middle; null where that is too far, or beyond what is seen of it. */
  placeOf(x: number, y: number): number | null;
}

/** What is seen of an edge on one side of the hole. */
interface Stump {
  /** Its points, from the hole on. */
  readonly x: readonly number[];
  readonly y: readonly number[];
  /** Whether it is lighter to the left of the way into the hole. */
  readonly isLightLeft: boolean;
  /** Mean colours of what lies to the left and to the right. */
  readonly sides: readonly [readonly number[], readonly number[]];
}

/** A circle through both stumps of an edge. */
interface Arc {
  readonly a: Stump;
  readonly b: Stump;
  readonly cx: number;
  readonly cy: number;
  readonly r: number;
  /** How far their points lie off it, root mean square. */
  readonly off: number;
}

/** Edges that are likely to run on behind what was marked in an arc, as the rim of a fruit or of a jug does: such as
 *  enter the hole at two places, keep to one circle on both sides of it, with the same side light and the same ground on one side at
 *  least.
 *
 *  @param image  the ground; pixels of targets are not read
 *  @param w, h   the ground's size, the first rows of the image
 *  @returns the likeliest first, none at a place where another begins
 *  The ridges of the gradient are those of straight edges. What is made of them is ours. Cost: O(rim). */
export function bentEdges(image: FloatImage, roles: Uint8Array, w: number, h: number): BentEdge[] {
  const seen = intersect(grow(boxOfTargets(roles, image.rect.w), reachPx + 4), { x: 0, y: 0, w, h });
  const { small, points } = edgesOf(image, roles, seen, 1, reachPx);
  const stumps = stumpsOf(points, small, { image, roles, seen });
  const arcs: Arc[] = [];
  stumps.forEach((a, k) => {
    for (const b of stumps.slice(k + 1)) {
      const arc = arcThrough(a, b);
      if (arc && isBehind(arc, small)) arcs.push(arc);
    }
  });
  const used = new Set<Stump>();
  return arcs
    .sort((p, q) => p.off - q.off)
    .flatMap((arc) => {
      if (used.has(arc.a) || used.has(arc.b)) return [];
      used.add(arc.a).add(arc.b);
      return [placed(arc, seen)];
    });
}

interface Picture {
  readonly image: FloatImage;
  readonly roles: Uint8Array;
  readonly seen: Rect;
}

function stumpsOf(points: EdgePoints, small: Small, picture: Picture): Stump[] {
  const { w, h, hole } = small;
  const away = squaredDistance(hole, w, h).map(Math.sqrt);
  const at = new Int32Array(w * h).fill(-1);
  const awayOf = (p: number) => away[Math.round(points.y[p]) * w + Math.round(points.x[p])];
  for (let p = 0; p < points.x.length; p++) at[Math.round(points.y[p]) * w + Math.round(points.x[p])] = p;
  const isUsed = new Uint8Array(points.x.length);
  const seeds = Array.from(points.x.keys())
    .filter((p) => awayOf(p) <= mostGapPx)
    .sort((p, q) => awayOf(p) - awayOf(q));
  const out: Stump[] = [];
  for (const seed of seeds) {
    if (isUsed[seed]) continue;
    const chain = chainFrom(seed, points, at, w, h, awayOf);
    for (const p of chain) isUsed[p] = 1;
    const stump = stumpOf(chain, points, picture);
    if (stump) out.push(stump);
  }
  return out;
}

/** Points of one edge, from one right beside the hole on, away from that. */
function chainFrom(
  seed: number,
  points: EdgePoints,
  at: Int32Array,
  w: number,
  h: number,
  awayOf: (p: number) => number,
): number[] {
  const { x, y, angle } = points;
  const chain = [seed];
  const reach = Math.ceil(stepPx);
  let length = 0;
  for (let last = seed; length < mostSeenPx; ) {
    let best = -1;
    let least = Infinity;
    for (let v = Math.round(y[last]) - reach; v <= Math.round(y[last]) + reach; v++)
      for (let u = Math.round(x[last]) - reach; u <= Math.round(x[last]) + reach; u++) {
        const p = u >= 0 && v >= 0 && u < w && v < h ? at[v * w + u] : -1;
        if (p < 0 || chain.includes(p) || awayOf(p) <= awayOf(last) - 0.5) continue;
        const [dx, dy] = [x[p] - x[last], y[p] - y[last]];
        const far = Math.hypot(dx, dy);
        const turned = Math.abs(turn(angle[p] - angle[last]));
        if (far > stepPx || far < 0.3 || turned > mostTurn) continue;
        // Across the gradient, not along it.
        const off = Math.abs(dx * Math.cos(angle[last]) + dy * Math.sin(angle[last])) / far;
        const cost = far * (1 + 2 * off + turned);
        if (off < 0.75 && cost < least) [best, least] = [p, cost];
      }
    if (best < 0) break;
    length += Math.hypot(x[best] - x[last], y[best] - y[last]);
    chain.push(best);
    last = best;
  }
  return chain;
}

function stumpOf(chain: readonly number[], { x, y, angle }: EdgePoints, picture: Picture): Stump | null {
  const [first, last] = [chain[0], chain[chain.length - 1]];
  if (Math.hypot(x[last] - x[first], y[last] - y[first]) < leastSeenPx) return null;
  let light = 0;
  const left = new Float64Array(2 * chain.length);
  chain.forEach((p, k) => {
    const [from, to] = [chain[Math.min(chain.length - 1, k + 2)], chain[Math.max(0, k - 2)]];
    const [dx, dy] = [x[to] - x[from], y[to] - y[from]];
    const size = Math.hypot(dx, dy) || 1;
    [left[2 * k], left[2 * k + 1]] = [-dy / size, dx / size];
    light += Math.cos(angle[p]) * left[2 * k] + Math.sin(angle[p]) * left[2 * k + 1];
  });
  const sides = [1, -1].map((side) => meanBeside(chain, { x, y }, left, side, picture));
  const [its, other] = sides;
  if (!its || !other || Math.hypot(...its.map((v, k) => v - other[k])) < leastContrast) return null;
  return {
    x: chain.map((p) => x[p]),
    y: chain.map((p) => y[p]),
    isLightLeft: light > 0,
    sides: [its, other],
  };
}

function meanBeside(
  chain: readonly number[],
  { x, y }: { readonly x: Float64Array; readonly y: Float64Array },
  left: Float64Array,
  side: number,
  { image, roles, seen }: Picture,
): number[] | null {
  const { w, h } = image.rect;
  const sum = [0, 0, 0];
  let count = 0;
  chain.forEach((p, k) => {
    for (let d = besidePx.from; d <= besidePx.to; d++) {
      const u = Math.round(seen.x + x[p] + side * left[2 * k] * d);
      const v = Math.round(seen.y + y[p] + side * left[2 * k + 1] * d);
      if (u < 0 || v < 0 || u >= w || v >= h || !isKnownRole(roles[v * w + u])) continue;
      for (let c = 0; c < 3; c++) sum[c] += 255 * image.data[4 * (v * w + u) + c];
      count++;
    }
  });
  return count > 0 ? sum.map((v) => v / count) : null;
}

/** The circle that an edge bends in from one stump to the other; null where they are not of one edge, or that bends otherwise. */
function arcThrough(a: Stump, b: Stump): Arc | null {
  const chord = Math.hypot(b.x[0] - a.x[0], b.y[0] - a.y[0]);
  // What is to the left of one is to the right of the other, for both look into the hole.
  if (chord < 4 || chord > longestChordPx || a.isLightLeft === b.isLightLeft) return null;
  const change = [0, 1].map((k) => Math.hypot(...a.sides[k].map((v, c) => v - b.sides[1 - k][c])));
  if (Math.min(...change) > ofOneGround) return null;
  const near = [a, b].flatMap(({ x, y }) =>
    x.flatMap((px, k) => (Math.hypot(px - x[0], y[k] - y[0]) <= fittedPx ? [[px, y[k]] as const] : [])),
  );
  const circle = circleNear(near);
  if (!circle) return null;
  const { cx, cy, r } = circle;
  const offs = near.map(([x, y]) => Math.hypot(x - cx, y - cy) - r);
  const off = Math.sqrt(offs.reduce((sum, d) => sum + d * d, 0) / offs.length);
  if (off > mostOffPx.mean || offs.some((d) => Math.abs(d) > mostOffPx.each)) return null;
  const half = Math.asin(Math.min(1, chord / (2 * r)));
  return half < bend.least || half > bend.most ? null : { a, b, cx, cy, r, off };
}

/** The circle nearest to some points (Kåsa 1976, A Circle Fitting Procedure and Its Error Analysis, doi:10.1109/TIM.1976.6312298). */
function circleNear(
  points: readonly (readonly [number, number])[],
): { cx: number; cy: number; r: number } | null {
  const n = points.length;
  const [mx, my] = [0, 1].map((k) => points.reduce((sum, p) => sum + p[k], 0) / n);
  let [xx, xy, yy, xz, yz] = [0, 0, 0, 0, 0];
  for (const [px, py] of points) {
    const [x, y] = [px - mx, py - my];
    const z = x * x + y * y;
    xx += x * x;
    xy += x * y;
    yy += y * y;
    xz += x * z;
    yz += y * z;
  }
  const d = 2 * (xx * yy - xy * xy);
  if (Math.abs(d) < 1e-6) return null;
  const [x, y] = [(xz * yy - yz * xy) / d, (yz * xx - xz * xy) / d];
  return { cx: mx + x, cy: my + y, r: Math.sqrt(x * x + y * y + (xx + yy) / n) };
}

const turn = (angle: number): number => Math.atan2(Math.sin(angle), Math.cos(angle));

/** Where on its circle an arc runs: the angle of its middle, and how far it reaches from there within the hole. */
function spanOf({ a, b, cx, cy }: Arc): { middle: number; half: number } {
  const from = Math.atan2(a.y[0] - cy, a.x[0] - cx);
  const by = turn(Math.atan2(b.y[0] - cy, b.x[0] - cx) - from);
  return { middle: from + by / 2, half: Math.abs(by) / 2 };
}

/** Whether an arc runs through the hole from one stump to the other, and these away from it. */
function isBehind(arc: Arc, { w, h, hole }: Small): boolean {
  const { a, b, cx, cy, r } = arc;
  const { middle, half } = spanOf(arc);
  for (const { x, y } of [a, b])
    if (Math.abs(turn(Math.atan2(y[y.length - 1] - cy, x[x.length - 1] - cx) - middle)) < half) return false;
  const steps = Math.ceil(2 * half * r);
  let within = 0;
  for (let k = 0; k <= steps; k++) {
    const t = middle + half * ((2 * k) / steps - 1);
    const [x, y] = [Math.round(cx + r * Math.cos(t)), Math.round(cy + r * Math.sin(t))];
    if (x >= 0 && y >= 0 && x < w && y < h && hole[y * w + x]) within++;
  }
  return within >= leastInHole * (steps + 1 - 2 * mostGapPx);
}

function placed(arc: Arc, { x: left, y: top }: Rect): BentEdge {
  const { a, b, cx, cy, r } = arc;
  const { middle, half } = spanOf(arc);
  // As far beyond the hole as the edge is seen to keep to the circle.
  const seenTo = Math.max(
    ...[a, b].map(({ x, y }) => {
      const leaves = x.findIndex((px, k) => Math.abs(Math.hypot(px - cx, y[k] - cy) - r) > mostOffPx.each);
      const last = leaves < 0 ? x.length - 1 : leaves - 1;
      return Math.abs(turn(Math.atan2(y[last] - cy, x[last] - cx) - middle));
    }),
  );
  const reach = Math.max(half, seenTo);
  const steps = Math.ceil(2 * reach * r) + 1;
  const along = Array.from({ length: steps + 1 }, (_, k) => middle + reach * ((2 * k) / steps - 1));
  const [xs, ys] = [
    along.map((t) => left + cx + r * Math.cos(t)),
    along.map((t) => top + cy + r * Math.sin(t)),
  ];
  const [x0, y0] = [Math.floor(Math.min(...xs)), Math.floor(Math.min(...ys))];
  return {
    box: grow(
      { x: x0, y: y0, w: Math.ceil(Math.max(...xs)) - x0, h: Math.ceil(Math.max(...ys)) - y0 },
      bandPx + 1,
    ),
    ends: [
      [left + a.x[0], top + a.y[0]],
      [left + b.x[0], top + b.y[0]],
    ],
    placeOf: (px, py) => {
      const [x, y] = [px - left - cx, py - top - cy];
      const off = Math.hypot(x, y) - r;
      const isNear = Math.abs(off) <= bandPx && Math.abs(turn(Math.atan2(y, x) - middle)) <= reach;
      return isNear ? off : null;
    },
  };
}
