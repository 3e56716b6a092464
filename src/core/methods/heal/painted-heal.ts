import type { Mend } from '../../job/types';
import {
  contains,
  emptyRect,
  grow,
  intersect,
  isEmpty,
  partOfPlane,
  type Rect,
  shift,
  squaresOf,
  tileKey,
  unite,
} from '../../raster';
import { type MethodContext, type Patch, parameterOf, type UnderBrush } from '../definition';
import { coverWhere, placementOf, takeSource } from '../source';
import { texture, toneFit } from './parameters';
import { ToneGrid } from './tone-grid';

/** A brush is about so many cells of the grid wide, on which its tone is fitted. */
const cellsAcross = 40;
const mostSide = 8;
/** About how many pixels wide the squares are that are taken anew. */
const squarePx = 32;
/** How far round the newest dab tone is found anew, in radii of the brush. */
const solvedRadii = 0.6;
/** Tone that has changed by less since it was shown, of full scale, is not shown anew. */
const leastShown = 2 / 255;
/** When the stroke ends, for which there is more time. */
const leastSettled = 0.5 / 255;

/** A heal under the brush: tone is fitted on a {@link ToneGrid}, round the newest dab only, so that a step costs what the
 *  brush covers, however long the stroke has grown. */
export function paintedHeal(mend: Mend): UnderBrush | null {
  const [shape] = mend.area.shapes;
  if (shape?.kind !== 'stroke' || mend.stops.length > 0 || parameterOf(mend, texture) < 100) return null;
  return new PaintedHeal(shape.radiusPx);
}

class PaintedHeal implements UnderBrush {
  private readonly grid: ToneGrid;
  private all: Rect = emptyRect;
  private readonly squareSide: number;
  /** By square: how many of its pixels were covered when it was taken last. They only become more. */
  private readonly covered = new Map<number, number>();

  constructor(private readonly radiusPx: number) {
    this.grid = new ToneGrid(Math.min(mostSide, Math.max(1, Math.round((2 * radiusPx) / cellsAcross))));
    this.squareSide = this.grid.side * Math.ceil(squarePx / this.grid.side);
  }

  /** A soft brush raises coverage nearly everywhere, but tone hangs only on where there is any: in most squares nothing is new. */
  take(mend: Mend, part: Rect, context: MethodContext): void {
    const { squareSide: by, covered } = this;
    const [x, y] = [by * Math.floor(part.x / by), by * Math.floor(part.y / by)];
    const [right, bottom] = [by * Math.ceil((part.x + part.w) / by), by * Math.ceil((part.y + part.h) / by)];
    const whole = intersect({ x, y, w: right - x, h: bottom - y }, context.bounds);
    this.all = unite(this.all, whole);
    const coverage = context.coverage(whole);
    let anew = emptyRect;
    for (const square of squaresOf({ x, y, w: right - x, h: bottom - y }, by)) {
      const key = tileKey(square.x / by, square.y / by);
      const inPhoto = intersect(square, whole);
      const before = covered.get(key);
      if (before === inPhoto.w * inPhoto.h) continue;
      const count = coveredIn(coverage, whole, inPhoto);
      if (count === before) continue;
      covered.set(key, count);
      anew = unite(anew, inPhoto);
    }
    if (!isEmpty(anew)) this.takeAnew(mend, anew, partOfPlane(coverage, whole, anew), context);
  }

  private takeAnew(mend: Mend, part: Rect, coverage: Float32Array, context: MethodContext): void {
    if (coverage.every((v) => v > 0) && isWhollyThere(mend, part, context.bounds))
      return this.grid.takeCovered(part);
    const { image, valid } = takeSource(mend, part, context);
    this.grid.take(part, image, context.read(part), coverWhere(coverage, valid), valid);
  }

  spread(changed: readonly Rect[]): readonly Rect[] {
    const solved = grow(changed.reduce(unite, emptyRect), Math.ceil(solvedRadii * this.radiusPx));
    this.grid.solve(solved);
    const anew = [...changed, ...this.grid.changes(solved, leastShown)];
    for (const rect of changed) this.grid.markShown(rect);
    return anew.map((rect) => intersect(rect, this.all));
  }

  settle(): readonly Rect[] {
    this.grid.solveAll();
    return this.grid.changesInAll(leastSettled).map((rect) => intersect(rect, this.all));
  }

  patch(mend: Mend, output: Rect, context: MethodContext): Patch {
    const { image, valid } = takeSource(mend, output, context);
    const coverage = coverWhere(context.coverage(output), valid);
    this.grid.fit(image, coverage, valid, parameterOf(mend, toneFit) / 100);
    return { image: { rect: output, data: image.data }, coverage };
  }
}

/** How many pixels are covered in a part of a rectangle. */
function coveredIn(coverage: Float32Array, all: Rect, { x, y, w, h }: Rect): number {
  let count = 0;
  for (let v = y - all.y; v < y - all.y + h; v++)
    for (let i = v * all.w + x - all.x, end = i + w; i < end; i++) if (coverage[i] > 0) count++;
  return count;
}

/** Whether the source has pixels for all of a rectangle, as far as that is seen at once. */
function isWhollyThere(mend: Mend, rect: Rect, bounds: Rect): boolean {
  const placement = placementOf(mend);
  return placement.kind === 'shift' && contains(bounds, shift(rect, placement.dx, placement.dy));
}
