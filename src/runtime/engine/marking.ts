import {
  type Area,
  boundsOfArea,
  type MaskLookup,
  rasteriseArea,
  type Shape,
  type StrokeShape,
} from '../../core/area';
import {
  type Belonging,
  belongingsOf,
  type ColourPick,
  cutIslands,
  type Fault,
  type Found,
  findIslands,
  findSpan,
  growScribbles,
  type Island,
  markedArea,
  type Outlook,
  outlookOf,
  pickColour,
  type Scribbles,
  type Seen,
  type SpanOptions,
  type SpanPoint,
  type SweepOptions,
  sweepInSteps,
} from '../../core/marking';
import { intersect, isEmpty, type Rect } from '../../core/raster';
import type { Display } from './display';

/** So long a sweep works before others may come between. */
const workMs = 60;

/** What the interface asks about marks: the shapes that gestures lead to. Looks at the picture as it is seen. */
export class Marking {
  private readonly seen: Seen;
  private sweeps = 0;

  constructor(
    display: Display,
    private readonly masks: MaskLookup,
  ) {
    const [{ width, height }] = display.pyramid;
    this.seen = {
      width,
      height,
      levels: display.pyramid.length,
      region: (level, rect) => display.region('after', level, rect),
    };
  }

  pick(pick: ColourPick, level: number): Found | null {
    return pickColour(this.seen, pick, Math.min(level, this.seen.levels - 1));
  }

  grow(scribbles: Scribbles): Found | null {
    return growScribbles(this.seen, scribbles);
  }

  span(clicks: readonly SpanPoint[], options: SpanOptions): StrokeShape[] {
    return findSpan(this.seen, clicks, options);
  }

  belongings(area: Area): Belonging[] {
    const thing = { ...area, marginPx: Math.min(0, area.marginPx) };
    return belongingsOf(this.seen, markedArea(area, this.masks), markedArea(thing, this.masks));
  }

  /** @param mayDraw  whether sources may come from a rectangle's pixels, as a mend there would be told */
  /** @param zone  the box of the allow zone, if it is drawn from wherever it lies */
  outlook(area: Area, mayDraw: (rect: Rect) => Uint8Array | null, zone: Rect | null): Outlook | null {
    const bounds = { x: 0, y: 0, w: this.seen.width, h: this.seen.height };
    const anywhere = mayDraw({ x: 0, y: 0, w: 1, h: 1 }) === null;
    const may = (x: number, y: number) => {
      const pixel = intersect({ x: Math.floor(x), y: Math.floor(y), w: 1, h: 1 }, bounds);
      return !isEmpty(pixel) && mayDraw(pixel)?.[0] !== 0;
    };
    return outlookOf(this.seen, markedArea(area, this.masks), anywhere ? null : may, zone);
  }

  /** @param cuts  drawn over the area; none: parts are found by themselves */
  islands(area: Area, cuts: readonly Shape[]): Island[] {
    const marked = markedArea(area, this.masks);
    const rect = intersect(marked.bounds, { x: 0, y: 0, w: this.seen.width, h: this.seen.height });
    if (isEmpty(rect)) return [];
    const covered = marked.coverage(rect, 0);
    if (cuts.length === 0) return findIslands(this.seen, marked, covered, rect);
    const cut = rasteriseArea({ shapes: cuts, marginPx: 0, featherPx: 0 }, rect, this.masks);
    return cutIslands(covered, cut, rect);
  }

  /** Lets other requests come between its steps. @returns what was found, nothing once it was stopped */
  async sweep(
    options: SweepOptions,
    within: Area | null,
    onShare: (share: number) => void,
  ): Promise<Fault[]> {
    const round = ++this.sweeps;
    const photo = { x: 0, y: 0, w: this.seen.width, h: this.seen.height };
    const rect = within ? intersect(boundsOfArea(within), photo) : photo;
    const covered = within && rasteriseArea(within, rect, this.masks);
    const mayBe =
      covered &&
      ((x: number, y: number) => covered[(Math.floor(y) - rect.y) * rect.w + Math.floor(x) - rect.x] >= 0.5);
    const steps = sweepInSteps(this.seen, options, rect, mayBe);
    for (let pausedAt = performance.now(); ; ) {
      const step = steps.next();
      if (step.done) return step.value;
      if (performance.now() - pausedAt < workMs) continue;
      onShare(step.value);
      await new Promise((resume) => setTimeout(resume, 0));
      pausedAt = performance.now();
      if (round !== this.sweeps) return [];
    }
  }

  stopSweep(): void {
    this.sweeps++;
  }
}
