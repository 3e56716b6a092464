import type { EdgePoints, Small } from './points';

/** Steps of direction and distance in which edges are counted. */
const directions = 120;
const distanceStep = 1.5;
/** An edge point belongs to a line when it lies and points as the line does. */
export const offLinePx = 1.6;
export const offAngle = (12 * Math.PI) / 180;
/** A line has at least so many points. */
export const leastPoints = 13;

/** x·cos + y·sin = distance; the gradient points along (cos, sin). */
export interface Line {
  readonly angle: number;
  readonly distance: number;
}

/** The direction nearest to an angle. */
const directionOf = (angle: number): number =>
  Math.round(((angle + Math.PI) / (2 * Math.PI)) * directions) % directions;

/** Points that no line has yet, by the direction that they point in. */
export class Directions {
  count = 0;
  private readonly lists: number[][] = Array.from({ length: directions }, () => []);

  constructor(private readonly points: EdgePoints) {
    for (let p = 0; p < points.x.length; p++) this.putBack(p);
  }

  putBack(p: number): void {
    this.lists[directionOf(this.points.angle[p])].push(p);
    this.count++;
  }

  /** Takes out what belongs to a line, among all that point at most {@link offAngle} twice over away from it. @returns how many */
  takeOut(belongs: (p: number) => boolean, angle: number, into: Int32Array): number {
    const reach = Math.ceil((2 * offAngle * directions) / (2 * Math.PI)) + 1;
    const middle = directionOf(angle);
    let taken = 0;
    for (let k = middle - reach; k <= middle + reach; k++) {
      const list = this.lists[(k + directions) % directions];
      let kept = 0;
      for (const p of list)
        if (belongs(p)) into[taken++] = p;
        else list[kept++] = p;
      list.length = kept;
    }
    this.count -= taken;
    return taken;
  }
}

/** Lines that points vote for: each for those near its place in about the direction that it points in. */
export class Ballot {
  private readonly votes: Uint16Array;
  /** The cell with most votes of each direction, when it is not stale. */
  private readonly first = new Int32Array(directions);
  private readonly stale = new Uint8Array(directions).fill(1);
  /** Cells of one direction: distances from −span to span. */
  private readonly span: number;
  private readonly normals = Array.from({ length: directions }, (_, d) => {
    const angle = (d / directions) * 2 * Math.PI - Math.PI;
    return { angle, x: Math.cos(angle) / distanceStep, y: Math.sin(angle) / distanceStep };
  });

  constructor(
    { w, h }: Small,
    private readonly points: EdgePoints,
  ) {
    this.span = Math.ceil(Math.hypot(w, h) / distanceStep) + 1;
    this.votes = new Uint16Array(directions * 2 * this.span);
    for (let p = 0; p < points.x.length; p++) this.count(p, 1);
  }

  withdraw(p: number): void {
    this.count(p, -1);
  }

  /** The line with most votes; null when none has enough. */
  strongest(): Line | null {
    const { votes, span, first, stale } = this;
    let best = -1;
    let most = leastPoints - 1;
    for (let d = 0; d < directions; d++) {
      if (stale[d]) {
        const from = d * 2 * span;
        let top = from;
        for (let i = from + 1; i < from + 2 * span; i++) if (votes[i] > votes[top]) top = i;
        first[d] = top;
        stale[d] = 0;
      }
      if (votes[first[d]] <= most) continue;
      most = votes[first[d]];
      best = first[d];
    }
    if (best < 0) return null;
    return {
      angle: this.normals[Math.floor(best / (2 * span))].angle,
      distance: ((best % (2 * span)) - span) * distanceStep,
    };
  }

  private count(p: number, vote: number): void {
    const [x, y, angle] = [this.points.x[p], this.points.y[p], this.points.angle[p]];
    const middle = directionOf(angle);
    for (let k = middle - 4; k <= middle + 4; k++) {
      const d = (k + directions) % directions;
      this.stale[d] = 1;
      const normal = this.normals[d];
      this.votes[d * 2 * this.span + Math.round(x * normal.x + y * normal.y) + this.span] += vote;
    }
  }
}
