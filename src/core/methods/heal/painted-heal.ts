import type { Mend } from '../../job/types';
import { contains, emptyRect, grow, intersect, type Rect, shift, unite } from '../../raster';
import { type MethodContext, type Patch, parameterOf, type UnderBrush } from '../definition';
import { coverWhere, placementOf, takeSource } from '../source';
import { texture, toneFit } from './parameters';
import { ToneGrid } from './tone-grid';

/** A brush is about so many cells of the grid wide, on which its tone is fitted. */
const cellsAcross = 40;
const mostSide = 8;
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

  constructor(private readonly radiusPx: number) {
    this.grid = new ToneGrid(Math.min(mostSide, Math.max(1, Math.round((2 * radiusPx) / cellsAcross))));
  }

  take(mend: Mend, part: Rect, context: MethodContext): void {
    const taken = intersect(this.grid.wholeCells(part), context.bounds);
    this.all = unite(this.all, taken);
    const coverage = context.coverage(taken);
    // What is told in each step lies in small blocks: squares within these would take longer to read than they save.
    if (coverage.every((v) => v > 0) && isWhollyThere(mend, taken, context.bounds))
      return this.grid.takeCovered(taken);
    const { image, valid } = takeSource(mend, taken, context);
    this.grid.take(taken, image, context.read(taken), coverWhere(coverage, valid), valid);
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

/** Whether the source has pixels for all of a rectangle, as far as that is seen at once. */
function isWhollyThere(mend: Mend, rect: Rect, bounds: Rect): boolean {
  const placement = placementOf(mend);
  return placement.kind === 'shift' && contains(bounds, shift(rect, placement.dx, placement.dy));
}
