import { type Evaluator, LruCache } from '../../core/evaluate';
import { contentKey } from '../../core/random';
import {
  buildPyramid,
  type FloatImage,
  halve,
  halveInto,
  intersect,
  isEmpty,
  makeRaster,
  quantise,
  type Raster,
  type Rect,
  tileKey,
  tileOfKey,
  tileRect,
  tileSize,
  tilesIn,
} from '../../core/raster';
import type { Side, TilePixels, TileRequest } from './protocol';

interface Shown {
  readonly key: string;
  readonly raster: Raster;
}

/** Tiles for the screen: 8-bit, at every halving of the photo. Built from the evaluator's pixels only where mends lie;
 *  elsewhere the photo's own pyramid serves. */
export class Display {
  readonly pyramid: Raster[];
  private readonly shown = new LruCache<Shown>(32 << 20);

  constructor(
    photo: Raster,
    private readonly evaluator: Evaluator,
  ) {
    this.pyramid = buildPyramid(photo.depth === 8 ? photo : toEight(photo));
  }

  tile({ side, level, tile, have }: TileRequest): TilePixels {
    const rect = this.rectOf(level, tile);
    const key = side === 'before' ? 'photo' : this.keyOf(level, tile);
    if (have === key) return { side, level, tile, key, rect, data: null };
    const raster = key === 'photo' ? null : this.shownTile(level, tile, key);
    const data = raster ? bytesOf(raster) : cut(this.pyramid[level], rect);
    return { side, level, tile, key, rect, data };
  }

  /** What a document rectangle shows at one level while a stroke is painted over it, as parts of tiles. Nothing of it is
   *  kept, since it changes at once again. @param part  pixels of a part of a level-0 tile */
  refresh(docRect: Rect, level: number, part: (tile: number, rect: Rect) => FloatImage): TilePixels[] {
    const { bounds } = this.evaluator;
    const side = 2 ** level;
    const x = Math.floor(docRect.x / side) * side;
    const y = Math.floor(docRect.y / side) * side;
    const w = Math.ceil((docRect.x + docRect.w) / side) * side - x;
    const h = Math.ceil((docRect.y + docRect.h) / side) * side - y;
    // On the grid of the level, so that halving the part gives what halving the whole would.
    const aligned = intersect({ x, y, w, h }, bounds);
    if (isEmpty(docRect) || isEmpty(aligned)) return [];
    let raster = makeRaster(aligned.w, aligned.h, 4, 8);
    for (const tile of tilesIn(aligned, bounds)) {
      const { tx, ty } = tileOfKey(tile);
      const rect = intersect(tileRect(tx, ty, bounds), aligned);
      quantise(part(tile, rect), rect, raster, aligned);
    }
    for (let l = 0; l < level; l++) raster = halve(raster);
    const shown = { x: aligned.x / side, y: aligned.y / side, w: raster.width, h: raster.height };
    return this.tilesMeeting(level, shown).map((tile) => {
      const rect = intersect(this.rectOf(level, tile), shown);
      const isAll = rect.w === shown.w && rect.h === shown.h;
      const local = { x: rect.x - shown.x, y: rect.y - shown.y, w: rect.w, h: rect.h };
      return {
        side: 'after',
        level,
        tile,
        key: 'stroke',
        rect,
        data: isAll ? new Uint8ClampedArray(raster.data.buffer as ArrayBuffer) : cut(raster, local),
      };
    });
  }

  /** Any rectangle of a level, put together from its tiles. */
  region(side: Side, level: number, rect: Rect): Uint8ClampedArray<ArrayBuffer> {
    const out = new Uint8ClampedArray(rect.w * rect.h * 4);
    for (const tile of this.tilesMeeting(level, rect)) {
      const shown = this.tile({ side, level, tile, have: null });
      const part = intersect(shown.rect, rect);
      for (let y = part.y; y < part.y + part.h; y++) {
        const s = ((y - shown.rect.y) * shown.rect.w + part.x - shown.rect.x) * 4;
        out.set(shown.data!.subarray(s, s + part.w * 4), ((y - rect.y) * rect.w + part.x - rect.x) * 4);
      }
    }
    return out;
  }

  private rectOf(level: number, tile: number): Rect {
    const { tx, ty } = tileOfKey(tile);
    const { width, height } = this.pyramid[level];
    return intersect(
      { x: tx * tileSize, y: ty * tileSize, w: tileSize, h: tileSize },
      { x: 0, y: 0, w: width, h: height },
    );
  }

  private tilesMeeting(level: number, rect: Rect): number[] {
    const { width, height } = this.pyramid[level];
    const r = intersect(rect, { x: 0, y: 0, w: width, h: height });
    const out: number[] = [];
    if (isEmpty(r)) return out;
    for (let ty = Math.floor(r.y / tileSize); ty * tileSize < r.y + r.h; ty++)
      for (let tx = Math.floor(r.x / tileSize); tx * tileSize < r.x + r.w; tx++) out.push(tileKey(tx, ty));
    return out;
  }

  private docRectOf(level: number, tile: number): Rect {
    const { tx, ty } = tileOfKey(tile);
    const side = tileSize * 2 ** level;
    return intersect({ x: tx * side, y: ty * side, w: side, h: side }, this.evaluator.bounds);
  }

  private keyOf(level: number, tile: number): string {
    const rect = this.docRectOf(level, tile);
    if (this.evaluator.untouched(rect)) return 'photo';
    if (level === 0) return this.evaluator.pictureKey(tile);
    return contentKey(
      this.childrenOf(level, tile)
        .map((child) => this.keyOf(level - 1, child))
        .join(),
    );
  }

  private childrenOf(level: number, tile: number): number[] {
    const { x, y, w, h } = this.rectOf(level, tile);
    return this.tilesMeeting(level - 1, { x: 2 * x, y: 2 * y, w: 2 * w, h: 2 * h });
  }

  private shownTile(level: number, tile: number, key: string): Raster {
    const at = `${level}:${tile}`;
    const kept = this.shown.get(at);
    if (kept?.key === key) return kept.raster;
    const rect = this.rectOf(level, tile);
    const raster = makeRaster(rect.w, rect.h, 4, 8);
    if (level === 0) this.quantiseTile(tile, rect, raster);
    else this.halveFrom(level, rect, rect, raster);
    this.shown.set(at, { key, raster }, raster.data.byteLength);
    return raster;
  }

  private quantiseTile(tile: number, rect: Rect, into: Raster): void {
    const { evaluator } = this;
    const part = evaluator.draggedPart(tile);
    if (!part) return quantise(evaluator.pictureTile(tile) ?? evaluator.picture(rect), rect, into, rect);
    // Of what is dragged only its own part is computed in each frame.
    const below = evaluator.belowDragged(tile);
    const at = `below:${tile}`;
    let kept = this.shown.get(at);
    if (kept?.key !== below.key) {
      kept = { key: below.key, raster: makeRaster(rect.w, rect.h, 4, 8) };
      quantise(below.picture(), rect, kept.raster, rect);
      this.shown.set(at, kept, kept.raster.data.byteLength);
    }
    into.data.set(kept.raster.data);
    quantise(evaluator.pictureOfDragged(tile, part), part, into, rect);
  }

  /** Computes a part of a tile from the tiles one level below. */
  private halveFrom(level: number, origin: Rect, part: Rect, into: Raster): void {
    const below = this.pyramid[level - 1];
    const wide = intersect(
      { x: 2 * part.x, y: 2 * part.y, w: 2 * part.w, h: 2 * part.h },
      { x: 0, y: 0, w: below.width, h: below.height },
    );
    const source = makeRaster(wide.w, wide.h, 4, 8);
    for (const child of this.tilesMeeting(level - 1, wide)) {
      const rect = this.rectOf(level - 1, child);
      const key = this.keyOf(level - 1, child);
      const raster = key === 'photo' ? below : this.shownTile(level - 1, child, key);
      const from = key === 'photo' ? { x: 0, y: 0 } : rect;
      const at = intersect(rect, wide);
      for (let y = at.y; y < at.y + at.h; y++) {
        const s = ((y - from.y) * raster.width + at.x - from.x) * 4;
        source.data.set(raster.data.subarray(s, s + at.w * 4), ((y - wide.y) * wide.w + at.x - wide.x) * 4);
      }
    }
    const half = makeRaster(part.w, part.h, 4, 8);
    halveInto(source, half, 0, part.h);
    for (let y = 0; y < part.h; y++)
      into.data.set(
        half.data.subarray(y * part.w * 4, (y + 1) * part.w * 4),
        ((part.y - origin.y + y) * into.width + part.x - origin.x) * 4,
      );
  }
}

function bytesOf(raster: Raster): Uint8ClampedArray<ArrayBuffer> {
  const out = new Uint8ClampedArray(raster.data.length);
  out.set(raster.data);
  return out;
}

/** A rectangle of a raster, copied. */
function cut(raster: Raster, rect: Rect): Uint8ClampedArray<ArrayBuffer> {
  const out = new Uint8ClampedArray(rect.w * rect.h * 4);
  for (let y = 0; y < rect.h; y++) {
    const s = ((rect.y + y) * raster.width + rect.x) * 4;
    out.set(raster.data.subarray(s, s + rect.w * 4), y * rect.w * 4);
  }
  return out;
}

function toEight(photo: Raster): Raster {
  const out = makeRaster(photo.width, photo.height, 4, 8);
  for (let i = 0; i < out.data.length; i++) out.data[i] = Math.round(photo.data[i] / 257);
  return out;
}
