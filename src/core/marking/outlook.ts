import { connected, squaredDistance } from '../area';
import type { PlanePoint } from '../geometry';
import type { MethodId } from '../job/types';
import { seenPlane } from '../methods/fill/edges/seen-plane';
import { straightEdges } from '../methods/fill/edges/straight-edges';
import { role } from '../methods/fill/frame';
import type { FloatImage, Rect } from '../raster';
import { belongingsOf } from './belongings';
import { type Beside, thingsBeside } from './beside';
import { itsLikeBeside } from './its-like';
import type { Seen } from './seen';
import { type MarkedArea, rimOfSight, type Sight, sightOf } from './sight';

/** What an area is like, before anything is computed. */
export interface Outlook {
  readonly pixels: number;
  /** Its longer side, and how wide it is at its widest place, in document pixels. */
  readonly longPx: number;
  readonly widePx: number;
  /** How many times its own size may be drawn from, near enough to serve. */
  readonly room: number;
  /** Unlike grounds that meet its edge. */
  readonly textures: number;
  /** Straight lines that pass behind it. */
  readonly lines: number;
  /** Whether some of these run together, as in perspective. */
  readonly converging: boolean;
  /** Four corners of the plane that it is seen to lie on, document pixels; null: none is. */
  readonly plane: readonly PlanePoint[] | null;
  /** How far sharpness falls off along its edge: octaves between its sharpest and its softest sixth. */
  readonly fallOff: number;
  /** Whether it falls off from top to bottom rather than from side to side. */
  readonly fallsDown: boolean;
  /** Things of the same kind nearby, which a fill may pull in. */
  readonly neighbours: number;
  /** Other things that touch it, which a fill may go on with; null: none. */
  readonly beside: Beside | null;
  /** How much of the edge lies on the photo's own edge, 0…1. */
  readonly atEdge: number;
  readonly suggestions: readonly Suggestion[];
}

export interface Suggestion {
  readonly what: MethodId | 'rail' | 'plane' | 'islands' | 'avoid' | 'beside' | 'no';
  readonly why: string;
}

const mostPixels = 24_000;
const mostPixelsOfPlane = 160_000;

/** Tells what an area is like and what is likely to work on it.
 *
 *  @param mayDraw  whether sources may come from a document point; null: from anywhere
 *  @param zone     the box of an allow zone, which is drawn from wherever it lies; null: there is none
 *  @returns null when nothing of the area lies on the photo
 *  Cost: one small picture, whatever the photo's size.
 */
export function outlookOf(
  seen: Seen,
  area: MarkedArea,
  mayDraw: ((x: number, y: number) => boolean) | null,
  zone: Rect | null = null,
): Outlook | null {
  const sight = sightOf(seen, area, 1.2, mostPixels);
  if (!sight) return null;
  const { rect, inside, away, by } = sight;
  const { w, h } = rect;
  const mine: number[] = [];
  inside.forEach((v, i) => {
    if (v) mine.push(i);
  });
  if (mine.length === 0) return null;
  const xs = mine.map((i) => i % w);
  const ys = mine.map((i) => Math.floor(i / w));
  const span = (list: number[]) =>
    list.reduce((m, v) => Math.max(m, v), 0) - list.reduce((m, v) => Math.min(m, v), w + h) + 1;
  const longPx = Math.max(span(xs), span(ys)) * by;
  const depth = depthOf(sight, mine);
  const rim = rimOfSight(sight);
  const onEdge = mine.filter((i) => {
    const x = rect.x + (i % w);
    const y = rect.y + Math.floor(i / w);
    return x <= 0 || y <= 0 || (x + 1) * by >= seen.width || (y + 1) * by >= seen.height;
  }).length;
  let free = 0;
  for (let i = 0; i < w * h; i++) {
    if (inside[i] || away[i] > 1.5 * Math.sqrt(mine.length) + 12) continue;
    const at = [(rect.x + (i % w) + 0.5) * by, (rect.y + Math.floor(i / w) + 0.5) * by] as const;
    if (!mayDraw || mayDraw(...at)) free++;
  }
  const facts = {
    pixels: mine.length * by * by,
    longPx,
    widePx: 2 * depth * by,
    room: Math.max(free, zone && mayDraw ? allowedIn(zone, mayDraw) / (by * by) : 0) / mine.length,
    textures: texturesOf(sight, rim),
    ...linesBehind(sight),
    plane: planeBehind(seen, area),
    ...fallOffOf(sight, rim),
    neighbours: neighboursOf(sight, mine),
    beside: thingsBeside(
      seen,
      area,
      sight,
      rim,
      itsLikeBeside(seen, area),
      belongingsOf(seen, area),
      mayDraw,
    ),
    atEdge: onEdge / Math.max(1, rim.length + onEdge),
  };
  return { ...facts, suggestions: suggest(facts, plainness(sight, rim)) };
}

/** A zone is looked at in so many rows and columns. */
const zoneSamples = 48;

/** How many pixels of a zone may be drawn from. */
function allowedIn({ x, y, w, h }: Rect, mayDraw: (x: number, y: number) => boolean): number {
  let count = 0;
  for (let v = 0; v < zoneSamples; v++)
    for (let u = 0; u < zoneSamples; u++)
      if (mayDraw(x + ((u + 0.5) * w) / zoneSamples, y + ((v + 0.5) * h) / zoneSamples)) count++;
  return (w * h * count) / zoneSamples ** 2;
}

/** The greatest distance from within to the outline. */
function depthOf({ rect: { w, h }, inside }: Sight, mine: readonly number[]): number {
  const deep = squaredDistance(
    inside.map((v) => 1 - v),
    w,
    h,
  );
  return Math.sqrt(mine.reduce((m, i) => Math.max(m, Math.min(deep[i], (w + h) ** 2)), 0));
}

const colourAt = ({ lab }: Sight, i: number) => [lab[3 * i], lab[3 * i + 1], lab[3 * i + 2]] as const;

/** Mean |Laplacian| of lightness round a pixel. */
function detailAt({ lab, rect: { w, h }, inside }: Sight, i: number): number {
  const x0 = i % w;
  const y0 = (i - x0) / w;
  let sum = 0;
  let count = 0;
  for (let y = Math.max(1, y0 - 2); y <= Math.min(h - 2, y0 + 2); y++)
    for (let x = Math.max(1, x0 - 2); x <= Math.min(w - 2, x0 + 2); x++) {
      const j = y * w + x;
      if (inside[j] || inside[j - 1] || inside[j + 1] || inside[j - w] || inside[j + w]) continue;
      sum += Math.abs(4 * lab[3 * j] - lab[3 * j - 3] - lab[3 * j + 3] - lab[3 * (j - w)] - lab[3 * (j + w)]);
      count++;
    }
  return count > 0 ? sum / count : -1;
}

/** Clusters of colour and detail along the rim that each hold a fair share of it. */
function texturesOf(sight: Sight, rim: readonly number[]): number {
  const points = rim
    .filter((_, k) => k % Math.max(1, Math.floor(rim.length / 400)) === 0)
    .map((i) => [...colourAt(sight, i), 2.5 * Math.max(0, detailAt(sight, i))]);
  if (points.length < 8) return points.length > 0 ? 1 : 0;
  const centres: number[][] = [points[0]];
  const gap = (p: readonly number[], q: readonly number[]) => Math.hypot(...p.map((v, c) => v - q[c]));
  for (let round = 0; round < 4; round++) {
    // Another centre where a fifth of the rim is far from those there are.
    const far = points.filter((p) => centres.every((c) => gap(p, c) > 24));
    if (far.length < 0.16 * points.length) break;
    centres.push([0, 1, 2, 3].map((c) => far.reduce((s, p) => s + p[c], 0) / far.length));
    for (let k = 0; k < 4; k++) {
      const owner = points.map((p) =>
        centres.reduce((b, c, n) => (gap(p, c) < gap(p, centres[b]) ? n : b), 0),
      );
      centres.forEach((_, n) => {
        const own = points.filter((__, m) => owner[m] === n);
        if (own.length > 0)
          centres[n] = [0, 1, 2, 3].map((c) => own.reduce((s, p) => s + p[c], 0) / own.length);
      });
    }
  }
  return centres.filter((c, n) => {
    const own = points.filter((p) => centres.every((o, m) => m === n || gap(p, c) <= gap(p, o)));
    return own.length >= 0.1 * points.length;
  }).length;
}

/** Lines that meet at less are taken for parallel, at more for those of different sides. */
const leastTurn = (4 * Math.PI) / 180;
const mostTurn = (55 * Math.PI) / 180;

function linesBehind(sight: Sight): Pick<Outlook, 'lines' | 'converging'> {
  const { image, roles } = lightIn(sight);
  const seen = straightEdges(image, roles, image.rect.w, image.rect.h);
  const through = seen.filter(({ ends }) => !ends);
  const angles = through.map(({ line: [x0, y0, x1, y1] }) => Math.atan2(y1 - y0, x1 - x0));
  const turn = (a: number, b: number) => {
    const d = Math.abs(a - b) % Math.PI;
    return Math.min(d, Math.PI - d);
  };
  const converging = angles.some((a, k) =>
    angles.slice(k + 1).some((b) => turn(a, b) > leastTurn && turn(a, b) < mostTurn),
  );
  return { lines: through.length, converging };
}

/** What is seen as a picture of its lightness, and what is to be filled there. */
function lightIn({ rect: { w, h }, lab, inside }: Sight): { image: FloatImage; roles: Uint8Array } {
  const data = new Float32Array(4 * w * h);
  for (let i = 0; i < w * h; i++) data.fill(lab[3 * i] / 100, 4 * i, 4 * i + 3);
  const roles = inside.map((v) => (v ? role.target : role.source));
  return { image: { rect: { x: 0, y: 0, w, h }, data }, roles };
}

/** Looked at as closely as a fill looks: courses of bricks are thin. */
function planeBehind(seen: Seen, area: MarkedArea): readonly PlanePoint[] | null {
  const sight = sightOf(seen, area, 1, mostPixelsOfPlane);
  if (!sight) return null;
  const { rect, by } = sight;
  const { image, roles } = lightIn(sight);
  const corners = seenPlane(image, roles, rect.w, rect.h);
  const inPhoto = (v: number) => Math.round((v + 0.5) * by);
  return corners?.map(([x, y]) => [inPhoto(rect.x + x), inPhoto(rect.y + y)] as const) ?? null;
}

/** How far sharpness falls off along a rim, in octaves, and which way. */
export function fallOffOf(sight: Sight, rim: readonly number[]): Pick<Outlook, 'fallOff' | 'fallsDown'> {
  const { w } = sight.rect;
  const at = rim
    .map((i) => ({ x: i % w, y: Math.floor(i / w), d: detailAt(sight, i) }))
    .filter((p) => p.d >= 0);
  if (at.length < 24) return { fallOff: 0, fallsDown: true };
  const octaves = (of: (p: { x: number; y: number }) => number) => {
    const sorted = [...at].sort((p, q) => of(p) - of(q));
    const sixth = Math.max(4, Math.floor(sorted.length / 6));
    const mean = (list: typeof at) => list.reduce((s, p) => s + p.d, 0) / list.length;
    return Math.log2((mean(sorted.slice(-sixth)) + 0.4) / (mean(sorted.slice(0, sixth)) + 0.4));
  };
  const [down, side] = [octaves((p) => p.y), octaves((p) => p.x)].map(Math.abs);
  return { fallOff: Math.max(down, side), fallsDown: down >= side };
}

/** Parts nearby in the colours of the area that are not those of its rim. */
function neighboursOf(sight: Sight, mine: readonly number[]): number {
  const { rect, inside, away, lab } = sight;
  const mean = [0, 1, 2].map((c) => mine.reduce((s, i) => s + lab[3 * i + c], 0) / mine.length);
  const spread = Math.sqrt(
    mine.reduce((s, i) => s + [0, 1, 2].reduce((t, c) => t + (lab[3 * i + c] - mean[c]) ** 2, 0), 0) /
      mine.length,
  );
  const reach = Math.min(20, 0.6 * spread + 6);
  const alike = inside.map((v, i) => {
    if (v || away[i] < 3) return 0;
    return Math.hypot(...[0, 1, 2].map((c) => lab[3 * i + c] - mean[c])) < reach ? 1 : 0;
  });
  const share = alike.reduce((n, v) => n + v, 0) / alike.length;
  // Where half of the ground has the area's colour it tells nothing.
  if (share > 0.25) return 0;
  return connected(alike, rect.w, rect.h).filter(
    (p) => p.length > 0.15 * mine.length && p.length < 4 * mine.length,
  ).length;
}

/** How even the rim is: the deviation of its lightness. */
function plainness(sight: Sight, rim: readonly number[]): number {
  const mean = rim.reduce((s, i) => s + sight.lab[3 * i], 0) / Math.max(1, rim.length);
  return Math.sqrt(rim.reduce((s, i) => s + (sight.lab[3 * i] - mean) ** 2, 0) / Math.max(1, rim.length));
}

const small = 40;
/** Octaves of sharpness that are clearly seen. */
export const clearFallOff = 0.8;

function suggest(facts: Omit<Outlook, 'suggestions'>, rimSpread: number): Suggestion[] {
  const out: Suggestion[] = [];
  if (facts.room < 1.2)
    out.push({
      what: 'no',
      why:
        facts.room < 0.4
          ? 'There is hardly anything near it to draw from. Widen the allow zone, or split it and begin where there is.'
          : 'There is little near it to draw from: expect repeats.',
    });
  if (facts.longPx <= small && facts.lines === 0)
    out.push({ what: 'tap', why: 'It is small and nothing passes behind it.' });
  else if (rimSpread < 4 && facts.lines === 0 && facts.textures <= 1)
    out.push({ what: 'heal', why: 'All round it is one even ground: texture from beside it will do.' });
  else
    out.push({
      what: 'fill',
      why:
        facts.textures > 1
          ? `${facts.textures} grounds meet at its edge, and fill carries each on.`
          : 'The ground has texture that can be drawn from all round.',
    });
  if (facts.fallOff > clearFallOff)
    out.push({
      what: 'rail',
      why: `It gets ${facts.fallsDown ? 'softer from one end to the other' : 'softer from side to side'}: sources should keep to the same ${facts.fallsDown ? 'height' : 'side'}.`,
    });
  if (facts.plane || (facts.converging && facts.pixels > 2_000))
    out.push({
      what: 'plane',
      why: facts.plane
        ? 'What lies behind it repeats in perspective: mends on this plane keep to that.'
        : 'Lines behind it run together: on a plane the pattern keeps to their perspective.',
    });
  if (facts.neighbours > 0)
    out.push({ what: 'avoid', why: 'Something of the same kind stands near it and could be drawn in.' });
  if (facts.beside)
    out.push({
      what: 'beside',
      why: 'Something else touches it. If that stands before the ground, avoid it: no fill draws from it then, or goes on with it.',
    });
  if (facts.widePx > 260 && (facts.textures > 1 || facts.pixels > 120_000))
    out.push({
      what: 'islands',
      why: 'It is large: in parts, from the easiest to the hardest, more of it will hold.',
    });
  return out;
}
