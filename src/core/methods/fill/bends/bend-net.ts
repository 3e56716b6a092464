import { bendsWasm, instantiateKernel, keepBytes } from '../../../kernels';
import { type FloatImage, lanczosTables, type Rect } from '../../../raster';
import type { ShiftMap } from '../cut/seam-cut';
import { boxOfTargets } from '../frame';
import type { LineFit } from './line-fit';

/** Bends below this are none, in pixels. */
const leastBendPx = 0.15;
/** Bends are found at points so many pixels apart, farther where the area would have more than so many. */
const leastCellPx = 4;
const mostCells = 3000;
/** From point to point along a line a bend is up to so many times as stiff as over plain ground: with a mean squared step of brightness
 *  across it of so many squared 8-bit steps. A line is bent over its length, not at one place. */
const alongLines = { stiffest: 30, squared: 100 };
/** A bend has faded so far from what asks for it, in pixels. */
const fadePx = 60;
/** With so much left to do, of what there was, and in so many steps, nobody sees the difference. */
const settled = { leaving: 1e-5, mostSteps: 200 };
/** Joins of the same two parts are judged together within squares of so many pixels. */
const stretchPx = 8;
/** Two sides that went together, up to so many squared 8-bit steps a pixel, no longer do when so many are added: grain and a soft
 *  edge that lies otherwise add less, a thin dark line more. */
const together = 400;
const mostMore = 1600;

/** A place where a part ends. */
export interface Join {
  /** In the frame. */
  readonly x: number;
  readonly y: number;
  readonly part: number;
  /** The part beyond; null: what is known. */
  readonly other: number | null;
}

/** What of the area is copied as one, and how far that is bent. */
export interface Extent {
  /** In the frame. */
  readonly rect: Rect;
  readonly isBent: boolean;
}

/** Where the copy of a part goes. */
export interface Place {
  readonly part: number;
  /** The part's box with room round it, in the frame. */
  readonly wide: Rect;
  readonly left: number;
  /** From the first row of the copies on. */
  readonly top: number;
}

/** The area, divided into connected parts that are each copied by one shift, and how these are bent: smoothly within each, as lines at
 *  joins ask for, and not at all far from those. The sum of the squared steps from point to point of a net, of the firmness times the
 *  squared miss at each join, and of the squared bends themselves, a little, is least (conjugate gradients, preconditioned by each
 *  node's own block). That what lines ask for at a join spreads smoothly inwards is after Jia & Tang 2008, Image Stitching Using
 *  Structure Deformation, doi:10.1109/TPAMI.2007.70729; the ties between parts and the stiff lines are ours.
 *
 *  One at a time: a new one takes the place of the one before. Cost: O(area). */
export class BendNet {
  /** The area's. */
  readonly box: Rect;
  /** box in size: the number of each pixel's part, −1 outside the area. */
  readonly number: Int32Array;
  /** The label of each part. */
  readonly labels: Int32Array;
  /** Every other pixel that has a neighbour beyond its part, once for each of those. */
  readonly joins: readonly Join[];
  private readonly kernel: BendKernel;
  private readonly width: number;
  private isLaid = false;

  /** @param image  the frame's pixels; those of targets are not read
   *  @param roles  frame size, as in the frame's `role`
   *  @throws RangeError when memory is short, here and later */
  constructor(image: FloatImage, roles: Uint8Array, { shifts, label }: ShiftMap) {
    const { w, h } = image.rect;
    this.width = w;
    this.box = boxOfTargets(roles, w);
    const { x, y, w: wide, h: high } = this.box;
    const size = Math.max(0, wide * high);
    const steps = Int32Array.from(shifts.flatMap(({ dx, dy }) => [dx, dy]));
    const given = [image.data, roles, label, steps];
    const sizes = [...given.map(({ byteLength }) => byteLength), 4 * size, 4 * size];
    kernel ??= instantiateKernel<BendKernel>(bendsWasm);
    const own = kernel;
    this.kernel = own;
    own.release();
    const at = sizes.map((bytes) => made(own.claim(bytes)));
    given.forEach((array, i) => {
      const bytes = new Uint8Array(array.buffer, array.byteOffset, array.byteLength);
      new Uint8Array(own.memory.buffer, at[i], bytes.length).set(bytes);
    });
    const [pictureAt, rolesAt, labelAt, stepsAt, numberAt, labelsAt] = at;
    const count = own.divide(
      pictureAt,
      rolesAt,
      w,
      h,
      x,
      y,
      wide,
      high,
      labelAt,
      stepsAt,
      numberAt,
      labelsAt,
    );
    if (count < 0) throw shortOfMemory();
    this.number = this.taken(Int32Array, numberAt, size);
    this.labels = this.taken(Int32Array, labelsAt, count);
    const joinsAt = made(own.listJoins());
    const joins = this.taken(Int32Array, joinsAt, 4 * own.countJoins());
    this.joins = Array.from({ length: joins.length / 4 }, (_, k) => ({
      x: joins[4 * k],
      y: joins[4 * k + 1],
      part: joins[4 * k + 2],
      other: joins[4 * k + 3] < 0 ? null : joins[4 * k + 3],
    }));
  }

  /** At a pixel of the frame: the part is to be moved as the fit says, seen from the other part, or from where it is. Null is what is
   *  known, and where it is. */
  hold(x: number, y: number, part: number | null, other: number | null, fit: LineFit): void {
    this.lay();
    const [askedX, askedY] = [fit.xx * fit.x + fit.xy * fit.y, fit.xy * fit.x + fit.yy * fit.y];
    const isKept = this.kernel.hold(
      x - this.box.x,
      y - this.box.y,
      part ?? -1,
      other ?? -1,
      fit.xx,
      fit.xy,
      fit.yy,
      askedX,
      askedY,
    );
    if (!isKept) throw new RangeError('Nothing more can be held.');
  }

  /** Forgets all that was held. */
  letGo(): void {
    this.lay();
    this.kernel.letGo();
  }

  /** Finds the bends, until so much is left to do of what there was.
   *  @returns x and y for each pixel of the box, in pixels: where it is taken from, seen from where its shift would take it; 0 outside
   *           the area */
  settle({ leaving, mostSteps } = settled): Float32Array {
    this.lay();
    return this.taken(Float32Array, this.kernel.settle(mostSteps, leaving), 2 * this.number.length);
  }

  /** Which joins two sides that went together no longer do so at with the bends there are: something came in there that the cut had
   *  left out, as a wire that passes just beyond what was copied.
   *  @returns numbers of joins, all in a stretch together */
  worseJoins(): Int32Array {
    this.lay();
    const at = this.kernel.listWorse(together, mostMore);
    return this.taken(Int32Array, at, this.kernel.countWorse());
  }

  /** Where each part is, and whether one of its pixels is bent. */
  extents(): Extent[] {
    this.lay();
    const edges = this.taken(Int32Array, made(this.kernel.extents(leastBendPx)), 5 * this.labels.length);
    return Array.from(this.labels, (_, part) => {
      const [x0, y0, x1, y1, isBent] = edges.subarray(5 * part, 5 * part + 5);
      const rect = { x: this.box.x + x0, y: this.box.y + y0, w: x1 - x0 + 1, h: y1 - y0 + 1 };
      return { rect, isBent: isBent > 0 };
    });
  }

  /** Copies parts as they are bent. Where nothing is bent pixels are exact copies; bent ones are resampled once. Nothing but sources
   *  goes into a copy.
   *  @param rows  how many rows as wide as the frame the places take
   *  @param roomPx  how far the places go on beyond their parts
   *  @returns of those rows: 4 values a pixel; `role.source` where one is drawn; x and y of the pixel of the frame that it is nearest to */
  copies(places: readonly Place[], rows: number, roomPx: number) {
    this.lay();
    const { kernel, width } = this;
    const table = lanczosTables[3];
    const tableAt = made(kernel.claim(table.byteLength));
    new Float32Array(kernel.memory.buffer, tableAt, table.length).set(table);
    const at = made(kernel.makeCopies(rows, roomPx));
    for (const { part, wide, left, top } of places)
      kernel.copy(part, wide.x, wide.y, wide.w, wide.h, left, top, roomPx, leastBendPx, tableAt);
    return {
      data: this.taken(Float32Array, at, 4 * width * rows),
      roles: this.taken(Uint8Array, kernel.rolesAt(), width * rows),
      origin: this.taken(Int32Array, kernel.originsAt(), 2 * width * rows),
    };
  }

  private lay(): void {
    if (this.isLaid) return;
    this.isLaid = true;
    const { w, h } = this.box;
    const cellPx = Math.max(leastCellPx, Math.ceil(Math.sqrt((w * h) / mostCells)));
    const { stiffest, squared } = alongLines;
    made(this.kernel.lay(cellPx, stiffest, squared, (cellPx / fadePx) ** 2));
    made(this.kernel.makeStretches(stretchPx));
  }

  private taken<T>(
    kind: { new (buffer: ArrayBuffer, at: number, length: number): { slice(): T } },
    at: number,
    length: number,
  ): T {
    return new kind(this.kernel.memory.buffer, at, length).slice();
  }
}

const shortOfMemory = () => new RangeError('There is not enough memory for bends.');

/** What a kernel found room for. */
function made(at: number): number {
  if (at === 0) throw shortOfMemory();
  return at;
}

export interface BendKernel {
  readonly memory: { readonly buffer: ArrayBuffer };
  release(): void;
  claim(bytes: number): number;
  divide(
    picture: number,
    roles: number,
    w: number,
    h: number,
    boxX: number,
    boxY: number,
    boxW: number,
    boxH: number,
    labels: number,
    shifts: number,
    numbers: number,
    names: number,
  ): number;
  listJoins(): number;
  countJoins(): number;
  lay(cellPx: number, stiffest: number, squared: number, still: number): number;
  letGo(): void;
  hold(
    x: number,
    y: number,
    part: number,
    other: number,
    xx: number,
    xy: number,
    yy: number,
    askedX: number,
    askedY: number,
  ): number;
  settle(mostSteps: number, settled: number): number;
  makeStretches(stretchPx: number): number;
  listWorse(together: number, mostMore: number): number;
  countWorse(): number;
  extents(leastBendPx: number): number;
  makeCopies(rows: number, roomPx: number): number;
  copy(
    part: number,
    wideX: number,
    wideY: number,
    wideW: number,
    wideH: number,
    left: number,
    top: number,
    roomPx: number,
    leastBendPx: number,
    table: number,
  ): void;
  rolesAt(): number;
  originsAt(): number;
  solve(
    nodes: number,
    weights: number,
    linkStart: number,
    linkTo: number,
    stiff: number,
    heldStart: number,
    heldTo: number,
    held: number,
    mostSteps: number,
    settled: number,
    room: number,
    bends: number,
  ): void;
}

let kernel: BendKernel | null = null;

/** Lets the kernel's memory go when it has grown large: another one is made when it is wanted. */
export function letGoOfBends(): void {
  if (kernel && kernel.memory.buffer.byteLength > keepBytes) kernel = null;
}
