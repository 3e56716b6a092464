import { connected, squaredDistance } from '../../../area';
import { grow, intersect, type Rect } from '../../../raster';
import { boxOfSet, type Frame, mayTake, pixelBytes, touches } from '../frame';
import type { ShiftMap } from './seam-cut';

/** What is round a pixel is looked at in a square of this radius, at every so many pixels of it, and anew for each cell of so many. */
const around = { radius: 24, every: 2, cellPx: 8 };
/** A ground is plain when all of its pixels but this share at either end, the darkest and the lightest, lie within so many 8-bit steps,
 *  and all but that share differ by no more than so many from the pixel beside them. */
const plain = { endShare: 0.2, spread: 56, step: 8 };
/** So many cells, or fewer, that are not plain have only crumbs in them: what is usual there is what is usual all round. */
const mostUnclear = 60;
/** A crumb lies so many 8-bit steps outside those, and as far again as they reach; its fringe half as far. */
const standsOut = { steps: 16, fringe: 0.5 };
const crumbPixels = { least: 3, most: 900 };
/** A crumb has nothing but plain ground and other crumbs nearer to it than this; where it was, there was something else no farther
 *  off than that. */
const alonePx = 24;
const besidePx = 64;
/** What is round a crumb goes with it. */
const fringePx = 3;

/** Takes loose bits out of a cut: a leaf that comes with a piece of sky hung beside others where it was, and hangs alone now. Joins do
 *  not see that, for they pass through the sky. What stands out from plain ground, alone and within the hole, is taken from another
 *  piece, the one that joins best among those that show plain ground there. What was alone before, such as a star, stays. The measure
 *  is ours.
 *  @returns the same map when there are none. Cost: O(pixels of the hole's box) */
export function withoutCrumbs(frame: Frame, map: ShiftMap): ShiftMap {
  const { w, h, hole, known } = frame;
  const all = { x: 0, y: 0, w, h };
  const now = new Ground(frame, intersect(grow(boxOfSet(hole, w), around.radius), all), (p) =>
    hole[p] ? sourceOf(frame, map, p) : p,
  );
  const inside = now.small().filter((part) => part.every((p) => hole[p] && !touches(known, w, h, p)));
  if (inside.length === 0) return map;
  const isFarNow = now.isFarFromOthers(alonePx);
  const alone = inside.filter((part) => part.every(isFarNow));
  if (alone.length === 0) return map;
  const label = map.label.slice();
  const used = [...new Set(label)].filter((l) => l >= 0).sort((a, b) => a - b);
  for (const crumb of alone) {
    if (
      wasAlone(
        frame,
        crumb.map((p) => sourceOf(frame, map, p)),
      )
    )
      continue;
    const members = withFringe(frame, crumb);
    const best = bestFor(frame, { shifts: map.shifts, label }, members, used, now);
    if (best !== null) for (const p of members) label[p] = best;
  }
  return { shifts: map.shifts, label };
}

/** Whether some pixels had nothing but plain ground and crumbs round them where they come from. */
function wasAlone(frame: Frame, sources: readonly number[]): boolean {
  const { w, h, hole } = frame;
  const xs = sources.map((p) => p % w);
  const ys = sources.map((p) => Math.floor(p / w));
  const [x, y] = [Math.min(...xs), Math.min(...ys)];
  const own = { x, y, w: Math.max(...xs) - x + 1, h: Math.max(...ys) - y + 1 };
  // They may come from several places, far apart.
  if (Math.max(own.w, own.h) > besidePx) return false;
  const rect = intersect(grow(own, besidePx + around.radius), { x: 0, y: 0, w, h });
  const isFar = new Ground(frame, rect, (p) => (hole[p] ? -1 : p)).isFarFromOthers(besidePx);
  return sources.every(isFar);
}

const sourceOf = ({ w }: Frame, { shifts, label }: ShiftMap, p: number): number =>
  label[p] < 0 ? p : p + shifts[label[p]].dy * w + shifts[label[p]].dx;

/** What is usual round each pixel of a rectangle, and what stands out from it. */
class Ground {
  /** For each pixel of the rectangle: the pixel of the frame that is shown there, −1 for none. */
  private readonly shown: Int32Array;
  /** How light that is, 0…255. */
  private readonly light: Uint8Array;
  private readonly across: number;
  private readonly down: number;
  /** For each cell: the darkest and the lightest that is usual there, and how far outside those a crumb lies, 0 where the ground is not
   *  plain. */
  private readonly darkest: Float32Array;
  private readonly lightest: Float32Array;
  private readonly far: Float32Array;
  private parts: number[][] | null = null;

  constructor(
    private readonly frame: Frame,
    private readonly rect: Rect,
    shownAt: (p: number) => number,
  ) {
    const { w, h } = rect;
    this.shown = new Int32Array(w * h);
    for (let y = 0, i = 0; y < h; y++)
      for (let p = (rect.y + y) * frame.w + rect.x, end = p + w; p < end; p++, i++)
        this.shown[i] = frame.hole[p] || frame.known[p] ? shownAt(p) : -1;
    this.light = lightnesses(frame.img, this.shown);
    this.across = Math.ceil(w / around.cellPx);
    this.down = Math.ceil(h / around.cellPx);
    const cells = this.across * this.down;
    this.darkest = new Float32Array(cells);
    this.lightest = new Float32Array(cells);
    this.far = new Float32Array(cells);
    this.lookAround();
  }

  /** How far a pixel of the frame lies outside what is usual at another: 1 as far as a crumb; 0 where the ground is not plain. */
  outside(at: number, pixel: number): number {
    const { rect, frame } = this;
    const cell = this.cellOf((at % frame.w) - rect.x, Math.floor(at / frame.w) - rect.y);
    if (this.far[cell] === 0) return 0;
    const value = lightnessAt(frame.img, pixel);
    return Math.max(0, this.darkest[cell] - value, value - this.lightest[cell]) / this.far[cell];
  }

  /** The small parts that stand out, as pixels of the frame. */
  small(): number[][] {
    return this.standingOut()
      .filter(({ length }) => length >= crumbPixels.least && length <= crumbPixels.most)
      .map((part) => part.map((i) => this.inFrame(i)));
  }

  /** Tells of a pixel of the frame whether it is farther than that from all that is neither plain nor a crumb. */
  isFarFromOthers(px: number): (p: number) => boolean {
    const { rect, frame } = this;
    const other = new Uint8Array(this.shown.length);
    for (let y = 0, i = 0; y < rect.h; y++)
      for (let x = 0; x < rect.w; x++, i++)
        if (this.shown[i] >= 0 && this.far[this.cellOf(x, y)] === 0) other[i] = 1;
    for (const part of this.standingOut())
      if (part.length > crumbPixels.most) for (const i of part) other[i] = 1;
    const away = squaredDistance(other, rect.w, rect.h);
    return (p) => away[(Math.floor(p / frame.w) - rect.y) * rect.w + (p % frame.w) - rect.x] > px ** 2;
  }

  /** Connected parts, as pixels of the rectangle. */
  private standingOut(): number[][] {
    if (this.parts) return this.parts;
    const { rect } = this;
    const stands = new Uint8Array(this.shown.length);
    for (let y = 0, i = 0; y < rect.h; y++)
      for (let x = 0; x < rect.w; x++, i++) {
        const cell = this.cellOf(x, y);
        if (this.far[cell] === 0 || this.shown[i] < 0) continue;
        const value = this.light[i];
        const off = Math.max(this.darkest[cell] - value, value - this.lightest[cell]);
        if (off >= standsOut.fringe * this.far[cell]) stands[i] = 1;
      }
    this.parts = connected(stands, rect.w, rect.h).filter((part) =>
      part.some((i) => this.outside(this.inFrame(i), this.shown[i]) >= 1),
    );
    return this.parts;
  }

  private inFrame(i: number): number {
    return (Math.floor(i / this.rect.w) + this.rect.y) * this.frame.w + (i % this.rect.w) + this.rect.x;
  }

  private cellOf(x: number, y: number): number {
    return Math.floor(y / around.cellPx) * this.across + Math.floor(x / around.cellPx);
  }

  private lookAround(): void {
    const { across, down, darkest, lightest, far } = this;
    const unclear = new Uint8Array(across * down);
    const values = new Int32Array(256);
    const steps = new Int32Array(256);
    for (let v = 0, cell = 0; v < down; v++)
      for (let u = 0; u < across; u++, cell++) {
        values.fill(0);
        steps.fill(0);
        const n = this.count(u, v, values, steps);
        if (n === 0) continue;
        darkest[cell] = quantile(values, plain.endShare * n);
        lightest[cell] = quantile(values, (1 - plain.endShare) * n);
        const spread = lightest[cell] - darkest[cell];
        const isPlain = spread <= plain.spread && quantile(steps, (1 - plain.endShare) * n) <= plain.step;
        if (isPlain) far[cell] = standsOut.steps + spread;
        else unclear[cell] = 1;
      }
    for (const cells of connected(unclear, across, down)) {
      if (cells.length > mostUnclear) continue;
      const beside = [...new Set(cells.flatMap((cell) => besideOf(cell, across, down)))].filter(
        (c) => far[c] > 0,
      );
      if (beside.length === 0) continue;
      for (const its of [darkest, lightest, far]) {
        const mean = beside.reduce((sum, c) => sum + its[c], 0) / beside.length;
        for (const cell of cells) its[cell] = mean;
      }
    }
  }

  /** Counts what is round a cell: lightness, and how far it is from that of the pixel before. @returns of how many pixels */
  private count(u: number, v: number, values: Int32Array, steps: Int32Array): number {
    const { shown, light } = this;
    const { w, h } = this.rect;
    const x = (u + 0.5) * around.cellPx;
    const y = (v + 0.5) * around.cellPx;
    const right = Math.min(w, x + around.radius);
    const bottom = Math.min(h, y + around.radius);
    let n = 0;
    for (let sy = Math.max(0, y - around.radius); sy < bottom; sy += around.every)
      for (let sx = Math.max(1, x - around.radius); sx < right; sx += around.every) {
        const i = sy * w + sx;
        if (shown[i] < 0 || shown[i - 1] < 0) continue;
        values[light[i]]++;
        steps[Math.abs(light[i] - light[i - 1])]++;
        n++;
      }
    return n;
  }
}

const lightnessAt = (img: Uint8Array, p: number): number =>
  (img[p * pixelBytes] + 2 * img[p * pixelBytes + 1] + img[p * pixelBytes + 2]) >> 2;

/** Of the pixels listed; 0 for −1. */
function lightnesses(img: Uint8Array, pixels: Int32Array): Uint8Array {
  const out = new Uint8Array(pixels.length);
  for (let i = 0; i < pixels.length; i++) if (pixels[i] >= 0) out[i] = lightnessAt(img, pixels[i]);
  return out;
}

function quantile(counts: Int32Array, wanted: number): number {
  let seen = 0;
  for (let value = 0; value < counts.length; value++) {
    seen += counts[value];
    if (seen > wanted) return value;
  }
  return counts.length - 1;
}

/** A crumb and what of the hole is round it. */
function withFringe({ w, h, hole }: Frame, crumb: readonly number[]): number[] {
  const out = new Set<number>();
  for (const p of crumb) {
    const [x, y] = [p % w, Math.floor(p / w)];
    for (let v = Math.max(0, y - fringePx); v <= Math.min(h - 1, y + fringePx); v++)
      for (let u = Math.max(0, x - fringePx); u <= Math.min(w - 1, x + fringePx); u++)
        if ((u - x) ** 2 + (v - y) ** 2 <= fringePx ** 2 && hole[v * w + u]) out.add(v * w + u);
  }
  return [...out];
}

/** The label with which some pixels show plain ground and join best on to what is round them; null when there is none. */
function bestFor(
  frame: Frame,
  map: ShiftMap,
  members: readonly number[],
  labels: readonly number[],
  ground: Ground,
): number | null {
  const { w, h, img } = frame;
  const set = new Set(members);
  const rim = members.flatMap((p) => besideOf(p, w, h).filter((q) => !set.has(q)));
  let [best, least]: [number | null, number] = [null, Number.POSITIVE_INFINITY];
  for (const l of labels) {
    const { dx, dy } = map.shifts[l];
    const away = dy * w + dx;
    const fits = (p: number) => mayTake(frame, p, dx, dy) && ground.outside(p, p + away) < standsOut.fringe;
    if (!members.every(fits) || rim.some((q) => q + away < 0 || q + away >= w * h)) continue;
    let cost = 0;
    for (const q of rim) {
      const [a, b] = [(q + away) * pixelBytes, sourceOf(frame, map, q) * pixelBytes];
      for (let c = 0; c < 3; c++) cost += Math.abs(img[a + c] - img[b + c]);
    }
    if (cost < least) [best, least] = [l, cost];
  }
  return best;
}

function besideOf(p: number, w: number, h: number): number[] {
  const x = p % w;
  return [x > 0 ? p - 1 : -1, x < w - 1 ? p + 1 : -1, p - w, p + w < w * h ? p + w : -1].filter(
    (q) => q >= 0,
  );
}
