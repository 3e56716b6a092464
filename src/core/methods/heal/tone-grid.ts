import { emptyRect, type FloatImage, grow, intersect, isEmpty, type Rect, unite } from '../../raster';
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
    const { x: rx, y: ry, w } = source.rect;
    const [s, t] = [source.data, target.data];
    const { kind, values, side } = this;
    const counts = new Uint16Array(cells.w * cells.h);
    for (let y = cells.y; y < cells.y + cells.h; y++) {
      const first = this.indexOf(cells.x, y);
      kind.fill(point.away, first, first + cells.w);
      values.fill(0, 4 * first, 4 * (first + cells.w));
    }
    const column = Int32Array.from({ length: at.w }, (_, x) => Math.floor((at.x + x) / side) - cells.x);
    for (let y = at.y; y < at.y + at.h; y++) {
      const cy = Math.floor(y / side);
      const row = this.indexOf(cells.x, cy);
      const countRow = (cy - cells.y) * cells.w;
      for (let x = 0, i = (y - ry) * w + at.x - rx; x < at.w; x++, i++) {
        if (valid && !valid[i]) continue;
        const cell = row + column[x];
        if (coverage[i] > 0) {
          if (kind[cell] === point.away) kind[cell] = point.free;
          continue;
        }
        kind[cell] = point.fixed;
        counts[countRow + column[x]]++;
        const c = 4 * cell;
        const p = 4 * i;
        values[c] += t[p] - s[p];
        values[c + 1] += t[p + 1] - s[p + 1];
        values[c + 2] += t[p + 2] - s[p + 2];
      }
    }
    for (let y = 0; y < cells.h; y++)
      for (let x = 0; x < cells.w; x++) {
        const count = counts[y * cells.w + x];
        if (count === 0) continue;
        const c = 4 * this.indexOf(cells.x + x, cells.y + y);
        for (let k = c; k < c + 3; k++) values[k] /= count;
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
    const { rect: at, data: s } = source;
    const { rect, values } = this;
    if (isEmpty(rect)) return;
    const across = between(at.x, at.w, this.side, rect.x, rect.w);
    const down = between(at.y, at.h, this.side, rect.y, rect.h);
    const mixed = new Float32Array(4 * rect.w);
    const { share } = across;
    const first = across.first.map((cell) => 4 * cell);
    const last = 4 * (rect.w - 1);
    const [from, to] = [first[0], Math.min(last + 4, first[at.w - 1] + 8)];
    for (let y = 0; y < at.h; y++) {
      const top = 4 * down.first[y] * rect.w;
      const low = 4 * Math.min(rect.h - 1, down.first[y] + 1) * rect.w;
      const v = down.share[y];
      for (let c = from; c < to; c++)
        mixed[c] = tone * (values[top + c] + v * (values[low + c] - values[top + c]));
      for (let x = 0, i = y * at.w; x < at.w; x++, i++) {
        if (coverage[i] <= 0 || (valid && !valid[i])) continue;
        const u = share[x];
        const a = first[x];
        const b = a < last ? a + 4 : a;
        const p = 4 * i;
        const alpha = s[p + 3];
        const red = s[p] + mixed[a] + u * (mixed[b] - mixed[a]);
        const green = s[p + 1] + mixed[a + 1] + u * (mixed[b + 1] - mixed[a + 1]);
        const blue = s[p + 2] + mixed[a + 2] + u * (mixed[b + 2] - mixed[a + 2]);
        s[p] = red < 0 ? 0 : Math.min(red, alpha);
        s[p + 1] = green < 0 ? 0 : Math.min(green, alpha);
        s[p + 2] = blue < 0 ? 0 : Math.min(blue, alpha);
      }
    }
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

/** For each of n pixels the first of the two cells between whose middles it lies, and how far it is on the way. */
function between(
  at: number,
  n: number,
  side: number,
  firstCell: number,
  cells: number,
): { first: Int32Array; share: Float32Array } {
  const first = new Int32Array(n);
  const share = new Float32Array(n);
  for (let k = 0; k < n; k++) {
    const f = Math.min(cells - 1, Math.max(0, (at + k + 0.5) / side - 0.5 - firstCell));
    first[k] = Math.floor(f);
    share[k] = f - first[k];
  }
  return { first, share };
}
