import { squaredDistance } from '../../area';
import type { GuideLine } from '../../job/types';
import { edgesWasm, instantiateKernel } from '../../kernels';
import { type FloatImage, grow, intersect, type Rect } from '../../raster';
import { select } from '../../statistics';
import { boxOfTargets } from './frame';

/** The hole's longer side is brought to about this many pixels before edges are looked for. */
const workingSidePx = 160;
const mostEdges = 12;
/** Steps of direction and distance in which edges are counted. */
const directions = 120;
const distanceStep = 1.5;
/** An edge point belongs to a line when it lies and points as the line does. */
const offLinePx = 1.6;
const offAngle = (12 * Math.PI) / 180;
/** So much of the line must be edge, on either side of the hole. */
const leastCover = 0.6;
const leastSupportPx = 10;
/** One gradient of so many tells how strong they are in the middle. */
const sampledEvery = 5;

interface EdgePoints {
  readonly x: Float64Array;
  readonly y: Float64Array;
  /** Direction of the gradient, −π…π. */
  readonly angle: Float64Array;
}

/** Straight edges that enter the hole on one side and leave it on the other, so that they are likely to run on behind
 *  what was marked: seen on both sides with the same direction and the same side light.
 *
 *  @param image  the ground; pixels of targets are not read
 *  @param w, h   the ground's size, the first rows of the image
 *  @returns lines in pixels counted from pixel centres, clearest first
 *  Source: Duda & Hart 1972, Use of the Hough Transformation to Detect Lines and Curves in Pictures,
 *  doi:10.1145/361237.361242; thinned and counted by gradient direction as in Ballard 1981,
 *  doi:10.1016/0031-3203(81)90009-1.
 */
export function straightEdges(image: FloatImage, roles: Uint8Array, w: number, h: number): GuideLine[] {
  const box = boxOfTargets(roles, image.rect.w);
  const scale = Math.max(1, Math.round(Math.max(box.w, box.h) / workingSidePx));
  const reach = Math.max(16, Math.min(60, Math.round((0.5 * Math.max(box.w, box.h)) / scale)));
  const seen = intersect(grow(box, (reach + 4) * scale), { x: 0, y: 0, w, h });
  const { small, points } = edgesOf(image, roles, seen, scale, reach);
  const ballot = new Ballot(small, points);
  const found: GuideLine[] = [];
  const left = new Directions(points);
  const near = new Int32Array(points.x.length);
  for (let trial = 0; trial < 60 && found.length < mostEdges && left.count >= 2 * leastSupportPx; trial++) {
    const line = ballot.strongest();
    if (!line) break;
    const count = left.takeOut(belonging(points, line, 4 * offLinePx, 2 * offAngle), line.angle, near);
    const fitted = confirmed(line, points, near.subarray(0, count), small, reach);
    if (fitted) {
      const [x0, y0, x1, y1] = fitted.map((v, k) => (k % 2 ? seen.y : seen.x) + v * scale + (scale - 1) / 2);
      found.push([x0, y0, x1, y1]);
    }
    const isOn = belonging(points, line, 2 * offLinePx);
    for (let k = 0; k < count; k++)
      if (isOn(near[k])) ballot.withdraw(near[k]);
      else left.putBack(near[k]);
  }
  return found;
}

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
    let most = 2 * leastSupportPx - 1;
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

/** The line through its points, when it crosses the hole and is seen on both sides of it. */
function confirmed(
  line: Line,
  points: EdgePoints,
  members: Int32Array,
  small: Small,
  reach: number,
): GuideLine | null {
  let now = line;
  for (let round = 0; round < 3; round++) {
    const own = members.filter(belonging(points, now, round === 0 ? 2 * offLinePx : offLinePx));
    const crossing = crossingOf(now, small);
    if (!crossing || own.length < 2 * leastSupportPx) return null;
    const [c, s] = [Math.cos(now.angle), Math.sin(now.angle)];
    const along = (p: number) => -s * points.x[p] + c * points.y[p];
    const near = own.filter((p) => along(p) > crossing.from - reach && along(p) < crossing.to + reach);
    if (round === 2) {
      const places = Array.from(near, along);
      const before = cover(places, crossing.from - reach, crossing.from, now, small);
      const after = cover(places, crossing.to, crossing.to + reach, now, small);
      if (before < leastCover || after < leastCover) return null;
      const at = (t: number) => [c * now.distance - s * t, s * now.distance + c * t] as const;
      return [...at(crossing.from), ...at(crossing.to)];
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
