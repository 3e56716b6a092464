import {
  boundsOfShape,
  joinedTo,
  noMasks,
  rasteriseArea,
  type StrokeShape,
  scaleArea,
  squaredDistance,
  trimMask,
} from '../../area';
import { labOfPixels } from '../../colour';
import { emptyRect, grow, intersect, isEmpty, type Rect, unite } from '../../raster';
import type { Found } from '../found';
import { rectAtLevel, type Seen } from '../seen';
import { type ColourModel, fitColours } from './colour-model';
import { evenOutline } from './even-outline';
import { evenWidth } from './even-width';
import { fillHoles } from './holes';
import { likelyExtent } from './likely-extent';
import { costAcrossEdges, type Links, linksOf, partedLabels } from './links';
import { type Flow, minCut, noFlow } from './min-cut';
import { nearColours } from './near-colours';
import { ringsApart } from './rings';
import { withSoftEdge } from './soft-edge';
import { straightEdges } from './straight-edges';
import { ontoThinLines } from './thin-lines';
import { wayFrom } from './way';

/** Rough strokes that tell a thing from what is round it. */
export interface Scribbles {
  /** Over the thing, or as a closed ring round it. */
  readonly inside: readonly StrokeShape[];
  /** Over what does not belong to it. */
  readonly outside: readonly StrokeShape[];
}

/** What they say: rings are round the thing, others on it. */
interface Told {
  readonly rings: readonly StrokeShape[];
  readonly on: readonly StrokeShape[];
  readonly outside: readonly StrokeShape[];
}

/** Where the colours are learnt: few enough pixels for several rounds, enough for thin things to be seen. */
const learningPixels = 60_000;
const rounds = 4;
const clusters = 5;
/** Pulls are differences of log-likelihoods. */
const mostPull = 14;
/** Colours alone say so much at most. */
const mostColours = 12;
/** What it costs to be one {@link reachOf} away from the scribbles: across an edge of ten units of colour it is one farther. */
const distanceCost = 4;
const edgeReach = 0.1;
const farthestReach = 2.5;
/** How many {@link reachOf}s off the surroundings begin, as long as nothing is said to be outside. */
const beyondReach = 2.5;
/** Scribbles are rough: only the middle of a stroke is sure to lie on the thing; a share of its radius. */
const sureCore = 0.6;
/** How far the outline may move from one level to the next finer one, in pixels of that. */
const bandPx = 3;
/** From which difference of costs on a pixel teaches colours. */
const leastSure = 0.5;
const known = { unknown: 0, inside: 1, outside: 2 } as const;

interface Level {
  readonly rect: Rect;
  /** CIELAB, three a pixel. */
  readonly values: Float32Array;
  /** {@link known} by scribbles. */
  readonly said: Uint8Array;
}

/** Grows scribbles to the thing that they lie on.
 *
 *  @returns the thing's pixels, 255 inside, or null when nothing is scribbled within the photo. Pixels along the outline,
 *  which show something of the thing too, are in it.
 *  Cost: a few cuts of {@link learningPixels} and one of a band along the outline for every finer level: it does not
 *  depend on the photo's size. Deterministic.
 *  Source: Rother, Kolmogorov & Blake 2004, doi:10.1145/1186562.1015720 (colour mixtures and cuts in turn); Lombaert, Sun,
 *  Grady & Xu 2005, A Multilevel Banded Graph Cuts Method, doi:10.1109/ICCV.2005.13 (finer levels along the outline only, by
 *  {@link nearColours});
 *  distances that mind edges: {@link wayFrom}; the outline without teeth: {@link evenOutline}; the edge's width: {@link withSoftEdge};
 *  where it may lie at all: {@link likelyExtent}; thin things: {@link ontoThinLines}, {@link evenWidth}; what is in the midst of a
 *  thing: {@link fillHoles}; long edges: {@link straightEdges}.
 */
export function growScribbles(seen: Seen, { inside: drawn, outside }: Scribbles): Found | null {
  const photo = { x: 0, y: 0, w: seen.width, h: seen.height };
  const box = drawn.reduce((r, s) => unite(r, boundsOfShape(s)), emptyRect);
  if (isEmpty(intersect(box, photo))) return null;
  const { rings, others, loops } = ringsApart(seen, drawn);
  const told = { rings, on: others.flatMap((s) => ontoThinLines(seen, s)), outside };
  const onlyRings = others.length === 0;
  const side = Math.max(box.w, box.h);
  let reach = onlyRings ? Math.ceil(0.12 * side) + 8 : Math.ceil(0.5 * side) + 60;
  let at: Level;
  let inside: Uint8Array;
  let level = 0;
  for (let attempt = 0; ; attempt++) {
    const roi = intersect(grow(box, reach), photo);
    level = 0;
    while (level < seen.levels - 1 && (roi.w * roi.h) / 4 ** level > learningPixels) level++;
    at = readLevel(seen, told, rectAtLevel(seen, level, roi), level);
    inside = learn(
      at,
      reachOf(drawn, side) / 2 ** level,
      onlyRings,
      likelyExtent({ on: others, loops, rings }, at.rect, 2 ** level),
    );
    keepJoined(inside, at);
    // A thing that runs into the edge of where it was looked for goes on beyond it.
    if (onlyRings || attempt >= 2 || !touchesEdge(inside, at.rect, rectAtLevel(seen, level, photo))) break;
    reach = Math.ceil(reach * 1.9);
  }
  while (level > 0) ({ at, inside, level } = onFinerLevel(seen, told, { rect: at.rect, inside, level }));
  const { rect } = at;
  const ground = { ...rect, values: at.values };
  const fixed = (i: number) => (at.said[i] === known.unknown ? 0 : at.said[i] === known.inside ? 1 : -1);
  const even = withSoftEdge(ground, evenOutline(ground, inside, fixed));
  const slim = evenWidth(even, { ...rect, values: at.values }, told.on, (i) => at.said[i] === known.inside);
  if (slim !== even) keepJoined(slim, at);
  const mask = straightEdges(slim, rect.w, rect.h);
  for (let i = 0; i < mask.length; i++) {
    const must = fixed(i);
    if (must !== 0) mask[i] = must > 0 ? 255 : 0;
  }
  const trimmed = trimMask({ w: rect.w, h: rect.h, data: mask });
  const { w, h } = trimmed.mask;
  return { mask: trimmed.mask, x: rect.x + trimmed.x, y: rect.y + trimmed.y, w, h };
}

/** What is known of a thing on one level. */
export interface Outlined {
  /** Of the level. */
  readonly rect: Rect;
  /** 1 where the thing is. */
  readonly inside: Uint8Array;
  readonly level: number;
}

function onFinerLevel(seen: Seen, told: Told, { rect, inside, level }: Outlined) {
  const to = level - 1;
  const part = grow(boxOf(inside, rect), 2);
  const wanted = { x: 2 * part.x, y: 2 * part.y, w: 2 * part.w, h: 2 * part.h };
  const whole = rectAtLevel(seen, to, { x: 0, y: 0, w: seen.width, h: seen.height });
  const finer = readLevel(seen, told, intersect(wanted, whole), to);
  const labels = refine(finer, enlarge(inside, rect, finer.rect));
  keepJoined(labels, finer);
  return { at: finer, inside: labels, level: to };
}

/** Follows the outline of something that was found in a small picture into one twice as fine. It must not be found at full size. */
export function followOutline(seen: Seen, found: Outlined): Outlined {
  const { at, inside, level } = onFinerLevel(seen, { rings: [], on: [], outside: [] }, found);
  return { rect: at.rect, inside, level };
}

/** How far a thing is expected to reach from its scribbles: fat strokes lie on fat things. */
const reachOf = (inside: readonly StrokeShape[], side: number): number =>
  Math.max(0.1 * side, 3 * inside.reduce((r, s) => Math.max(r, s.radiusPx), 1));

/** The smallest rectangle round what is inside. */
function boxOf(inside: Uint8Array, { x, y, w }: Rect): Rect {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -1, -1];
  inside.forEach((v, i) => {
    if (!v) return;
    x0 = Math.min(x0, i % w);
    x1 = Math.max(x1, i % w);
    y0 = Math.min(y0, Math.floor(i / w));
    y1 = Math.floor(i / w);
  });
  return x1 < 0 ? emptyRect : { x: x + x0, y: y + y0, w: x1 - x0 + 1, h: y1 - y0 + 1 };
}

function readLevel(seen: Seen, { rings, on, outside }: Told, rect: Rect, level: number): Level {
  const values = labOfPixels(seen.region(level, rect), rect.w * rect.h);
  const said = new Uint8Array(rect.w * rect.h);
  const draw = (strokes: readonly StrokeShape[], core: number, value: number) => {
    if (strokes.length === 0) return;
    const by = 1 / 2 ** level;
    // However thin, a stroke leaves an unbroken trace on every level.
    const shapes = strokes.map((s) => ({
      ...s,
      op: 'add' as const,
      radiusPx: Math.max(core * s.radiusPx, 0.5 / by),
    }));
    const area = { shapes, marginPx: 0, featherPx: 0 };
    rasteriseArea(scaleArea(area, by), rect, noMasks).forEach((v, i) => {
      if (v >= 0.5) said[i] = value;
    });
  };
  if (rings.length > 0) {
    // Round the thing: the ring itself and all beyond it is outside.
    const by = 1 / 2 ** level;
    const shapes = rings.map((r) => ({
      kind: 'polygon' as const,
      op: 'add' as const,
      points: r.points.map(([x, y]) => [x, y] as const),
    }));
    rasteriseArea(scaleArea({ shapes, marginPx: 0, featherPx: 0 }, by), rect, noMasks).forEach((v, i) => {
      if (v < 0.5) said[i] = known.outside;
    });
  }
  draw(on, sureCore, known.inside);
  draw(outside, 1, known.outside);
  return { rect, values, said };
}

/** Colours and outline in turn, from the scribbles on. */
function learn(at: Level, reach: number, rings: boolean, extent: Float32Array): Uint8Array {
  const { rect, said, values } = at;
  const scribbled = said.map((v) => (v === known.inside ? 1 : 0));
  const away = rings ? null : squaredDistance(scribbled, rect.w, rect.h).map((d) => Math.sqrt(d) / reach);
  const way = rings ? null : wayFrom({ ...rect, values }, scribbled, 1 / reach, edgeReach, farthestReach);
  let inner = rings ? said.map((v) => (v === known.outside ? 0 : 1)) : scribbled;
  // Without anything said to be outside, what lies farther off stands for it.
  const outside = said.map((v, i) => (v === known.outside || (away && away[i] > beyondReach) ? 1 : 0));
  let mine = modelOf(values, inner);
  let others = modelOf(values, outside);
  let labels: Uint8Array = scribbled;
  const links = linksOf(rect, null, costAcrossEdges({ ...rect, values }));
  const flow = noFlow(links);
  const sure = new Float64Array(labels.length);
  for (let round = 0; round < rounds; round++) {
    for (let i = 0; i < sure.length; i++) sure[i] = others.cost(i) - mine.cost(i);
    labels = cut(at, { likelier: (i) => sure[i], way, extent }, links, scribbled, flow);
    if (!labels.includes(1) || !labels.includes(0)) break;
    // Only what colours and outline agree on teaches: what was merely enclosed would draw in its like.
    inner = labels.map((v, i) => (v && sure[i] > (said[i] === known.inside ? 0 : leastSure) ? 1 : 0));
    const outer = labels.map((v, i) => (!v && (said[i] === known.outside || sure[i] < -leastSure) ? 1 : 0));
    if (!outer.includes(1)) break;
    if (inner.includes(1)) mine = modelOf(values, inner);
    others = modelOf(values, outer);
  }
  return fillHoles({ ...rect, values }, labels, (i) => said[i] === known.outside);
}

function modelOf(values: Float32Array, members: Uint8Array): ColourModel {
  const list = new Int32Array(members.length);
  let count = 0;
  for (let i = 0; i < members.length; i++) if (members[i]) list[count++] = i;
  return fitColours(values, list.subarray(0, Math.max(1, count)), clusters);
}

interface Judgement {
  /** ln of how much likelier a pixel's colour is on the thing than beside it. */
  likelier(pixel: number): number;
  /** From the scribbles, in {@link reachOf}s. */
  readonly way: Float32Array | null;
  /** {@link likelyExtent} */
  readonly extent: Float32Array | null;
}

/** How strongly a pixel speaks for the inside; what is said outweighs everything. */
function pullOf({ said }: Level, i: number, { likelier, way, extent }: Judgement): number {
  if (said[i] === known.inside) return 1e6;
  if (said[i] === known.outside) return -1e6;
  const colours = Math.max(-mostColours, Math.min(mostColours, likelier(i)));
  const pull = colours - (way ? distanceCost * way[i] : 0) + (extent ? extent[i] : 0);
  return Math.max(-mostPull, Math.min(mostPull, pull));
}

/** The best outline, where links leave it free. */
function cut(at: Level, judgement: Judgement, links: Links, labels: Uint8Array, flow?: Flow): Uint8Array {
  const pull = links.fromBand.map((fromBand, node) => fromBand + pullOf(at, links.nodes[node], judgement));
  return partedLabels(links, minCut({ ...links, pull }, flow), labels);
}

/** Labels of a level on the next finer one. */
function enlarge(labels: Uint8Array, from: Rect, to: Rect): Uint8Array {
  const out = new Uint8Array(to.w * to.h);
  for (let y = 0; y < to.h; y++) {
    const row = Math.min(from.h - 1, Math.max(0, ((to.y + y) >> 1) - from.y)) * from.w;
    for (let x = 0; x < to.w; x++)
      out[y * to.w + x] = labels[row + Math.min(from.w - 1, Math.max(0, ((to.x + x) >> 1) - from.x))];
  }
  return out;
}

/** Cuts anew along the outline, and round scribbles, with the colours as they are near each place at this level. */
function refine(at: Level, labels: Uint8Array): Uint8Array {
  const { rect, said } = at;
  const { w, h } = rect;
  const free = new Uint8Array(w * h);
  const widen = (x: number, y: number, by: number) => {
    for (let v = Math.max(0, y - by); v <= Math.min(h - 1, y + by); v++)
      free.fill(1, v * w + Math.max(0, x - by), v * w + Math.min(w - 1, x + by) + 1);
  };
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const differs =
        (x + 1 < w && labels[i] !== labels[i + 1]) || (y + 1 < h && labels[i] !== labels[i + w]);
      const wrong = said[i] !== known.unknown && labels[i] !== (said[i] === known.inside ? 1 : 0);
      if (differs || wrong) widen(x, y, bandPx);
    }
  if (!free.includes(1)) return labels;
  const ground = { ...rect, values: at.values };
  const { mine, others } = nearColours(ground, labels, free);
  const likelier = (i: number) => others.cost(i) - mine.cost(i);
  const links = linksOf(rect, { labels, free }, costAcrossEdges(ground));
  return cut(at, { likelier, way: null, extent: null }, links, labels);
}

/** Drops parts that no scribble lies on. */
function keepJoined(inside: Uint8Array, { rect, said }: Level): void {
  if (!said.includes(known.inside)) return;
  const joined = joinedTo((i) => said[i] === known.inside, inside, rect.w, rect.h);
  for (let i = 0; i < inside.length; i++) if (!joined[i]) inside[i] = 0;
}

function touchesEdge(inside: Uint8Array, rect: Rect, photo: Rect): boolean {
  const { x, y, w, h } = rect;
  const beyond = (px: number, py: number) =>
    px > photo.x && py > photo.y && px < photo.x + photo.w - 1 && py < photo.y + photo.h - 1;
  for (let k = 0; k < w; k++)
    if ((inside[k] && beyond(x + k, y)) || (inside[(h - 1) * w + k] && beyond(x + k, y + h - 1))) return true;
  for (let k = 0; k < h; k++)
    if ((inside[k * w] && beyond(x, y + k)) || (inside[k * w + w - 1] && beyond(x + w - 1, y + k)))
      return true;
  return false;
}
