import {
  copyFloat,
  type FloatImage,
  intersect,
  isEmpty,
  makeFloatImage,
  mostAtOnce,
  partOfPlane,
  type Rect,
  rows,
  rowsOf,
} from '../../raster';
import {
  type MembraneGrid,
  maxMembranePoints,
  openMembrane,
  point,
  rimPoints,
  solveMembrane,
} from '../../solve';
import type { MethodContext } from '../definition';
import { ToneGrid } from './tone-grid';

/** What a pixel is to a stop line: beside it (no tone is taken from there), or on it (no tone crosses there). */
export const stop = { none: 0, beside: 1, on: 2 } as const;

export interface ToneFit {
  /** 0: the source's tone as it is, 1: fully fitted. */
  readonly tone: number;
  /** 0: none of the source's detail, only tone; 1: all of it. */
  readonly texture: number;
  /** source.rect in size: {@link stop}; null: no stop lines. */
  readonly stops: Uint8Array | null;
  /** While something is dragged: the field is found on a grid so many times coarser. 1: exactly. */
  readonly coarseness: number;
}

/** Fits the source's tone to the target's: adds the smooth field that makes up the difference all along the rim.
 *
 *  @param source    pixels brought to the target; changed in place where `coverage` is above 0
 *  @param context   gives the pixels as they are, of parts of the same rectangle: along the rim, if that is all it takes
 *  @param coverage  same rectangle; above 0 is inside, the rest of the rectangle is rim and outside
 *  @param valid     same rectangle, 1 where the source has pixels; elsewhere nothing is fitted and nothing held
 *  @param bounds    the photo; its edge is no rim, so no tone crosses there
 *  Along stop lines the field is free (Neumann's condition): what touches the area there does not tint it.
 *  What is too large to be solved at once is solved on a coarser grid: two pixels a point up to four times as large, and so on.
 *  Degenerate: an area without rim (the whole photo, or stop lines all round) leaves the source as it is.
 *  Source: Pérez, Gangnet & Blake 2003, doi:10.1145/1201775.882269, eq. 4 with the source's gradient as guidance field,
 *  solved for the difference f − g, which is harmonic.
 */
export function fitTone(
  source: FloatImage,
  { read, readAlong }: Pick<MethodContext, 'read' | 'readAlong'>,
  coverage: Float32Array,
  valid: Uint8Array | null,
  bounds: Rect,
  { tone, texture, stops, coarseness: asked }: ToneFit,
): void {
  const { rect } = source;
  const inPhoto = intersect(rect, bounds);
  if (isEmpty(inPhoto) || (tone <= 0 && texture >= 1)) return;
  const coarseness = Math.max(asked, coarsenessThatFits(rect));
  if (coarseness > 1 && !stops && texture >= 1) {
    const grid = new ToneGrid(coarseness);
    grid.takeInSquares(rect, coverage, (square) => {
      const own = makeFloatImage(square);
      copyFloat(source, own);
      return {
        source: own,
        target: read(square),
        coverage: partOfPlane(coverage, rect, square),
        valid: valid && partOfPlane(valid, rect, square),
      };
    });
    grid.solve(rect);
    grid.fit(source, coverage, valid, tone);
    return;
  }
  const { w, h } = rect;
  const onStop: number[] = [];
  const kind = kindsOf(rect, inPhoto, coverage, valid, stops, onStop);
  const s = source.data;
  const rim = rimPoints(w, h, kind);
  const wanted = readAlong(rect, rim);
  const own = new Float32Array(wanted.length);
  for (let k = 0; k < rim.length; k++) {
    for (let c = 0; c < 3; c++) {
      own[4 * k + c] = s[4 * rim[k] + c];
      wanted[4 * k + c] -= own[4 * k + c];
    }
    wanted[4 * k + 3] = 0;
  }
  if (texture < 1) {
    // What the source would be without detail: the same rim, smoothly filled.
    const { values } = spread(w, h, kind, rim, own, coarseness);
    forStops(w, kind, onStop, (i, beside) => keepTexture(s, i, values, beside, texture));
    for (let i = 0; i < kind.length; i++) if (kind[i] === point.free) keepTexture(s, i, values, i, texture);
  }
  const field = spread(w, h, kind, rim, wanted, coarseness);
  field.add(s, tone);
  if (onStop.length === 0) return;
  const { values } = field;
  forStops(w, kind, onStop, (i, beside) => {
    for (let c = 0; c < 3; c++)
      s[4 * i + c] = Math.min(s[4 * i + 3], Math.max(0, s[4 * i + c] + tone * values[4 * beside + c]));
  });
}

/** The finest grid on which a rectangle can be solved: 1, 2, 4 … pixels a point. */
function coarsenessThatFits({ w, h }: Rect): number {
  let by = 1;
  while (Math.ceil(w / by) * Math.ceil(h / by) > maxMembranePoints) by *= 2;
  return by;
}

/** What each pixel is to the membrane: {@link point}. @param onStop  takes those covered ones that lie on a stop line */
function kindsOf(
  rect: Rect,
  inPhoto: Rect,
  coverage: Float32Array,
  valid: Uint8Array | null,
  stops: Uint8Array | null,
  onStop: number[],
): Uint8Array {
  const kind = new Uint8Array(rect.w * rect.h);
  const r = rows();
  for (const part of rowsOf(inPhoto, rect)) {
    const first = (part.y - rect.y) * rect.w + part.x - rect.x;
    const n = part.w * part.h;
    r.coverage.set(coverage.subarray(first, first + n));
    r.kernel.covered(r.coverage.byteOffset, n, r.valid.byteOffset);
    kind.set(r.valid.subarray(0, n), first);
  }
  if (valid) for (let i = 0; i < kind.length; i++) if (!valid[i]) kind[i] = point.away;
  if (!stops) return kind;
  for (let i = 0; i < kind.length; i++) {
    if (stops[i] === stop.on && kind[i] === point.free) {
      onStop.push(i);
      kind[i] = point.away;
    } else if (stops[i] !== stop.none && kind[i] === point.fixed) kind[i] = point.away;
  }
  return kind;
}

/** Draws a pixel's colour towards another one. */
function keepTexture(s: Float32Array, i: number, base: Float32Array, from: number, texture: number): void {
  for (let c = 0; c < 3; c++) {
    const b = base[4 * from + c];
    s[4 * i + c] = b + texture * (s[4 * i + c] - b);
  }
}

/** Adds a field to free points, within what colours may be. */
function addField(s: Float32Array, field: Float32Array, kind: Uint8Array, tone: number): void {
  const r = rows();
  for (let from = 0; from < kind.length; from += mostAtOnce) {
    const to = Math.min(kind.length, from + mostAtOnce);
    r.pixels.set(s.subarray(4 * from, 4 * to));
    r.others.set(field.subarray(4 * from, 4 * to));
    r.valid.set(kind.subarray(from, to));
    r.kernel.add(r.pixels.byteOffset, r.others.byteOffset, r.valid.byteOffset, to - from, tone);
    s.set(r.pixels.subarray(0, 4 * (to - from)), 4 * from);
  }
}

/** A field over free points; what lies elsewhere means nothing. */
type Field = Pick<MembraneGrid, 'values' | 'add'>;

/** The membrane over free points, good until the next one is spread. */
function spread(
  w: number,
  h: number,
  kind: Uint8Array,
  rim: Int32Array,
  values: Float32Array,
  by: number,
): Field {
  if (by > 1) {
    const coarse = spreadCoarsely(w, h, kind, rim, values, by);
    return { values: coarse, add: (pixels, share) => addField(pixels, coarse, kind, share) };
  }
  const grid = openMembrane(w, h);
  grid.kind.set(kind);
  const held = grid.values;
  for (let k = 0; k < rim.length; k++) for (let c = 0; c < 4; c++) held[4 * rim[k] + c] = values[4 * k + c];
  grid.solve();
  return grid;
}

/** Gives each pixel on a stop line together with the neighbour whose value it takes. */
function forStops(
  w: number,
  kind: Uint8Array,
  onStop: readonly number[],
  take: (i: number, beside: number) => void,
): void {
  for (const i of onStop) {
    const x = i % w;
    const beside = [x > 0 ? i - 1 : -1, x < w - 1 ? i + 1 : -1, i - w, i + w].find(
      (q) => q >= 0 && q < kind.length && kind[q] === point.free,
    );
    if (beside !== undefined) take(i, beside);
  }
}

/** The membrane on a coarser grid, brought back by bilinear interpolation: near enough to be looked at while it moves.
 *  A cell is fixed to the mean of its rim; free where it has free points only. */
function spreadCoarsely(
  w: number,
  h: number,
  kind: Uint8Array,
  rim: Int32Array,
  rimValues: Float32Array,
  by: number,
): Float32Array {
  const [cw, ch] = [Math.ceil(w / by), Math.ceil(h / by)];
  const cells = new Uint8Array(cw * ch);
  const sums = new Float32Array(cw * ch * 4);
  const counts = new Uint16Array(cw * ch);
  const cellOf = (i: number) => Math.floor(Math.floor(i / w) / by) * cw + Math.floor((i % w) / by);
  for (let i = 0; i < kind.length; i++) if (kind[i] === point.free) cells[cellOf(i)] = point.free;
  rim.forEach((i, k) => {
    const cell = cellOf(i);
    cells[cell] = point.fixed;
    counts[cell]++;
    for (let c = 0; c < 3; c++) sums[4 * cell + c] += rimValues[4 * k + c];
  });
  for (let cell = 0; cell < cells.length; cell++)
    if (counts[cell] > 0) for (let c = 4 * cell; c < 4 * cell + 3; c++) sums[c] /= counts[cell];
  solveMembrane(cw, ch, cells, sums);
  const values = new Float32Array(w * h * 4);
  const across = between(w, by, cw);
  const down = between(h, by, ch);
  for (let y = 0; y < h; y++) {
    const top = down.first[y] * cw;
    const below = Math.min(ch - 1, down.first[y] + 1) * cw;
    const v = down.share[y];
    for (let x = 0, i = y * w; x < w; x++, i++) {
      if (kind[i] !== point.free) continue;
      const x0 = across.first[x];
      const x1 = x0 + 1 < cw ? x0 + 1 : x0;
      const u = across.share[x];
      const a = top + x0;
      const b = top + x1;
      const d = below + x0;
      const e = below + x1;
      // Cells of something else have no say.
      const wa = cells[a] === point.away ? 0 : (1 - u) * (1 - v);
      const wb = cells[b] === point.away ? 0 : u * (1 - v);
      const wd = cells[d] === point.away ? 0 : (1 - u) * v;
      const we = cells[e] === point.away ? 0 : u * v;
      const share = 1 / (wa + wb + wd + we || 1);
      for (let c = 0; c < 3; c++)
        values[4 * i + c] =
          (wa * sums[4 * a + c] + wb * sums[4 * b + c] + wd * sums[4 * d + c] + we * sums[4 * e + c]) * share;
    }
  }
  return values;
}

/** For each of n pixels the first of the two cells between whose middles it lies, and how far it is on the way. */
function between(n: number, by: number, cells: number): { first: Int32Array; share: Float32Array } {
  const first = new Int32Array(n);
  const share = new Float32Array(n);
  for (let at = 0; at < n; at++) {
    const f = Math.min(cells - 1, Math.max(0, (at + 0.5) / by - 0.5));
    first[at] = Math.floor(f);
    share[at] = f - first[at];
  }
  return { first, share };
}
