import type { Seen } from './contrast';
import type { Lattice, Spot } from './lattice';

/** Light is told apart in steps of so much, in 8-bit steps of all three channels together. */
const stepSize = 30;
/** It is at home when so much of what lies so near to the hole is as light, or lighter or darker by a step. */
const leastShare = 0.03;
const besideHolePx = [3, 6, 9, 12];
const directions = Array.from(
  { length: 8 },
  (_, k) => [Math.cos((k * Math.PI) / 4), Math.sin((k * Math.PI) / 4)] as const,
);
/** So many places between two lines have their usual light. */
const placesBetween = 32;
/** The ground between two lines is looked at in parts so long, in its midst, when there are so many. */
const partPx = 16;
const inMidst = 0.3;
const fewestParts = 4;
/** So much of the ground tells how even it is. */
const evenShare = 1 / 3;

/** How light ruled ground is: at each place between regular lines, and at each place across elsewhere, in the median. */
export class UsualLight {
  private readonly usual = new Map<number, number>();
  /** For each step lighter or darker than usual, how much of what lies near to the hole is. */
  private readonly nearHole = new Map<number, number>();

  constructor(
    private readonly lattice: Lattice,
    private readonly seen: Seen,
    scale: number,
  ) {
    const all = new Map<number, number[]>();
    this.eachKnown((i, spot) => {
      const key = keyOf(spot);
      const lights = all.get(key);
      if (lights) lights.push(this.lightOf(i));
      else all.set(key, [this.lightOf(i)]);
    });
    for (const [key, lights] of all) this.usual.set(key, medianOf(lights));
    this.lookNearHole(scale);
  }

  /** Whether a known pixel is lighter or darker than its ground is near the hole: a hinge, a handle, the shadow of something. */
  isOther(x: number, y: number, spot: Spot): boolean {
    const { w, h, known } = this.seen;
    if (x < 0 || y < 0 || x >= w || y >= h || !known[y * w + x]) return false;
    const step = this.stepOf(y * w + x, spot);
    let share = 0;
    for (let d = -1; d <= 1; d++) share += this.nearHole.get(step + d) ?? 0;
    return share < leastShare;
  }

  /** How much the ground between two lines differs from place to place along them, where it is more even than most: a shadow or a
   *  hinge may lie on the rest. */
  unevenness(): number {
    const parts = Array.from(
      { length: this.lattice.intervals },
      () => new Map<number, { sum: number; count: number }>(),
    );
    this.eachKnown((i, { interval, share }, x, y) => {
      if (interval < 0 || share < inMidst || share > 1 - inMidst) return;
      const part = Math.floor(this.lattice.alongOf(x, y) / partPx);
      const of = parts[interval].get(part) ?? { sum: 0, count: 0 };
      parts[interval].set(part, { sum: of.sum + this.lightOf(i), count: of.count + 1 });
    });
    const deviations = parts.flatMap((of) => {
      const means = [...of.values()]
        .filter(({ count }) => count > partPx)
        .map(({ sum, count }) => sum / count);
      const middle = medianOf(means.slice());
      return means.length < fewestParts ? [] : [medianOf(means.map((mean) => Math.abs(mean - middle)))];
    });
    deviations.sort((a, b) => a - b);
    return deviations[Math.floor(evenShare * deviations.length)] ?? 0;
  }

  private lookNearHole(scale: number): void {
    const { w, h, known, rim } = this.seen;
    let all = 0;
    for (let k = 0; k < rim.length; k += 2)
      for (const [ux, uy] of directions)
        for (const px of besideHolePx) {
          const x = Math.round(rim[k] + (ux * px) / scale);
          const y = Math.round(rim[k + 1] + (uy * px) / scale);
          const spot =
            x >= 0 && y >= 0 && x < w && y < h && known[y * w + x] ? this.lattice.spotOf(x, y) : null;
          if (!spot) continue;
          const step = this.stepOf(y * w + x, spot);
          this.nearHole.set(step, (this.nearHole.get(step) ?? 0) + 1);
          all++;
        }
    for (const [step, count] of this.nearHole) this.nearHole.set(step, count / all);
  }

  private stepOf(i: number, spot: Spot): number {
    return Math.round((this.lightOf(i) - (this.usual.get(keyOf(spot)) ?? 0)) / stepSize);
  }

  private eachKnown(visit: (i: number, spot: Spot, x: number, y: number) => void): void {
    const { w, h, known } = this.seen;
    for (let y = 0, i = 0; y < h; y++)
      for (let x = 0; x < w; x++, i++) {
        const spot = known[i] ? this.lattice.spotOf(x, y) : null;
        if (spot) visit(i, spot, x, y);
      }
  }

  private lightOf(i: number): number {
    const { px } = this.seen;
    return px[3 * i] + px[3 * i + 1] + px[3 * i + 2];
  }
}

const keyOf = ({ isRegular, share, across }: Spot): number =>
  isRegular ? Math.floor(share * placesBetween) : placesBetween + 1e6 + Math.round(across);

/** Sorts them. */
function medianOf(values: number[]): number {
  values.sort((a, b) => a - b);
  return values[values.length >> 1] ?? 0;
}
