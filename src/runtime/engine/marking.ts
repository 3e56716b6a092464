import type { StrokeShape } from '../../core/area';
import {
  type ColourPick,
  type Found,
  findSpan,
  growScribbles,
  pickColour,
  type Scribbles,
  type Seen,
  type SpanOptions,
  type SpanPoint,
} from '../../core/marking';
import type { Display } from './display';

/** What the interface asks about marks: the shapes that gestures lead to. Looks at the picture as it is seen. */
export class Marking {
  private readonly seen: Seen;

  constructor(display: Display) {
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
}
