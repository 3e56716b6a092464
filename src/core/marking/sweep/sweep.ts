import { grow, intersect, type Rect } from '../../raster';
import type { Seen } from '../seen';
import { type Candidate, candidatesIn, tilesOf, weigh } from './candidates';
import { type Fault, leastSure, type SweepOptions } from './fault';

const weighedInStep = 100;
/** Log-odds from which on there is hardly a doubt. */
const sureEnough = 5;
/** Log-odds from which on a whole stands for its surer parts, and is as sure as they are. */
const leastWhole = 0;
/** What stands out by less than so many times another's contrast may be the same thing. */
const samePerhaps = 1.3;
const mostFaults = 5000;

/** Finds dust, hairs, hot pixels, scan faults and blemishes: what is lighter or darker than both its sides.
 *
 *  @param within  where to look, document pixels
 *  @param mayBe  tells of any pixel whether it is to be looked at; null: of all
 *  @returns the surest first, at most {@link mostFaults}
 *  The mean of a square less the greater of the means of the two opposite ones beside it, in the best of four directions,
 *  at two sizes on every halving: a bar detector after Steger 1998, doi:10.1109/34.659930, section 2, with squares for
 *  derivatives; an edge gives nothing. What is found counts in deviations of what is usual in blocks round about, so that
 *  leaves and grass, full of small things, give few; {@link weigh} adds sharpness, unrest and size, since dust did not go
 *  through the lens, and looks at what promises something. Cost: O(pixels) a size and a polarity; half goes to weighing.
 */
export function sweep(
  seen: Seen,
  options: SweepOptions,
  within: Rect,
  mayBe: ((x: number, y: number) => boolean) | null,
): Fault[] {
  const steps = sweepInSteps(seen, options, within, mayBe);
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}

/** The same in steps of a few tens of milliseconds, so that other work may come between; yields the share done. */
export function* sweepInSteps(
  seen: Seen,
  options: SweepOptions,
  within: Rect,
  mayBe: ((x: number, y: number) => boolean) | null,
): Generator<number, Fault[]> {
  const photo = { x: 0, y: 0, w: seen.width, h: seen.height };
  const area = intersect(within, photo);
  const found: Fault[] = [];
  for (let level = 0; level < seen.levels && 3 * 2 ** level <= options.mostPx + 1; level++) {
    const tiles = tilesOf(seen, level, area);
    // Each level has a quarter of the pixels of the one before.
    const shareAt = (count: number) => 1 - 0.25 ** level + (0.75 * 0.25 ** level * count) / tiles.length;
    for (const [k, tile] of tiles.entries()) {
      let weighed = 0;
      for (const candidate of candidatesIn(seen, level, tile, options)) {
        if (mayBe && !mayBe((candidate.x + 0.5) * 2 ** level, (candidate.y + 0.5) * 2 ** level)) continue;
        const fault = faultOf(candidate, tile.seen, options.mostPx);
        if (!fault) continue;
        if (++weighed % weighedInStep === 0) yield shareAt(k);
        const likelihood = weigh(candidate);
        if (likelihood >= leastSure) found.push({ ...fault, likelihood });
      }
      yield shareAt(k + 1);
    }
  }
  return distinct(found).slice(0, mostFaults);
}

/** What a candidate would be as a fault; null when it is too wide. @param rect  of the relief, on the candidate's level */
function faultOf(
  { part: { pixels }, isDark, foundAt }: Candidate,
  rect: Rect,
  mostPx: number,
): Omit<Fault, 'likelihood'> | null {
  const by = 2 ** foundAt.level;
  const { w } = rect;
  let [x0, y0, x1, y1] = [Infinity, Infinity, -1, -1];
  for (const i of pixels) {
    const x = i % w;
    const y = Math.floor(i / w);
    x0 = Math.min(x0, x);
    x1 = Math.max(x1, x);
    y0 = Math.min(y0, y);
    y1 = Math.max(y1, y);
  }
  const [bw, bh] = [x1 - x0 + 1, y1 - y0 + 1];
  const data = new Uint8Array(bw * bh);
  for (const i of pixels) data[(Math.floor(i / w) - y0) * bw + (i % w) - x0] = 255;
  const length = Math.hypot(bw, bh) * by;
  const size = pixels.length * by * by;
  const width = size / length;
  if (width > mostPx * 1.5) return null;
  return {
    kind: length > 4 * Math.max(2, width) ? 'line' : 'speck',
    isDark,
    size,
    contrast: foundAt.bar,
    mask: { w: bw, h: bh, data },
    x: (rect.x + x0) * by,
    y: (rect.y + y0) * by,
    w: bw * by,
    h: bh * by,
  };
}

/** The surest of those that lie on each other. */
function distinct(faults: readonly Fault[]): Fault[] {
  const cell = 64;
  const grid = new Map<string, Fault[]>();
  const out: Fault[] = [];
  const dropped = new Set<Fault>();
  // Beyond a certain sureness the larger goes first: a part of a fault may be surer than the whole.
  const weight = (f: Fault) => f.contrast * Math.sqrt(f.size);
  const rank = (f: Fault) => Math.min(f.likelihood, sureEnough);
  for (const fault of [...faults].sort((a, b) => rank(b) - rank(a) || weight(b) - weight(a))) {
    const cells: string[] = [];
    for (let y = Math.floor((fault.y - 8) / cell); y * cell < fault.y + fault.h + 8; y++)
      for (let x = Math.floor((fault.x - 8) / cell); x * cell < fault.x + fault.w + 8; x++)
        cells.push(`${x},${y}`);
    const near = new Set(cells.flatMap((key) => grid.get(key) ?? []));
    if ([...near].some((o) => covers(o, fault))) continue;
    const parts = fault.likelihood < leastWhole ? [] : [...near].filter((o) => isPartOf(o, fault));
    for (const part of parts) dropped.add(part);
    const likelihood = parts.reduce((most, part) => Math.max(most, part.likelihood), fault.likelihood);
    const whole = { ...fault, likelihood };
    out.push(whole);
    for (const key of cells) grid.set(key, [...(grid.get(key) ?? []), whole]);
  }
  return out.filter((fault) => !dropped.has(fault)).sort((a, b) => b.likelihood - a.likelihood);
}

/** Whether what was found first is but an end or corner of the whole: it lies on it, and stands out no more. */
const isPartOf = (part: Fault, whole: Fault): boolean =>
  part.contrast < samePerhaps * whole.contrast && part.size < whole.size && covers(whole, part);

/** Whether a fault lies on another, or right beside it, for the greater part. */
function covers(a: Fault, b: Fault): boolean {
  const near = grow(a, 8);
  let on = 0;
  let all = 0;
  const scale = b.w / b.mask.w;
  for (let v = 0; v < b.mask.h; v++)
    for (let u = 0; u < b.mask.w; u++) {
      if (!b.mask.data[v * b.mask.w + u]) continue;
      all++;
      const x = b.x + (u + 0.5) * scale;
      const y = b.y + (v + 0.5) * scale;
      if (x >= near.x && y >= near.y && x < near.x + near.w && y < near.y + near.h && nearMask(a, x, y)) on++;
    }
  return on > 0.5 * all;
}

function nearMask(a: Fault, x: number, y: number): boolean {
  const scale = a.w / a.mask.w;
  const [u, v] = [Math.floor((x - a.x) / scale), Math.floor((y - a.y) / scale)];
  const r = Math.ceil(8 / scale);
  for (let dv = -r; dv <= r; dv++)
    for (let du = -r; du <= r; du++) {
      if (u + du < 0 || v + dv < 0 || u + du >= a.mask.w || v + dv >= a.mask.h) continue;
      if (a.mask.data[(v + dv) * a.mask.w + u + du]) return true;
    }
  return false;
}
