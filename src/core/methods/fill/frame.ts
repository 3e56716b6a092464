import { farAway, squaredDistance } from '../../area';
import { InputError } from '../../errors';
import { grow, intersect, type Rect } from '../../raster';

/** One level of what fill works on. Pictures hold 8 bytes a pixel: red, green, blue, two texture features, padding. */
export interface Frame {
  readonly w: number;
  readonly h: number;
  readonly img: Uint8Array;
  /** 1 where the pixel is to be filled. */
  readonly hole: Uint8Array;
  /** 1 where something is known: neither to be filled nor beyond what is seen. */
  readonly known: Uint8Array;
  /** 1 where the pixel may be taken as a source: known and not forbidden. */
  readonly source: Uint8Array;
  readonly rules: FrameRules | null;
  readonly layout: Layout | null;
  /** Null: every pixel's content lies where the pixel does. */
  readonly views: FrameViews | null;
}

/** The same ground several times in one picture: as it is, mirrored, turned. */
export interface FrameViews {
  /** Where each pixel's content lies in the ground, in pixels of this level. */
  readonly x: Float32Array;
  readonly y: Float32Array;
  /** Rows from one view to the next. */
  readonly stride: number;
  /** Two views of places so near to each other are not joined: side by side they would mirror each other. In pixels of this level. */
  readonly apart: number;
}

/** What kinds of surroundings there are, and how far each is out of place in a row. */
export interface Layout {
  /** Number of each pixel's kind; the last one where something unknown lies in its patch. */
  readonly kind: Uint8Array;
  readonly count: number;
  /** For each row and kind: how much a patch of it costs there, for each of its pixels, in squared 8-bit steps. */
  readonly table: Float32Array;
}

/** Directions that some pixels' sources must keep to. */
export interface FrameRules {
  /** For each pixel: 0 = free, k = must keep to `list[k − 1]`. */
  readonly index: Uint8Array;
  readonly list: readonly Rule[];
  /** Where each pixel lies across the lines of ruled ground, in pixels of this level, {@link offRuledGround} where it is not of any.
   *  Null: there is none. */
  readonly across: Float32Array | null;
}

/** A source must not lie farther from the straight line through its target than this. The normal has length 1, or 0 where no direction
 *  counts but only where pixels lie across. */
export interface Rule {
  readonly nx: number;
  readonly ny: number;
  /** In pixels of the level. */
  readonly slack: number;
  /** For ruled ground and bent edges: a source must lie on it, nearer than {@link farAcross}, and as far across from its target as so
   *  many pixels times a whole number; 0: no farther. Null: for any other ground. */
  readonly period: number | null;
  /** It says to the pixel from where each may come: what was found is not bent afterwards. */
  readonly isExact?: boolean;
  /** Nobody drew it: where it is dearly kept it may be wrong. */
  readonly isOnlySeen?: boolean;
}

export const offRuledGround = 1e9;
/** Places across ruled ground that have nothing to do with each other lie at least so far apart, at any level. */
export const farAcross = 20_000;

/** Sources of ruled ground lie nearer than this: those that have a place between regular lines, or any place in it. */
export const mostAcross = (period: number): number => (period > 0 ? farAcross : offRuledGround / 100);

/** Whether a place across ruled ground is one that its rule is about. */
export const liesAcross = (place: number, period: number): boolean =>
  place < mostAcross(period) && (period === 0 || place > -farAcross);

/** Whole pixels cannot keep to a slanting line more closely than this. */
export const leastSlack = 0.75;

/** What a pixel is to a fill. */
export const role = {
  /** Beyond the photo, or not seen. */
  void: 0,
  /** Known, but never drawn from. */
  context: 1,
  /** Known, and may be drawn from. */
  source: 2,
  /** To be filled. */
  target: 3,
  /** Not of this fill, and only guessed: better for a search than nothing, but nothing to join on to. */
  guessed: 4,
} as const;

/** Whether a pixel with such a role shows what it will show. */
export const isKnownRole = (is: number): boolean => is === role.context || is === role.source;

/** Of fewer pixels a hole is a small one: what is near must be right to the pixel, and there is little that would be like it. */
export const smallHolePixels = 6000;
/** From so many pixels on a hole is a large one: how its surroundings are laid out, and ruled, counts. */
export const largeHolePixels = 30_000;

/** A hole of more pixels is looked at in a picture halved until it has no more: what is seen in pictures of usual size is then seen in
 *  the largest. */
const mostLookedAt = 400_000;

/** How often a picture is halved before it is looked at for edges, lines, layers and things. @param pixels  of the hole */
export const lookedAtLevel = (pixels: number): number =>
  Math.max(0, Math.ceil(Math.log2(pixels / mostLookedAt) / 2));

/** Bytes a pixel in the kernels' pictures. */
export const pixelBytes = 8;

/** Whether a pixel may take its source at a shift: a source pixel, and one that keeps to the pixel's rule. */
export function mayTake(frame: Frame, p: number, dx: number, dy: number): boolean {
  const { w } = frame;
  const x = (p % w) + dx;
  const q = p + dy * w + dx;
  // Beyond the first or the last row there is no pixel.
  if (x < 0 || x >= w || frame.source[q] !== 1) return false;
  return frame.rules === null || keepsRule(frame, p, q);
}

export function keepsRule(frame: Frame, p: number, q: number): boolean {
  const { rules, views, w } = frame;
  const k = rules ? rules.index[p] : 0;
  if (!rules || k === 0) return true;
  const { nx, ny, slack, period } = rules.list[k - 1];
  const { across } = rules;
  if (across && period !== null) {
    const d = across[q] - across[p];
    return Math.abs(d) < farAcross && Math.abs(withoutPeriods(d, period)) <= slack + 1e-3;
  }
  const dx = views ? views.x[q] - views.x[p] : (q % w) - (p % w);
  const dy = views ? views.y[q] - views.y[p] : Math.floor(q / w) - Math.floor(p / w);
  return Math.abs(nx * dx + ny * dy) <= slack + 1e-3;
}

/** The period of the ruled ground that a pixel is of; null: it is of none. */
export const periodAt = ({ rules }: Pick<Frame, 'rules'>, p: number): number | null =>
  rules && rules.index[p] > 0 ? rules.list[rules.index[p] - 1].period : null;

/** What is left of a distance once all whole periods are taken off. */
export const withoutPeriods = (distance: number, period: number): number =>
  period > 0 ? distance - period * Math.round(distance / period) : distance;

/** The nearest pixel that a pixel may be taken from, of those as near the first; −1 when there is none. Looked for in wider and wider
 *  squares: most lie near. */
export function nearestSource(frame: Frame, p: number): number {
  const { w, h, source } = frame;
  const px = p % w;
  const py = Math.floor(p / w);
  let best = -1;
  let least = Number.POSITIVE_INFINITY;
  const look = (x: number, y: number) => {
    if (x < 0 || x >= w || y < 0 || y >= h || !source[y * w + x]) return;
    const q = y * w + x;
    const d = (x - px) ** 2 + (y - py) ** 2;
    if (d > least || (d === least && q > best) || !keepsRule(frame, p, q)) return;
    least = d;
    best = q;
  };
  // Square by square round the pixel, as far as they lie where sources are.
  const box = sourceBoxOf(frame);
  const [right, bottom] = [box.x + box.w - 1, box.y + box.h - 1];
  const most = Math.max(px - box.x, right - px, py - box.y, bottom - py);
  const first = Math.max(0, box.x - px, px - right, box.y - py, py - bottom);
  for (let r = first; r <= most && r * r <= least; r++) {
    const to = Math.min(px + r, right);
    for (let x = Math.max(px - r, box.x); x <= to; x++) {
      look(x, py - r);
      if (r > 0) look(x, py + r);
    }
    const end = Math.min(py + r - 1, bottom);
    for (let y = Math.max(py - r + 1, box.y); y <= end; y++) {
      look(px - r, y);
      look(px + r, y);
    }
  }
  return best;
}

const sourceBoxes = new WeakMap<Uint8Array, Rect>();

function sourceBoxOf({ source, w }: Frame): Rect {
  const known = sourceBoxes.get(source);
  if (known) return known;
  const box = boxOfSet(source, w);
  sourceBoxes.set(source, box);
  return box;
}

/** Where a whole patch of the given radius lies on source pixels within the frame. */
export const usableCentres = ({ source, w, h }: Frame, radius: number): Uint8Array =>
  wholePatches(source, w, h, radius, 1);

export const hasSources = ({ source, w, h }: Frame, radius: number): boolean =>
  findWholePatches(source, w, h, radius, 1, null);

/** Pixels whose patch lies in the frame and touches the hole, row by row. */
export function targetCentres({ hole, w, h }: Frame, radius: number): Int32Array {
  const away = wholePatches(hole, w, h, radius, 0);
  const touching = new Uint8Array(w * h);
  for (let y = radius; y < h - radius; y++)
    for (let x = radius, i = y * w + radius; x < w - radius; x++, i++) touching[i] = 1 - away[i];
  return indicesOf(touching);
}

/** Centres of the squares within w×h in which every pixel has the wanted value. */
export function wholePatches(
  mask: Uint8Array,
  w: number,
  h: number,
  radius: number,
  wanted: 0 | 1,
): Uint8Array {
  const out = new Uint8Array(w * h);
  findWholePatches(mask, w, h, radius, wanted, out);
  return out;
}

/** @param out  marked at each centre; null: the first one found is enough. @returns whether there is any */
function findWholePatches(
  mask: Uint8Array,
  w: number,
  h: number,
  radius: number,
  wanted: 0 | 1,
  out: Uint8Array | null,
): boolean {
  const side = 2 * radius + 1;
  /** How many pixels up from here have the value. */
  const column = new Int32Array(w);
  let any = false;
  for (let y = 0; y < h; y++) {
    let run = 0;
    for (let x = 0, i = y * w; x < w; x++, i++) {
      column[x] = mask[i] === wanted ? column[x] + 1 : 0;
      run = column[x] >= side ? run + 1 : 0;
      if (run < side) continue;
      if (!out) return true;
      out[i - radius * w - radius] = 1;
      any = true;
    }
  }
  return any;
}

/** The steps to the four pixels beside one. */
export const sides = [
  [-1, 0],
  [1, 0],
  [0, -1],
  [0, 1],
] as const;

/** Whether a pixel beside p is set. */
export function touches(set: Uint8Array, w: number, h: number, p: number): boolean {
  const x = p % w;
  return (
    (x > 0 && set[p - 1] === 1) ||
    (x < w - 1 && set[p + 1] === 1) ||
    (p >= w && set[p - w] === 1) ||
    (p < w * (h - 1) && set[p + w] === 1)
  );
}

/** Squared distance of each hole pixel to what is known, 0 elsewhere; {@link farAway} when nothing near is. */
export function squaredDepth({ hole, known, w, h }: Pick<Frame, 'w' | 'h' | 'hole' | 'known'>): Float32Array {
  const out = new Float32Array(w * h);
  const own = boxOfSet(hole, w);
  if (own.w <= 0) return out;
  const box = intersect(grow(own, 1), { x: 0, y: 0, w, h });
  const rim = new Uint8Array(box.w * box.h);
  for (let y = 0; y < box.h; y++) {
    const row = (box.y + y) * w + box.x;
    rim.set(known.subarray(row, row + box.w), y * box.w);
  }
  const near = squaredDistance(rim, box.w, box.h);
  for (let y = 0; y < box.h; y++) {
    const row = (box.y + y) * w + box.x;
    for (let x = 0; x < box.w; x++) if (hole[row + x]) out[row + x] = near[y * box.w + x];
  }
  return out;
}

/** Half the thickness of what is to be filled, where it is thickest. */
export function thicknessOf(roles: Uint8Array, w: number, h: number): number {
  const box = intersect(grow(boxOfTargets(roles, w), 1), { x: 0, y: 0, w, h });
  const hole = new Uint8Array(box.w * box.h);
  const known = new Uint8Array(box.w * box.h);
  for (let y = 0, i = 0; y < box.h; y++)
    for (let p = (box.y + y) * w + box.x; i < (y + 1) * box.w; p++, i++)
      if (roles[p] === role.target) hole[i] = 1;
      else if (roles[p] !== role.void) known[i] = 1;
  let most = 1;
  for (const d of squaredDepth({ hole, known, w: box.w, h: box.h })) if (d > most && d < farAway) most = d;
  return Math.sqrt(most);
}

/** The smallest rectangle round all that is to be filled. */
export const boxOfTargets = (roles: Uint8Array, w: number): Rect => boxOf(roles, w, role.target);

/** The smallest rectangle round what is set. */
export const boxOfSet = (set: Uint8Array, w: number): Rect => boxOf(set, w, 1);

function boxOf(values: Uint8Array, w: number, wanted: number): Rect {
  let [x0, y0, x1, y1] = [w, Infinity, -1, -1];
  for (let y = 0, row = 0; row < values.length; y++, row += w) {
    const first = values.subarray(row, row + w).indexOf(wanted);
    if (first < 0) continue;
    x0 = Math.min(x0, first);
    x1 = Math.max(x1, values.subarray(row, row + w).lastIndexOf(wanted));
    y0 = Math.min(y0, y);
    y1 = y;
  }
  return { x: x0, y: y0, w: x1 - x0 + 1, h: y1 - y0 + 1 };
}

/** 1 where a pixel may be drawn from. */
export function sourcesOf(roles: Uint8Array): Uint8Array {
  const out = new Uint8Array(roles.length);
  for (let i = 0; i < out.length; i++) if (roles[i] === role.source) out[i] = 1;
  return out;
}

/** How many pixels have a value. */
export function countOf(values: Uint8Array, wanted: number): number {
  let n = 0;
  for (let i = 0; i < values.length; i++) if (values[i] === wanted) n++;
  return n;
}

const holesKnown = new WeakMap<Uint8Array, Int32Array>();

/** Indices of the pixels that are to be filled, in reading order. */
export function holePixels({ hole }: Pick<Frame, 'hole'>): Int32Array {
  const known = holesKnown.get(hole);
  if (known) return known;
  const pixels = indicesOf(hole);
  holesKnown.set(hole, pixels);
  return pixels;
}

export function indicesOf(mask: Uint8Array): Int32Array {
  const out = new Int32Array(mask.length - countOf(mask, 0));
  let n = 0;
  for (let i = 0; i < mask.length; i++) if (mask[i]) out[n++] = i;
  return out;
}

/** Says what would help. */
export function nothingToDrawFrom(frame: Pick<Frame, 'rules'>): InputError {
  return new InputError(
    'no-source',
    frame.rules
      ? 'There is not enough along the rail or guide line to draw from. Widen the rail, let it look farther, or mark less.'
      : 'There is not enough round this area to draw from. Mark less, let it look farther, or widen the allow zone.',
  );
}
