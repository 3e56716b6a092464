import type { Mend } from '../job/types';
import {
  contains,
  copyFloat,
  emptyRect,
  type FloatImage,
  intersect,
  makeFloatImage,
  type Raster,
  type Rect,
  readPixel,
  readRaster,
  tileKey,
  tileSize,
  tilesIn,
} from '../raster';
import type { LruCache } from './lru-cache';
import { type Plan, rectOfTile } from './plan';

/** What makes the pictures that are read. */
export interface Pictures {
  plan(): Plan;
  /** A tile after the steps before a position; null when that is the photo itself. Not to be changed. */
  tileAt(tile: number, position: number): FloatImage | null;
  /** Takes a tile through some steps alone, as if the layers of the others were hidden; changed in place. */
  through(steps: readonly number[], tile: number, image: FloatImage): void;
}

/** What mends and the screen read: the photo, or the picture at some height of the stack. */
export class Reading {
  constructor(
    private readonly photo: Raster,
    private readonly bounds: Rect,
    private readonly pictures: Pictures,
    /** Where the photo's own tiles are kept while something moves. */
    private readonly tiles: LruCache<FloatImage>,
  ) {}

  /** What a mend sees below it, or the photo if that is what it reads. Also for a mend that the job does not hold
   *  (yet): then on top of everything. */
  input(mend: Mend, rect: Rect, make = makeFloatImage): FloatImage {
    if (mend.reads === 'photo') return this.ofPhoto(rect);
    const position = this.pictures.plan().positionOf(mend.id);
    return mend.reads === 'below' ? this.at(position, rect, make) : this.ofLayers(mend, rect, position);
  }

  /** {@link input} of some pixels of a rectangle within the photo, numbered row by row: four numbers each. */
  inputAlong(mend: Mend, rect: Rect, pixels: Int32Array): Float32Array {
    const out = new Float32Array(4 * pixels.length);
    const tiles = new Map<number, FloatImage | null>();
    for (let k = 0; k < pixels.length; k++) {
      const x = rect.x + (pixels[k] % rect.w);
      const y = rect.y + Math.floor(pixels[k] / rect.w);
      const key = tileKey(Math.floor(x / tileSize), Math.floor(y / tileSize));
      let tile = tiles.get(key);
      if (tile === undefined) {
        tile = this.inputTile(mend, key);
        tiles.set(key, tile);
      }
      if (tile) {
        const from = 4 * ((y - tile.rect.y) * tile.rect.w + x - tile.rect.x);
        for (let c = 0; c < 4; c++) out[4 * k + c] = tile.data[from + c];
      } else readPixel(this.photo, x, y, out, 4 * k);
    }
    return out;
  }

  /** What a mend sees of a tile; null: the photo itself. Not to be changed. */
  private inputTile(mend: Mend, tile: number): FloatImage | null {
    if (mend.reads === 'photo') return null;
    const plan = this.pictures.plan();
    const position = plan.positionOf(mend.id);
    if (mend.reads === 'below') return this.pictures.tileAt(tile, position);
    if (plan.stepsRead(mend, tile, position).length === 0) return null;
    return this.ofLayers(mend, rectOfTile(tile, this.bounds), position);
  }

  ofPhoto(rect: Rect): FloatImage {
    const image = makeFloatImage(rect);
    readRaster(this.photo, rect, image);
    return image;
  }

  /** The picture after the steps before a position. */
  at(position: number, rect: Rect, make = makeFloatImage): FloatImage {
    const out = make(rect);
    if (!contains(this.bounds, rect)) out.data.fill(0);
    // Tiles side by side that hold nothing but the photo are read together.
    let plain = emptyRect;
    for (const key of tilesIn(rect, this.bounds)) {
      const part = intersect(rectOfTile(key, this.bounds), rect);
      const tile = this.pictures.tileAt(key, position) ?? this.photoTile(key);
      if (tile) copyFloat(tile, out, part);
      else if (plain.h === part.h && plain.y === part.y && plain.x + plain.w === part.x)
        plain = { ...plain, w: plain.w + part.w };
      else {
        readRaster(this.photo, plain, out);
        plain = part;
      }
    }
    readRaster(this.photo, plain, out);
    return out;
  }

  /** Reads a part of the photo, within one tile, into an image. */
  photoInto(tile: number, image: FloatImage): void {
    const known = this.photoTile(tile);
    if (known) copyFloat(known, image);
    else readRaster(this.photo, image.rect, image);
  }

  /** The photo's own pixels of a tile as floats: kept while something moves, which reads the same ones each time. */
  photoTile(tile: number): FloatImage | null {
    const plan = this.pictures.plan();
    if (!plan.isMoving) return null;
    const key = plan.keyAtDepth(tile, 0);
    const known = this.tiles.get(key);
    if (known) return known;
    const image = this.ofPhoto(rectOfTile(tile, this.bounds));
    this.tiles.set(key, image, image.data.byteLength);
    return image;
  }

  /** The photo with the mends of some layers below a position, as if the other layers were hidden. */
  private ofLayers(mend: Mend, rect: Rect, position: number): FloatImage {
    const out = makeFloatImage(rect);
    for (const tile of tilesIn(rect, this.bounds)) {
      const part = intersect(rectOfTile(tile, this.bounds), rect);
      const steps = this.pictures.plan().stepsRead(mend, tile, position);
      if (steps.length === 0) {
        readRaster(this.photo, part, out);
        continue;
      }
      const image = this.ofPhoto(rectOfTile(tile, this.bounds));
      this.pictures.through(steps, tile, image);
      copyFloat(image, out, part);
    }
    return out;
  }
}
