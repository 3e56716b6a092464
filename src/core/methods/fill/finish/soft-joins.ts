import { squaredDistance } from '../../../area';
import { type FloatImage, grow, intersect, type Rect } from '../../../raster';
import { role } from '../frame';
import { BlurPyramid } from './blur-pyramid';
import type { FilledPart } from './render';
import { SoftGround } from './soft-ground';

/** A window is looked at in so many pixels: where it has more, in a smaller picture, so that joins are softened from coarser octaves on. */
const mostPixels = 200_000;
/** Ground may be soft up to so many octaves: sixteen pixels. */
const octaves = 4;
/** A join is softened over so many times the width of what is soft, and as far from all that is sharp; nor is it at the rim, where tone
 *  was made to meet. */
const over = 2;
/** Colours that differ by no more are the same: an 8-bit step. */
const alike = 1 / 255;
/** Where less of what lies round about is soft, none of it is looked at more closely. */
const leastShare = 0.02;

/** Softens joins where the ground is out of focus: pieces that differ would meet there in an edge, such as the ground has none. What is
 *  coarser than anything that is sharp there runs from one piece into the other; what is finer, grain, stays each piece's own.
 *
 *  @param window  the photo; only sources are read
 *  @param roles   window.rect in size: {@link role}
 *  @param part    changed in place, near joins
 *  Cost: O(pixels of the window), where there is soft ground.
 *  Source: Burt & Adelson 1983, A Multiresolution Spline With Application to Image Mosaics, doi:10.1145/245.247, of the bands only in
 *  which there is nothing that would be seen twice.
 */
export function softenJoins(window: FloatImage, roles: Uint8Array, part: FilledPart): void {
  const { w: width, h: height } = window.rect;
  const halvings = Math.max(0, Math.ceil(Math.log2((width * height) / mostPixels) / 2));
  const by = 2 ** halvings;
  const rect = intersect(grow(part.image.rect, over * by * 2 ** octaves), window.rect);
  const { w, h } = rect;
  const { own, fromX, fromY, pixels, joined } = composed(window, roles, part, rect);
  const here = pyramidOf({ rect, data: pixels }, (i) => fromX[i] >= 0, by);
  if (new SoftGround(here).share < leastShare) return;
  const there = pyramidOf(window, (i) => roles[i] === role.source, by);
  const ground = new SoftGround(there);
  const cells = new Cells(w, h, by);
  const toJoin = cells.distances((i) => joined[i] > 0);
  const toRim = cells.distances((i) => own[i] === 0);
  const toSharp: Float32Array[] = [];
  for (let k = 1; k + 1 < Math.min(there.levels.length, here.levels.length); k++)
    toSharp[k] = cells.distances(
      (i) => fromX[i] < 0 || !ground.isSoft(k, fromX[i] >> halvings, fromY[i] >> halvings),
    );
  const { rect: box, data } = part.image;
  const [mixed, unmixed] = [new Float32Array(3), new Float32Array(3)];
  const place = (v: number) => (v + 0.5) / by - 0.5;
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      if (!own[i]) continue;
      const join = cells.at(toJoin, x, y);
      let k = toSharp.length - 1;
      while (k > 0 && !(join <= over * by * 2 ** k && cells.at(toSharp[k], x, y) > over * by * 2 ** k)) k--;
      if (k <= 0) continue;
      const isKnown =
        here.at(k + 1, place(x), place(y), mixed) &&
        there.at(k + 1, place(fromX[i]), place(fromY[i]), unmixed);
      if (!isKnown) continue;
      const from = 4 * (fromY[i] * width + fromX[i]);
      const reach = over * by * 2 ** k;
      const share = Math.min(1, 2 - (2 * join) / (reach + 1)) * Math.min(1, cells.at(toRim, x, y) / reach);
      const to = 4 * ((y + rect.y - box.y) * box.w + x + rect.x - box.x);
      for (let c = 0; c < 3; c++) {
        const wanted = mixed[c] + window.data[from + c] - unmixed[c];
        data[to + c] = Math.min(data[to + 3], Math.max(0, data[to + c] + share * (wanted - data[to + c])));
      }
    }
}

/** A picture in squares of so many pixels, as far off as which things are told. */
class Cells {
  private readonly across: number;
  private readonly down: number;

  constructor(
    private readonly w: number,
    private readonly h: number,
    private readonly by: number,
  ) {
    this.across = Math.ceil(w / by);
    this.down = Math.ceil(h / by);
  }

  /** How far each cell lies from those that hold a pixel of some kind, in pixels. */
  distances(isOne: (i: number) => boolean): Float32Array {
    const { w, h, by, across, down } = this;
    const set = new Uint8Array(across * down);
    for (let y = 0, i = 0; y < h; y++) {
      const row = Math.floor(y / by) * across;
      for (let x = 0; x < w; x++, i++) {
        const cell = row + Math.floor(x / by);
        if (!set[cell] && isOne(i)) set[cell] = 1;
      }
    }
    return squaredDistance(set, across, down).map((v) => by * Math.sqrt(v));
  }

  /** A cell's value at a pixel, between the middles of cells in proportion. */
  at(values: Float32Array, x: number, y: number): number {
    if (this.by === 1) return values[y * this.w + x];
    const u = Math.min(this.across - 1, Math.max(0, (x + 0.5) / this.by - 0.5));
    const v = Math.min(this.down - 1, Math.max(0, (y + 0.5) / this.by - 0.5));
    const [left, top] = [Math.floor(u), Math.floor(v)];
    const [right, below] = [Math.min(this.across - 1, left + 1), Math.min(this.down - 1, top + 1)];
    const [s, t] = [u - left, v - top];
    const [a, b] = [top * this.across, below * this.across];
    return (
      (1 - t) * ((1 - s) * values[a + left] + s * values[a + right]) +
      t * ((1 - s) * values[b + left] + s * values[b + right])
    );
  }
}

/** Of a picture made smaller by a whole factor. @param isKnown  whether a pixel is to be looked at */
function pyramidOf({ rect, data }: FloatImage, isKnown: (i: number) => boolean, by: number): BlurPyramid {
  const [w, h] = [Math.ceil(rect.w / by), Math.ceil(rect.h / by)];
  const pixels = new Float32Array(4 * w * h);
  const share = 1 / by ** 2;
  for (let y = 0, i = 0; y < rect.h; y++) {
    const row = Math.floor(y / by) * w;
    for (let x = 0; x < rect.w; x++, i++) {
      if (!isKnown(i)) continue;
      const to = 4 * (row + Math.floor(x / by));
      for (let c = 0; c < 3; c++) pixels[to + c] += share * data[4 * i + c];
      pixels[to + 3] += share;
    }
  }
  return new BlurPyramid(pixels, w, h, octaves + 1);
}

/** The photo with the part in it, what is the part's own, from where in the window each is (−1: from nowhere that may be looked at),
 *  and where pieces join. */
function composed(window: FloatImage, roles: Uint8Array, { image, origin }: FilledPart, rect: Rect) {
  const { w, h } = rect;
  const own = new Uint8Array(w * h);
  const joined = new Uint8Array(w * h);
  const pixels = new Float32Array(4 * w * h);
  const [fromX, fromY] = [new Int32Array(w * h).fill(-1), new Int32Array(w * h).fill(-1)];
  const { rect: box } = image;
  const { rect: all } = window;
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const u = rect.x + x - box.x;
      const v = rect.y + y - box.y;
      const q = u >= 0 && v >= 0 && u < box.w && v < box.h ? v * box.w + u : -1;
      const p = (rect.y + y - all.y) * all.w + rect.x + x - all.x;
      if (q >= 0 && !Number.isNaN(origin[2 * q])) {
        own[i] = 1;
        const ox = Math.round(origin[2 * q]) - all.x;
        const oy = Math.round(origin[2 * q + 1]) - all.y;
        if (ox >= 0 && oy >= 0 && ox < all.w && oy < all.h) {
          fromX[i] = ox;
          fromY[i] = oy;
        }
        for (let c = 0; c < 4; c++) pixels[4 * i + c] = image.data[4 * q + c];
      } else {
        if (roles[p] === role.source) {
          fromX[i] = rect.x + x - all.x;
          fromY[i] = rect.y + y - all.y;
        }
        for (let c = 0; c < 4; c++) pixels[4 * i + c] = window.data[4 * p + c];
      }
    }
  // Pieces that go on alike do not join.
  const differs = (i: number, j: number, right: number, down: number): boolean => {
    if (!own[i] || !own[j] || (fromX[j] - fromX[i] === right && fromY[j] - fromY[i] === down)) return false;
    const [x, y] = [fromX[i] + right, fromY[i] + down];
    if (fromX[i] < 0 || fromX[j] < 0 || x >= all.w || y >= all.h) return true;
    const [on, there] = [4 * (y * all.w + x), 4 * (fromY[j] * all.w + fromX[j])];
    for (let c = 0; c < 3; c++)
      if (Math.abs(window.data[on + c] - window.data[there + c]) > alike) return true;
    return false;
  };
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      if (x + 1 < w && differs(i, i + 1, 1, 0)) joined[i] = joined[i + 1] = 1;
      if (y + 1 < h && differs(i, i + w, 0, 1)) joined[i] = joined[i + w] = 1;
    }
  return { own, fromX, fromY, pixels, joined };
}
