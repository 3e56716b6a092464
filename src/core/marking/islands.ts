import { bitsWhere, connected, easeOf, evenParts, spreadOwners, squaredDistance, trimMask } from '../area';
import type { Rect } from '../raster';
import type { Found } from './found';
import { clearFallOff, fallOffOf } from './outlook';
import type { Seen } from './seen';
import { type MarkedArea, rimOfSight, type Sight, sightOf } from './sight';

/** One of the parts of a large area. */
export interface Island extends Found {
  /** Document pixels. */
  readonly size: number;
  /** How much of its edge is known ground, 0…1: what is easy comes first. */
  readonly known: number;
}

const mostPixels = 9_000;
const mostIslands = 12;
/** What is larger, in document pixels, is worth two parts at least, even if it is compact and its ground is one. */
const largeFrom = 50_000;

/** The parts into which drawn cuts divide an area: those that hang together when the cuts are taken out. What lies under
 *  a cut goes to the nearest part, so that the parts together are the area.
 *
 *  @param cut  coverage of the cuts over the same rectangle
 *  @returns the easiest first
 */
export function cutIslands(covered: Float32Array, cut: Float32Array, rect: Rect): Island[] {
  const { w, h } = rect;
  const inside = bitsWhere(covered, (v) => v > 0.02);
  const left = inside.map((v, i) => (v && cut[i] < 0.5 ? 1 : 0));
  const parts = connected(left, w, h).filter((p) => p.length >= 9);
  const owner = new Int16Array(w * h).fill(-1);
  parts.forEach((part, n) => {
    for (const i of part) owner[i] = n;
  });
  spreadOwners(owner, inside, w, h);
  return islandsOf(owner, parts.length, covered, rect);
}

/** Parts found by themselves: across changes of the ground, across the way in which focus falls off, and into pieces about as long as wide.
 *
 *  @param covered  coverage within `rect`, document pixels
 *  Source: the ground of each place is that of the nearest part of the rim, where what lies sideways is nearer; pieces by Lloyd 1982,
 *  doi:10.1109/TIT.1982.1056489, from points spread along the area. Deterministic.
 */
export function findIslands(seen: Seen, area: MarkedArea, covered: Float32Array, rect: Rect): Island[] {
  const sight = sightOf(seen, area, 0.3, mostPixels);
  if (!sight) return [];
  const size = covered.reduce((sum, v) => sum + (v > 0.02 ? 1 : 0), 0);
  const labels = piecesOf(sight, bandsOf(sight, groundsOf(sight)), size > largeFrom ? 2 : 1);
  const count = labels.reduce((m, v) => Math.max(m, v), -1) + 1;
  const owner = new Int16Array(rect.w * rect.h).fill(-1);
  const { by } = sight;
  const inside = bitsWhere(covered, (v) => v > 0.02);
  for (let y = 0; y < rect.h; y++)
    for (let x = 0; x < rect.w; x++) {
      const u = Math.floor((rect.x + x) / by) - sight.rect.x;
      const v = Math.floor((rect.y + y) / by) - sight.rect.y;
      if (!inside[y * rect.w + x] || u < 0 || v < 0 || u >= sight.rect.w || v >= sight.rect.h) continue;
      owner[y * rect.w + x] = labels[v * sight.rect.w + u];
    }
  spreadOwners(owner, inside, rect.w, rect.h);
  return islandsOf(owner, count, covered, rect);
}

/** Colours nearer to each other than this are of one ground, in CIELAB. */
const sameGround = 18;
/** And those farther from it than this are not. */
const otherGround = 26;
/** Among so many pixels of the rim a ground's colour is sought. */
const mostTried = 120;
/** Up and down a ground is carried so many times less far than sideways. */
const upright = 3;

/** Which ground lies nearest to each place inside: 0, 1 … by likeness of colour along the rim. */
function groundsOf({ rect: { w, h }, lab, inside, away }: Sight): Int16Array {
  const out = new Int16Array(w * h).fill(-1);
  const rim: number[] = [];
  away.forEach((d, i) => {
    if (!inside[i] && d >= 1.5 && d <= 4) rim.push(i);
  });
  const centres: number[][] = [];
  const gap = (i: number, c: readonly number[]) =>
    Math.hypot(lab[3 * i] - c[0], lab[3 * i + 1] - c[1], lab[3 * i + 2] - c[2]);
  for (let round = 0; round < 3; round++) {
    const far = rim.filter((i) => centres.every((c) => gap(i, c) > otherGround));
    if (far.length < 0.15 * rim.length || far.length < 12) break;
    // Most of what is alike comes first: the mean of all would be like none of them.
    const alike = (at: number) =>
      far.filter((i) => gap(i, [lab[3 * at], lab[3 * at + 1], lab[3 * at + 2]]) < sameGround);
    const most = far
      .filter((_, k) => k % Math.ceil(far.length / mostTried) === 0)
      .map(alike)
      .reduce((best, list) => (list.length > best.length ? list : best));
    if (most.length < 0.1 * rim.length) break;
    centres.push([0, 1, 2].map((c) => most.reduce((s, i) => s + lab[3 * i + c], 0) / most.length));
  }
  if (centres.length === 0) return out.map((_, i) => (inside[i] ? 0 : -1));
  const votes = rim.map((i) => centres.reduce((b, c, n) => (gap(i, c) < gap(i, centres[b]) ? n : b), 0));
  // A wave from the rim inwards carries each ground on, sideways faster than up and down: what lies behind a thing goes on from
  // beside it, and grounds part where they do so there.
  const waves: [place: number, ground: number][][] = [rim.map((i, k) => [i, votes[k]])];
  for (let step = 0; step < waves.length; step++)
    for (const [i, ground] of waves[step] ?? []) {
      if (out[i] >= 0) continue;
      out[i] = ground;
      const x = i % w;
      const reach = (j: number, after: number) => {
        if (j < 0 || j >= w * h || out[j] >= 0 || (!inside[j] && away[j] > 4)) return;
        waves[step + after] ??= [];
        waves[step + after].push([j, ground]);
      };
      if (x > 0) reach(i - 1, 1);
      if (x < w - 1) reach(i + 1, 1);
      reach(i - w, upright);
      reach(i + w, upright);
    }
  return withoutSlivers(
    out.map((v, i) => (inside[i] ? Math.max(0, v) : -1)),
    inside,
    w,
    h,
  );
}

/** A ground that is nowhere thicker than such a share of the area's size is none to be mended apart. */
const leastThickness = 0.2;

/** Grounds in whose thin parts what lies beside them goes on. */
function withoutSlivers(grounds: Int16Array, inside: Uint8Array, w: number, h: number): Int16Array {
  const least = (leastThickness * Math.sqrt(inside.reduce((n, v) => n + v, 0))) / 2;
  const out = grounds.slice();
  const kinds = grounds.reduce((m, v) => Math.max(m, v), -1) + 1;
  for (let kind = 0; kind < kinds; kind++) {
    const others = bitsWhere(grounds, (v) => v !== kind);
    const depth = squaredDistance(others, w, h);
    for (const part of connected(
      others.map((v) => 1 - v),
      w,
      h,
    ))
      if (part.every((i) => depth[i] < least ** 2)) for (const i of part) out[i] = -1;
  }
  if (out.every((v) => v < 0)) return grounds;
  spreadOwners(out, inside, w, h);
  return out;
}

const mostBands = 3;

/** Where focus falls off, each ground in bands that are about equally sharp: one more for each octave. */
function bandsOf(sight: Sight, grounds: Int16Array): Int16Array {
  const { fallOff, fallsDown } = fallOffOf(sight, rimOfSight(sight));
  if (fallOff <= clearFallOff) return grounds;
  const { w } = sight.rect;
  const along = (i: number) => (fallsDown ? Math.floor(i / w) : i % w);
  let [from, to] = [Infinity, -Infinity];
  grounds.forEach((v, i) => {
    if (v < 0) return;
    from = Math.min(from, along(i));
    to = Math.max(to, along(i));
  });
  const bands = Math.min(mostBands, 1 + Math.round(fallOff));
  const step = (to - from + 1) / bands;
  return grounds.map((v, i) => (v < 0 ? v : v * bands + Math.floor((along(i) - from) / step)));
}

/** Each ground in pieces no longer than about one and a half times the area's width. @param least  into so many pieces what is of one ground */
function piecesOf({ rect: { w, h } }: Sight, grounds: Int16Array, least: number): Int16Array {
  const out = new Int16Array(w * h).fill(-1);
  const places = Array.from(grounds.keys()).filter((i) => grounds[i] >= 0);
  const length = 1 + Math.max(spanOf(places.map((i) => i % w)), spanOf(places.map((i) => Math.floor(i / w))));
  const wide = places.length / length;
  const kinds = grounds.reduce((m, v) => Math.max(m, v), -1) + 1;
  const parts = Array.from({ length: kinds }, (_, kind) => {
    const set = bitsWhere(grounds, (v) => v === kind);
    const total = set.reduce((n, v) => n + v, 0);
    // Slivers go to whatever lies beside them.
    return connected(set, w, h).filter((part) => part.length >= Math.max(12, 0.02 * total));
  }).flat();
  const atLeast = parts.length === 1 ? least : 1;
  let next = 0;
  for (const part of parts) {
    if (next >= mostIslands) break;
    const xs = part.map((i) => i % w);
    const ys = part.map((i) => Math.floor(i / w));
    const long = Math.max(spanOf(xs), spanOf(ys)) + 1;
    const count = Math.min(mostIslands - next, Math.max(atLeast, Math.round(long / (1.6 * wide))));
    const { owners } = evenParts(xs, ys, count);
    part.forEach((i, k) => {
      out[i] = next + owners[k];
    });
    next += count;
  }
  return out;
}

/** From the least to the greatest. */
function spanOf(values: ArrayLike<number>): number {
  let [least, most] = [Infinity, -Infinity];
  for (let k = 0; k < values.length; k++) {
    if (values[k] < least) least = values[k];
    if (values[k] > most) most = values[k];
  }
  return most - least;
}

/** The easiest first. */
function islandsOf(owner: Int16Array, count: number, covered: Float32Array, { x, y, w, h }: Rect): Island[] {
  return easeOf(owner, count, w, h).map(({ part, size, known }) => {
    const data = new Uint8Array(w * h);
    for (let i = 0; i < w * h; i++) if (owner[i] === part) data[i] = Math.round(255 * covered[i]);
    const { mask, ...at } = trimMask({ w, h, data });
    return { mask, x: x + at.x, y: y + at.y, w: mask.w, h: mask.h, size, known };
  });
}
