import { addStroke, boundsOfShape, type StrokeShape } from '../../core/area';
import { InvariantError } from '../../core/errors';
import type { DraftCoverage } from '../../core/evaluate';
import type { Mend } from '../../core/job';
import { inBlocks, intersect, isEmpty, type Rect, tileOfKey, tileRect, tilesIn } from '../../core/raster';

type Point = readonly [x: number, y: number, pressure: number];

/** A stroke while it is painted: its coverage grows by the newest segments only. */
export class Stroke implements DraftCoverage {
  revision = 0;
  private readonly tiles = new Map<number, Float32Array>();
  private shape: StrokeShape;
  /** Where coverage rose that nobody was told of yet. */
  private untold: readonly Rect[];

  constructor(
    private current: Mend,
    private readonly bounds: Rect,
  ) {
    const [shape] = current.area.shapes;
    if (shape?.kind !== 'stroke') throw new InvariantError('A stroke needs a stroke shape.');
    this.shape = shape;
    this.untold = this.cover(0, shape);
  }

  get mendId(): string {
    return this.current.id;
  }

  get mend(): Mend {
    return this.current;
  }

  /** Adds points. @returns where coverage rose, in blocks */
  extend(points: readonly Point[]): Rect[] {
    const first = Math.max(0, this.shape.points.length - 1);
    this.shape = { ...this.shape, points: [...this.shape.points, ...points] };
    this.current = { ...this.current, area: { ...this.current.area, shapes: [this.shape] } };
    const rose = [...this.untold, ...this.cover(first, this.shape)];
    this.untold = [];
    return inBlocks(rose);
  }

  coverage(rect: Rect): Float32Array {
    const out = new Float32Array(rect.w * rect.h);
    for (const key of tilesIn(rect, this.bounds)) {
      const tile = this.tiles.get(key);
      if (!tile) continue;
      const { tx, ty } = tileOfKey(key);
      const whole = tileRect(tx, ty, this.bounds);
      const part = intersect(whole, rect);
      for (let y = part.y; y < part.y + part.h; y++) {
        const i = (y - whole.y) * whole.w + part.x - whole.x;
        out.set(tile.subarray(i, i + part.w), (y - rect.y) * rect.w + part.x - rect.x);
      }
    }
    return out;
  }

  private cover(first: number, shape: StrokeShape): Rect[] {
    this.revision++;
    const reach = intersect(boundsOfShape({ ...shape, points: shape.points.slice(first) }), this.bounds);
    const dirty: Rect[] = [];
    for (const key of tilesIn(reach, this.bounds)) {
      const { tx, ty } = tileOfKey(key);
      const whole = tileRect(tx, ty, this.bounds);
      let tile = this.tiles.get(key);
      if (!tile) {
        tile = new Float32Array(whole.w * whole.h);
        this.tiles.set(key, tile);
      }
      for (const part of inBlocks([intersect(whole, reach)])) {
        const rose = addStroke(shape, first, part, whole, tile);
        if (!isEmpty(rose)) dirty.push(rose);
      }
    }
    return dirty;
  }
}
