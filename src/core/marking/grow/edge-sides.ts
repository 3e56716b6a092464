import { squaredDistance } from '../../area';
import type { Ground } from './way';

/** The outline is looked at in squares of this side, each together with its neighbours. */
const cellPx = 6;
/** Colours of the two sides are taken from so far off the outline on, and up to {@link farPx}. */
const insidePx = 3;
const outsidePx = 4;
const farPx = 10;
/** Squared difference of colour (CIELAB) below which the two sides cannot be told apart. */
const leastContrast = 36;
/** Variance that is added to what is seen: a few pixels know their own unevenness badly. Squared units of CIELAB. */
const leastVariance = 10;
/** What is summed up of a side: three colours, a weight, six products of colours. */
const sums = 10;

/** Squares that cover a picture. */
export class Cells {
  readonly columns: number;
  readonly lines: number;

  constructor(
    private readonly w: number,
    h: number,
  ) {
    this.columns = Math.ceil(w / cellPx);
    this.lines = Math.ceil(h / cellPx);
  }

  get count(): number {
    return this.columns * this.lines;
  }

  /** Of the square in which a pixel lies. */
  at(pixel: number): number {
    return (
      Math.floor(Math.floor(pixel / this.w) / cellPx) * this.columns + Math.floor((pixel % this.w) / cellPx)
    );
  }

  /** Each square's numbers with those of its eight neighbours. */
  pooled(given: Float64Array): Float64Array {
    const numbers = given.length / this.count;
    const row = this.columns * numbers;
    return threeSummed(threeSummed(given, numbers, row), row, given.length);
  }

  /** The number of a square at a pixel, between the middles of squares in proportion. */
  between(given: Float32Array, pixel: number): number {
    const { columns, lines } = this;
    const x = Math.max(0, Math.min(columns - 1, ((pixel % this.w) + 0.5) / cellPx - 0.5));
    const y = Math.max(0, Math.min(lines - 1, (Math.floor(pixel / this.w) + 0.5) / cellPx - 0.5));
    const [x0, y0] = [Math.floor(x), Math.floor(y)];
    const [x1, y1] = [Math.min(columns - 1, x0 + 1), Math.min(lines - 1, y0 + 1)];
    const above = given[y0 * columns + x0] * (x0 + 1 - x) + given[y0 * columns + x1] * (x - x0);
    const below = given[y1 * columns + x0] * (x0 + 1 - x) + given[y1 * columns + x1] * (x - x0);
    return above * (y0 + 1 - y) + below * (y - y0);
  }
}

/** Sums of each number and its neighbours so many places before and after, within stretches of a length. */
function threeSummed(given: Float64Array, by: number, stretch: number): Float64Array {
  const out = given.slice();
  for (let start = 0; start < given.length; start += stretch)
    for (let i = start + by; i < start + stretch; i++) {
      out[i] += given[i - by];
      out[i - by] += given[i];
    }
  return out;
}

/** The pixels along an outline. */
export interface Edge {
  /** Numbers of those at most {@link farPx} off it, in order. */
  readonly pixels: Int32Array;
  /** w·h; from the outline to the middle of each pixel: −0.5 for the last inside, 0.5 for the first outside. */
  readonly signed: Float32Array;
}

export function edgeOf(inside: Uint8Array, w: number, h: number): Edge {
  const outside = new Uint8Array(inside.length);
  for (let i = 0; i < inside.length; i++) outside[i] = inside[i] ? 0 : 1;
  const toIn = squaredDistance(inside, w, h);
  const toOut = squaredDistance(outside, w, h);
  const signed = new Float32Array(inside.length);
  const pixels = new Int32Array(inside.length);
  let count = 0;
  for (let i = 0; i < signed.length; i++) {
    signed[i] = inside[i] ? 0.5 - Math.sqrt(toOut[i]) : Math.sqrt(toIn[i]) - 0.5;
    if (Math.abs(signed[i]) <= farPx) pixels[count++] = i;
  }
  return { pixels: pixels.slice(0, count), signed };
}

/** Whose a pixel near an outline is, by its colour. */
export interface EdgeSides {
  readonly cells: Cells;
  /** How much of the thing's colour a pixel has, 1 at the thing's and 0 at the surroundings' mean; NaN where they are alike. */
  share(pixel: number): number;
  /** ln of how much likelier its colour is on the thing than beside it; 0 where they are alike. */
  likelier(pixel: number): number;
}

/** Parts the colours of a thing and of its surroundings all along its outline, at each place by what lies near.
 *
 *  Source: Fisher 1936, The Use of Multiple Measurements in Taxonomic Problems, doi:10.1111/j.1469-1809.1936.tb02137.x: along the
 *  difference of the means, less where both sides are uneven themselves. Cost: O(length of the outline).
 */
export function edgeSides({ w, h, values }: Ground, { pixels, signed }: Edge): EdgeSides {
  const cells = new Cells(w, h);
  const thing = new Float64Array(cells.count * sums);
  const rest = new Float64Array(cells.count * sums);
  for (const i of pixels) {
    const d = signed[i];
    add(d < 0 ? thing : rest, sums * cells.at(i), d < 0 ? insideWeight(d) : outsideWeight(d), values, 3 * i);
  }
  const forms = formsOf(cells.pooled(thing), cells.pooled(rest), cells.count);
  const share = (pixel: number): number => {
    const at = 5 * cells.at(pixel);
    return (
      forms[at] * values[3 * pixel] +
      forms[at + 1] * values[3 * pixel + 1] +
      forms[at + 2] * values[3 * pixel + 2] +
      forms[at + 3]
    );
  };
  return {
    cells,
    share,
    likelier(pixel) {
      const of = share(pixel);
      return Number.isNaN(of) ? 0 : forms[5 * cells.at(pixel) + 4] * (of - 0.5);
    },
  };
}

/** Thin things have nothing far inside: what is nearer counts where there is nothing better. */
const insideWeight = (d: number): number => (d < -insidePx ? 1 : d < -1 ? 0.03 : 0.001);
const outsideWeight = (d: number): number => (d > outsidePx ? 1 : d > 2 ? 0.001 : 0);

function add(into: Float64Array, at: number, weight: number, values: Float32Array, p: number): void {
  let product = 4;
  for (let r = 0; r < 3; r++) {
    const weighted = weight * values[p + r];
    into[at + r] += weighted;
    for (let c = r; c < 3; c++) into[at + product++] += weighted * values[p + c];
  }
  into[at + 3] += weight;
}

/** For each square five numbers: three factors and a constant that give the share, and the squared distance of the two means in
 *  units of the sides' own unevenness. NaN where too little is seen, or too little differs. */
function formsOf(thing: Float64Array, rest: Float64Array, count: number): Float64Array {
  const out = new Float64Array(5 * count).fill(Number.NaN);
  for (let cell = 0; cell < count; cell++) {
    const at = sums * cell;
    if (thing[at + 3] === 0 || rest[at + 3] === 0) continue;
    const [l, a, b] = [0, 1, 2].map((k) => thing[at + k] / thing[at + 3] - rest[at + k] / rest[at + 3]);
    if (l * l + a * a + b * b < leastContrast) continue;
    const [ll, la, lb, aa, ab, bb] = variancesOf(thing, rest, at);
    // By the adjugate: the inverse, but for the determinant.
    const factors = [
      (aa * bb - ab * ab) * l + (lb * ab - la * bb) * a + (la * ab - lb * aa) * b,
      (lb * ab - la * bb) * l + (ll * bb - lb * lb) * a + (la * lb - ll * ab) * b,
      (la * ab - lb * aa) * l + (la * lb - ll * ab) * a + (ll * aa - la * la) * b,
    ];
    const length = factors[0] * l + factors[1] * a + factors[2] * b;
    const determinant = ll * (aa * bb - ab * ab) + la * (lb * ab - la * bb) + lb * (la * ab - lb * aa);
    let constant = 0;
    factors.forEach((f, k) => {
      out[5 * cell + k] = f / length;
      constant -= (f / length) * (rest[at + k] / rest[at + 3]);
    });
    out[5 * cell + 3] = constant;
    out[5 * cell + 4] = length / determinant;
  }
  return out;
}

/** The upper triangle of the mean covariance of both sides, by rows. */
function variancesOf(thing: Float64Array, rest: Float64Array, at: number): number[] {
  const out: number[] = [];
  for (let r = 0; r < 3; r++)
    for (let c = r; c < 3; c++) {
      const of = (side: Float64Array) =>
        side[at + 4 + out.length] / side[at + 3] -
        (side[at + r] / side[at + 3]) * (side[at + c] / side[at + 3]);
      out.push((of(thing) + of(rest)) / 2 + (r === c ? leastVariance : 0));
    }
  return out;
}
