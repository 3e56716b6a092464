import { type Contrast, depthPx } from './contrast';

/** Lines that are farther apart than this are not of one ground, in photo pixels. */
const mostGapPx = 64;
const leastLines = 4;
/** Of {@link Line.clarity}, so much tells a line. */
const clearly = 14;
/** And so much one at a chain's end, when what lies before it is of the chain's colour: in 8-bit steps of a channel. */
const faintly = 6;
const ofItsColour = 24;
/** It is looked at so near to the hole, in photo pixels. */
const colourPx = 32;
/** Beside those that run into the hole, lines of their ground are at least so clear, and have at least this share of their clarity. */
const clearlyBeside = 20;
const asClear = 0.15;
/** And are no farther apart than this, as a share of the usual distance. */
const widerGap = 1.6;
/** What lies so near to the hole may show a line more clearly than all that is looked at, in photo pixels. */
const nearPx = 48;
/** No line counts for more. */
const mostClarity = 100;
/** Lines of one ground are so clear in the mean: those of brick, flags and water, which are not straight, are less so. */
const leastMeanClarity = 50;
/** Pixels in a row along a line have so much in common that only one of so many counts. */
const alikeInRow = 4;
/** So that one of so many is enough to look at. */
const everyInRow = 2;
/** Of a line so much must be seen. */
const leastSeenShare = 1 / 3;
/** So many of the lines before the hole and behind it lie in line, when they run through, this near to each other. */
const leastMatched = 0.6;
const matchedPx = 3;
/** They tell more than others. */
const throughWeighs = 1.5;
/** Lines on the other side are as many as this share. */
const facedShare = 0.4;
/** Beside a hole, so much of the ground is looked at to see whether it is ruled there as well, in photo pixels. */
const besidePx = { across: 80, along: 64, step: 16, fromHole: 4 };
/** So far into the hole it must be, in photo pixels, or so much of the hole's length. */
const leastAlongsidePx = 96;
const leastAlongside = 0.5;
/** So much of what is looked at there is line. */
const leastBesideShare = 0.14;
/** Lines of the same ground are looked for so far beyond those that enter the hole, in photo pixels. */
const mostBesidePx = 256;

/** Lines of one ground, across which they lie at `from` to `to`. */
export interface Chain {
  readonly from: number;
  readonly to: number;
  readonly lines: number;
  /** How clear they are in sum; more when they run through. */
  readonly weight: number;
  /** Lines are seen on the other side as well, but not in line. */
  readonly isFaced: boolean;
  /** Seen before the hole (−1), behind it (1), or on both sides, in line (0). */
  readonly side: -1 | 0 | 1;
}

export interface Line {
  readonly at: number;
  /** Its mean contrast, squared, over the square of its standard error. */
  readonly clarity: number;
}

/** Whether lines are so many, and so clear, that they rule their ground. */
export const areOfOneGround = (lines: readonly Line[]): boolean =>
  lines.length >= leastLines &&
  lines.reduce((sum, { clarity }) => sum + Math.min(mostClarity, clarity), 0) >=
    leastMeanClarity * lines.length;

const isClear = ({ clarity }: Line): boolean => clarity >= clearly;

/** How clear lines are in sum: how much they stand out over their error. */
export const clarityOf = (lines: readonly Line[]): number =>
  lines.reduce((sum, { clarity }) => sum + Math.sqrt(clarity), 0);

/** What one place across shows. */
interface Place {
  readonly clarity: number;
  /** How much lighter it is than what lies on both sides of it. */
  readonly light: number;
}

const nothing: Place = { clarity: 0, light: 0 };

/** The lines among places in a row, to a part of a pixel. Dark joints have something lighter beside them, and the other way round:
 *  those that stand out more are the lines. @param first  where the first place lies */
function peaksOf(places: readonly Place[], first: number, least: number): Line[] {
  const standsOut = [-1, 1].map((sign) =>
    places.reduce(
      (sum, { light, clarity }) => sum + (light * sign > 0 && clarity >= clearly ? light ** 2 : 0),
      0,
    ),
  );
  const sign = standsOut[0] > standsOut[1] ? -1 : 1;
  const strength = places.map(({ light, clarity }) => (clarity >= least / 2 ? light * sign : 0));
  const out: Line[] = [];
  for (let k = 1; k < places.length - 1; k++) {
    const [a, b, c] = [strength[k - 1], strength[k], strength[k + 1]];
    const { clarity } = places[k];
    if (b <= 0 || b < a || b <= c || clarity < least) continue;
    out.push({ at: first + k + (a - c) / (2 * (a - 2 * b + c)), clarity });
  }
  return out;
}

const between = (lines: readonly Line[], from: number, to: number): number =>
  lines.filter(({ at }) => at >= from && at <= to).length;

/** What is seen along one direction. Places are counted along and across it from the middle of what is seen. */
export class Along {
  readonly ux: number;
  readonly uy: number;
  private readonly span: number;
  /** For each place across, where the hole begins and where it ends. */
  private readonly enters: Float64Array;
  private readonly leaves: Float64Array;
  private onSides: readonly [before: Line[], behind: Line[]] | null = null;

  /** @param draw  how much lines draw together, for each pixel along and each pixel across: 0 when they are parallel */
  constructor(
    private readonly contrast: Contrast,
    readonly deg: number,
    readonly draw: number,
    private readonly scale: number,
  ) {
    const { w, h, rim } = contrast.seen;
    const angle = (deg * Math.PI) / 180;
    [this.ux, this.uy] = [Math.cos(angle), Math.sin(angle)];
    this.span = Math.ceil((Math.hypot(w, h) / 2) * 1.2) + 2;
    this.enters = new Float64Array(2 * this.span).fill(Number.POSITIVE_INFINITY);
    this.leaves = new Float64Array(2 * this.span).fill(Number.NEGATIVE_INFINITY);
    for (let k = 0; k < rim.length; k += 2) {
      const [along, across] = this.placeOf(rim[k], rim[k + 1]);
      const t = Math.round(across) + this.span;
      for (let q = Math.max(0, t - 1); q <= Math.min(2 * this.span - 1, t + 1); q++) {
        if (along < this.enters[q]) this.enters[q] = along;
        if (along > this.leaves[q]) this.leaves[q] = along;
      }
    }
  }

  placeOf(x: number, y: number): readonly [along: number, across: number] {
    const { w, h } = this.contrast.seen;
    const [dx, dy] = [x - w / 2, y - h / 2];
    const along = this.ux * dx + this.uy * dy;
    return [along, (-this.uy * dx + this.ux * dy) / (1 + this.draw * along)];
  }

  /** How many clear lines there are on one side of the hole at least. */
  get clearLines(): number {
    return Math.max(...this.seenOnSides().map((lines) => lines.filter(isClear).length));
  }

  /** What runs into the hole. */
  chains(): Chain[] {
    const faint = this.seenOnSides();
    const [before, behind] = faint.map((lines) => lines.filter(isClear));
    const matched = before.filter(({ at }) =>
      behind.some((l) => Math.abs(l.at - at) <= matchedPx / this.scale),
    );
    return [
      ...this.chained(matched, 0, []).filter(
        ({ from, to, lines }) =>
          lines >= leastMatched * Math.max(...[before, behind].map((all) => between(all, from, to))),
      ),
      ...this.chained(before, -1, behind).map((chain) => this.withEnds(chain, faint[0])),
      ...this.chained(behind, 1, before).map((chain) => this.withEnds(chain, faint[1])),
    ];
  }

  /** How far along the hole the chain goes on, counted from the side where it is seen; infinity: through; null: not at all. */
  reachOf(chain: Chain): number | null {
    if (chain.side === 0) return Number.POSITIVE_INFINITY;
    const { scale } = this;
    const [length, step] = [besidePx.along / scale, besidePx.step / scale];
    const { begin, end } = this.holeOf(chain);
    let farthest = begin;
    for (const hand of [-1, 1] as const) {
      let missed = 0;
      for (let s = begin; s + length / 2 <= end && missed < 2; s += step) {
        missed++;
        if (!this.isRuledBeside(s, hand, chain.side)) continue;
        missed = 0;
        farthest = Math.max(farthest, s + length / 2);
      }
    }
    if (farthest - begin < Math.min(leastAlongsidePx / scale, leastAlongside * (end - begin))) return null;
    if (farthest + step <= end) return farthest;
    // Where the sides are ruled all along and nothing behind is in line, the lines are not straight.
    return chain.isFaced ? null : end;
  }

  /** Between which places along the lines their ground is known, or goes on within the hole. */
  extentOf(chain: Chain, reach: number): readonly [from: number, to: number] {
    const { begin, end } = this.holeOf(chain);
    const depth = depthPx / this.scale;
    const [from, to] = [begin - depth, Math.min(reach, end + depth)];
    return chain.side === 1 ? [-to, -from] : [from, to];
  }

  /** The lines of a chain and those next to it, beside the hole: their places across, to a part of a pixel. */
  linesOf(chain: Chain, reach: number): Line[] {
    const { scale } = this;
    const [from, to] = this.extentOf(chain, reach);
    const [first, last] = [chain.from - mostBesidePx / scale, chain.to + mostBesidePx / scale];
    const seen = Array.from({ length: Math.floor(last - first) + 1 }, (_, k) =>
      this.lineAt(first + k, from, 1, Math.ceil(to - from), true),
    );
    const peaks = peaksOf(seen, first, faintly);
    // The chain's own, and those that are as clear and hang together with it.
    const isEnd = (at: number) => Math.min(Math.abs(at - chain.from), Math.abs(at - chain.to)) < 2;
    const isOwn = ({ at, clarity }: Line) =>
      at > chain.from - 2 && at < chain.to + 2 && (clarity >= clearly || isEnd(at));
    const own = peaks.filter(isOwn);
    if (own.length === 0) return [];
    const usual = own.map(({ clarity }) => clarity).sort((a, b) => a - b)[own.length >> 1];
    const least = Math.max(clearlyBeside, asClear * usual);
    const lines = peaks.filter((line) => isOwn(line) || line.clarity >= least);
    const middle = lines.findIndex(isOwn);
    let [low, high] = [middle, middle];
    // Beyond the chain, only those at about its own distances.
    const gaps = own
      .slice(1)
      .map(({ at }, k) => at - own[k].at)
      .sort((a, b) => a - b);
    const gap = Math.min(mostGapPx / scale, widerGap * (gaps[gaps.length >> 1] ?? 0));
    while (low > 0 && lines[low].at - lines[low - 1].at <= gap) low--;
    while (high < lines.length - 1 && lines[high + 1].at - lines[high].at <= gap) high++;
    return lines.slice(low, high + 1);
  }

  /** Where the hole begins before a chain's lines, and where all of it ends; counted from the chain's side. */
  private holeOf({ from, to, side }: Chain): { begin: number; end: number } {
    const { span, enters, leaves } = this;
    let [begin, end] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
    for (let t = 0; t < 2 * span; t++) {
      if (enters[t] === Number.POSITIVE_INFINITY) continue;
      if (t >= from + span && t <= to + span) begin = Math.min(begin, side === 1 ? -leaves[t] : enters[t]);
      end = Math.max(end, side === 1 ? -enters[t] : leaves[t]);
    }
    return { begin, end };
  }

  private chained(lines: readonly Line[], side: -1 | 0 | 1, opposite: readonly Line[]): Chain[] {
    const out: Chain[] = [];
    let first = 0;
    for (let k = 1; k <= lines.length; k++) {
      if (k < lines.length && lines[k].at - lines[k - 1].at <= mostGapPx / this.scale) continue;
      const own = lines.slice(first, k);
      first = k;
      if (!areOfOneGround(own)) continue;
      const weight = clarityOf(own);
      const [from, to] = [own[0].at, own[own.length - 1].at];
      const isFaced = between(opposite, from, to) >= facedShare * own.length;
      out.push({
        from,
        to,
        lines: own.length,
        weight: side === 0 ? throughWeighs * weight : weight,
        side,
        isFaced,
      });
    }
    return out;
  }

  /** A chain with the fainter lines at its ends, as long as what lies between is of its colour: where little of a line is seen before
   *  the hole it is less clear. */
  private withEnds(chain: Chain, lines: readonly Line[]): Chain {
    const { side } = chain;
    if (side === 0) return chain;
    let [from, to] = [chain.from, chain.to];
    const colour = this.meanColour(from, to, side);
    const gap = (widerGap * (to - from)) / (chain.lines - 1);
    const isOfIt = (a: number, b: number) =>
      b - a <= gap && Math.hypot(...this.meanColour(a, b, side).map((v, c) => v - colour[c])) <= ofItsColour;
    for (const { at } of lines) if (at > to && isOfIt(to, at)) to = at;
    for (const { at } of lines.toReversed()) if (at < from && isOfIt(at, from)) from = at;
    return { ...chain, from, to };
  }

  /** The mean colour of what lies before the hole between two places across. */
  private meanColour(from: number, to: number, side: -1 | 1): number[] {
    const { span, enters, leaves } = this;
    const { px } = this.contrast.seen;
    const sum = [0, 0, 0];
    let count = 0;
    for (let t = Math.ceil(from); t <= to; t++) {
      if (enters[t + span] === Number.POSITIVE_INFINITY) continue;
      const start = side < 0 ? enters[t + span] - 2 : leaves[t + span] + 2;
      this.eachOn(t, start, side, colourPx / this.scale, false, (i) => {
        for (let c = 0; c < 3; c++) sum[c] += px[3 * i + c];
        count++;
      });
    }
    return sum.map((v) => v / Math.max(1, count));
  }

  private seenOnSides(): readonly [before: Line[], behind: Line[]] {
    this.onSides ??= [this.linesOn(-1), this.linesOn(1)];
    return this.onSides;
  }

  private linesOn(side: -1 | 1): Line[] {
    const { span, enters, leaves } = this;
    const seen = Array.from({ length: 2 * span }, (_, t) => {
      if (enters[t] === Number.POSITIVE_INFINITY) return nothing;
      const from = side < 0 ? enters[t] - 2 : leaves[t] + 2;
      // Farther off, a shadow may lie on it, or it may not have begun.
      const [all, near] = [depthPx, nearPx].map((depth) =>
        this.lineAt(t - span, from, side, depth / this.scale, false),
      );
      return near.clarity > all.clarity ? near : all;
    });
    return peaksOf(seen, -span, faintly).map(({ at, clarity }) => ({ at: Math.round(at), clarity }));
  }

  /** How clear a line is that runs here: its mean contrast, squared, over the square of its standard error.
   *  @param goesOn  beyond what is not known; else the line ends there */
  private lineAt(across: number, from: number, side: -1 | 1, count: number, goesOn: boolean): Place {
    const { contrast } = this;
    let n = 0;
    let [r, g, b, squares] = [0, 0, 0, 0];
    this.eachOn(across, from, side, count, goesOn, (i) => {
      if (!contrast.known[i]) return;
      n++;
      const [u, v, z] = [contrast.data[3 * i], contrast.data[3 * i + 1], contrast.data[3 * i + 2]];
      r += u;
      g += v;
      b += z;
      squares += u * u + v * v + z * z;
    });
    if (n * everyInRow < leastSeenShare * (goesOn ? depthPx / this.scale : count)) return nothing;
    const mean = (r * r + g * g + b * b) / n ** 2;
    const variance = squares / n - mean;
    return { clarity: mean / ((variance * alikeInRow) / (n * everyInRow) + 1), light: (r + g + b) / n };
  }

  /** Known pixels along a line. */
  private eachOn(
    across: number,
    from: number,
    side: -1 | 1,
    count: number,
    goesOn: boolean,
    visit: (i: number) => void,
  ): void {
    const { ux, uy, draw } = this;
    const { w, h, known } = this.contrast.seen;
    for (let k = 0; k < count; k += everyInRow) {
      const along = from + side * k;
      const off = across * (1 + draw * along);
      const x = Math.round(w / 2 + ux * along - uy * off);
      const y = Math.round(h / 2 + uy * along + ux * off);
      if (x >= 0 && y >= 0 && x < w && y < h && known[y * w + x]) visit(y * w + x);
      else if (!goesOn) break;
    }
  }

  private isRuledBeside(from: number, hand: -1 | 1, side: -1 | 1): boolean {
    const { scale } = this;
    const [length, across] = [besidePx.along / scale, besidePx.across / scale];
    const edge = this.holeEdge(from, from + length, hand, side);
    if (edge === null) return false;
    const into = -side as -1 | 1;
    let clear = 0;
    for (let k = besidePx.fromHole; k < across; k++)
      if (this.lineAt(edge + hand * k, into * from, into, length, false).clarity >= clearly) clear++;
    return clear >= leastBesideShare * (across - besidePx.fromHole);
  }

  /** The outermost place across of the hole between two places along. */
  private holeEdge(from: number, to: number, hand: -1 | 1, side: -1 | 1): number | null {
    const { rim } = this.contrast.seen;
    let edge: number | null = null;
    for (let k = 0; k < rim.length; k += 2) {
      const [along, across] = this.placeOf(rim[k], rim[k + 1]);
      const s = side < 0 ? along : -along;
      if (s < from || s > to) continue;
      if (edge === null || hand * across > hand * edge) edge = Math.round(across);
    }
    return edge;
  }
}
