import type { PlanePoint } from '../../../geometry';
import type { FloatImage } from '../../../raster';
import { boxOfTargets, role } from '../frame';
import { reduced } from '../reduced';
import { type SeenEdge, straightEdges } from './straight-edges';

/** So many edges run to one point, and so large a share of all. */
const leastEdges = 4;
const leastShare = 0.7;
/** An edge runs to a point when it misses it by no more than this share of its distance. */
const missesBy = 0.03;
/** Two edges tell a point when they meet at more than this, the sine of an angle. */
const leastTurn = 0.03;
/** What lies nearest to the point is so many times as near as what lies farthest in the hole: less can be made up for by shifts. And the
 *  hole reaches no nearer to it than this share of its own side. */
const leastNearer = 1.12;
const leastAway = 0.6;
/** Of the hole as it is seen from the point, so much lies between such edges. */
const leastBetween = 0.6;
/** The hole's longer side is brought to about so many pixels. */
const workingSidePx = 110;
/** The ground is looked at so far round the hole, as a share of its longer side; every so many pixels. */
const lookedAround = 0.9;
const everyPx = 5;
/** Ways in which the horizon may lie, in degrees; those so far off each other are others. */
const wayStep = 15;
const otherWay = 30;
/** Cameras are mostly held level: upright or level it is, unless it then lacks so many times as much. */
const asGood = 1.15;
/** The horizon is seen from the hole's middle at no less than this, the sine of an angle: nearer to its own direction nothing moves. */
const leastSlant = 0.25;
/** Moves along the ground that are tried, in pixels at the hole's middle: first every other one. */
const leastMovePx = 8;
const mostMoveSides = 1.1;
/** The ground repeats when what lies so far along correlates so well, and lacks no more than this share of what it lacks at the usual
 *  move, and at the best one in another way. */
const repeats = { least: 0.6, lacks: 0.6 };

/** A plane that the ground behind a hole is seen to lie on: its lines run to one point, and what lies along them repeats as on a plane.
 *
 *  @param image  pixels of targets are not read
 *  @param w, h   the ground's size, the first rows of the image
 *  @returns four corners round the hole in pixels of the image, from its top left corner, in order round the outline; null: none is seen
 *  A move along a plane towards its vanishing point V keeps all lines through V and the points of the horizon: an elation, by which
 *  V + p goes to V + p / (1 + k n·p), with n across the horizon (Hartley & Zisserman 2004, doi:10.1017/CBO9780511811685, section A7.2).
 *  Of all ways in which a horizon may lie through V it is the one with which the picture is most like itself, so moved.
 */
export function seenPlane(image: FloatImage, roles: Uint8Array, w: number, h: number): PlanePoint[] | null {
  const edges = straightEdges(image, roles, w, h).filter(({ ends }) => !ends);
  if (edges.length < leastEdges) return null;
  const box = boxOfTargets(roles, image.rect.w);
  const longest = Math.max(box.w, box.h);
  const vanishing = vanishingPoint(edges, [box.x + box.w / 2, box.y + box.h / 2], longest);
  if (!vanishing) return null;
  const { at, on } = vanishing;
  const hole = holeFrom(at, roles, w, h);
  if (hole.farthest < leastNearer * hole.nearest || hole.nearest < leastAway * longest) return null;
  if (!(between(on, hole, at) >= leastBetween)) return null;
  const by = Math.max(1, Math.round(longest / workingSidePx));
  const small = reduced({ image, roles }, by);
  const way = wayOfHorizon(small.image, small.roles, Math.floor(h / by), [at[0] / by, at[1] / by]);
  return way === null ? null : cornersOf(at, way, hole);
}

/** Where most edges run to, and which. */
function vanishingPoint(
  edges: readonly SeenEdge[],
  middle: PlanePoint,
  side: number,
): { at: PlanePoint; on: readonly SeenEdge[] } | null {
  const lines = edges.map((edge) => ({ edge, ...lineOf(edge) }));
  let best: { at: PlanePoint; on: typeof lines } | null = null;
  for (let i = 0; i < lines.length; i++)
    for (let j = 0; j < i; j++) {
      const [a, b] = [lines[i], lines[j]];
      const det = a.nx * b.ny - a.ny * b.nx;
      if (Math.abs(det) < leastTurn) continue;
      const at = [(a.c * b.ny - b.c * a.ny) / det, (a.nx * b.c - b.nx * a.c) / det] as const;
      if (Math.hypot(at[0] - middle[0], at[1] - middle[1]) < side) continue;
      const on = lines.filter((l) => runsTo(l, at));
      if (!best || on.length > best.on.length) best = { at, on };
    }
  if (!best || best.on.length < Math.max(leastEdges, leastShare * edges.length)) return null;
  return { at: nearestTo(best.on, best.at), on: best.on.map(({ edge }) => edge) };
}

interface Line {
  readonly nx: number;
  readonly ny: number;
  readonly c: number;
  readonly x: number;
  readonly y: number;
}

function lineOf({ line: [x0, y0, x1, y1] }: SeenEdge): Line {
  const length = Math.hypot(x1 - x0, y1 - y0);
  const [nx, ny] = [(y0 - y1) / length, (x1 - x0) / length];
  const [x, y] = [(x0 + x1) / 2, (y0 + y1) / 2];
  return { nx, ny, c: nx * x + ny * y, x, y };
}

const runsTo = ({ nx, ny, c, x, y }: Line, [vx, vy]: PlanePoint): boolean =>
  Math.abs(nx * vx + ny * vy - c) < missesBy * Math.hypot(vx - x, vy - y);

/** The point that some lines miss least, as seen from where they are. */
function nearestTo(lines: readonly Line[], from: PlanePoint): PlanePoint {
  let [xx, xy, yy, xc, yc] = [0, 0, 0, 0, 0];
  for (const { nx, ny, c, x, y } of lines) {
    const weight = 1 / ((from[0] - x) ** 2 + (from[1] - y) ** 2);
    xx += weight * nx * nx;
    xy += weight * nx * ny;
    yy += weight * ny * ny;
    xc += weight * nx * c;
    yc += weight * ny * c;
  }
  const det = xx * yy - xy * xy;
  return det === 0 ? from : [(xc * yy - yc * xy) / det, (xx * yc - xy * xc) / det];
}

/** The hole as it is seen from a point: between which angles, counted from its middle, and how far away. */
interface FromPoint {
  readonly middle: number;
  readonly least: number;
  readonly most: number;
  readonly nearest: number;
  readonly farthest: number;
  readonly distance: number;
}

function holeFrom([vx, vy]: PlanePoint, roles: Uint8Array, w: number, h: number): FromPoint {
  let [sx, sy, n] = [0, 0, 0];
  for (let p = 0; p < w * h; p++)
    if (roles[p] === role.target) {
      sx += p % w;
      sy += Math.floor(p / w);
      n++;
    }
  const middle = Math.atan2(sy / n - vy, sx / n - vx);
  const distance = Math.hypot(sx / n - vx, sy / n - vy);
  let [least, most, nearest, farthest] = [0, 0, Infinity, 0];
  for (let p = 0; p < w * h; p++) {
    if (roles[p] !== role.target) continue;
    const [dx, dy] = [(p % w) - vx, Math.floor(p / w) - vy];
    const angle = turned(Math.atan2(dy, dx) - middle);
    const away = Math.hypot(dx, dy);
    least = Math.min(least, angle);
    most = Math.max(most, angle);
    nearest = Math.min(nearest, away);
    farthest = Math.max(farthest, away);
  }
  return { middle, least, most, nearest, farthest, distance };
}

/** An angle from −π to π. */
const turned = (angle: number): number => angle - 2 * Math.PI * Math.round(angle / (2 * Math.PI));

/** How much of the hole lies between edges that run to the point. */
function between(on: readonly SeenEdge[], { middle, least, most }: FromPoint, [vx, vy]: PlanePoint): number {
  const angles = on.map(({ line: [x0, y0, x1, y1] }) =>
    turned(Math.atan2((y0 + y1) / 2 - vy, (x0 + x1) / 2 - vx) - middle),
  );
  const [from, to] = [Math.max(least, Math.min(...angles)), Math.min(most, Math.max(...angles))];
  return (to - from) / (most - least);
}

/** The way of the horizon, as an angle, with which what lies round a hole is most like itself moved along the ground; null when it is
 *  never like enough. */
function wayOfHorizon(
  { rect: { w }, data }: FloatImage,
  roles: Uint8Array,
  h: number,
  [vx, vy]: PlanePoint,
): number | null {
  const light = new Float32Array(w * h);
  for (let p = 0; p < w * h; p++)
    light[p] =
      roles[p] === role.source || roles[p] === role.context
        ? 0.3 * data[4 * p] + 0.6 * data[4 * p + 1] + 0.1 * data[4 * p + 2]
        : Number.NaN;
  const box = boxOfTargets(roles, w);
  const side = Math.max(box.w, box.h);
  const room = lookedAround * side;
  const [mx, my] = [box.x + box.w / 2 - vx, box.y + box.h / 2 - vy];
  const away = Math.hypot(mx, my);
  const looked: number[] = [];
  for (let y = Math.max(0, Math.floor(box.y - room)); y < Math.min(h, box.y + box.h + room); y += everyPx)
    for (let x = Math.max(0, Math.floor(box.x - room)); x < Math.min(w, box.x + box.w + room); x += everyPx)
      if (!Number.isNaN(light[y * w + x])) looked.push(x, y);
  const moves: number[] = [];
  for (let px = leastMovePx; px <= mostMoveSides * side; px += 2) moves.push(px, -px);
  const likeness = (way: number): Likeness => {
    const [nx, ny] = [-Math.sin(way), Math.cos(way)];
    const across = nx * mx + ny * my;
    if (Math.abs(across) < leastSlant * away) return { way, best: 0, usual: 0 };
    const at = (px: number) => correlation(light, w, h, looked, vx, vy, nx, ny, px / (across * away));
    const found = moves.map((px) => ({ px, is: at(px) })).filter(({ is }) => !Number.isNaN(is));
    if (found.length < moves.length / 4) return { way, best: 0, usual: 0 };
    found.sort((a, b) => a.is - b.is);
    const last = found[found.length - 1];
    const beside = [last.px - 1, last.px + 1].map(at).filter((is) => !Number.isNaN(is));
    return { way, best: Math.max(last.is, ...beside), usual: found[found.length >> 1].is };
  };
  const radians = Math.PI / 180;
  const ways = Array.from({ length: 180 / wayStep }, (_, k) => likeness(k * wayStep * radians));
  const better = (a: Likeness, b: Likeness) => (b.best > a.best ? b : a);
  let found = ways.reduce(better);
  const others = ways.filter(
    ({ way }) => Math.abs(Math.sin(way - found.way)) > Math.sin((otherWay - 1) * radians),
  );
  for (let step = wayStep / 2; step > 0.5; step /= 2) {
    const from = found.way;
    found = [-1, 1].map((sign) => likeness(from + sign * step * radians)).reduce(better, found);
  }
  const level = likeness(90 * radians * Math.round(found.way / (90 * radians)));
  if (1 - level.best <= asGood * (1 - found.best)) found = level;
  const lacks = 1 - found.best;
  const isClear =
    found.best >= repeats.least &&
    lacks <= repeats.lacks * (1 - found.usual) &&
    others.every(({ best }) => lacks <= repeats.lacks * (1 - best));
  return isClear ? found.way : null;
}

/** How like itself a picture is, moved along the ground, with the horizon lying in some way: at the best and at the usual move. */
interface Likeness {
  readonly way: number;
  readonly best: number;
  readonly usual: number;
}

/** Of the hole's distance from the point, where the plane that is shown begins and ends. */
const shown = [0.85, 1.15] as const;

/** How well places correlate with where they come to by an elation; NaN when too few stay in the picture. */
function correlation(
  light: Float32Array,
  w: number,
  h: number,
  looked: readonly number[],
  vx: number,
  vy: number,
  nx: number,
  ny: number,
  k: number,
): number {
  let [n, sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0, 0];
  for (let i = 0; i < looked.length; i += 2) {
    const [px, py] = [looked[i] - vx, looked[i + 1] - vy];
    const scale = 1 + k * (nx * px + ny * py);
    if (scale < 0.3) continue;
    const [x, y] = [vx + px / scale, vy + py / scale];
    const [x0, y0] = [Math.floor(x), Math.floor(y)];
    if (x0 < 0 || y0 < 0 || x0 + 1 >= w || y0 + 1 >= h) continue;
    const q = y0 * w + x0;
    const [u, v] = [x - x0, y - y0];
    const b =
      (light[q] * (1 - u) + light[q + 1] * u) * (1 - v) + (light[q + w] * (1 - u) + light[q + w + 1] * u) * v;
    if (Number.isNaN(b)) continue;
    const a = light[looked[i + 1] * w + looked[i]];
    n++;
    sa += a;
    sb += b;
    saa += a * a;
    sbb += b * b;
    sab += a * b;
  }
  if (n < (0.2 * looked.length) / 2) return Number.NaN;
  const [va, vb] = [saa - (sa * sa) / n, sbb - (sb * sb) / n];
  return va <= 0 || vb <= 0 ? Number.NaN : (sab - (sa * sb) / n) / Math.sqrt(va * vb);
}

/** Where two lines through the point, beside the hole, meet two that lie as the horizon does, before and behind it. */
function cornersOf(
  [vx, vy]: PlanePoint,
  way: number,
  { middle, least, most, distance }: FromPoint,
): PlanePoint[] {
  const [nx, ny] = [-Math.sin(way), Math.cos(way)];
  const across = distance * (nx * Math.cos(middle) + ny * Math.sin(middle));
  const corner = (angle: number, share: number): PlanePoint => {
    const [ux, uy] = [Math.cos(middle + angle), Math.sin(middle + angle)];
    const far = (share * across) / (nx * ux + ny * uy);
    return [vx + far * ux, vy + far * uy];
  };
  const [near, farther] = shown;
  return [corner(least, near), corner(most, near), corner(most, farther), corner(least, farther)];
}
