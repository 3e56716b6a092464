import type { GuideLine } from '../../../job/types';
import { keptKernel, thinLinesWasm } from '../../../kernels';
import { type FloatImage, grow, intersect } from '../../../raster';
import { boxOfTargets } from '../frame';
import type { Seen } from './contrast';
import { coloursOf } from './points';

/** The hole's longer side is brought to about this many pixels, and to half as many, before lines are looked for: thin and less thin
 *  ones. All further pixels are of that picture. */
const workingSidePx = 160;
/** A line is lighter or darker than what lies so far off on both sides. */
const halfWidthPx = 3;
/** Lines are looked for at every pixel and every so many degrees; of so many it is asked whether they are clear. */
const everyDeg = 1;
const candidates = 30;
/** The hole is so long along a line at least. */
const leastCrossedPx = 20;
/** A line is looked at from so far off the hole on, in stretches of so many pixels. */
const gapPx = 2;
const stretchPx = 5;
const fewestStretches = 3;
/** What a line has of contrast is compared with what lies so far beside it has, as the root of the mean square of stretches, or these
 *  many 8-bit steps: on both sides of the hole it has so many times as much in the mean, more for a wider line, which is
 *  looked at in fewer stretches; and all but a share of its stretches so many. */
const besidePx = [-16, -13, -10, -7, 7, 10, 13, 16];
const leastUsual = 0.7;
const leastClear = { thin: 1.5, wider: 2.2 };
const leastAllAlong = 0.6;
const weakShare = 0.2;
/** It is as strong on one side as on the other but for this factor. */
const mostUneven = 2.5;
/** What lies on its two sides differs from it by amounts that differ by less than this factor. */
const mostLopsided = 8;
/** On either side, a line that begins and ends up to so far off stands out no more than this many times as clearly: else it is another
 *  one that is seen there, and they do not meet. */
const offPx = 3;
const mostClearer = 1.5;
/** What lies beside it, on both sides of the hole, varies by no more than so many 8-bit steps but for this share at either end: along
 *  a stave a hoop would be drawn in. */
const ofOneGround = { steps: 30, endShare: 0.1 };
/** Nearer to each other, and turned by less, two are one. */
const apart = { px: 8, deg: 6 };
/** So near, they are one before it is asked whether they are clear. */
const oneCandidate = { px: 3, deg: 3 };
const mostLines = 12;

/** Thin straight lines that are likely to run on behind what was marked, joints and wires: seen on both sides of it, in line, all
 *  along. What texture has of lines, in grass or in waves, is as strong, but comes and goes.
 *
 *  @param image  the ground; pixels of targets are not read
 *  @param w, h   the ground's size, the first rows of the image
 *  @returns from where each enters the hole to where it leaves it, in pixels counted from pixel centres; the clearest first
 *  Degenerate: no hole gives none. The measure is ours. Cost: does not depend on the hole's size. */
export function thinLines(image: FloatImage, roles: Uint8Array, w: number, h: number): GuideLine[] {
  const box = boxOfTargets(roles, image.rect.w);
  const side = Math.max(box.w, box.h);
  const least = Math.max(1, Math.round(side / workingSidePx));
  const out: GuideLine[] = [];
  for (const kind of ['thin', 'wider'] as const) {
    const scale = kind === 'thin' ? least : 2 * least;
    const reach = Math.max(16, Math.min(60, Math.round((0.5 * side) / scale)));
    const part = intersect(grow(box, (reach + 8) * scale), { x: 0, y: 0, w, h });
    const seen = coloursOf(image, roles, part, scale);
    if (seen.rim.length === 0) continue;
    for (const line of new LineSearch(seen, reach).lines(leastClear[kind])) {
      const [x0, y0, x1, y1] = line.map((v, k) => (k % 2 ? part.y : part.x) + v * scale + (scale - 1) / 2);
      const isNew = !out.some((other) => liesBeside([x0, y0, x1, y1], other, apart.px * scale));
      if (isNew) out.push([x0, y0, x1, y1]);
    }
  }
  return out;
}

/** Whether both ends of a line lie so near to another one, however far that goes. */
export function liesBeside([ax, ay, bx, by]: GuideLine, [x0, y0, x1, y1]: GuideLine, px: number): boolean {
  const length = Math.hypot(x1 - x0, y1 - y0);
  const off = (x: number, y: number) => Math.abs((x1 - x0) * (y - y0) - (y1 - y0) * (x - x0)) / length;
  return off(ax, ay) < px && off(bx, by) < px;
}

/** A line by its angle in degrees and how far it lies off the hole's middle, and where along it the hole begins and ends. */
interface Candidate {
  readonly deg: number;
  readonly off: number;
  readonly from: number;
  readonly to: number;
  readonly score: number;
}

class LineSearch {
  /** 0…255; NaN where nothing is known. */
  private readonly grey: Float32Array;
  private readonly middle: readonly [number, number];
  private readonly radius: number;
  private readonly kernel: ThinLineKernel;
  private readonly buffer: ArrayBuffer;
  private readonly at: { readonly rim: number; readonly room: number; readonly out: number };

  constructor(
    private readonly seen: Seen,
    private readonly reach: number,
  ) {
    const { w, h, px, rim, known } = seen;
    let [x0, y0, x1, y1] = [Infinity, Infinity, 0, 0];
    for (let k = 0; k < rim.length; k += 2) {
      [x0, x1] = [Math.min(x0, rim[k]), Math.max(x1, rim[k])];
      [y0, y1] = [Math.min(y0, rim[k + 1]), Math.max(y1, rim[k + 1])];
    }
    this.middle = [(x0 + x1) / 2, (y0 + y1) / 2];
    this.radius = Math.ceil(Math.hypot(x1 - x0, y1 - y0) / 2) + 1;
    const stretches = Math.ceil(reach / stretchPx);
    const lines = 2 * this.radius + 1;
    const n = known.length;
    const sizes = [12 * n, n, 4 * n, 4 * rim.length, 4 * (2 * lines + stretches), 32 * lines + 8 * stretches];
    const { kernel, buffer, at } = thinLinesKernel(sizes);
    const [pxAt, knownAt, greyAt, rimAt, room, out] = at;
    new Float32Array(buffer, pxAt, 3 * n).set(px);
    new Uint8Array(buffer, knownAt, n).set(known);
    new Int32Array(buffer, rimAt, rim.length).set(rim);
    kernel.begin(pxAt, knownAt, w, h, greyAt, reach, halfWidthPx, gapPx, stretchPx);
    this.grey = new Float32Array(buffer, greyAt, n);
    this.kernel = kernel;
    this.buffer = buffer;
    this.at = { rim: rimAt, room, out };
  }

  lines(atLeast: number): GuideLine[] {
    const clear: { line: Candidate; clearness: number }[] = [];
    for (const line of this.strongest()) {
      const clearness = this.clearness(line, atLeast);
      if (clearness > 0 && this.isOneGround(line)) clear.push({ line, clearness });
    }
    clear.sort((a, b) => b.clearness - a.clearness);
    const out: Candidate[] = [];
    for (const { line } of clear)
      if (out.length < mostLines && !out.some((other) => isSame(line, other, apart.px, apart.deg)))
        out.push(line);
    return out.map((line) => {
      const { at } = this.placesOn(line.deg, line.off);
      return [...at(line.from), ...at(line.to)];
    });
  }

  private placesOn(deg: number, off: number) {
    const angle = (deg * Math.PI) / 180;
    const [ux, uy] = [Math.cos(angle), Math.sin(angle)];
    const [ox, oy] = [this.middle[0] - uy * off, this.middle[1] + ux * off];
    return { ux, uy, ox, oy, at: (t: number) => [ox + ux * t, oy + uy * t] as const };
  }

  /** The lines that are darkest or lightest on both sides of the hole. */
  private strongest(): Candidate[] {
    const all: Candidate[] = [];
    const [mx, my] = this.middle;
    for (let deg = 0; deg < 180; deg += everyDeg) {
      const { ux, uy } = this.placesOn(deg, 0);
      const count = this.kernel.across(
        this.at.rim,
        this.seen.rim.length / 2,
        mx,
        my,
        this.radius,
        ux,
        uy,
        leastCrossedPx,
        mostUneven,
        weakShare,
        fewestStretches,
        this.at.room,
        this.at.out,
      );
      const found = new Float64Array(this.buffer, this.at.out, 4 * count);
      for (let k = 0; k < 4 * count; k += 4)
        all.push({ deg, off: found[k], from: found[k + 1], to: found[k + 2], score: found[k + 3] });
    }
    all.sort((a, b) => b.score - a.score);
    const out: Candidate[] = [];
    for (const line of all) {
      if (out.length >= candidates) break;
      if (!out.some((other) => isSame(line, other, oneCandidate.px, oneCandidate.deg))) out.push(line);
    }
    return out;
  }

  /** By how much each stretch of a line is lighter than what lies beside it, on both sides or on one, in 8-bit steps. */
  private dips(deg: number, off: number, start: number, way: 1 | -1, side: 1 | -1 | 0 = 0): number[] {
    const { ux, uy, ox, oy } = this.placesOn(deg, off);
    const count = this.kernel.dips(ox, oy, ux, uy, start, way, side, this.at.out);
    return Array.from(new Float64Array(this.buffer, this.at.out, count));
  }

  /** How clearly a line stands out from what lies beside it, on that side of the hole where it does so less; 0 when that is less than
   *  asked, or it is not seen all along. */
  private clearness({ deg, off, from, to }: Candidate, atLeast: number): number {
    const before = this.clearnessOf(deg, off, from, -1);
    if (before < atLeast) return 0;
    const behind = this.clearnessOf(deg, off, to, 1);
    return behind < atLeast ? 0 : Math.min(before, behind);
  }

  private clearnessOf(deg: number, off: number, start: number, way: 1 | -1): number {
    const own = this.dips(deg, off, start, way);
    const beside = besidePx.flatMap((px) => this.dips(deg, off + px, start, way));
    if (own.length < fewestStretches || beside.length < besidePx.length) return 0;
    // Beside a dark line all looks light, against that line.
    const [left, right] = ([-1, 1] as const).map((side) => mean(this.dips(deg, off, start, way, side)));
    if (!isEven(left, right, mostLopsided)) return 0;
    const usual = Math.max(leastUsual, Math.sqrt(mean(beside.map((v) => v * v))));
    const its = mean(own);
    if (weakest(own, Math.sign(its)) < leastAllAlong * usual) return 0;
    return this.nearBy(deg, off, start, way) > mostClearer * Math.abs(its) ? 0 : Math.abs(its) / usual;
  }

  /** Whether what lies beside a line, on both sides of the hole, is of about one lightness. */
  private isOneGround({ deg, off, from, to }: Candidate): boolean {
    const { w, h } = this.seen;
    const { uy, ux, ox, oy } = this.placesOn(deg, off);
    const values: number[] = [];
    for (const [start, way] of [
      [from, -1],
      [to, 1],
    ] as const)
      for (let k = gapPx; k <= this.reach; k++)
        for (const side of [-halfWidthPx, halfWidthPx]) {
          const t = start + way * k;
          const [x, y] = [Math.round(ox + ux * t - uy * side), Math.round(oy + uy * t + ux * side)];
          if (x < 0 || y < 0 || x >= w || y >= h || Number.isNaN(this.grey[y * w + x])) continue;
          values.push(this.grey[y * w + x]);
        }
    values.sort((a, b) => a - b);
    const at = (share: number) => values[Math.floor(share * (values.length - 1))];
    return at(1 - ofOneGround.endShare) - at(ofOneGround.endShare) <= ofOneGround.steps;
  }

  /** By how much the clearest line that runs nearly as one does stands out on one side of the hole, in the mean. */
  private nearBy(deg: number, off: number, start: number, way: 1 | -1): number {
    const { ux, uy, at } = this.placesOn(deg, off);
    const [x, y] = at(start);
    let best = 0;
    for (let first = -offPx; first <= offPx; first++)
      for (let last = -offPx; last <= offPx; last++) {
        const turned = deg + (way * Math.atan2(last - first, this.reach) * 180) / Math.PI;
        const { ux: vx, uy: vy } = this.placesOn(turned, 0);
        const [px, py] = [x - uy * first - this.middle[0], y + ux * first - this.middle[1]];
        const dips = this.dips(turned, vx * py - vy * px, vx * px + vy * py, way);
        if (dips.length >= fewestStretches) best = Math.max(best, Math.abs(mean(dips)));
      }
    return best;
  }
}

/** Whether two numbers have the same sign, and neither is so many times as large as the other. */
const isEven = (a: number, b: number, most: number): boolean => a * b > 0 && a / b <= most && b / a <= most;

const mean = (values: readonly number[]): number => values.reduce((s, v) => s + v, 0) / values.length;

/** How far all stretches but a few stand out at least, lighter or darker as the sign says. */
const weakest = (dips: readonly number[], sign: number): number =>
  dips.map((v) => sign * v).sort((a, b) => a - b)[Math.floor(weakShare * dips.length)];

/** Whether two lines lie so near to each other and are turned so little. */
function isSame(a: Candidate, b: Candidate, px: number, deg: number): boolean {
  const turned = Math.abs(a.deg - b.deg);
  const isOpposite = turned > 90;
  return (isOpposite ? 180 - turned : turned) < deg && Math.abs(a.off - (isOpposite ? -b.off : b.off)) < px;
}

export interface ThinLineKernel {
  release(): void;
  claim(bytes: number): number;
  begin(
    px: number,
    known: number,
    w: number,
    h: number,
    grey: number,
    reach: number,
    halfWidth: number,
    gap: number,
    stretch: number,
  ): void;
  dips(
    ox: number,
    oy: number,
    ux: number,
    uy: number,
    start: number,
    way: number,
    side: number,
    out: number,
  ): number;
  across(
    rim: number,
    rims: number,
    mx: number,
    my: number,
    radius: number,
    ux: number,
    uy: number,
    leastCrossed: number,
    mostUneven: number,
    weakShare: number,
    fewest: number,
    room: number,
    out: number,
  ): number;
}

const thinLinesKernel = keptKernel<ThinLineKernel>(thinLinesWasm);
