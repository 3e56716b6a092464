/** What is done to the pixels of an area as a whole: its outline evened out, its holes, crumbs and guard. */

/** How far smoothing looks, in pixels. */
export const smoothReach = (sigmaPx: number): number => (sigmaPx > 0 ? 3 * boxRadius(sigmaPx) + 1 : 0);

const boxRadius = (sigmaPx: number): number => Math.max(1, Math.round(sigmaPx));

/** Coverage with its outline evened out: blurred, then cut at one half with an edge one pixel soft.
 *
 *  @param coverage  w×h, 0…1; not mutated. Counts in 16 bits and rounds at every pass, so that a pixel's value does not
 *                   depend on where sums begin.
 *  @param sigmaPx  the blur's standard deviation, 0.5…50
 *  @returns w×h, 0…1; exact only {@link smoothReach} inside the edges
 *  The blur is three boxes, after Wells 1986, doi:10.1109/TPAMI.1986.4767776.
 */
export function smoothed(coverage: Float32Array, w: number, h: number, sigmaPx: number): Float32Array {
  const r = boxRadius(sigmaPx);
  const from = Uint16Array.from(coverage, (v) => Math.round(v * full));
  const to = new Uint16Array(w * h);
  for (let pass = 0; pass < 3; pass++) {
    boxMeans(from, to, w, h, 1, w, r);
    boxMeans(to, from, h, w, w, 1, r);
  }
  // The slope of a straight edge after the blur, turned back into one a pixel wide.
  const steep = Math.sqrt((r * r + r) * 2 * Math.PI);
  return Float32Array.from(from, (v) => Math.min(1, Math.max(0, 0.5 + (v / full - 0.5) * steep)));
}

const full = 65_535;

/** Means over 2r + 1 neighbours along lines of `n` values `step` apart; beyond the ends there is nothing. */
function boxMeans(
  from: Uint16Array,
  to: Uint16Array,
  n: number,
  lines: number,
  step: number,
  lineStep: number,
  r: number,
): void {
  const size = 2 * r + 1;
  for (let line = 0; line < lines; line++) {
    const base = line * lineStep;
    let sum = 0;
    for (let k = 0; k < Math.min(r, n); k++) sum += from[base + k * step];
    for (let k = 0; k < n; k++) {
      if (k + r < n) sum += from[base + (k + r) * step];
      if (k - r - 1 >= 0) sum -= from[base + (k - r - 1) * step];
      to[base + k * step] = Math.round(sum / size);
    }
  }
}

type Step = readonly [dx: number, dy: number];
const sides: readonly Step[] = [
  [0, -1],
  [-1, 0],
  [1, 0],
  [0, 1],
];
const sidesAndCorners: readonly Step[] = [...sides, [-1, -1], [1, -1], [-1, 1], [1, 1]];

/** Marks what is enclosed. A hole is a part of what is covered by less than half, connected over sides and corners, that
 *  does not reach the edge of the grid; so an outline that only touches itself at corners is open. */
export function fillHoles(coverage: Float32Array, w: number, h: number): void {
  const open = new Uint8Array(w * h);
  const stack: number[] = [];
  const enter = (i: number) => {
    if (coverage[i] >= 0.5 || open[i]) return;
    open[i] = 1;
    stack.push(i);
  };
  for (let x = 0; x < w; x++) {
    enter(x);
    enter((h - 1) * w + x);
  }
  for (let y = 0; y < h; y++) {
    enter(y * w);
    enter(y * w + w - 1);
  }
  flood(stack, w, h, sidesAndCorners, enter);
  for (let i = 0; i < coverage.length; i++) if (!open[i]) coverage[i] = 1;
}

/** Unmarks parts, connected over sides and corners, that cover fewer than `leastPixels` by half or more. */
export function dropCrumbs(coverage: Float32Array, w: number, h: number, leastPixels: number): void {
  const seen = new Uint8Array(w * h);
  const stack: number[] = [];
  const enter = (i: number) => {
    if (coverage[i] <= 0 || seen[i]) return;
    seen[i] = 1;
    stack.push(i);
  };
  for (let i = 0; i < coverage.length; i++) {
    if (seen[i]) continue;
    enter(i);
    const part: number[] = [];
    flood(stack, w, h, sidesAndCorners, enter, part);
    const count = part.reduce((n, j) => n + (coverage[j] >= 0.5 ? 1 : 0), 0);
    if (count < leastPixels) for (const j of part) coverage[j] = 0;
  }
}

/** By how much the way over sides and corners of pixels is longer than the straight one, at most: at 22.5 degrees. */
const longerWay = 1.0824;

/** How far it is from the marked pixels to each pixel, round the guard.
 *
 *  @param inside  w×h, 1 where marked; these may lie on the guard
 *  @param guard   w×h, from 0.5 on no way leads through
 *  @returns w×h pixels, between middles: no more than the straight way where nothing stands in it, at most a twelfth less than the way
 *  round where something does; Infinity on the guard and where no way leads
 *  Steps to the eight pixels round each, by sweeps forth and back until nothing changes (Rosenfeld & Pfaltz 1966,
 *  doi:10.1145/321356.321357; chamfer weights after Borgefors 1986, doi:10.1016/S0734-189X(86)80047-0). Cost O(w·h) a sweep, two
 *  and one for each turn that a way takes.
 */
export function distanceRound(inside: Uint8Array, guard: Float32Array, w: number, h: number): Float32Array {
  const far = new Float32Array(w * h).map((_, i) => (inside[i] ? 0 : Infinity));
  const free = inside.map((is, i) => (is || guard[i] < 0.5 ? 1 : 0));
  for (let changed = true; changed; ) {
    changed = false;
    for (const by of [1, -1]) {
      for (let k = 0; k < w * h; k++) {
        const i = by > 0 ? k : w * h - 1 - k;
        if (inside[i] || !free[i]) continue;
        const x = i % w;
        const hasBefore = by > 0 ? x > 0 : x < w - 1;
        const hasBehind = by > 0 ? x < w - 1 : x > 0;
        const row = i - by * w;
        const hasRow = row >= 0 && row < w * h;
        let least = far[i];
        if (hasBefore) least = Math.min(least, far[i - by] + 1);
        if (hasRow) {
          least = Math.min(least, far[row] + 1);
          // A step over a corner passes between two pixels, one of which must be free.
          if (hasBefore && (free[row] || free[i - by])) least = Math.min(least, far[row - by] + Math.SQRT2);
          if (hasBehind && (free[row] || free[i + by])) least = Math.min(least, far[row + by] + Math.SQRT2);
        }
        if (least >= far[i] - 1e-3) continue;
        far[i] = least;
        changed = true;
      }
    }
  }
  return far.map((v) => v / longerWay);
}

/** Takes pixels off the stack and enters their neighbours until none is left. */
function flood(
  stack: number[],
  w: number,
  h: number,
  steps: readonly Step[],
  enter: (i: number) => void,
  visited?: number[],
): void {
  for (let i = stack.pop(); i !== undefined; i = stack.pop()) {
    visited?.push(i);
    const x = i % w;
    const y = (i - x) / w;
    for (const [dx, dy] of steps)
      if (x + dx >= 0 && x + dx < w && y + dy >= 0 && y + dy < h) enter(i + dy * w + dx);
  }
}
