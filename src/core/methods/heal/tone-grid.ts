import {
  type FloatImage,
  grow,
  intersect,
  isEmpty,
  mostAtOnce,
  type Rect,
  rows,
  rowsOf,
  squaresOf,
} from '../../raster';
import { point, solveMembrane } from '../../solve';
import { ToneCells } from './tone-cells';

/** Tone is taken in squares of about so many pixels: within an area most are covered all over, and say nothing about it. */
const takenPx = 32;

/** A square as a grid takes it; each of the same pixels. */
export interface ToneSquare {
  readonly source: FloatImage;
  readonly target: FloatImage;
  readonly coverage: Float32Array;
  readonly valid: Uint8Array | null;
}

/** What a source lacks in tone, on a grid coarser than the picture: near enough to be looked at while something moves.
 *
 *  A cell that holds uncovered pixels is fixed to their mean difference, one that is covered all through is free, and the membrane
 *  is spread over the free ones. Cells lie at whole multiples of their side on the photo, so that parts may be taken one
 *  after the other. The exact field: fit-tone.ts.
 */
export class ToneGrid {
  private readonly cells = new ToneCells();

  /** @param side  of a cell, in pixels, 1 or more */
  constructor(readonly side: number) {}

  /** Takes anew what lies in all cells that a rectangle touches.
   *  @param part  document pixels; source and target, coverage and valid hold all of these cells that lies in the photo
   *  @param valid  1 where the source has pixels; null: everywhere */
  take(
    part: Rect,
    source: FloatImage,
    target: FloatImage,
    coverage: Float32Array,
    valid: Uint8Array | null,
  ): void {
    const cells = this.cellsOf(part);
    // With those beside, which pixels near the edge are mixed from too.
    this.cells.keep(grow(cells, 1));
    const at = intersect(this.pixelsOf(cells), source.rect);
    // So many that their pixels are one row to the kernel.
    const most = Math.floor(mostAtOnce / this.side);
    for (let y = cells.y; y < cells.y + cells.h; y++)
      for (let x = cells.x; x < cells.x + cells.w; x += most)
        this.takeCells(
          { x, y, w: Math.min(most, cells.x + cells.w - x), h: 1 },
          at,
          source,
          target,
          coverage,
          valid,
        );
  }

  /** {@link take} of a rectangle, square by square; what is covered all over is not read. Cells that it touches hold nothing else.
   *  @param coverage  of the rectangle; null: all of it must be read */
  takeInSquares(part: Rect, coverage: Float32Array | null, read: (square: Rect) => ToneSquare): void {
    const squareSide = this.side * Math.ceil(takenPx / this.side);
    for (const cells of squaresOf(this.wholeCells(part), squareSide)) {
      const square = intersect(cells, part);
      if (coverage && isCovered(coverage, part, square)) this.takeCovered(square);
      else {
        const { source, target, coverage, valid } = read(square);
        this.take(square, source, target, coverage, valid);
      }
    }
  }

  /** {@link take} for what is covered all over: no pixel of it says anything about tone. */
  takeCovered(part: Rect): void {
    const cells = this.cellsOf(part);
    this.cells.keep(grow(cells, 1));
    this.cells.each(cells, ({ kind }, at, _, count) => kind.fill(point.free, at, at + count));
  }

  /** Takes anew what lies in some cells of one row. @param at  the pixels that there are */
  private takeCells(
    cells: Rect,
    at: Rect,
    source: FloatImage,
    target: FloatImage,
    coverage: Float32Array,
    valid: Uint8Array | null,
  ): void {
    const { side } = this;
    const r = rows();
    r.counts.fill(0, 0, cells.w);
    r.covered.fill(0, 0, cells.w);
    r.cells.fill(0, 0, 4 * cells.w);
    const part = intersect(this.pixelsOf(cells), at);
    for (let k = 0; k < part.w; k++) r.across[k] = Math.floor((part.x + k) / side) - cells.x;
    for (const { x, y, w, h } of rowsOf(part, source.rect)) {
      const [i, end] = handOver({ x, y, w, h }, source, coverage, valid);
      r.others.set(target.data.subarray(4 * i, 4 * end));
      r.kernel.gather(
        r.pixels.byteOffset,
        r.others.byteOffset,
        r.coverage.byteOffset,
        valid ? r.valid.byteOffset : 0,
        w,
        h,
        r.across.byteOffset,
        r.counts.byteOffset,
        r.covered.byteOffset,
        r.cells.byteOffset,
      );
    }
    this.cells.each(cells, ({ kind, values }, at, from, count) => {
      for (let k = 0; k < count; k++) {
        const [cell, x] = [at + k, from + k];
        const pixels = r.counts[x];
        kind[cell] = pixels > 0 ? point.fixed : r.covered[x] ? point.free : point.away;
        // What is free keeps what it has until it is found anew.
        if (pixels > 0) for (let c = 0; c < 3; c++) values[4 * cell + c] = r.cells[4 * x + c] / pixels;
      }
    });
  }

  /** Spreads the membrane anew over the free cells within a rectangle; those beyond it keep what they have.
   *  @param part  document pixels */
  solve(part: Rect): void {
    const window = grow(this.cellsOf(part), 1);
    const { w, h } = window;
    if (isEmpty(window)) return;
    const { kind, values } = this.cells.read(window);
    if (!kind.includes(point.free)) return;
    const wasFree = kind.slice();
    // Where the covered part goes on beyond, what was found there before holds.
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x += y === 0 || y === h - 1 ? 1 : Math.max(1, w - 1))
        if (kind[y * w + x] === point.free) kind[y * w + x] = point.fixed;
    solveMembrane(w, h, kind, values);
    fillAway(wasFree, values, w, h);
    this.cells.each(window, (block, at, from, count) => {
      block.values.set(values.subarray(4 * from, 4 * (from + count)), 4 * at);
    });
  }

  /** Spreads the membrane anew everywhere, part by part: each holds to what the one before found. */
  solveAll(): void {
    for (const cells of this.cells.kept()) this.solve(this.pixelsOf(grow(cells, cells.w >> 2)));
  }

  /** Where, within a rectangle, the field of covered cells differs by more than a limit from what was shown; that counts as
   *  shown from then on. In document pixels. */
  changes(part: Rect, limit: number): Rect[] {
    const cells = this.cellsOf(part);
    const out: Rect[] = [];
    this.cells.each(cells, ({ kind, values, shown }, at, from, count) => {
      const isChanged = (cell: number) =>
        kind[cell] === point.free &&
        (Math.abs(values[4 * cell] - shown[4 * cell]) > limit ||
          Math.abs(values[4 * cell + 1] - shown[4 * cell + 1]) > limit ||
          Math.abs(values[4 * cell + 2] - shown[4 * cell + 2]) > limit);
      for (let k = 0; k < count; k++) {
        if (!isChanged(at + k)) continue;
        const first = k;
        while (k < count && isChanged(at + k)) k++;
        const x = cells.x + (from % cells.w) + first;
        const y = cells.y + Math.floor(from / cells.w);
        // Pixels are mixed from cells half a cell away.
        out.push(grow(this.pixelsOf({ x, y, w: k - first, h: 1 }), this.side >> 1));
        shown.set(values.subarray(4 * (at + first), 4 * (at + k)), 4 * (at + first));
      }
    });
    return out;
  }

  /** {@link changes} of all that was taken. */
  changesInAll(limit: number): Rect[] {
    return this.cells.kept().flatMap((cells) => this.changes(this.pixelsOf(cells), limit));
  }

  /** @param part  document pixels that are shown with the field as it is now */
  markShown(part: Rect): void {
    this.cells.each(this.cellsOf(part), ({ values, shown }, at, _, count) => {
      shown.set(values.subarray(4 * at, 4 * (at + count)), 4 * at);
    });
  }

  /** Adds the field to covered pixels of a source, brought from the grid by bilinear interpolation.
   *  @param tone  share of it, 0…1 */
  fit(source: FloatImage, coverage: Float32Array, valid: Uint8Array | null, tone: number): void {
    for (const some of rowsOf(source.rect, source.rect)) this.fitRows(some, source, coverage, valid, tone);
  }

  private fitRows(
    { x, y, w, h }: Rect,
    source: FloatImage,
    coverage: Float32Array,
    valid: Uint8Array | null,
    tone: number,
  ): void {
    const { side } = this;
    const r = rows();
    const [left, right] = between(x, w, side, r.across, r.right);
    const [top, bottom] = between(y, h, side, r.down, r.below);
    // One more in each direction.
    const window = { x: left, y: top, w: right + 2 - left, h: bottom + 2 - top };
    r.cells.fill(0, 0, 4 * window.w * window.h);
    this.cells.each(window, ({ values }, at, from, count) => {
      r.cells.set(values.subarray(4 * at, 4 * (at + count)), 4 * from);
    });
    const [i] = handOver({ x, y, w, h }, source, coverage, valid);
    r.kernel.fit(
      r.pixels.byteOffset,
      r.coverage.byteOffset,
      valid ? r.valid.byteOffset : 0,
      w,
      h,
      r.cells.byteOffset,
      window.w,
      r.across.byteOffset,
      r.right.byteOffset,
      r.down.byteOffset,
      r.below.byteOffset,
      tone,
      r.mixed.byteOffset,
    );
    source.data.set(r.pixels.subarray(0, 4 * w * h), 4 * i);
  }

  /** The pixels of all cells that a rectangle touches. */
  wholeCells(part: Rect): Rect {
    return this.pixelsOf(this.cellsOf(part));
  }

  private cellsOf({ x, y, w, h }: Rect): Rect {
    const { side } = this;
    const [x0, y0] = [Math.floor(x / side), Math.floor(y / side)];
    return { x: x0, y: y0, w: Math.ceil((x + w) / side) - x0, h: Math.ceil((y + h) / side) - y0 };
  }

  private pixelsOf({ x, y, w, h }: Rect): Rect {
    const { side } = this;
    return { x: x * side, y: y * side, w: w * side, h: h * side };
  }
}

function isCovered(coverage: Float32Array, all: Rect, { x, y, w, h }: Rect): boolean {
  for (let v = y - all.y; v < y - all.y + h; v++)
    for (let i = v * all.w + x - all.x, end = i + w; i < end; i++) if (coverage[i] <= 0) return false;
  return true;
}

/** Puts rows of a source, of its coverage and of what is valid where the kernel finds them.
 *  @returns where they begin and end in the source, in pixels */
function handOver(
  { x, y, w, h }: Rect,
  { rect, data }: FloatImage,
  coverage: Float32Array,
  valid: Uint8Array | null,
): [number, number] {
  const r = rows();
  const first = (y - rect.y) * rect.w + x - rect.x;
  const end = first + w * h;
  r.pixels.set(data.subarray(4 * first, 4 * end));
  r.coverage.set(coverage.subarray(first, end));
  if (valid) r.valid.set(valid.subarray(first, end));
  return [first, end];
}

/** Cells that are not there take what a neighbour has, or else one at a corner, so that all four round a pixel may be mixed. */
function fillAway(kind: Uint8Array, values: Float32Array, w: number, h: number): void {
  for (let y = 0, cell = 0; y < h; y++)
    for (let x = 0; x < w; x++, cell++) {
      if (kind[cell] !== point.away) continue;
      const from = oneBeside(kind, cell, x, y, w, h);
      for (let c = 0; c < 3; c++) values[4 * cell + c] = values[4 * from + c];
    }
}

/** A cell beside another one that is there, or at its corner; itself where there is none. */
function oneBeside(kind: Uint8Array, cell: number, x: number, y: number, w: number, h: number): number {
  // At the edges that is the cell itself, or one that was looked at before.
  const [left, right] = [x > 0 ? cell - 1 : cell, x < w - 1 ? cell + 1 : cell];
  const [up, down] = [y > 0 ? -w : 0, y < h - 1 ? w : 0];
  if (kind[cell + up] !== point.away) return cell + up;
  if (kind[left] !== point.away) return left;
  if (kind[right] !== point.away) return right;
  if (kind[cell + down] !== point.away) return cell + down;
  if (kind[left + up] !== point.away) return left + up;
  if (kind[right + up] !== point.away) return right + up;
  if (kind[left + down] !== point.away) return left + down;
  if (kind[right + down] !== point.away) return right + down;
  return cell;
}

/** For each of n pixels the first of the two cells between whose middles it lies, counted from the first of all, and how far it
 *  is on the way. @returns the first cells of the first pixel and of the last */
function between(
  at: number,
  n: number,
  side: number,
  first: Int32Array,
  share: Float32Array,
): [number, number] {
  const start = Math.floor((at + 0.5) / side - 0.5);
  let cell = start;
  for (let k = 0; k < n; k++) {
    const f = (at + k + 0.5) / side - 0.5;
    cell = Math.floor(f);
    first[k] = cell - start;
    share[k] = f - cell;
  }
  return [start, cell];
}
