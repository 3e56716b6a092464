import { squaredDistance } from '../../area';
import type { Ground } from './way';

/** The outline is looked at in squares of this side, each together with its neighbours. */
const cellPx = 6;
/** Colours of the two sides are taken from so far off the outline on, and up to {@link farPx}. */
const insidePx = 3;
const outsidePx = 4;
const farPx = 10;
/** A row of pixels along the outline shows the thing when it has more of its colour than this. */
const leastShare = 0.12;
/** Of the first row that shows nothing of the thing any more, so much counts as its edge: a mark drawn tight leaves a ghost. */
const spareRow = 0.5;
/** Squared difference of colour (CIELAB) below which the two sides cannot be told apart. */
const leastContrast = 36;
/** Where it cannot be measured, an edge reaches this far. */
const usualPx = 2;
const nearestRow = -3;
const farthestRow = 6;
const rows = farthestRow - nearestRow + 1;
const mostPx = 5;
const leastPx = -2;
const fewest = 4;

/** How wide the soft edge of a thing is along its outline, and the thing with all that shows something of it.
 *
 *  An outline parts pixels where they look more like one side than the other. A lens spreads the thing farther: row by row along the
 *  outline, the share of the thing's colour in the pixels is averaged over a short stretch, and the outermost row that still has some is
 *  the edge.
 *  @param inside  w·h, 1 where the thing is
 *  @returns w·h, 255 or 0; outline moved by −2…5 pixels
 *  Degenerate: nothing or everything inside comes back as it is. Cost: O(w·h).
 */
export function withSoftEdge(ground: Ground, inside: Uint8Array): Uint8Array {
  const { w, h } = ground;
  const out = inside.map((v) => (v ? 255 : 0));
  if (!inside.includes(1) || !inside.includes(0)) return out;
  const signed = signedDistance(inside, w, h);
  const widths = edgeWidths(ground, signed);
  const { columns, lines } = cellsOf(w, h);
  for (let i = 0; i < out.length; i++) {
    if (Math.abs(signed[i]) > farPx) continue;
    const x = Math.max(0, Math.min(columns - 1, ((i % w) + 0.5) / cellPx - 0.5));
    const y = Math.max(0, Math.min(lines - 1, (Math.floor(i / w) + 0.5) / cellPx - 0.5));
    const [x0, y0] = [Math.floor(x), Math.floor(y)];
    const [x1, y1] = [Math.min(columns - 1, x0 + 1), Math.min(lines - 1, y0 + 1)];
    const above = widths[y0 * columns + x0] * (x0 + 1 - x) + widths[y0 * columns + x1] * (x - x0);
    const below = widths[y1 * columns + x0] * (x0 + 1 - x) + widths[y1 * columns + x1] * (x - x0);
    out[i] = signed[i] <= above * (y0 + 1 - y) + below * (y - y0) ? 255 : 0;
  }
  return out;
}

/** Distance from the outline to the middle of each pixel: −0.5 for the last inside, 0.5 for the first outside. */
function signedDistance(inside: Uint8Array, w: number, h: number): Float32Array {
  const toIn = squaredDistance(inside, w, h);
  const toOut = squaredDistance(
    inside.map((v) => 1 - v),
    w,
    h,
  );
  const out = new Float32Array(inside.length);
  for (let i = 0; i < out.length; i++)
    out[i] = inside[i] ? 0.5 - Math.sqrt(toOut[i]) : Math.sqrt(toIn[i]) - 0.5;
  return out;
}

const cellsOf = (w: number, h: number) => ({ columns: Math.ceil(w / cellPx), lines: Math.ceil(h / cellPx) });

/** For each cell, how many rows beyond the outline show something of the thing. */
function edgeWidths({ w, h, values }: Ground, signed: Float32Array): Float32Array {
  const { columns, lines } = cellsOf(w, h);
  const cellOf = (i: number) =>
    Math.floor(Math.floor(i / w) / cellPx) * columns + Math.floor((i % w) / cellPx);
  const thing = new Float64Array(columns * lines * 4);
  const rest = new Float64Array(columns * lines * 4);
  for (let i = 0; i < signed.length; i++) {
    const d = signed[i];
    if (Math.abs(d) > farPx) continue;
    const weight = d < 0 ? insideWeight(d) : outsideWeight(d);
    const into = d < 0 ? thing : rest;
    const c = 4 * cellOf(i);
    for (let k = 0; k < 3; k++) into[c + k] += weight * values[3 * i + k];
    into[c + 3] += weight;
  }
  const mine = pooled(thing, 4, columns, lines);
  const others = pooled(rest, 4, columns, lines);
  // Two numbers a row: the sum of shares, and of how many pixels.
  const sums = new Float64Array(columns * lines * rows * 2);
  for (let i = 0; i < signed.length; i++) {
    const row = Math.round(signed[i] - 0.5) - nearestRow;
    if (row < 0 || row >= rows) continue;
    const c = cellOf(i);
    const share = shareOf(values, i, mine, others, 4 * c);
    if (share === null) continue;
    sums[2 * (c * rows + row)] += share;
    sums[2 * (c * rows + row) + 1] += 1;
  }
  const profile = pooled(sums, 2 * rows, columns, lines);
  return Float32Array.from({ length: columns * lines }, (_, c) =>
    widthOf((row) => {
      const at = 2 * (c * rows + row - nearestRow);
      return profile[at + 1] >= fewest ? profile[at] / profile[at + 1] : Number.NaN;
    }),
  );
}

/** Thin things have nothing far inside: what is nearer counts where there is nothing better. */
const insideWeight = (d: number): number => (d < -insidePx ? 1 : d < -1 ? 0.03 : 0.001);
const outsideWeight = (d: number): number => (d > outsidePx ? 1 : d > 2 ? 0.001 : 0);

/** How much of the thing's colour a pixel has, 1 at the thing's and 0 at the surroundings' mean; null when they are alike. */
function shareOf(
  values: Float32Array,
  i: number,
  mine: Float64Array,
  others: Float64Array,
  at: number,
): number | null {
  if (mine[at + 3] === 0 || others[at + 3] === 0) return null;
  let dot = 0;
  let square = 0;
  for (let k = 0; k < 3; k++) {
    const other = others[at + k] / others[at + 3];
    const difference = mine[at + k] / mine[at + 3] - other;
    dot += difference * (values[3 * i + k] - other);
    square += difference * difference;
  }
  return square < leastContrast ? null : dot / square;
}

/** @param share  of the thing's colour in a row; 0 is the first beyond the outline; NaN where too little is known */
function widthOf(share: (row: number) => number): number {
  const first = share(0);
  if (Number.isNaN(first)) return usualPx;
  let width = 0;
  if (first > leastShare) while (width < mostPx && share(width) > leastShare) width++;
  else while (width > leastPx && share(width - 1) < leastShare) width--;
  return width < 0 ? width : width + spareRow;
}

/** Each cell's numbers with those of its eight neighbours. */
function pooled(cells: Float64Array, numbers: number, columns: number, lines: number): Float64Array {
  const out = new Float64Array(cells.length);
  for (let y = 0; y < lines; y++)
    for (let x = 0; x < columns; x++)
      for (let v = Math.max(0, y - 1); v <= Math.min(lines - 1, y + 1); v++)
        for (let u = Math.max(0, x - 1); u <= Math.min(columns - 1, x + 1); u++)
          for (let k = 0; k < numbers; k++)
            out[numbers * (y * columns + x) + k] += cells[numbers * (v * columns + u) + k];
  return out;
}
