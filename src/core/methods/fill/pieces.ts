import { bitsWhere, squaredDistance } from '../../area';
import { grow, intersect, type Rect, unite } from '../../raster';

/** A part of an area that is filled in one go, and the window of the photo it is filled from. */
export interface Piece {
  /** Box of the piece's own pixels. */
  readonly box: Rect;
  readonly window: Rect;
  /** A chunk of something thin, such as a wire. */
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
/** Half as thick as this, or less, is thin. */
const thinPx = 14;

/** Divides an area so that the cost grows with it and not with the photo between its parts: what lies apart is filled
 *  apart, and what is long and thin is filled chunk by chunk along its length.
 *
 *  @param mask   box in size, non-zero = to be filled
 *  @param box    where it lies in the document
 *  @param reach  room round a piece, in lengths of its longer side
 *  Degenerate: an empty mask gives no pieces. */
export function planPieces(mask: Uint8Array, box: Rect, bounds: Rect, reach: number): PiecePlan {
  const { w, h } = box;
  const owner = new Int32Array(w * h).fill(-1);
  const pieces: Piece[] = [];
  const away = bitsWhere(mask, (v) => v === 0);
  const inner = squaredDistance(padded(away, w, h, box, bounds), w + 2, h + 2);
  for (const { members, box: own } of componentsOf(mask, w, h)) {
    let half = 0;
    for (const p of members) half = Math.max(half, inner[(Math.floor(p / w) + 1) * (w + 2) + (p % w) + 1]);
    half = Math.sqrt(half);
    const longer = Math.max(own.w, own.h);
    const side = Math.max(leastChunkPx, Math.round(8 * half));
    const isLong = longer > 1.25 * side && longer > 10 * half;
    const chunks = isLong ? chunksOf(members, own, w, side) : [members];
    for (const chunk of chunks) {
      const id = pieces.length;
      let part: Rect = { x: 0, y: 0, w: 0, h: 0 };
      for (const p of chunk) {
        owner[p] = id;
        part = unite(part, { x: p % w, y: Math.floor(p / w), w: 1, h: 1 });
      }
      const placed = { ...part, x: part.x + box.x, y: part.y + box.y };
      const isThin = isLong && half <= thinPx;
      const room = isThin
        ? Math.max(leastRoomOfChunkPx, Math.ceil(Math.max(part.w, part.h) * reach * 0.5))
        : Math.max(leastRoomPx, Math.ceil((isLong ? Math.max(part.w, part.h) : longer) * reach));
      pieces.push({ box: placed, window: intersect(grow(placed, room), bounds), isThin });
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

function componentsOf(mask: Uint8Array, w: number, h: number): { members: number[]; box: Rect }[] {
  const near = squaredDistance(mask, w, h);
  const reach = (nearPx / 2) ** 2;
  const seen = new Uint8Array(w * h);
  const out: { members: number[]; box: Rect }[] = [];
  const stack: number[] = [];
  for (let start = 0; start < mask.length; start++) {
    if (!mask[start] || seen[start]) continue;
    const members: number[] = [];
    let [x0, y0, x1, y1] = [w, h, -1, -1];
    stack.push(start);
    seen[start] = 1;
    while (stack.length > 0) {
      const p = stack.pop()!;
      const x = p % w;
      const y = (p - x) / w;
      if (mask[p]) {
        members.push(p);
        x0 = Math.min(x0, x);
        x1 = Math.max(x1, x);
        y0 = Math.min(y0, y);
        y1 = Math.max(y1, y);
      }
      for (let v = Math.max(0, y - 1); v <= Math.min(h - 1, y + 1); v++)
        for (let u = Math.max(0, x - 1); u <= Math.min(w - 1, x + 1); u++) {
          const q = v * w + u;
          if (seen[q] || near[q] > reach) continue;
          seen[q] = 1;
          stack.push(q);
        }
    }
    members.sort((a, b) => a - b);
    out.push({ members, box: { x: x0, y: y0, w: x1 - x0 + 1, h: y1 - y0 + 1 } });
  }
  return out;
}

/** Squares of even size that cover the box, each with the pixels in it; in reading order along the longer side. */
function chunksOf(members: readonly number[], box: Rect, w: number, side: number): number[][] {
  const across = Math.max(1, Math.round(box.w / side));
  const down = Math.max(1, Math.round(box.h / side));
  const cells: number[][] = Array.from({ length: across * down }, () => []);
  for (const p of members) {
    const cx = Math.min(across - 1, Math.floor((((p % w) - box.x) * across) / box.w));
    const cy = Math.min(down - 1, Math.floor(((Math.floor(p / w) - box.y) * down) / box.h));
    cells[box.w >= box.h ? cx * down + cy : cy * across + cx].push(p);
  }
  return cells.filter((cell) => cell.length > 0);
}
