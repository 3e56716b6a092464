import { bitsWhere, easeOf, evenParts, squaredDistance } from '../../area';
import { grow, intersect, type Rect, unite } from '../../raster';

/** A part of an area that is filled in one go, and the window of the photo it is filled from. */
export interface Piece {
  /** Box of the piece's own pixels. */
  readonly box: Rect;
  readonly window: Rect;
  /** What it may be drawn from besides, farther off; null: nothing. */
  readonly beside: Rect | null;
  /** A chunk of something long. */
  readonly isChunk: boolean;
  /** One of something thin as well, such as a wire. */
  readonly isThin: boolean;
}

export interface PiecePlan {
  readonly box: Rect;
  /** box in size: number of the piece that a pixel belongs to, −1 outside the area. */
  readonly owner: Int32Array;
  /** In the order in which they are filled. */
  readonly pieces: readonly Piece[];
}

/** Parts nearer to each other than this are filled together. */
const nearPx = 6;
export const leastRoomPx = 60;
const leastRoomOfChunkPx = 45;
const leastChunkPx = 128;
/** What is compact is divided from so many pixels on, into parts of about so many at most, as long as these are not too many. */
const partSizes = { largePx: 2_500_000, mostPartPx: 1_300_000 };
const mostParts = 8;
/** A part sees so much ground at least, for its size. */
const groundPerPixel = 2;
const besidePerPixel = 1;
/** Of a zone, however small the part. */
const leastFromZone = 10_000;
/** What lies beyond a window is put beside it where so many times as much may be drawn from then. */
const worthMoving = 1.3;
/** So many pixels tell where an area's parts lie. */
const samples = 4_000;
/** Half as thick as this, or less, is thin. */
const thinPx = 14;

/** Where it was said what to draw from. */
export interface AllowZone {
  readonly within: Rect;
  /** 1 where a rectangle's pixels may be drawn from; null: all of them. */
  readonly mayDraw: (rect: Rect) => Uint8Array | null;
  /** Where it lies beyond a window it may be put beside it, since directions from there do not matter. */
  readonly mayBeMoved: boolean;
}

/** Divides an area so that the cost grows with it and not with the photo between its parts: what lies apart is filled
 *  apart, and what is long and thin is filled chunk by chunk along its length. What is compact stays whole, so that large
 *  pieces of ground can be taken for it; what is so large that memory would run short is filled in parts, from the easiest to
 *  the hardest.
 *
 *  @param mask   box in size, non-zero = to be filled
 *  @param box    where it lies in the document
 *  @param reach  room round a piece, in lengths of its longer side
 *  @param compact  whether what is compact stays in one piece, however large it is
 *  @param zone   where it was said what to draw from: of that a piece gets enough, within its reach or wherever it lies; null:
 *                everything is ground
 *  @param sizes  from how many pixels on what is compact is divided, into parts of how many at most
 *  Degenerate: an empty mask gives no pieces. */
export function planPieces(
  mask: Uint8Array,
  box: Rect,
  bounds: Rect,
  reach: number,
  compact: 'in parts' | 'whole' = 'in parts',
  zone: AllowZone | null = null,
  sizes: typeof partSizes = partSizes,
): PiecePlan {
  const { w, h } = box;
  const owner = new Int32Array(w * h).fill(-1);
  const pieces: Piece[] = [];
  const away = bitsWhere(mask, (v) => v === 0);
  const inner = squaredDistance(padded(away, w, h, box, bounds), w + 2, h + 2);
  for (const { members, box: own } of componentsOf(mask, w, h)) {
    let half = 0;
    for (const p of members) {
      const depth = inner[(Math.floor(p / w) + 1) * (w + 2) + (p % w) + 1];
      if (depth > half) half = depth;
    }
    half = Math.sqrt(half);
    const longer = Math.max(own.w, own.h);
    const whole = { ...own, x: own.x + box.x, y: own.y + box.y };
    const farthest = intersect(grow(whole, Math.max(leastRoomPx, Math.ceil(longer * reach))), bounds);
    const side = Math.max(leastChunkPx, Math.round(8 * half));
    const isLong = longer > 1.25 * side && longer > 10 * half;
    const chunks = isLong
      ? chunksOf(members, own, w, side)
      : compact === 'whole'
        ? [members]
        : partsOf(members, w, h, sizes);
    for (const chunk of chunks) {
      const id = pieces.length;
      for (const p of chunk) owner[p] = id;
      const part = boxOf(chunk, w);
      const placed = { ...part, x: part.x + box.x, y: part.y + box.y };
      const isThin = isLong && half <= thinPx;
      const room = isThin
        ? Math.max(leastRoomOfChunkPx, Math.ceil(Math.max(part.w, part.h) * reach * 0.5))
        : Math.max(leastRoomPx, Math.ceil(Math.max(part.w, part.h) * reach));
      const ground = { mask, box, zone };
      const close = intersect(grow(placed, room), bounds);
      if (zone?.mayBeMoved) {
        const wanted = Math.max(leastFromZone, groundPerPixel * chunk.length);
        const all = unite(farthest, zone.within);
        const seen = groundIn(close, ground);
        const wide = seen < wanted ? windowWithGround(placed, room, wanted, 0, all, ground) : close;
        const isWorthIt = worthMoving * seen < groundIn(wide, ground);
        const beside = isWorthIt ? intersect(wide, zone.within) : null;
        pieces.push({ box: placed, window: close, beside, isChunk: isLong, isThin });
        continue;
      }
      const looksFarther = (!isLong || zone !== null) && chunks.length > 1;
      const window = looksFarther
        ? windowWithGround(
            placed,
            room,
            groundPerPixel * chunk.length,
            besidePerPixel * chunk.length,
            farthest,
            ground,
          )
        : close;
      pieces.push({ box: placed, window, beside: null, isChunk: isLong, isThin });
    }
  }
  return { box, owner, pieces };
}

/** With a border that counts as known, except where the photo ends: there an area has no rim. */
function padded(away: Uint8Array, w: number, h: number, box: Rect, bounds: Rect): Uint8Array {
  const out = new Uint8Array((w + 2) * (h + 2)).fill(1);
  for (let y = 0; y < h; y++) out.set(away.subarray(y * w, y * w + w), (y + 1) * (w + 2) + 1);
  if (box.y <= bounds.y) out.fill(0, 0, w + 2);
  if (box.y + h >= bounds.y + bounds.h) out.fill(0, (h + 1) * (w + 2));
  for (let y = 0; y < h + 2; y++) {
    if (box.x <= bounds.x) out[y * (w + 2)] = 0;
    if (box.x + w >= bounds.x + bounds.w) out[y * (w + 2) + w + 1] = 0;
  }
  return out;
}

/** The parts of a mask that lie apart, each with its pixels in reading order. */
function componentsOf(mask: Uint8Array, w: number, h: number): { members: Int32Array; box: Rect }[] {
  const near = squaredDistance(mask, w, h);
  const reach = (nearPx / 2) ** 2;
  // What is near each other has a common root: the first pixel of its like in reading order.
  const parent = new Int32Array(w * h);
  const rootOf = (p: number): number => {
    let root = p;
    while (parent[root] !== root) root = parent[root];
    for (let at = p; parent[at] !== root; ) [at, parent[at]] = [parent[at], root];
    return root;
  };
  const join = (p: number, q: number) => {
    const [a, b] = [rootOf(p), rootOf(q)];
    if (a !== b) parent[Math.max(a, b)] = Math.min(a, b);
  };
  for (let y = 0, p = 0; y < h; y++)
    for (let x = 0; x < w; x++, p++) {
      if (near[p] > reach) continue;
      const left = x > 0 && near[p - 1] <= reach;
      parent[p] = left ? parent[p - 1] : p;
      if (y === 0) continue;
      if (near[p - w] <= reach) join(p, p - w);
      else {
        if (x > 0 && near[p - w - 1] <= reach) join(p, p - w - 1);
        if (x < w - 1 && near[p - w + 1] <= reach) join(p, p - w + 1);
      }
    }
  const ids = new Map<number, number>();
  const counts: number[] = [];
  const idOf = new Int32Array(w * h);
  for (let p = 0; p < mask.length; p++) {
    if (!mask[p]) continue;
    const root = rootOf(p);
    let id = ids.get(root);
    if (id === undefined) {
      id = counts.push(0) - 1;
      ids.set(root, id);
    }
    idOf[p] = id;
    counts[id]++;
  }
  const out = counts.map((count) => new Int32Array(count));
  counts.fill(0);
  for (let p = 0; p < mask.length; p++) if (mask[p]) out[idOf[p]][counts[idOf[p]]++] = p;
  return out.map((members) => ({ members, box: boxOf(members, w) }));
}

/** The smallest rectangle round pixels that are given in reading order. */
function boxOf(pixels: Int32Array, w: number): Rect {
  let [x0, x1] = [w, -1];
  for (const p of pixels) {
    const x = p % w;
    if (x < x0) x0 = x;
    if (x > x1) x1 = x;
  }
  const y0 = Math.floor(pixels[0] / w);
  return { x: x0, y: y0, w: x1 - x0 + 1, h: Math.floor(pixels[pixels.length - 1] / w) - y0 + 1 };
}

/** What is to be filled, and where else may be drawn from. */
interface Ground {
  readonly mask: Uint8Array;
  readonly box: Rect;
  readonly zone: AllowZone | null;
}

/** How many pixels of a rectangle may be drawn from. */
function groundIn(rect: Rect, { mask, box, zone }: Ground): number {
  const window = zone ? intersect(rect, zone.within) : rect;
  const may = zone?.mayDraw(window) ?? null;
  const all = may ? may.reduce((n, v) => n + v, 0) : window.w * window.h;
  const common = intersect(window, box);
  let marked = 0;
  for (let y = common.y; y < common.y + common.h; y++) {
    const row = (y - box.y) * box.w - box.x;
    const seen = (y - window.y) * window.w - window.x;
    for (let x = common.x; x < common.x + common.w; x++)
      if (mask[row + x] && (!may || may[seen + x])) marked++;
  }
  return all - marked;
}

/** Room round a part, and as much more as it takes to see so many pixels of ground: a part in the midst has none near it. What lies
 *  beside a part, in the same rows, is most like what is behind it, so there must be enough of that too. Never more than `farthest`,
 *  which is what the area may see as a whole. */
function windowWithGround(
  part: Rect,
  room: number,
  wanted: number,
  wantedBeside: number,
  farthest: Rect,
  ground: Ground,
): Rect {
  let [across, down] = [room, room];
  for (;;) {
    const window = intersect(
      { x: part.x - across, y: part.y - down, w: part.w + 2 * across, h: part.h + 2 * down },
      farthest,
    );
    const beside = wantedBeside > 0 ? groundIn({ ...window, y: part.y, h: part.h }, ground) : 0;
    const [isWidest, isHighest] = [window.w === farthest.w, window.h === farthest.h];
    if (beside < wantedBeside && !isWidest) across = Math.ceil(1.25 * across);
    else if (groundIn(window, ground) < wanted && !(isWidest && isHighest))
      [across, down] = [Math.ceil(1.25 * across), Math.ceil(1.25 * down)];
    else return window;
  }
}

/** Even parts, the easiest first; a single one of what is not large. */
function partsOf(
  members: Int32Array,
  w: number,
  h: number,
  { largePx, mostPartPx }: typeof partSizes,
): Int32Array[] {
  if (members.length < largePx) return [members];
  const count = Math.min(mostParts, Math.ceil(members.length / mostPartPx));
  const step = Math.max(1, Math.floor(members.length / samples));
  const sampled = members.filter((_, k) => k % step === 0);
  const { at } = evenParts(
    sampled.map((p) => p % w),
    sampled.map((p) => Math.floor(p / w)),
    count,
  );
  const owner = new Int16Array(w * h).fill(-1);
  for (const p of members) owner[p] = at(p % w, Math.floor(p / w));
  const parts = Array.from({ length: count }, (): number[] => []);
  for (const p of members) parts[owner[p]].push(p);
  return easeOf(owner, count, w, h).map(({ part }) => Int32Array.from(parts[part]));
}

/** Squares of even size that cover the box, each with the pixels in it; in reading order along the longer side. */
function chunksOf(members: Int32Array, box: Rect, w: number, side: number): Int32Array[] {
  const across = Math.max(1, Math.round(box.w / side));
  const down = Math.max(1, Math.round(box.h / side));
  const cells: number[][] = Array.from({ length: across * down }, () => []);
  for (const p of members) {
    const cx = Math.min(across - 1, Math.floor((((p % w) - box.x) * across) / box.w));
    const cy = Math.min(down - 1, Math.floor(((Math.floor(p / w) - box.y) * down) / box.h));
    cells[box.w >= box.h ? cx * down + cy : cy * across + cx].push(p);
  }
  return cells.filter((cell) => cell.length > 0).map((cell) => Int32Array.from(cell));
}
