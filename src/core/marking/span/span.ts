import type { StrokeShape } from '../../area';
import type { Seen } from '../seen';
import { besideOf, bestHalfWidth, follow, meanAlong, respond, straightened } from './path';
import { clickSlack, halfWidths, readStrip, type SpanPoint } from './strip';
import { measured } from './width';

export type { SpanPoint };

export interface SpanOptions {
  /** How many lines beside each other are looked for, 1…8. */
  readonly lines: number;
  /** Whether the line may bend or sag between the clicks; otherwise it is straight. */
  readonly bends: boolean;
}

/** Finds the line that clicks were put on: a wire, pole, crack or hair; its true middle and width.
 *
 *  @param clicks  two or more, in order along it
 *  @returns one stroke a line, the clicked one first, each point with its own half width; empty where nothing like a line lies under the clicks
 *  The path is the best one through the responses of a bar against both its sides, found by dynamic programming
 *  (Montanari 1971, On the Optimal Detection of Curves in Noisy Pictures, doi:10.1145/362588.362594).
 *  Cost: the clicks' distance times how far it may sag.
 */
export function findSpan(seen: Seen, clicks: readonly SpanPoint[], options: SpanOptions): StrokeShape[] {
  const lines: [number, number, number][][] = [];
  let beside: readonly number[] | null = options.lines > 1 ? null : [];
  for (let leg = 0; leg + 1 < clicks.length; leg++) {
    const found = findLeg(seen, clicks[leg], clicks[leg + 1], options, beside);
    if (!found) continue;
    // The lines beside the clicked one are looked for on the first leg and followed on the others.
    beside = found.beside;
    found.lines.forEach((points, i) => {
      lines[i] = [...(lines[i] ?? []), ...points];
    });
  }
  return lines.map((points) => {
    const radiusPx = points.reduce((r, p) => Math.max(r, p[2]), 0.5);
    return {
      kind: 'stroke',
      op: 'add',
      radiusPx,
      hardness: 1,
      points: thinned(points).map(([x, y, r]) => [sixteenth(x), sixteenth(y), r / radiusPx] as const),
    };
  });
}

const sixteenth = (v: number): number => Math.round(v * 16) / 16;

function findLeg(
  seen: Seen,
  a: SpanPoint,
  b: SpanPoint,
  { lines, bends }: SpanOptions,
  known: readonly number[] | null,
): { lines: [number, number, number][][]; beside: readonly number[] } | null {
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
  if (length < 2) return null;
  const sag = bends ? Math.min(200, Math.max(12, 0.08 * length)) : clickSlack;
  const room = lines > 1 && !known ? Math.min(320, Math.max(120, 0.25 * length)) : 0;
  const beside = known ? known.reduce((r, v) => Math.max(r, Math.abs(v)), 0) : room;
  const strip = readStrip(seen, a, b, Math.ceil(sag + beside) + 3 * halfWidths[halfWidths.length - 1] + 4);
  if (!strip) return null;
  const half = bestHalfWidth(strip);
  const response = respond(strip, half);
  const path = follow(strip, response, (k) => {
    const towardsEnd = Math.min(k, strip.n - 1 - k) / Math.max(1, (strip.n - 1) / 2);
    return { middle: 0, slack: clickSlack + (bends ? sag * Math.min(1, 2 * towardsEnd) : 0) };
  });
  if (meanAlong(strip, response, path, 0) < leastResponse) return null;
  const shifts = known ?? besideOf(strip, response, path, half, beside).slice(0, lines - 1);
  const others = shifts.map((shift) =>
    follow(strip, response, (k) => ({ middle: path[k] + shift, slack: 6 })),
  );
  const all = [path, ...others].map((p) => (bends ? p : straightened(p)));
  return {
    lines: all.map((p) => measured(strip, p, half)),
    beside: others.map((p) => p[p.length - 1] - path[path.length - 1]),
  };
}

/** A bar must stand out from both sides by so much of CIELAB, on the mean. */
const leastResponse = 1.2;

/** Leaves out points that lie on the line between their neighbours (Ramer 1972, doi:10.1016/S0146-664X(72)80017-0). */
function thinned(points: readonly [number, number, number][]): [number, number, number][] {
  const keep = new Uint8Array(points.length);
  keep[0] = 1;
  keep[points.length - 1] = 1;
  const stack: [number, number][] = [[0, points.length - 1]];
  for (let part = stack.pop(); part; part = stack.pop()) {
    const [from, to] = part;
    const [a, b] = [points[from], points[to]];
    const length = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    let far = -1;
    let most = 0.4;
    for (let k = from + 1; k < to; k++) {
      const off =
        Math.abs((b[0] - a[0]) * (points[k][1] - a[1]) - (b[1] - a[1]) * (points[k][0] - a[0])) / length;
      const t = (k - from) / (to - from);
      const d = Math.max(off, Math.abs(points[k][2] - (a[2] + t * (b[2] - a[2]))));
      if (d > most) {
        most = d;
        far = k;
      }
    }
    if (far < 0) continue;
    keep[far] = 1;
    stack.push([from, far], [far, to]);
  }
  return points.filter((_, k) => keep[k]);
}
