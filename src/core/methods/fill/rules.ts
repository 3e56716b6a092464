import { squaredDistance } from '../../area';
import type { PlanePoint } from '../../geometry';
import { intersect, type Rect } from '../../raster';
import type { Atlas } from './atlas';
import type { FillSteering } from './compute';
import { type BentEdge, bentEdges } from './edges/bent-edges';
import { edgeOnLine } from './edges/drawn-line';
import { agreesWith, isLineOf } from './edges/lines-of-ground';
import { type RuledGround, ruledGround } from './edges/ruled-ground';
import { sidesOfLines } from './edges/sides-of-lines';
import { type SeenEdge, straightEdges } from './edges/straight-edges';
import { liesBeside, thinLines } from './edges/thin-lines';
import {
  countOf,
  type FrameRules,
  farAcross,
  largeHolePixels,
  leastSlack,
  lookedAtLevel,
  offRuledGround,
  type Rule,
  role,
  smallHolePixels,
} from './frame';
import { reduced } from './reduced';

/** Half the width of the band along a guide line whose sources keep to it, in pixels of the picture that is looked at. */
const bandPx = 6;
/** Of ruled ground, pixels may be so far off their place across its lines, in pixels of the picture that is looked at. */
const ruledSlackPx = 1.5;
/** What lies between lines at no regular distance is put so far off: what does has nothing to do with it, however often it is halved. */
const ofItsOwnPx = 64 * farAcross;
/** An edge that drifts farther across the lines of ruled ground, in pixels of the picture that is looked at, is none of them. */
const mostDriftPx = 3;
/** Beside a bent edge, likewise. */
const bentSlackPx = 1.5;
/** Sides are told apart by numbers far off each other. */
const sideSlackPx = 1;
/** A guide line that ends within so much of another, as a share of the hole's side, meets it; and within so many pixels of the picture
 *  that is looked at. */
const meets = { share: 0.06, leastPx: 6 };
/** A side of guide lines that has fewer sources than this share of what is to be filled on it may take from the others. */
const leastOfSide = 0.25;
/** So near to ruled ground may be more of it, in pixels of the picture that is looked at. */
const fringePx = 48;
/** An edge that is only seen is of a side that so much of it lies on. */
const ofOneSide = 0.8;
/** Edges that enter the hole so near to each other are the same. */
const sameEndPx = 4;
/** A thin line that lies nearer to an edge than this is a side of it. */
const sameLinePx = 8;

/** What a piece's rail and guide lines ask of its pixels' sources. Null: nothing. */
export function makeRules(
  atlas: Atlas,
  window: Rect,
  { rail, lines, plane }: Pick<FillSteering, 'rail' | 'lines' | 'plane'>,
  edges: 'drawn' | 'seen too',
): FrameRules | null {
  const { ground, image } = atlas;
  const index = new Uint8Array(image.rect.w * image.rect.h);
  const list: Rule[] = [];
  const isToFill = (x: number, y: number) =>
    x >= 0 && y >= 0 && x < ground.w && y < ground.h && atlas.roles[y * ground.w + x] === role.target;
  const place = ([x, y]: PlanePoint) => atlas.groundOf(x - window.x - 0.5, y - window.y - 0.5);
  if (rail) {
    const angle = (rail.angleDeg * Math.PI) / 180;
    list.push({
      nx: -Math.sin(angle),
      ny: Math.cos(angle),
      slack: Math.max(leastSlack, rail.slackPx),
      period: null,
      isExact: true,
    });
    index.fill(1, 0, ground.w * ground.h);
  }
  // A rail or a plane says already how things run.
  const looks = !rail && !plane && edges === 'seen too';
  const targets = countOf(atlas.roles, role.target);
  const by = 2 ** lookedAtLevel(targets);
  const small = looks && by > 1 ? reduced(atlas, by) : atlas;
  const [w, h] = [Math.floor(ground.w / by), Math.floor(ground.h / by)];
  const edgesSeen = (looks ? straightEdges(small.image, small.roles, w, h) : []).map((edge) =>
    enlargedEdge(edge, by),
  );
  const thin = (looks && atlas.isPlain ? thinLines(small.image, small.roles, w, h) : [])
    .map((line) => enlargedEdge({ line, ends: false }, by))
    .filter(
      ({ line }) => !edgesSeen.some((edge) => !edge.ends && liesBeside(line, edge.line, sameLinePx * by)),
    );
  const mayBeRuled =
    looks && atlas.isPlain && targets >= largeHolePixels
      ? enlargedGround(ruledGround(small.image, small.roles, w, h), by)
      : null;
  const ruled = mayBeRuled && agreesWith(mayBeRuled, edgesSeen, mostDriftPx * by) ? mayBeRuled : null;
  const bent =
    looks && atlas.isPlain && targets < smallHolePixels
      ? bentEdges(image, atlas.roles, ground.w, ground.h)
      : [];
  const bandOf = ({ line, ends }: SeenEdge) => pixelsOnLine(ground, line, bandPx * by, ends);
  const toFillOn = (edge: SeenEdge) => bandOf(edge).filter((p) => atlas.roles[p] === role.target);
  const isOnHole = (edge: SeenEdge) => toFillOn(edge).length > 0;
  const drawn = lines
    .flatMap((line) => {
      const [a, b] = [place([line[0], line[1]]), place([line[2], line[3]])];
      return a && b && Math.hypot(b[0] - a[0], b[1] - a[1]) >= 1 ? [drawnEdge(a, b, isToFill)] : [];
    })
    // One that touches nothing that is to be filled asks nothing.
    .filter(isOnHole);
  const parted = !rail && !plane && atlas.isPlain ? ruleSides(drawn, atlas, by, list, index) : null;
  const across = ruled
    ? ruleGround(ruled, atlas, parted, by, list, index)
    : ruleBends(
        bent.filter((bend) => !edgesSeen.some((edge) => meet(edge, bend))),
        ground,
        list,
        index,
        parted?.across ?? null,
      );
  const seen = [...edgesSeen, ...thin].filter((edge) => !ruled || !isLineOf(ruled, edge, mostDriftPx * by));
  // Later ones go before earlier ones where they cross: what runs through before what ends there, what was drawn before what was
  // only seen; that holds on the side that it lies on, if it does not run across.
  const all = [...seen.filter(({ ends }) => ends), ...seen.filter(({ ends }) => !ends)].filter(isOnHole);
  for (const edge of parted ? all : [...all, ...drawn]) {
    const side = parted && sideOf(toFillOn(edge), parted.sides);
    if (parted && side === null) continue;
    const [nx, ny] = normalOf(edge);
    list.push({ nx, ny, slack: leastSlack, period: null, isOnlySeen: !drawn.includes(edge) });
    for (const p of bandOf(edge)) if (!parted || parted.sides[p] === side) index[p] = list.length;
  }
  if (parted && across)
    drawn.forEach((edge, k) => {
      ruleAlong(edge, bandOf(edge), ownPlace(k), atlas, by, list, index, across);
    });
  if (list.length === 0) return null;
  return { index, list, across };
}

/** An edge that was drawn from one place to another. From without to somewhere within what is to be filled, it ends there: other lines meet
 *  it. */
function drawnEdge(a: PlanePoint, b: PlanePoint, isToFill: (x: number, y: number) => boolean): SeenEdge {
  const [isFirstIn, isLastIn] = [a, b].map(([x, y]) => isToFill(Math.round(x), Math.round(y)));
  return { line: isFirstIn && !isLastIn ? [...b, ...a] : [...a, ...b], ends: isFirstIn !== isLastIn };
}

/** Adds the two rules of ruled ground, for what lies between its regular lines and for what lies between others.
 *  @param parted  what guide lines part: what is ruled on one side of them need not be on another
 *  @returns where each pixel lies across its lines, or on which side it is */
function ruleGround(
  { ux, uy, period, placeOf }: RuledGround,
  { ground: { w, h }, roles }: Atlas,
  parted: PartedGround | null,
  by: number,
  list: Rule[],
  index: Uint8Array,
): Float32Array {
  const isRuled =
    parted && ruledSides(parted.sides, roles, (p) => placeOf(p % w, Math.floor(p / w)) !== null);
  const across = parted?.across ?? new Float32Array(index.length).fill(offRuledGround);
  const rule = { nx: -uy, ny: ux, slack: ruledSlackPx * by };
  list.push({ ...rule, period }, { ...rule, period: 0 });
  for (let i = 0; i < index.length; i++) {
    if (isRuled && !isRuled[parted.sides[i]]) continue;
    const x = i % w;
    const place = placeOf(x, (i - x) / w);
    if (!place) continue;
    across[i] = place.across + (place.isRegular ? 0 : ofItsOwnPx);
    index[i] = place.isRegular ? list.length - 1 : list.length;
  }
  if (!isRuled) return across;
  // Right beside it, on its side, may be more of it that was not seen for sure: that takes what joins best.
  const away = squaredDistance(
    index.map((k) => (k >= list.length - 1 ? 1 : 0)),
    w,
    h,
  );
  for (let i = 0; i < index.length; i++)
    if (index[i] < list.length - 1 && isRuled[parted.sides[i]] && away[i] <= (fringePx * by) ** 2)
      index[i] = 0;
  return across;
}

/** The side on which nearly all of some pixels lie; null when they lie on several. */
function sideOf(pixels: readonly number[], sides: Uint8Array): number | null {
  const counts = new Int32Array(256);
  for (const p of pixels) counts[sides[p]]++;
  const most = counts.indexOf(Math.max(...counts));
  return counts[most] >= ofOneSide * pixels.length ? most : null;
}

/** On which sides enough sources have a place on ruled ground for what has one there and is to be filled. */
function ruledSides(sides: Uint8Array, roles: Uint8Array, hasPlace: (p: number) => boolean): boolean[] {
  const [toFill, sources] = [new Int32Array(256), new Int32Array(256)];
  sides.forEach((side, p) => {
    const counts = roles[p] === role.target ? toFill : roles[p] === role.source ? sources : null;
    if (counts && hasPlace(p)) counts[side]++;
  });
  return Array.from(toFill, (n, side) => sources[side] > 0 && sources[side] >= leastOfSide * n);
}

/** Where the k-th of what guide lines part is put: not at equal distances, so that the mean of two is none of the others, nor that of one
 *  and of {@link ofItsOwnPx} a place on ruled ground; and near 0 first, where numbers are finest. */
const ownPlace = (k: number): number => -(k + 1.3 + 0.11 * k * k) * ofItsOwnPx;

/** What guide lines part. */
interface PartedGround {
  /** Which side each pixel of the ground is on. */
  readonly sides: Uint8Array;
  /** Numbers that are the same on one side and far off each other on two. */
  readonly across: Float32Array;
}

/** Adds a rule for what guide lines part: what lies on one side of them comes from there.
 *  @returns null where nothing is parted */
function ruleSides(
  drawn: readonly SeenEdge[],
  { ground: { w, h }, image, roles }: Atlas,
  by: number,
  list: Rule[],
  index: Uint8Array,
): PartedGround | null {
  if (drawn.length === 0) return null;
  const targets = countOf(roles, role.target);
  const sides = sidesOfLines(drawn, w, h, Math.max(meets.leastPx * by, meets.share * Math.sqrt(targets)));
  const [toFill, sources] = [new Int32Array(256), new Int32Array(256)];
  for (let p = 0; p < w * h; p++)
    if (roles[p] === role.target) toFill[sides[p]]++;
    else if (roles[p] === role.source) sources[sides[p]]++;
  if (toFill.filter((n) => n > 0).length < 2) return null;
  const across = new Float32Array(image.rect.w * image.rect.h).fill(offRuledGround);
  list.push({ nx: 0, ny: 0, slack: sideSlackPx, period: 0 });
  for (let p = 0; p < w * h; p++) {
    across[p] = ownPlace(drawn.length + sides[p]);
    if (sources[sides[p]] >= leastOfSide * toFill[sides[p]]) index[p] = list.length;
  }
  return { sides, across };
}

/** Adds a rule for what lies along a line that parts sides: it comes from where the picture shows an edge on that line, and from as far
 *  off it. Where too little of one is seen, the sides meet at the line. What lies near it elsewhere is not drawn from: a line is seldom
 *  drawn so exactly, nor is an edge so straight, that nothing of another side lies there.
 *  @param on  the pixels of its band
 *  @param own  where it is put among all that sides are told apart by */
function ruleAlong(
  edge: SeenEdge,
  on: readonly number[],
  own: number,
  { image, roles, ground }: Atlas,
  by: number,
  list: Rule[],
  index: Uint8Array,
  across: Float32Array,
): void {
  const [nx, ny] = normalOf(edge);
  const [x, y] = edge.line;
  const isShown = edgeOnLine(image, roles, ground.w, ground.h, { x, y, ux: ny, uy: -nx }, by);
  if (isShown) list.push({ nx, ny, slack: leastSlack, period: 0 });
  for (const p of on) {
    const [dx, dy] = [(p % ground.w) - x, Math.floor(p / ground.w) - y];
    const isToFill = roles[p] === role.target;
    if (isShown && (isToFill || isShown(dx * ny - dy * nx))) {
      index[p] = list.length;
      across[p] = nx * dx + ny * dy + own;
    } else if (!isToFill) across[p] = offRuledGround;
  }
}

/** Across an edge; length 1. */
function normalOf({ line: [x0, y0, x1, y1] }: SeenEdge): readonly [number, number] {
  const length = Math.hypot(x1 - x0, y1 - y0);
  return [(y0 - y1) / length, (x1 - x0) / length];
}

/** Adds a rule for each bent edge: what lies near it comes from as far off it.
 *  @param sides  where pixels lie that are near none of them; null: nowhere
 *  @returns where each pixel lies across it; null without any, and without sides */
function ruleBends(
  bent: readonly BentEdge[],
  { w, h }: { readonly w: number; readonly h: number },
  list: Rule[],
  index: Uint8Array,
  sides: Float32Array | null,
): Float32Array | null {
  if (bent.length === 0) return sides;
  const across = sides ?? new Float32Array(index.length).fill(offRuledGround);
  bent.forEach(({ box, placeOf }, k) => {
    // No two have anything to do with each other.
    list.push({ nx: 0, ny: 1, slack: bentSlackPx, period: 0, isExact: true });
    const part = intersect(box, { x: 0, y: 0, w, h });
    for (let y = part.y; y < part.y + part.h; y++)
      for (let x = part.x; x < part.x + part.w; x++) {
        const off = placeOf(x, y);
        if (off === null) continue;
        across[y * w + x] = off + k * ofItsOwnPx;
        index[y * w + x] = list.length;
      }
  });
  return across;
}

/** Whether a straight edge and a bent one enter the hole at the same place: then it is straight. */
const meet = ({ line: [x0, y0, x1, y1] }: SeenEdge, { ends }: BentEdge): boolean =>
  ends.some(([x, y]) => Math.min(Math.hypot(x - x0, y - y0), Math.hypot(x - x1, y - y1)) < sameEndPx);

/** Places of a picture that is so many times smaller in those of the picture itself, counted from pixel centres. */
const enlargedPlace = (v: number, by: number): number => v * by + (by - 1) / 2;
const reducedPlace = (v: number, by: number): number => (v - (by - 1) / 2) / by;

function enlargedGround(small: RuledGround | null, by: number): RuledGround | null {
  if (!small || by === 1) return small;
  return {
    ...small,
    period: small.period * by,
    placeOf: (x, y) => {
      const place = small.placeOf(reducedPlace(x, by), reducedPlace(y, by));
      return place && { ...place, across: place.across * by };
    },
  };
}

const enlargedEdge = ({ line: [x0, y0, x1, y1], ends }: SeenEdge, by: number): SeenEdge => ({
  line: [enlargedPlace(x0, by), enlargedPlace(y0, by), enlargedPlace(x1, by), enlargedPlace(y1, by)],
  ends,
});

/** The pixels of a picture on a band, so wide on both sides, round a line that runs on behind its points, or ends at the last one. */
function pixelsOnLine(
  { w, h }: { readonly w: number; readonly h: number },
  [x0, y0, x1, y1]: SeenEdge['line'],
  halfWidth: number,
  ends: boolean,
): number[] {
  const length = Math.hypot(x1 - x0, y1 - y0);
  const [ux, uy] = [(x1 - x0) / length, (y1 - y0) / length];
  const toLength = ends ? length : Infinity;
  const out: number[] = [];
  // Rows of a picture cross the band in one run each, as long as the band is wide along them.
  const half = Math.abs(uy) > 1e-9 ? halfWidth / Math.abs(uy) + 1 : Infinity;
  for (let y = 0; y < h; y++) {
    const middle = x0 + (half < Infinity ? (ux * (y - y0)) / uy : 0);
    const last = Math.min(w - 1, Math.ceil(middle + half));
    for (let x = Math.max(0, Math.floor(middle - half)); x <= last; x++)
      if (Math.abs(ux * (y - y0) - uy * (x - x0)) <= halfWidth && ux * (x - x0) + uy * (y - y0) <= toLength)
        out.push(y * w + x);
  }
  return out;
}
