import type { Along, Line } from './parallel-lines';

/** Where lines have no regular distance from each other, a pixel may be taken only from its own place between them. */
const regularly = 0.25;

/** Where a pixel lies in ruled ground. */
export interface Spot {
  /** Between which lines it lies, counted from 0, and where between them, 0 to 1; −1 outside the outermost. */
  readonly interval: number;
  readonly share: number;
  /** How far across all of them it lies, so that regular lines lie whole periods apart. */
  readonly across: number;
  readonly isRegular: boolean;
}

/** Lines and what lies between them, in pixels of what is seen. */
export class Lattice {
  readonly intervals: number;
  /** From one regular line to the next. */
  readonly period: number;
  private readonly lines: readonly number[];
  private readonly gaps: readonly number[];
  private readonly isRegular: readonly boolean[];
  /** The lines' places once they are brought to a regular distance. */
  private readonly places: readonly number[];

  /** @param extent  its ends along the lines
   *  @param room    so much beside the outermost lines is of their ground */
  constructor(
    private readonly found: Along,
    lines: readonly Line[],
    private readonly extent: readonly [from: number, to: number],
    private readonly room: number,
  ) {
    this.lines = lines.map(({ at }) => at);
    this.gaps = this.lines.slice(1).map((at, k) => at - this.lines[k]);
    this.intervals = this.gaps.length;
    this.period = [...this.gaps].sort((a, b) => a - b)[this.gaps.length >> 1];
    // A line that is not seen leaves a gap of two.
    const counts = this.gaps.map((gap) => Math.max(1, Math.round(gap / this.period)));
    this.isRegular = this.gaps.map((gap, k) => Math.abs(gap / this.period - counts[k]) <= regularly);
    const places = [0];
    this.gaps.forEach((gap, k) => {
      places.push(places[k] + (this.isRegular[k] ? counts[k] * this.period : gap));
    });
    this.places = places;
  }

  /** Where a pixel of what is seen lies; null outside this ground. */
  spotOf(x: number, y: number): Spot | null {
    const { lines, gaps, places, room, intervals } = this;
    const [along, at] = this.found.placeOf(x, y);
    const [from, to] = this.extent;
    if (at < lines[0] - room || at > lines[intervals] + room || along < from || along > to) return null;
    if (at < lines[0] || at >= lines[intervals]) {
      const across = at < lines[0] ? at - lines[0] : places[intervals] + at - lines[intervals];
      return { interval: -1, share: 0, across, isRegular: false };
    }
    let k = 0;
    while (at >= lines[k + 1]) k++;
    const share = (at - lines[k]) / gaps[k];
    const across = places[k] + share * (places[k + 1] - places[k]);
    return { interval: k, share, across, isRegular: this.isRegular[k] };
  }

  alongOf(x: number, y: number): number {
    return this.found.placeOf(x, y)[0];
  }
}
