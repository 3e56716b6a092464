import {
  emptyRect,
  type FloatImage,
  grow,
  intersect,
  isEmpty,
  mostAtOnce,
  type Rect,
  rows,
  rowsOf,
  unite,
} from '../../raster';
import { point, solveMembrane } from '../../solve';

/** Rows are added so many cells ahead, so that a stroke that goes on seldom has everything copied. */
const aheadCells = 48;

/** What a source lacks in tone, on a grid coarser than the picture: near enough to be looked at while something moves.
 *
 *  A cell that holds uncovered pixels is fixed to their mean difference, one that is covered all through is free, and the membrane
 *  is spread over the free ones. Cells lie at whole multiples of their side on the photo, so that parts may be taken one
 *  after the other. The exact field: fit-tone.ts.
 */
export class ToneGrid {
  /** In cells. */
  private rect: Rect = emptyRect;
  private kind = new Uint8Array(0);
  private values = new Float32Array(0);
  /** What the cells had when their pixels were shown last. */
  private shown = new Float32Array(0);

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
    this.reach(cells);
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

  /** Takes anew what lies in some cells of one row. @param at  the pixels that there are */
  private takeCells(
    cells: Rect,
    at: Rect,
    source: FloatImage,
    target: FloatImage,
    coverage: Float32Array,
    valid: Uint8Array | null,
  ): void {
    const { side, kind, values } = this;
    const r = rows();
    r.counts.fill(0, 0, cells.w);
    r.covered.fill(0, 0, cells.w);
    r.cells.fill(0, 0, 4 * cells.w);
    const part = intersect(this.pixelsOf(cells), at);
    for (let k = 0; k < part.w; k++) r.across[k] = Math.floor((part.x + k) / side) - cells.x;
    for (const { x, y, w, h } of rowsOf(part, source.rect)) {
      const i = (y - source.rect.y) * source.rect.w + x - source.rect.x;
      const end = i + w * h;
      r.pixels.set(source.data.subarray(4 * i, 4 * end));
      r.others.set(target.data.subarray(4 * i, 4 * end));
      r.coverage.set(coverage.subarray(i, end));
      if (valid) r.valid.set(valid.subarray(i, end));
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
    const first = this.indexOf(cells.x, cells.y);
    for (let x = 0; x < cells.w; x++) {
      const count = r.counts[x];
      kind[first + x] = count > 0 ? point.fixed : r.covered[x] ? point.free : point.away;
      for (let c = 0; c < 3; c++) values[4 * (first + x) + c] = count > 0 ? r.cells[4 * x + c] / count : 0;
    }
  }

  /** Spreads the membrane anew over the free cells within a rectangle; those beyond it keep what they have.
   *  @param part  document pixels */
  solve(part: Rect): void {
    const window = intersect(this.cellsOf(part), this.rect);
    if (isEmpty(window)) return;
    const { w, h } = window;
    const kind = new Uint8Array(w * h);
    const values = new Float32Array(w * h * 4);
    for (let y = 0; y < h; y++) {
      const from = this.indexOf(window.x, window.y + y);
      kind.set(this.kind.subarray(from, from + w), y * w);
      values.set(this.values.subarray(4 * from, 4 * (from + w)), 4 * y * w);
    }
    // Where the covered part goes on beyond the window, what was found there before holds.
    const { rect } = this;
    const goesOn = (x: number, y: number) =>
      (x === 0 && window.x > rect.x) ||
      (y === 0 && window.y > rect.y) ||
      (x === w - 1 && window.x + w < rect.x + rect.w) ||
      (y === h - 1 && window.y + h < rect.y + rect.h);
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x += y === 0 || y === h - 1 ? 1 : Math.max(1, w - 1))
        if (kind[y * w + x] === point.free && goesOn(x, y)) kind[y * w + x] = point.fixed;
    solveMembrane(w, h, kind, values);
    fillAway(kind, values, w, h);
    for (let y = 0; y < h; y++)
      this.values.set(values.subarray(4 * y * w, 4 * (y + 1) * w), 4 * this.indexOf(window.x, window.y + y));
  }

  /** Where, within a rectangle, the field of covered cells differs by more than a limit from what was shown; that counts as
   *  shown from then on. In document pixels. */
  changes(part: Rect, limit: number): Rect[] {
    const cells = intersect(this.cellsOf(part), this.rect);
    const { kind, values, shown } = this;
    const out: Rect[] = [];
    for (let y = cells.y; y < cells.y + cells.h; y++) {
      let from = -1;
      for (let x = cells.x; x <= cells.x + cells.w; x++) {
        const cell = this.indexOf(x, y);
        const c = 4 * cell;
        const isChanged =
          x < cells.x + cells.w &&
          kind[cell] === point.free &&
          (Math.abs(values[c] - shown[c]) > limit ||
            Math.abs(values[c + 1] - shown[c + 1]) > limit ||
            Math.abs(values[c + 2] - shown[c + 2]) > limit);
        if (isChanged && from < 0) from = x;
        if (isChanged || from < 0) continue;
        // Pixels are mixed from cells half a cell away.
        out.push(grow(this.pixelsOf({ x: from, y, w: x - from, h: 1 }), this.side >> 1));
        shown.set(values.subarray(4 * this.indexOf(from, y), c), 4 * this.indexOf(from, y));
        from = -1;
      }
    }
    return out;
  }

  /** @param part  document pixels that are shown with the field as it is now */
  markShown(part: Rect): void {
    const cells = intersect(this.cellsOf(part), this.rect);
    for (let y = cells.y; y < cells.y + cells.h; y++) {
      const from = 4 * this.indexOf(cells.x, y);
      this.shown.set(this.values.subarray(from, from + 4 * cells.w), from);
    }
  }

  /** Adds the field to covered pixels of a source, brought from the grid by bilinear interpolation.
   *  @param tone  share of it, 0…1 */
  fit(source: FloatImage, coverage: Float32Array, valid: Uint8Array | null, tone: number): void {
    if (isEmpty(this.rect)) return;
    for (const some of rowsOf(source.rect, source.rect)) this.fitRows(some, source, coverage, valid, tone);
  }

  private fitRows(
    { x, y, w, h }: Rect,
    source: FloatImage,
    coverage: Float32Array,
    valid: Uint8Array | null,
    tone: number,
  ): void {
    const { rect: grid, values, side } = this;
    const r = rows();
    const [left, right] = between(x, w, side, grid.x, grid.w, r.across, r.right);
    const [top, bottom] = between(y, h, side, grid.y, grid.h, r.down, r.below);
    // One more in each direction, which is the last one again where there is none.
    const wide = right + 2 - left;
    for (let v = top; v <= bottom + 1; v++) {
      const from = 4 * (Math.min(v, grid.h - 1) * grid.w + left);
      const to = 4 * (v - top) * wide;
      const n = 4 * Math.min(wide, grid.w - left);
      r.cells.set(values.subarray(from, from + n), to);
      if (n < 4 * wide) r.cells.copyWithin(to + n, to + n - 4, to + n);
    }
    const i = (y - source.rect.y) * source.rect.w + x - source.rect.x;
    const end = i + w * h;
    r.pixels.set(source.data.subarray(4 * i, 4 * end));
    r.coverage.set(coverage.subarray(i, end));
    if (valid) r.valid.set(valid.subarray(i, end));
    r.kernel.fit(
      r.pixels.byteOffset,
      r.coverage.byteOffset,
      valid ? r.valid.byteOffset : 0,
      w,
      h,
      r.cells.byteOffset,
      wide,
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

  private indexOf(x: number, y: number): number {
    return (y - this.rect.y) * this.rect.w + x - this.rect.x;
  }

  /** Makes room for cells. */
  private reach(cells: Rect): void {
    const old = this.rect;
    const all = isEmpty(old) ? cells : unite(old, cells);
    if (!isEmpty(old) && all.w === old.w && all.h === old.h) return;
    const rect = isEmpty(old) ? cells : grow(all, aheadCells);
    const kind = new Uint8Array(rect.w * rect.h);
    const values = new Float32Array(rect.w * rect.h * 4);
    const shown = new Float32Array(rect.w * rect.h * 4);
    for (let y = 0; y < old.h; y++) {
      const to = (old.y + y - rect.y) * rect.w + old.x - rect.x;
      const [from, end] = [y * old.w, (y + 1) * old.w];
      kind.set(this.kind.subarray(from, end), to);
      values.set(this.values.subarray(4 * from, 4 * end), 4 * to);
      shown.set(this.shown.subarray(4 * from, 4 * end), 4 * to);
    }
    this.rect = rect;
    this.kind = kind;
    this.values = values;
    this.shown = shown;
  }
}

/** Cells that are not there take what a neighbour has, so that all four round a pixel may be mixed. */
function fillAway(kind: Uint8Array, values: Float32Array, w: number, h: number): void {
  for (let cell = 0; cell < kind.length; cell++) {
    if (kind[cell] !== point.away) continue;
    const x = cell % w;
    const near = [x > 0 ? cell - 1 : -1, x < w - 1 ? cell + 1 : -1, cell - w, cell + w].find(
      (q) => q >= 0 && q < w * h && kind[q] !== point.away,
    );
    if (near !== undefined) values.copyWithin(4 * cell, 4 * near, 4 * near + 3);
  }
}

/** For each of n pixels the first of the two cells between whose middles it lies, counted from the first of all, and how far it
 *  is on the way. @returns the first cells of the first pixel and of the last */
function between(
  at: number,
  n: number,
  side: number,
  firstCell: number,
  cells: number,
  first: Int32Array,
  share: Float32Array,
): [number, number] {
  let [start, cell] = [0, 0];
  for (let k = 0; k < n; k++) {
    const f = Math.min(cells - 1, Math.max(0, (at + k + 0.5) / side - 0.5 - firstCell));
    cell = Math.floor(f);
    if (k === 0) start = cell;
    first[k] = cell - start;
    share[k] = f - cell;
  }
  return [start, cell];
}
