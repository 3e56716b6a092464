import type { FloatImage } from './float-image';
import type { Rect } from './rect';

/** Images for what is looked at once and thrown away, many times a second: all lie in the same memory, which is at hand then. */
export class LentImages {
  private pixels = new Float32Array(0);
  private used = 0;

  /** All that was lent is given back. */
  giveBack(): void {
    this.used = 0;
  }

  /** An image that may hold anything, good until all are given back. */
  lend(rect: Rect): FloatImage {
    return { rect, data: this.lendPlane(4 * rect.w * rect.h) };
  }

  /** So many numbers, likewise. */
  lendPlane(count: number): Float32Array {
    // What was lent before keeps the memory that it lies in.
    if (this.used + count > this.pixels.length) {
      this.pixels = new Float32Array(2 * (this.used + count));
      this.used = 0;
    }
    const data = this.pixels.subarray(this.used, this.used + count);
    this.used += count;
    return data;
  }
}
