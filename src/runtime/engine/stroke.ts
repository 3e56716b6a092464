import { addStroke, boundsOfShape, type StrokeShape } from '../../core/area';
import { InvariantError } from '../../core/errors';
import type { DraftCoverage } from '../../core/evaluate';
import type { Mend } from '../../core/job';
import { blockSize, inBlocks, intersect, isEmpty, type Rect, tileKey } from '../../core/raster';

type Point = readonly [x: number, y: number, pressure: number];

/** A stroke while it is painted: its coverage grows by the newest segments only. */
export class Stroke implements DraftCoverage {
  revision = 0;
  private readonly blocks = new Map<number, Float32Array>();
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
    const known = this.shape.points;
    // A stroke begins with its first point twice: what that covers, it covers already.
    const added = points.filter((point, k) => !isSame(point, k > 0 ? points[k - 1] : known.at(-1)));
    const rose = [...this.untold];
    if (added.length > 0) {
      this.shape = { ...this.shape, points: [...known, ...added] };
      this.current = { ...this.current, area: { ...this.current.area, shapes: [this.shape] } };
      rose.push(...this.cover(Math.max(0, known.length - 1), this.shape));
    }
    this.untold = [];
    return inBlocks(rose);
  }

  coverage(rect: Rect, into: Float32Array): Float32Array {
    into.fill(0);
    for (const part of inBlocks([intersect(rect, this.bounds)])) {
      const { block, key } = blockAt(part);
      const covered = this.blocks.get(key);
      if (!covered) continue;
      for (let y = part.y; y < part.y + part.h; y++) {
        const i = (y - block.y) * block.w + part.x - block.x;
        into.set(covered.subarray(i, i + part.w), (y - rect.y) * rect.w + part.x - rect.x);
      }
    }
    return into;
  }

  private cover(first: number, shape: StrokeShape): Rect[] {
    this.revision++;
    const reach = intersect(boundsOfShape({ ...shape, points: shape.points.slice(first) }), this.bounds);
    const dirty: Rect[] = [];
    for (const part of inBlocks([reach])) {
      const { block, key } = blockAt(part);
      let covered = this.blocks.get(key);
      if (!covered) {
        covered = new Float32Array(block.w * block.h);
        this.blocks.set(key, covered);
      }
      const rose = addStroke(shape, first, part, block, covered);
      if (!isEmpty(rose)) dirty.push(rose);
    }
    return dirty;
  }
}

const isSame = (one: Point, other: Point | undefined): boolean =>
  other !== undefined && one.every((v, k) => v === other[k]);

/** The square of {@link blockSize} that a part lies in. */
function blockAt({ x, y }: Rect): { block: Rect; key: number } {
  const [bx, by] = [Math.floor(x / blockSize), Math.floor(y / blockSize)];
  const block = { x: bx * blockSize, y: by * blockSize, w: blockSize, h: blockSize };
  return { block, key: tileKey(bx, by) };
}
