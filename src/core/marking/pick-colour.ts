import { trimMask } from '../area';
import { writeLab } from '../colour';
import { intersect, isEmpty, type Rect } from '../raster';
import type { Found } from './found';
import { rectAtLevel, type Seen } from './seen';

export interface ColourPick {
  /** Document pixels. */
  readonly x: number;
  readonly y: number;
  /** The greatest distance in CIELAB, 0…100. */
  readonly tolerance: number;
  /** All over the photo, or only what hangs together with the point, over sides and corners. */
  readonly everywhere: boolean;
}

const tileSide = 256;

/** Marks what has nearly the colour at a point: the mean of 3×3 pixels there.
 *
 *  @param level  the halving to look at: 0 is exact, higher ones are for looking on while a hand moves
 *  @returns null when the point lies outside the photo
 *  Cost: every pixel of the level, or (contiguous) those of the tiles that are reached; about 10 ns each, since most
 *  colours are decided by a table of 64³ cells.
 */
export function pickColour(seen: Seen, pick: ColourPick, level: number): Found | null {
  const whole = rectAtLevel(seen, level, { x: 0, y: 0, w: seen.width, h: seen.height });
  const by = 2 ** level;
  const [px, py] = [Math.floor(pick.x / by), Math.floor(pick.y / by)];
  if (px < 0 || py < 0 || px >= whole.w || py >= whole.h) return null;
  const likes = likenessTo(colourAt(seen, level, px, py, whole), pick.tolerance);
  const { w, h } = whole;
  const data = new Uint8Array(w * h);
  const across = Math.ceil(w / tileSide);
  const tile = (tx: number, ty: number): Rect =>
    intersect({ x: tx * tileSide, y: ty * tileSide, w: tileSide, h: tileSide }, whole);
  const read = (rect: Rect) => {
    const pixels = seen.region(level, rect);
    for (let y = 0; y < rect.h; y++)
      for (let x = 0, p = 4 * y * rect.w; x < rect.w; x++, p += 4)
        if (likes(pixels[p], pixels[p + 1], pixels[p + 2])) data[(rect.y + y) * w + rect.x + x] = 1;
  };
  if (pick.everywhere) {
    for (let ty = 0; ty * tileSide < h; ty++) for (let tx = 0; tx < across; tx++) read(tile(tx, ty));
    for (let i = 0; i < data.length; i++) if (data[i]) data[i] = 255;
  } else {
    const known = new Uint8Array(across * Math.ceil(h / tileSide));
    const stack: number[] = [];
    const enter = (x: number, y: number) => {
      if (x < 0 || y < 0 || x >= w || y >= h) return;
      const [tx, ty] = [Math.floor(x / tileSide), Math.floor(y / tileSide)];
      if (!known[ty * across + tx]) {
        known[ty * across + tx] = 1;
        read(tile(tx, ty));
      }
      if (data[y * w + x] !== 1) return;
      data[y * w + x] = 255;
      stack.push(y * w + x);
    };
    enter(px, py);
    for (let i = stack.pop(); i !== undefined; i = stack.pop()) {
      const x = i % w;
      const y = (i - x) / w;
      for (let dy = -1; dy <= 1; dy++) for (let dx = -1; dx <= 1; dx++) enter(x + dx, y + dy);
    }
    for (let i = 0; i < data.length; i++) if (data[i] === 1) data[i] = 0;
  }
  const { mask, x, y } = trimMask({ w, h, data });
  return { mask, x: x * by, y: y * by, w: mask.w * by, h: mask.h * by };
}

function colourAt(seen: Seen, level: number, x: number, y: number, whole: Rect): Float32Array {
  const rect = intersect({ x: x - 1, y: y - 1, w: 3, h: 3 }, whole);
  const pixels = isEmpty(rect) ? new Uint8ClampedArray(4) : seen.region(level, rect);
  const sum = new Float32Array(3);
  const lab = new Float32Array(3);
  const count = pixels.length / 4;
  for (let i = 0; i < count; i++) {
    writeLab(pixels[4 * i], pixels[4 * i + 1], pixels[4 * i + 2], lab, 0);
    for (let c = 0; c < 3; c++) sum[c] += lab[c] / count;
  }
  return sum;
}

/** How far colours of one cell of the table may lie apart, at most. */
const cellReach = 5;

/** Whether a colour is within a distance of another. */
function likenessTo(colour: Float32Array, tolerance: number): (r: number, g: number, b: number) => boolean {
  const lab = new Float32Array(3);
  const distance = (r: number, g: number, b: number): number => {
    writeLab(r, g, b, lab, 0);
    return Math.hypot(lab[0] - colour[0], lab[1] - colour[1], lab[2] - colour[2]);
  };
  // 0: not known yet, 1: all of the cell is alike, 2: none of it, 3: it depends.
  const cells = new Uint8Array(1 << 18);
  return (r, g, b) => {
    const cell = ((r >> 2) << 12) | ((g >> 2) << 6) | (b >> 2);
    let known = cells[cell];
    if (known === 0) {
      const middle = distance((r & 252) + 2, (g & 252) + 2, (b & 252) + 2);
      known = middle + cellReach <= tolerance ? 1 : middle - cellReach > tolerance ? 2 : 3;
      cells[cell] = known;
    }
    return known === 3 ? distance(r, g, b) <= tolerance : known === 1;
  };
}
