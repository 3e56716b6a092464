import { instantiateKernel, rowsWasm } from '../kernels';
import type { Rect } from './rect';

interface Kernel {
  release(): void;
  claim(bytes: number): number;
  read8(from: number, n: number, to: number): void;
  read16(from: number, n: number, to: number): void;
  write8(from: number, n: number, to: number): void;
  write16(from: number, n: number, to: number): void;
  lay(backdrop: number, patch: number, coverage: number, n: number, opacity: number): void;
  covered(coverage: number, n: number, to: number): void;
  add(pixels: number, field: number, kind: number, n: number, share: number): void;
  fit(
    source: number,
    coverage: number,
    valid: number,
    w: number,
    h: number,
    cells: number,
    wide: number,
    across: number,
    right: number,
    down: number,
    below: number,
    tone: number,
    mixed: number,
  ): void;
  gather(
    source: number,
    target: number,
    coverage: number,
    valid: number,
    w: number,
    h: number,
    column: number,
    counts: number,
    covered: number,
    sums: number,
  ): void;
  segment(
    x: number,
    y: number,
    byX: number,
    byY: number,
    radiusA: number,
    radiusB: number,
    hardness: number,
    pressureA: number,
    pressureB: number,
    pressureTo: number,
    goesOn: number,
  ): void;
  raise(coverage: number, stride: number, x: number, y: number, w: number, h: number, rose: number): number;
}

/** Pixels that are handed over at once: few enough to stay in a processor's nearest memory. */
export const mostAtOnce = 4096;

/** What pixels go through one by one, in WebAssembly, some rows at a time: each of its arrays is a place to put rows into, or to
 *  take them out of. */
export interface Rows {
  readonly kernel: Kernel;
  /** RGBA, 8 or 16 bits a channel. */
  readonly bytes: Uint8Array;
  readonly words: Uint16Array;
  /** RGBA, premultiplied. */
  readonly pixels: Float32Array;
  readonly others: Float32Array;
  readonly coverage: Float32Array;
  readonly valid: Uint8Array;
  /** Of columns and rows of pixels: where they lie on a grid. */
  readonly across: Int32Array;
  readonly right: Float32Array;
  readonly down: Int32Array;
  readonly below: Float32Array;
  /** Of a grid's cells: as many as pixels, and a row more. */
  readonly cells: Float32Array;
  readonly mixed: Float32Array;
  readonly counts: Int32Array;
  readonly covered: Uint8Array;
}

let opened: Rows | null = null;

/** @throws RangeError when memory is short */
export function rows(): Rows {
  opened ??= open();
  return opened;
}

function open(): Rows {
  const kernel = instantiateKernel<Kernel>(rowsWasm);
  kernel.release();
  const claim = (bytes: number) => {
    const at = kernel.claim(bytes * mostAtOnce);
    if (at === 0) throw new RangeError('There is not enough memory for some rows of pixels.');
    return at;
  };
  const [bytes, pixels, others, coverage, valid] = [8, 16, 16, 4, 1].map(claim);
  const [across, right, down, below] = [4, 4, 4, 4].map(claim);
  const [cells, mixed, counts, covered] = [4 * 16, 2 * 16, 4, 1].map(claim);
  const { buffer } = kernel.memory;
  const floats = (at: number, each: number) => new Float32Array(buffer, at, each * mostAtOnce);
  return {
    kernel,
    bytes: new Uint8Array(buffer, bytes, 4 * mostAtOnce),
    words: new Uint16Array(buffer, bytes, 4 * mostAtOnce),
    pixels: floats(pixels, 4),
    others: floats(others, 4),
    coverage: floats(coverage, 1),
    valid: new Uint8Array(buffer, valid, mostAtOnce),
    across: new Int32Array(buffer, across, mostAtOnce),
    right: floats(right, 1),
    down: new Int32Array(buffer, down, mostAtOnce),
    below: floats(below, 1),
    cells: floats(cells, 16),
    mixed: floats(mixed, 8),
    counts: new Int32Array(buffer, counts, mostAtOnce),
    covered: new Uint8Array(buffer, covered, mostAtOnce),
  };
}

/** A rectangle's rows: long ones in parts, and several at once where they follow each other in memory.
 *  @param within  whose pixels lie in memory row after row */
export function* rowsOf(r: Rect, ...within: readonly Rect[]): Generator<Rect> {
  const together = within.length > 0 && within.every(({ x, w }) => x === r.x && w === r.w);
  const h = together ? Math.max(1, Math.floor(mostAtOnce / Math.max(1, r.w))) : 1;
  for (let y = r.y; y < r.y + r.h; y += h)
    for (let x = r.x; x < r.x + r.w; x += mostAtOnce)
      yield { x, y, w: Math.min(mostAtOnce, r.x + r.w - x), h: Math.min(h, r.y + r.h - y) };
}
