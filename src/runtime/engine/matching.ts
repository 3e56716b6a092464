import { offRail } from '../../core/geometry';
import type { Mend, SourceShift } from '../../core/job';
import {
  bestShifts,
  type MatchFigures,
  makeSourceMap,
  matchFigures,
  type Overview,
  type SourceMap,
} from '../../core/match';
import type { MethodContext } from '../../core/methods';
import { methods, pickedPaint, sourcesFor, takeSource } from '../../core/methods';
import { type FloatImage, intersect, isEmpty, type Raster, type Rect } from '../../core/raster';

/** The longest side of a source map, in cells, and the area beyond which figures are not worth the wait. */
const mapSide = 420;
const mostFigurePixels = 1_500_000;
/** Places from a source map that are compared in full. */
const mapCandidates = 24;

/** What the interface asks about sources: how well one matches, where better ones lie. */
export class Matching {
  private overviews: Overview | null = null;

  /** @param pyramid  the photo, 8-bit, at every halving */
  constructor(private readonly pyramid: readonly Raster[]) {}

  figures(mend: Mend, context: MethodContext): MatchFigures | null {
    const spot = methods.heal.affectedOutput(mend, context.bounds);
    if (isEmpty(spot) || spot.w * spot.h > mostFigurePixels) return null;
    const wide = intersect({ x: spot.x - 2, y: spot.y - 2, w: spot.w + 4, h: spot.h + 4 }, context.bounds);
    const { image, valid } = takeSource(mend, wide, context);
    return matchFigures(context.read(wide), { ...image, rect: wide }, context.coverage(wide), valid);
  }

  map(mend: Mend, context: MethodContext): SourceMap {
    const spot = methods.heal.affectedOutput(mend, context.bounds);
    const coverage = context.coverage(spot);
    const covered = (x: number, y: number) => {
      const [u, v] = [Math.floor(x) - spot.x, Math.floor(y) - spot.y];
      return u >= 0 && v >= 0 && u < spot.w && v < spot.h && coverage[v * spot.w + u] > 0;
    };
    const { rail } = mend.steer;
    const overview = this.overview();
    const may = mayAt(overview, context);
    const [mx, my] = [spot.x + spot.w / 2, spot.y + spot.h / 2];
    return makeSourceMap(overview, spot, covered, (shift) => {
      if (rail && offRail(rail, shift) > Math.max(rail.slackPx, overview.scale)) return false;
      return may(mx + shift.dx, my + shift.dy);
    });
  }

  sources(mend: Mend, context: MethodContext): SourceShift[] {
    // A tap is for specks and must answer at once: what lies round it serves.
    if (mend.method === 'tap') return sourcesFor(mend, context);
    const map = this.map(mend, context);
    const spot = methods.heal.affectedOutput(mend, context.bounds);
    return sourcesFor(mend, context, bestShifts(map, Math.max(spot.w, spot.h) / 3, mapCandidates));
  }

  paint(
    read: (rect: Rect) => FloatImage,
    bounds: Rect,
    x: number,
    y: number,
    radius: number,
  ): Record<string, number> {
    const r = Math.max(2, Math.min(24, Math.round(radius)));
    const rect = intersect(
      { x: Math.round(x) - r, y: Math.round(y) - r, w: 2 * r + 1, h: 2 * r + 1 },
      bounds,
    );
    return pickedPaint(read(rect));
  }

  private overview(): Overview {
    if (this.overviews) return this.overviews;
    let level = 0;
    const side = (r: Raster) => Math.max(r.width, r.height);
    while (level < this.pyramid.length - 1 && side(this.pyramid[level]) > mapSide) level++;
    const { width: w, height: h, data } = this.pyramid[level];
    const fine = Math.max(0, Math.min(level - 1, 1));
    this.overviews = {
      w,
      h,
      data: new Uint8ClampedArray(data),
      detail: detailOf(this.pyramid[fine], 2 ** (level - fine), w, h),
      scale: 2 ** level,
    };
    return this.overviews;
  }
}

/** Mean |Laplacian| of green within blocks. */
function detailOf({ width, height, data }: Raster, side: number, w: number, h: number): Float32Array {
  const out = new Float32Array(w * h);
  const row = 4 * width;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let sum = 0;
      let count = 0;
      for (let v = Math.max(1, y * side); v < Math.min(height - 1, (y + 1) * side); v++)
        for (let u = Math.max(1, x * side); u < Math.min(width - 1, (x + 1) * side); u++) {
          const i = v * row + 4 * u + 1;
          sum += Math.abs(4 * data[i] - data[i - 4] - data[i + 4] - data[i - row] - data[i + row]);
          count++;
        }
      out[y * w + x] = count > 0 ? sum / count : 0;
    }
  return out;
}

/** Whether a document point may be drawn from, looked up cell by cell. */
function mayAt({ w, h, scale }: Overview, context: MethodContext): (x: number, y: number) => boolean {
  const cells = new Map<number, boolean>();
  return (x, y) => {
    const [u, v] = [Math.floor(x / scale), Math.floor(y / scale)];
    if (u < 0 || v < 0 || u >= w || v >= h) return false;
    const key = v * w + u;
    let may = cells.get(key);
    if (may === undefined) {
      const at = intersect({ x: Math.floor(x), y: Math.floor(y), w: 1, h: 1 }, context.bounds);
      may = !isEmpty(at) && context.mayDraw(at)?.includes(0) !== true;
      cells.set(key, may);
    }
    return may;
  };
}
