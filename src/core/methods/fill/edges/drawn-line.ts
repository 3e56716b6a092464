import type { FloatImage } from '../../../raster';
import { role } from '../frame';

/** What lies so far from a line, on either side, tells whether an edge lies on it; and whether that is sharp. In pixels of the picture
 *  that is looked at. */
const sides = { from: 2, to: 6, next: 1.5 };
/** Colours of both sides are means along so many places before and after. */
const alongPx = 4;
/** They differ by so much, in 8-bit steps, and so large a share of that is seen right at the line. */
const step = { least: 10, atLine: 0.5 };
/** An edge is so long, with gaps of so much; all of it together so long, and such a share of what is to be filled along the line: less of
 *  it would be seen again and again. */
const run = { leastPx: 8, gapPx: 2, togetherPx: 24, ofHole: 0.25 };
/** How much farther off a run may lie for each pixel that it is longer, to be the one that was meant. */
const farPx = 30;
/** Other runs are of the same edge when they differ in the same colours, and as strongly within this factor. */
const same = { cosine: 0.8, factor: 2.5 };

export interface DrawnLine {
  readonly x: number;
  readonly y: number;
  /** Its direction; length 1. */
  readonly ux: number;
  readonly uy: number;
}

interface Run {
  readonly from: number;
  readonly to: number;
  /** Mean difference of both sides. */
  readonly differs: readonly number[];
}

/** Where on a line that somebody drew the picture shows the edge that is meant: what comes from there shows it too. The one meant is the
 *  nearest long one to the hole, in line with it. The measure is ours.
 *
 *  @param image  float RGBA, premultiplied; only its first w × h pixels
 *  @param by     pixels of it a pixel of the picture that is looked at
 *  @returns tells of a place along the line, in pixels from its point; null where too little of an edge is seen
 */
export function edgeOnLine(
  image: FloatImage,
  roles: Uint8Array,
  w: number,
  h: number,
  line: DrawnLine,
  by: number,
): ((along: number) => boolean) | null {
  const reach = w + h;
  const places = Math.ceil((2 * reach) / by);
  const pixelAt = (along: number, off: number) => {
    const x = Math.round(line.x + along * line.ux - off * line.uy);
    const y = Math.round(line.y + along * line.uy + off * line.ux);
    return x >= 0 && y >= 0 && x < w && y < h ? y * w + x : -1;
  };
  const alongOf = (k: number) => k * by - reach;
  const wide: (readonly number[] | null)[] = [];
  const close: (readonly number[] | null)[] = [];
  const holes: number[] = [];
  /** The one side less the other; null where one of them may not be drawn from. */
  const difference = (along: number, offs: readonly number[]): readonly number[] | null => {
    const sum = [0, 0, 0];
    for (const off of offs)
      for (const sign of [-1, 1]) {
        const p = pixelAt(along, sign * off * by);
        if (p < 0 || roles[p] !== role.source) return null;
        for (let c = 0; c < 3; c++) sum[c] += (sign * 255 * image.data[4 * p + c]) / offs.length;
      }
    return sum;
  };
  const offs = Array.from({ length: sides.to - sides.from + 1 }, (_, k) => sides.from + k);
  for (let k = 0; k < places; k++) {
    const on = pixelAt(alongOf(k), 0);
    if (on >= 0 && roles[on] === role.target) holes.push(k);
    wide.push(difference(alongOf(k), offs));
    close.push(difference(alongOf(k), [sides.next]));
  }
  if (holes.length === 0) return null;
  /** What both sides differ by where an edge is seen. */
  const edge = wide.map((here, k) => {
    const [all, next] = [meanAbout(wide, k), meanAbout(close, k)];
    if (!here || !all || !next || lengthOf(all) < step.least) return null;
    return dot(next, all) >= step.atLine * dot(all, all) ? all : null;
  });
  const runs = runsOf(edge);
  const away = ({ from, to }: Run) =>
    holes.reduce((least, k) => Math.min(least, k < from ? from - k : k > to ? k - to : 0), Infinity);
  const meant = runs.reduce<Run | null>((best, one) => {
    const worth = (r: Run) => (r.to - r.from + 1) / (farPx + away(r));
    return !best || worth(one) > worth(best) ? one : best;
  }, null);
  if (!meant) return null;
  const kept = runs.filter(({ differs }) => {
    const ratio = lengthOf(differs) / lengthOf(meant.differs);
    const cosine = dot(differs, meant.differs) / (lengthOf(differs) * lengthOf(meant.differs));
    return cosine >= same.cosine && ratio <= same.factor && ratio >= 1 / same.factor;
  });
  const together = kept.reduce((sum, { from, to }) => sum + to - from + 1, 0);
  if (together < Math.max(run.togetherPx, run.ofHole * holes.length)) return null;
  const shows = new Uint8Array(places);
  for (const { from, to } of kept) shows.fill(1, from, to + 1);
  return (along) => {
    const k = Math.round((along + reach) / by);
    return k >= 0 && k < places && shows[k] === 1;
  };
}

/** Where one edge is seen for long enough: one that is the other way round is another. */
function runsOf(edge: readonly (readonly number[] | null)[]): Run[] {
  const out: Run[] = [];
  for (let k = 0; k < edge.length; k++) {
    const first = edge[k];
    if (!first) continue;
    const seen = [first];
    let to = k;
    for (let next = k + 1; next < edge.length && next - to <= run.gapPx + 1; next++) {
      const here = edge[next];
      if (!here) continue;
      if (dot(here, seen[seen.length - 1]) <= 0) break;
      seen.push(here);
      to = next;
    }
    if (to - k + 1 >= run.leastPx)
      out.push({
        from: k,
        to,
        differs: [0, 1, 2].map((c) => seen.reduce((s, v) => s + v[c], 0) / seen.length),
      });
    k = to;
  }
  return out;
}

/** The mean of those known about a place. */
function meanAbout(list: readonly (readonly number[] | null)[], k: number): number[] | null {
  const near = list.slice(Math.max(0, k - alongPx), k + alongPx + 1).flatMap((v) => (v ? [v] : []));
  if (near.length === 0) return null;
  return [0, 1, 2].map((c) => near.reduce((s, v) => s + v[c], 0) / near.length);
}

const dot = (a: readonly number[], b: readonly number[]): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const lengthOf = (v: readonly number[]): number => Math.sqrt(dot(v, v));
