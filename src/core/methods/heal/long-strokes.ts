import { type Area, boundsOfArea, noMasks, rasteriseArea, scaleArea, squaredDistance } from '../../area';
import { enclosing, grow, tileSize } from '../../raster';

/** Boxes smaller than this are healed in one piece. */
const largePx = 2_000_000;
/** A part with its room is at most so much of the box, and has at most so many pixels: else little is gained. */
const mostOfBox = 0.35;
const mostPx = 7_500_000;
const sides = { least: tileSize, most: 4 * tileSize };
/** So many widths of a strip away, what is beyond its cut end tells in no pixel any more: it fades by e^−π in each. */
const widthsAway = 1.5;
/** An area is looked at this large. */
const lookedAtPx = 1024;

/** How a long and thin area is healed. In pixels. */
export interface Parts {
  /** Of the squares that are healed each by itself. */
  readonly side: number;
  /** So much round a square has a say in it. */
  readonly reach: number;
}

const known = new WeakMap<Area, Parts | null>();

/** How parts of a long and thin area can be healed alone; null for everything that is to be healed in one piece. Only areas that
 *  are drawn with a brush are looked at.
 *  The membrane between two long sides W apart forgets what happens d along them like e^(−πd/W), the slowest solution of
 *  Laplace's equation in a strip. */
export function partsOf(area: Area): Parts | null {
  const found = known.get(area);
  if (found !== undefined) return found;
  const parts = measure(area);
  known.set(area, parts);
  return parts;
}

function measure(area: Area): Parts | null {
  const box = boundsOfArea(area);
  if (box.w * box.h < largePx) return null;
  if (area.shapes.some(({ kind, op }) => kind !== 'stroke' && op !== 'subtract')) return null;
  const by = lookedAtPx / Math.max(box.w, box.h);
  const strokes = area.shapes.filter(({ kind }) => kind === 'stroke');
  const rect = grow(enclosing(box.x * by, box.y * by, (box.x + box.w) * by, (box.y + box.h) * by), 1);
  const away = rasteriseArea(scaleArea({ ...area, shapes: strokes }, by), rect, noMasks);
  const deep = squaredDistance(
    Uint8Array.from(away, (v) => (v > 0 ? 0 : 1)),
    rect.w,
    rect.h,
  );
  const width = (2 * (Math.sqrt(deep.reduce((most, v) => Math.max(most, v), 0)) + 1)) / by;
  const reach = Math.ceil(widthsAway * width);
  let side = sides.least;
  while (side < 2 * reach && side < sides.most) side *= 2;
  const pixels = (side + 2 * reach) ** 2;
  return pixels <= Math.min(mostPx, mostOfBox * box.w * box.h) ? { side, reach } : null;
}
