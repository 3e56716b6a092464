import { squaredDistance } from '../../area';
import type { GuideLine } from '../../job/types';
import { edgesWasm, instantiateKernel } from '../../kernels';
import { type FloatImage, grow, intersect, type Rect } from '../../raster';
import { select } from '../../statistics';
import { boxOfTargets, role } from './frame';

/** The hole's longer side is brought to about this many pixels before edges are looked for. */
const workingSidePx = 160;
const mostEdges = 12;
/** Steps of direction and distance in which edges are counted. */
const directions = 120;
const distanceStep = 1.5;
/** An edge point belongs to a line when it lies and points as the line does. */
const offLinePx = 1.6;
const offAngle = (12 * Math.PI) / 180;
/** Edges that meet at less than this are one. */
const leastTurn = Math.PI / 6;
/** So much of the line must be edge, on either side of the hole. */
const leastCover = 0.6;
const leastSupportPx = 10;
/** Of an edge that is seen on one side of the hole only, so much must be. */
const leastCoverOfOne = 0.75;
/** This near to the hole, and with so many points. */
const nearHolePx = 18;
/** It comes so near to the hole; what ends before it is none of its. */
const mostGapPx = 4;
const leastPointsOfOne = 13;
/** The ground along an edge is looked at so near to it, and so far from the hole at most. */
const besidePx = { from: 2, to: 6 };
const mostAlongPx = 24;
/** In 8-bit steps: the ground on one side of an edge that runs on differs by less before and behind the hole; that on the two sides
 *  of one that ends in it differs by more. */
const ofOneGround = 30;
/** One gradient of so many tells how strong they are in the middle. */
const sampledEvery = 5;

interface EdgePoints {
  readonly x: Float64Array;
  readonly y: Float64Array;
  /** Direction of the gradient, −π…π. */
  readonly angle: Float64Array;
}

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
  for (let trial = 0; trial < 90 && through.length < mostEdges && left.count >= leastPointsOfOne; trial++) {
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
    return line && ground.contrastBefore(line) > ofOneGround ? [line] : [];
  });
  return [
    ...through.map(({ ends }) => placed(ends, false)),
    ...ending.slice(0, mostEdges).map((line) => placed(line, true)),
  ];
}

/** A line that crosses the hole, and where it is an edge. */
interface Crossing {
  /** Where it enters the hole and where it leaves it. */
  readonly ends: GuideLine;
  readonly isThrough: boolean;
  /** Clearly, near the hole; of one that does not run through. */
  readonly isSeen: readonly [before: boolean, behind: boolean];
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

/** The mean colours of what lies along a line outside the hole. Lines are in pixels of the small picture. */
class Ground {
  private readonly along: number;

  constructor(
    private readonly image: FloatImage,
    private readonly roles: Uint8Array,
    private readonly part: Rect,
    private readonly scale: number,
    reach: number,
  ) {
    this.along = Math.min(reach, mostAlongPx);
  }

  /** How much one side differs before the hole and behind it: the side that differs less; 0 where nothing is seen. */
  changeAlong(line: GuideLine): number {
    const length = Math.hypot(line[2] - line[0], line[3] - line[1]);
    const changes = [-1, 1].map((side) =>
      apart(
        this.meanOf(line, -this.along, -1, side),
        this.meanOf(line, length + 1, length + this.along, side),
      ),
    );
    return Math.min(...changes);
  }

  /** How much its two sides differ before the hole. */
  contrastBefore(line: GuideLine): number {
    return apart(this.meanOf(line, -this.along, -1, -1), this.meanOf(line, -this.along, -1, 1));
  }

  private meanOf([x0, y0, x1, y1]: GuideLine, from: number, to: number, side: number): number[] | null {
    const { image, roles, part, scale } = this;
    const { w, h } = image.rect;
    const length = Math.hypot(x1 - x0, y1 - y0);
    const [ux, uy] = [(x1 - x0) / length, (y1 - y0) / length];
    const sum = [0, 0, 0];
    let count = 0;
    for (let t = from; t <= to; t += 0.5)
      for (let d = besidePx.from; d <= besidePx.to; d += 0.5) {
        const x = Math.round(part.x + (x0 + ux * t - uy * d * side) * scale);
        const y = Math.round(part.y + (y0 + uy * t + ux * d * side) * scale);
        if (x < 0 || y < 0 || x >= w || y >= h) continue;
        const p = y * w + x;
        if (roles[p] !== role.source && roles[p] !== role.context) continue;
        for (let c = 0; c < 3; c++) sum[c] += 255 * image.data[4 * p + c];
        count++;
      }
    return count > 0 ? sum.map((v) => v / count) : null;
  }
}

const apart = (a: number[] | null, b: number[] | null): number =>
  a && b ? Math.hypot(...a.map((v, c) => v - b[c])) : 0;

interface Small {
  readonly w: number;
  readonly h: number;
  readonly known: Uint8Array;
  readonly hole: Uint8Array;
}

/** Part of the picture by means of scale × scale pixels, and in it the ridges of the gradient within reach of the hole that are clearly
 *  above what texture and grain give there. */
function edgesOf(
  image: FloatImage,
  roles: Uint8Array,
  part: Rect,
  scale: number,
  reach: number,
): { small: Small; points: EdgePoints } {
  const [w, h] = [Math.floor(part.w / scale), Math.floor(part.h / scale)];
  const n = w * h;
  kernel ??= instantiateKernel<EdgeKernel>(edgesWasm);
  const k = kernel;
  k.release();
  const m = part.w * part.h;
  const [imageAt, rolesAt, lumaAt, knownAt, holeAt, distanceAt, gxAt, gyAt, sizeAt, someAt, pointsAt] = [
    16 * m,
    m,
    4 * n,
    n,
    n,
    4 * n,
    4 * n,
    4 * n,
    4 * n,
    4 * n,
    32 * n,
  ].map(k.claim);
  if (!pointsAt) throw new RangeError('The edge kernel ran out of memory.');
  const { buffer } = k.memory;
  const pixels = new Float32Array(buffer, imageAt, 4 * m);
  const their = new Uint8Array(buffer, rolesAt, m);
  for (let y = 0; y < part.h; y++) {
    const from = (part.y + y) * image.rect.w + part.x;
    pixels.set(image.data.subarray(4 * from, 4 * (from + part.w)), 4 * y * part.w);
    their.set(roles.subarray(from, from + part.w), y * part.w);
  }
  k.reduce(imageAt, rolesAt, part.w, scale, w, h, lumaAt, knownAt, holeAt);
  const hole = new Uint8Array(buffer, holeAt, n).slice();
  const known = new Uint8Array(buffer, knownAt, n).slice();
  new Float32Array(buffer, distanceAt, n).set(squaredDistance(hole, w, h));
  const farthest = (reach + 2) ** 2;
  const sampled = k.gradients(
    lumaAt,
    knownAt,
    distanceAt,
    w,
    h,
    farthest,
    sampledEvery,
    gxAt,
    gyAt,
    sizeAt,
    someAt,
  );
  const sizes = new Float32Array(buffer, someAt, sampled);
  const least = Math.max(3, 1.6 * (sampled > 0 ? select(sizes, sampled, sampled >> 1) : 0));
  const count = k.ridges(w, h, least, gxAt, gyAt, sizeAt, pointsAt);
  const found = new Float64Array(buffer, pointsAt, 4 * count);
  const points = {
    x: Float64Array.from({ length: count }, (_, p) => found[4 * p]),
    y: Float64Array.from({ length: count }, (_, p) => found[4 * p + 1]),
    angle: Float64Array.from({ length: count }, (_, p) => Math.atan2(found[4 * p + 3], found[4 * p + 2])),
  };
  if (buffer.byteLength > keepBytes) kernel = null;
  return { small: { w, h, known, hole }, points };
}

export interface EdgeKernel {
  release(): void;
  claim(bytes: number): number;
  reduce(
    image: number,
    roles: number,
    pictureW: number,
    scale: number,
    w: number,
    h: number,
    luma: number,
    known: number,
    hole: number,
  ): void;
  gradients(
    luma: number,
    known: number,
    distance: number,
    w: number,
    h: number,
    farthest: number,
    every: number,
    gx: number,
    gy: number,
    size: number,
    some: number,
  ): number;
  ridges(w: number, h: number, least: number, gx: number, gy: number, size: number, out: number): number;
}

let kernel: (EdgeKernel & { memory: WebAssembly.Memory }) | null = null;

/** WebAssembly memory never shrinks, so an instance that grew beyond this is let go. */
const keepBytes = 64 << 20;

/** x·cos + y·sin = distance; the gradient points along (cos, sin). */
interface Line {
  readonly angle: number;
  readonly distance: number;
}

/** The direction nearest to an angle. */
const directionOf = (angle: number): number =>
  Math.round(((angle + Math.PI) / (2 * Math.PI)) * directions) % directions;

/** Points that no line has yet, by the direction that they point in. */
class Directions {
  count = 0;
  private readonly lists: number[][] = Array.from({ length: directions }, () => []);

  constructor(private readonly points: EdgePoints) {
    for (let p = 0; p < points.x.length; p++) this.putBack(p);
  }

  putBack(p: number): void {
    this.lists[directionOf(this.points.angle[p])].push(p);
    this.count++;
  }

  /** Takes out what belongs to a line, among all that point at most {@link offAngle} twice over away from it. @returns how many */
  takeOut(belongs: (p: number) => boolean, angle: number, into: Int32Array): number {
    const reach = Math.ceil((2 * offAngle * directions) / (2 * Math.PI)) + 1;
    const middle = directionOf(angle);
    let taken = 0;
    for (let k = middle - reach; k <= middle + reach; k++) {
      const list = this.lists[(k + directions) % directions];
      let kept = 0;
      for (const p of list)
        if (belongs(p)) into[taken++] = p;
        else list[kept++] = p;
      list.length = kept;
    }
    this.count -= taken;
    return taken;
  }
}

/** Lines that points vote for: each for those near its place in about the direction that it points in. */
class Ballot {
  private readonly votes: Uint16Array;
  /** The cell with most votes of each direction, when it is not stale. */
  private readonly first = new Int32Array(directions);
  private readonly stale = new Uint8Array(directions).fill(1);
  /** Cells of one direction: distances from −span to span. */
  private readonly span: number;
  private readonly normals = Array.from({ length: directions }, (_, d) => {
    const angle = (d / directions) * 2 * Math.PI - Math.PI;
    return { angle, x: Math.cos(angle) / distanceStep, y: Math.sin(angle) / distanceStep };
  });

  constructor(
    { w, h }: Small,
    private readonly points: EdgePoints,
  ) {
    this.span = Math.ceil(Math.hypot(w, h) / distanceStep) + 1;
    this.votes = new Uint16Array(directions * 2 * this.span);
    for (let p = 0; p < points.x.length; p++) this.count(p, 1);
  }

  withdraw(p: number): void {
    this.count(p, -1);
  }

  /** The line with most votes; null when none has enough. */
  strongest(): Line | null {
    const { votes, span, first, stale } = this;
    let best = -1;
    let most = leastPointsOfOne - 1;
    for (let d = 0; d < directions; d++) {
      if (stale[d]) {
        const from = d * 2 * span;
        let top = from;
        for (let i = from + 1; i < from + 2 * span; i++) if (votes[i] > votes[top]) top = i;
        first[d] = top;
        stale[d] = 0;
      }
      if (votes[first[d]] <= most) continue;
      most = votes[first[d]];
      best = first[d];
    }
    if (best < 0) return null;
    return {
      angle: this.normals[Math.floor(best / (2 * span))].angle,
      distance: ((best % (2 * span)) - span) * distanceStep,
    };
  }

  private count(p: number, vote: number): void {
    const [x, y, angle] = [this.points.x[p], this.points.y[p], this.points.angle[p]];
    const middle = directionOf(angle);
    for (let k = middle - 4; k <= middle + 4; k++) {
      const d = (k + directions) % directions;
      this.stale[d] = 1;
      const normal = this.normals[d];
      this.votes[d * 2 * this.span + Math.round(x * normal.x + y * normal.y) + this.span] += vote;
    }
  }
}

/** Whether a point lies on a line and points as it does. */
function belonging(
  points: EdgePoints,
  { angle, distance }: Line,
  offPx: number,
  turned = offAngle,
): (p: number) => boolean {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return (p) =>
    Math.abs(points.x[p] * c + points.y[p] * s - distance) <= offPx &&
    Math.abs(((points.angle[p] - angle + 3 * Math.PI) % (2 * Math.PI)) - Math.PI) <= turned;
}

/** The line through its points, when it crosses the hole and is seen on both sides of it, or clearly on one. */
function fitted(
  line: Line,
  points: EdgePoints,
  members: Int32Array,
  small: Small,
  reach: number,
): Crossing | null {
  let now = line;
  for (let round = 0; round < 3; round++) {
    const own = members.filter(belonging(points, now, round === 0 ? 2 * offLinePx : offLinePx));
    const crossing = crossingOf(now, small);
    if (!crossing || own.length < leastPointsOfOne) return null;
    const [c, s] = [Math.cos(now.angle), Math.sin(now.angle)];
    const along = (p: number) => -s * points.x[p] + c * points.y[p];
    const near = own.filter((p) => along(p) > crossing.from - reach && along(p) < crossing.to + reach);
    if (round === 2) {
      const places = Array.from(near, along);
      const before = cover(places, crossing.from - reach, crossing.from, now, small);
      const after = cover(places, crossing.to, crossing.to + reach, now, small);
      const isThrough = before >= leastCover && after >= leastCover && own.length >= 2 * leastSupportPx;
      const isSeen = [
        cover(places, crossing.from - nearHolePx, crossing.from, now, small) >= leastCoverOfOne &&
          places.some((t) => t <= crossing.from && t >= crossing.from - mostGapPx),
        cover(places, crossing.to, crossing.to + nearHolePx, now, small) >= leastCoverOfOne &&
          places.some((t) => t >= crossing.to && t <= crossing.to + mostGapPx),
      ] as const;
      if (!isThrough && isSeen[0] === isSeen[1]) return null;
      const at = (t: number) => [c * now.distance - s * t, s * now.distance + c * t] as const;
      return { ends: [...at(crossing.from), ...at(crossing.to)], isThrough, isSeen };
    }
    if (near.length < leastSupportPx) return null;
    now = leastSquares(points, near, now);
  }
  return null;
}

/** Where along a line the hole begins and ends. */
function crossingOf({ angle, distance }: Line, { w, h, hole }: Small): { from: number; to: number } | null {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const most = Math.hypot(w, h);
  let from = Infinity;
  let to = -Infinity;
  for (let t = -most; t <= most; t++) {
    const x = Math.round(c * distance - s * t);
    const y = Math.round(s * distance + c * t);
    if (x < 0 || y < 0 || x >= w || y >= h || !hole[y * w + x]) continue;
    from = Math.min(from, t);
    to = Math.max(to, t);
  }
  return to - from >= 6 ? { from, to } : null;
}

/** Share of a stretch of the line that is edge, of what of it is known; 0 when too little is. */
function cover(
  ts: readonly number[],
  from: number,
  to: number,
  { angle, distance }: Line,
  { w, h, known }: Small,
): number {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const seen = new Set(ts.map((t) => Math.round(t)));
  let total = 0;
  let covered = 0;
  for (let t = Math.ceil(from); t <= to; t++) {
    const x = Math.round(c * distance - s * t);
    const y = Math.round(s * distance + c * t);
    if (x < 2 || y < 2 || x >= w - 2 || y >= h - 2 || !known[y * w + x]) continue;
    total++;
    if (seen.has(t) || seen.has(t - 1) || seen.has(t + 1)) covered++;
  }
  return total < leastSupportPx ? 0 : covered / total;
}

function leastSquares({ x, y }: EdgePoints, members: Int32Array, old: Line): Line {
  const mx = members.reduce((n, p) => n + x[p], 0) / members.length;
  const my = members.reduce((n, p) => n + y[p], 0) / members.length;
  let [xx, xy, yy] = [0, 0, 0];
  for (const p of members) {
    xx += (x[p] - mx) ** 2;
    xy += (x[p] - mx) * (y[p] - my);
    yy += (y[p] - my) ** 2;
  }
  // The normal is the direction in which the points spread least.
  let angle = 0.5 * Math.atan2(2 * xy, xx - yy) + Math.PI / 2;
  if (Math.cos(angle - old.angle) < 0) angle += Math.PI;
  angle = Math.atan2(Math.sin(angle), Math.cos(angle));
  return { angle, distance: mx * Math.cos(angle) + my * Math.sin(angle) };
}
