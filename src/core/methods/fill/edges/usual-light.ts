import type { Seen } from './contrast';
import type { Along } from './parallel-lines';

/** What is lighter than usual by this, in 8-bit steps of all three channels together, is something else. */
const mostLighter = 60;
/** The ground between two lines is looked at in parts so long, in its midst, when there are so many. */
const partPx = 16;
const inMidst = 0.3;
const fewestParts = 4;

/** How light ruled ground is at each place across, in the median. */
export class UsualLight {
  private readonly usual: number[];
  private readonly first: number;

  /** @param first, last  places across
   *  @param extent  its ends along the lines */
  constructor(
    private readonly found: Along,
    private readonly seen: Seen,
    [first, last]: readonly [first: number, last: number],
    private readonly extent: readonly [from: number, to: number],
  ) {
    this.first = first;
    const all: number[][] = Array.from({ length: Math.ceil(last - first) + 2 }, () => []);
    this.eachKnown(first, last, (light, _along, across) => {
      all[Math.round(across - first)].push(light);
    });
    this.usual = all.map(medianOf);
  }

  private at(across: number): number {
    return this.usual[Math.round(across - this.first)] ?? 0;
  }

  /** Whether a known pixel is lighter than is usual at its place: a hinge, a handle. What is darker may be a shadow. */
  isLighter(x: number, y: number, across: number): boolean {
    const { w, h, known } = this.seen;
    if (x < 0 || y < 0 || x >= w || y >= h || !known[y * w + x]) return false;
    // It may lie half beside its place.
    const most = Math.max(this.at(across - 1), this.at(across), this.at(across + 1));
    return this.lightOf(y * w + x) > most + mostLighter;
  }

  /** How much the ground between two lines differs from place to place along them, in the median. */
  unevenness(lines: readonly number[]): number {
    const parts = lines.slice(1).map(() => new Map<number, { sum: number; count: number }>());
    this.eachKnown(lines[0], lines[lines.length - 1] - 1e-6, (light, along, across) => {
      const k = lines.findLastIndex((at) => at <= across);
      const share = (across - lines[k]) / (lines[k + 1] - lines[k]);
      if (share < inMidst || share > 1 - inMidst) return;
      const part = Math.floor(along / partPx);
      const of = parts[k].get(part) ?? { sum: 0, count: 0 };
      parts[k].set(part, { sum: of.sum + light, count: of.count + 1 });
    });
    const deviations = parts.flatMap((of) => {
      const means = [...of.values()]
        .filter(({ count }) => count > partPx)
        .map(({ sum, count }) => sum / count);
      const middle = medianOf(means.slice());
      return means.length < fewestParts ? [] : [medianOf(means.map((mean) => Math.abs(mean - middle)))];
    });
    return medianOf(deviations);
  }

  private eachKnown(
    first: number,
    last: number,
    visit: (light: number, along: number, across: number) => void,
  ): void {
    const { w, h, known } = this.seen;
    const [from, to] = this.extent;
    for (let y = 0, i = 0; y < h; y++)
      for (let x = 0; x < w; x++, i++) {
        if (!known[i]) continue;
        const [along, across] = this.found.placeOf(x, y);
        if (along >= from && along <= to && across >= first && across <= last)
          visit(this.lightOf(i), along, across);
      }
  }

  private lightOf(i: number): number {
    const { px } = this.seen;
    return px[3 * i] + px[3 * i + 1] + px[3 * i + 2];
  }
}

/** Sorts them. */
function medianOf(values: number[]): number {
  values.sort((a, b) => a - b);
  return values[values.length >> 1] ?? 0;
}
