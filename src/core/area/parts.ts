/** Parts of about the same size, each about as long as wide. */
export interface EvenParts {
  /** The part of each point. */
  readonly owners: Int16Array;
  /** The part whose middle is nearest to any other place. */
  at(x: number, y: number): number;
}

const mostRounds = 12;

/** Divides points into parts that are about as large as each other: each point goes to the nearest of so many middles, which
 *  begin far apart (Gonzalez 1985, doi:10.1016/0304-3975(85)90224-5).
 *
 *  @param count  1 … the number of points
 *  Deterministic. Cost: O(points · count), a dozen times.
 *  Source: Lloyd 1982, Least Squares Quantization in PCM, doi:10.1109/TIT.1982.1056489.
 */
export function evenParts(xs: ArrayLike<number>, ys: ArrayLike<number>, count: number): EvenParts {
  const middles = farApart(xs, ys, count);
  const at = (x: number, y: number): number => {
    let nearest = 0;
    let least = Infinity;
    for (let n = 0; n < count; n++) {
      const d = (x - middles[n][0]) ** 2 + (y - middles[n][1]) ** 2;
      if (d >= least) continue;
      least = d;
      nearest = n;
    }
    return nearest;
  };
  const owners = new Int16Array(xs.length);
  for (let round = 0; round < mostRounds; round++) {
    const sums = middles.map(() => [0, 0, 0]);
    for (let k = 0; k < owners.length; k++) {
      owners[k] = at(xs[k], ys[k]);
      const sum = sums[owners[k]];
      sum[0] += xs[k];
      sum[1] += ys[k];
      sum[2]++;
    }
    sums.forEach(([x, y, n], part) => {
      if (n > 0) middles[part] = [x / n, y / n];
    });
  }
  for (let k = 0; k < owners.length; k++) owners[k] = at(xs[k], ys[k]);
  return { owners, at };
}

/** The first point, and then the one that is farthest from those there are, again and again. */
function farApart(xs: ArrayLike<number>, ys: ArrayLike<number>, count: number): number[][] {
  const away = new Float64Array(xs.length).fill(Infinity);
  const out: number[][] = [];
  for (let next = 0; out.length < count; ) {
    const [x, y] = [xs[next], ys[next]];
    out.push([x, y]);
    for (let k = 0; k < away.length; k++) away[k] = Math.min(away[k], (xs[k] - x) ** 2 + (ys[k] - y) ** 2);
    for (let k = 0; k < away.length; k++) if (away[k] > away[next]) next = k;
  }
  return out;
}

/** What belongs to no part yet goes to the one beside it. */
export function spreadOwners(owner: Int16Array, inside: Uint8Array, w: number, h: number): void {
  const queue: number[] = [];
  owner.forEach((v, i) => {
    if (v >= 0) queue.push(i);
  });
  for (let k = 0; k < queue.length; k++) {
    const i = queue[k];
    const x = i % w;
    for (const j of [x > 0 ? i - 1 : -1, x < w - 1 ? i + 1 : -1, i - w, i + w]) {
      if (j < 0 || j >= w * h || owner[j] >= 0 || !inside[j]) continue;
      owner[j] = owner[i];
      queue.push(j);
    }
  }
}

export interface Ease {
  readonly part: number;
  /** In pixels. */
  readonly size: number;
  /** How much of its edge is known ground, 0…1. */
  readonly known: number;
}

/** Parts of an area from the easiest to the hardest: first what has most known ground round it, for its size. Parts without
 *  pixels are left out.
 *  @param owner  w×h: the part of each pixel, −1 where the area is not */
export function easeOf(owner: Int16Array, count: number, w: number, h: number): Ease[] {
  const size = new Int32Array(count);
  const edge = new Int32Array(count);
  const known = new Int32Array(count);
  for (let i = 0; i < w * h; i++) {
    const part = owner[i];
    if (part < 0) continue;
    size[part]++;
    const x = i % w;
    for (let d = 0; d < 4; d++) {
      const isWithin = d === 0 ? x > 0 : d === 1 ? x < w - 1 : d === 2 ? i >= w : i < w * (h - 1);
      const other = isWithin ? owner[i + (d === 0 ? -1 : d === 1 ? 1 : d === 2 ? -w : w)] : -1;
      if (other === part) continue;
      edge[part]++;
      if (other < 0) known[part]++;
    }
  }
  return Array.from(size, (n, part) => ({ part, size: n, known: known[part] / Math.max(1, edge[part]) }))
    .filter((part) => part.size > 0)
    .sort((a, b) => b.known / Math.sqrt(b.size) - a.known / Math.sqrt(a.size));
}
