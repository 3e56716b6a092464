import { squaredDistance } from '../../area';
import type { GuideLine } from '../../job/types';
import { type FloatImage, grow, intersect, type Rect } from '../../raster';
import { boxOfTargets, role, wholePatches } from './frame';

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

interface EdgePoint {
  readonly x: number;
  readonly y: number;
  /** Direction of the gradient, −π…π. */
  readonly angle: number;
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
  const small = reduce(image, roles, seen, scale);
  let points = edgePoints(small, reach);
  const ballot = new Ballot(small, points);
  const found: GuideLine[] = [];
  for (
    let trial = 0;
    trial < 60 && found.length < mostEdges && points.length >= 2 * leastSupportPx;
    trial++
  ) {
    const line = ballot.strongest();
    if (!line) break;
    const isNear = belonging(line, 4 * offLinePx, 2 * offAngle);
    const isOn = belonging(line, 2 * offLinePx);
    const near: EdgePoint[] = [];
    const left: EdgePoint[] = [];
    for (const p of points) (isNear(p) ? near : left).push(p);
    const fitted = confirmed(line, near, small, reach);
    if (fitted) {
      const [x0, y0, x1, y1] = fitted.map((v, k) => (k % 2 ? seen.y : seen.x) + v * scale + (scale - 1) / 2);
      found.push([x0, y0, x1, y1]);
    }
    for (const p of near)
      if (isOn(p)) ballot.withdraw(p);
      else left.push(p);
    points = left;
  }
  return found;
}

interface Small {
  readonly w: number;
  readonly h: number;
  readonly luma: Float32Array;
  readonly known: Uint8Array;
  readonly hole: Uint8Array;
}

/** Part of the picture by means of scale × scale pixels. */
function reduce(image: FloatImage, roles: Uint8Array, part: Rect, scale: number): Small {
  const [sw, sh] = [Math.floor(part.w / scale), Math.floor(part.h / scale)];
  const luma = new Float32Array(sw * sh);
  const known = new Uint8Array(sw * sh);
  const hole = new Uint8Array(sw * sh);
  for (let y = 0; y < sh; y++)
    for (let x = 0; x < sw; x++) {
      let sum = 0;
      let count = 0;
      for (let v = y * scale; v < (y + 1) * scale; v++)
        for (let u = x * scale; u < (x + 1) * scale; u++) {
          const p = (part.y + v) * image.rect.w + part.x + u;
          if (roles[p] === role.target) hole[y * sw + x] = 1;
          if (roles[p] !== role.source && roles[p] !== role.context) continue;
          sum += 76.2 * image.data[4 * p] + 149.7 * image.data[4 * p + 1] + 29.1 * image.data[4 * p + 2];
          count++;
        }
      if (count === scale * scale) {
        luma[y * sw + x] = sum / count;
        known[y * sw + x] = 1;
      }
    }
  return { w: sw, h: sh, luma, known, hole };
}

/** Ridges of the gradient within reach of the hole, clearly above what texture and grain give there. */
function edgePoints({ w, h, luma, known, hole }: Small, reach: number): EdgePoint[] {
  const distance = squaredDistance(hole, w, h);
  const isWhole = wholePatches(known, w, h, 1, 1);
  const gx = new Float32Array(w * h);
  const gy = new Float32Array(w * h);
  const size = new Float32Array(w * h);
  const sizes = new Float32Array(w * h);
  let count = 0;
  let sampled = 0;
  const farthest = (reach + 2) ** 2;
  for (let y = 1; y < h - 1; y++)
    for (let x = 1; x < w - 1; x++) {
      const p = y * w + x;
      if (distance[p] > farthest || !isWhole[p]) continue;
      gx[p] =
        (luma[p - w + 1] +
          2 * luma[p + 1] +
          luma[p + w + 1] -
          luma[p - w - 1] -
          2 * luma[p - 1] -
          luma[p + w - 1]) /
        8;
      gy[p] =
        (luma[p + w - 1] +
          2 * luma[p + w] +
          luma[p + w + 1] -
          luma[p - w - 1] -
          2 * luma[p - w] -
          luma[p - w + 1]) /
        8;
      size[p] = Math.sqrt(gx[p] * gx[p] + gy[p] * gy[p]);
      if (count++ % sampledEvery === 0) sizes[sampled++] = size[p];
    }
  if (count === 0) return [];
  const least = Math.max(3, 1.6 * sizes.subarray(0, sampled).sort()[sampled >> 1]);
  const out: EdgePoint[] = [];
  for (let y = 2; y < h - 2; y++)
    for (let x = 2; x < w - 2; x++) {
      const p = y * w + x;
      if (size[p] < least) continue;
      const ux = Math.round(gx[p] / size[p]);
      const uy = Math.round(gy[p] / size[p]);
      const [before, after] = [size[p - uy * w - ux], size[p + uy * w + ux]];
      if (size[p] < before || size[p] < after) continue;
      // Between pixels, by the parabola through the three.
      const bend = before - 2 * size[p] + after;
      const shift = bend < 0 ? Math.max(-0.5, Math.min(0.5, (before - after) / (2 * bend))) : 0;
      out.push({ x: x + shift * ux, y: y + shift * uy, angle: Math.atan2(gy[p], gx[p]) });
    }
  return out;
}

/** x·cos + y·sin = distance; the gradient points along (cos, sin). */
interface Line {
  readonly angle: number;
  readonly distance: number;
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

  constructor({ w, h }: Small, points: readonly EdgePoint[]) {
    this.span = Math.ceil(Math.hypot(w, h) / distanceStep) + 1;
    this.votes = new Uint16Array(directions * 2 * this.span);
    for (const p of points) this.count(p, 1);
  }

  withdraw(p: EdgePoint): void {
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

  private count({ x, y, angle }: EdgePoint, vote: number): void {
    const middle = Math.round(((angle + Math.PI) / (2 * Math.PI)) * directions);
    for (let k = middle - 4; k <= middle + 4; k++) {
      const d = (k + directions) % directions;
      this.stale[d] = 1;
      const normal = this.normals[d];
      this.votes[d * 2 * this.span + Math.round(x * normal.x + y * normal.y) + this.span] += vote;
    }
  }
}

/** Whether a point lies on a line and points as it does. */
function belonging({ angle, distance }: Line, offPx: number, turned = offAngle): (p: EdgePoint) => boolean {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return (p) =>
    Math.abs(p.x * c + p.y * s - distance) <= offPx &&
    Math.abs(((p.angle - angle + 3 * Math.PI) % (2 * Math.PI)) - Math.PI) <= turned;
}

/** The line through its points, when it crosses the hole and is seen on both sides of it. */
function confirmed(line: Line, points: readonly EdgePoint[], small: Small, reach: number): GuideLine | null {
  let now = line;
  for (let round = 0; round < 3; round++) {
    const own = points.filter(belonging(now, round === 0 ? 2 * offLinePx : offLinePx));
    const crossing = crossingOf(now, small);
    if (!crossing || own.length < 2 * leastSupportPx) return null;
    const [c, s] = [Math.cos(now.angle), Math.sin(now.angle)];
    const along = (p: EdgePoint) => -s * p.x + c * p.y;
    const near = own.filter((p) => along(p) > crossing.from - reach && along(p) < crossing.to + reach);
    if (round === 2) {
      const before = cover(near.map(along), crossing.from - reach, crossing.from, now, small);
      const after = cover(near.map(along), crossing.to, crossing.to + reach, now, small);
      if (before < leastCover || after < leastCover) return null;
      const at = (t: number) => [c * now.distance - s * t, s * now.distance + c * t] as const;
      return [...at(crossing.from), ...at(crossing.to)];
    }
    if (near.length < leastSupportPx) return null;
    now = leastSquares(near, now);
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

function leastSquares(points: readonly EdgePoint[], old: Line): Line {
  const mx = points.reduce((n, p) => n + p.x, 0) / points.length;
  const my = points.reduce((n, p) => n + p.y, 0) / points.length;
  let [xx, xy, yy] = [0, 0, 0];
  for (const { x, y } of points) {
    xx += (x - mx) ** 2;
    xy += (x - mx) * (y - my);
    yy += (y - my) ** 2;
  }
  // The normal is the direction in which the points spread least.
  let angle = 0.5 * Math.atan2(2 * xy, xx - yy) + Math.PI / 2;
  if (Math.cos(angle - old.angle) < 0) angle += Math.PI;
  angle = Math.atan2(Math.sin(angle), Math.cos(angle));
  return { angle, distance: mx * Math.cos(angle) + my * Math.sin(angle) };
}
