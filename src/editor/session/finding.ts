import type { Area, Shape, ShapeOp, StrokeShape } from '../../core/area';
import type { Found, SpanPoint } from '../../core/marking';
import type { Point } from '../viewport/camera';
import { addShape, newId } from './new-mend';
import type { Session } from './session';

/** Gestures whose mark the photo itself decides: a colour, a thing grown from scribbles, a line through clicks. While one
 *  is under way its result takes the place of its own earlier one; what was marked before it stays as it was. */
export class Finding {
  /** What was marked before, and how the result goes with it. */
  private before: Area | null = null;
  private op: ShapeOp = 'add';
  private lastPick: Point | null = null;
  private pull: { at: Point; tolerance: number } | null = null;
  private shown: string | null = null;
  /** What was asked for an earlier mark has no say in the present one. */
  private round = 0;
  private asking = false;
  private wanted: (() => Promise<void>) | null = null;
  /** The mark that the last result gave: when it is another by now, a new finding begins. */
  private given: Area | null = null;

  constructor(private readonly session: Session) {}

  /** Waits until what is marked is what was found last: while a hand moves it is only a rough one, which is not kept. */
  async settled(): Promise<void> {
    while (this.asking) await new Promise((resume) => setTimeout(resume, 10));
  }

  /** Zones, guards and the like are drawn, not found. */
  private refusesZones(): boolean {
    if (!this.session.state.laying) return false;
    this.session.notify('This is drawn with brush, lasso or box.');
    return true;
  }

  /** What is marked is only looked at while a hand moves. */
  get isPreview(): boolean {
    return this.pull !== null;
  }

  private begin(op: ShapeOp): void {
    this.round++;
    this.before = this.session.state.mark;
    this.op = op;
    this.given = null;
  }

  private get goesOn(): boolean {
    return this.given !== null && this.given === this.session.state.mark;
  }

  private give(shapes: readonly Shape[]): void {
    const { session } = this;
    let area = this.before;
    for (const shape of shapes) area = addShape(area, { ...shape, op: this.op }, session.state.next);
    this.given = area;
    session.set({ mark: area, drawing: null });
  }

  /** Asks one question at a time, always the newest. */
  private ask(question: () => Promise<void>): void {
    this.wanted = question;
    if (!this.asking) this.session.begin(this.askOn());
  }

  private async askOn(): Promise<void> {
    this.asking = true;
    try {
      while (this.wanted) {
        const question = this.wanted;
        this.wanted = null;
        await question();
      }
    } finally {
      this.asking = false;
    }
  }

  private maskShape({ x, y, w, h, mask }: Found, isPreview: boolean): Shape {
    const { masks } = this.session;
    if (this.shown) masks.delete(this.shown);
    this.shown = null;
    if (!isPreview) return { kind: 'mask', op: 'add', x, y, w, h, maskId: this.session.holdMask(mask) };
    // Only looked at: the engine need not know it.
    this.shown = newId();
    masks.set(this.shown, mask);
    return { kind: 'mask', op: 'add', x, y, w, h, maskId: this.shown };
  }

  // By colour

  pullBegin(at: Point, op: ShapeOp): void {
    if (this.refusesZones()) return;
    if (op !== 'add' && !this.session.state.mark) {
      this.session.notify('Nothing is marked yet, so there is nothing to take away from.');
      return;
    }
    this.begin(op);
    this.pull = { at, tolerance: this.session.state.next.pick.tolerance };
    this.pickAt(true);
  }

  pullTo(dx: number): void {
    if (!this.pull) return;
    const { session, pull } = this;
    const zoom = session.state.zoom;
    const tolerance = Math.min(100, Math.max(1, Math.round(pull.tolerance + (dx * zoom) / 4)));
    if (tolerance === session.state.next.pick.tolerance) return;
    session.setNext({ pick: { ...session.state.next.pick, tolerance } });
    this.pickAt(true);
  }

  pullEnd(): void {
    if (!this.pull) return;
    this.pickAt(false);
    this.pull = null;
  }

  pullCancel(): void {
    if (!this.pull) return;
    this.pull = null;
    this.wanted = null;
    this.session.set({ mark: this.before });
  }

  /** The tolerance or the reach of the last pick was changed in the panel. */
  pickAgain(): void {
    if (this.lastPick && this.goesOn) this.pickAt(false, this.lastPick);
  }

  private pickAt(isPreview: boolean, at = this.pull?.at): void {
    if (!at) return;
    this.lastPick = at;
    const { session } = this;
    const { tolerance, everywhere } = session.state.next.pick;
    const level = isPreview ? Math.max(1, session.view?.level ?? 1) : 0;
    const { round } = this;
    this.ask(async () => {
      const pick = { x: at.x, y: at.y, tolerance, everywhere };
      const found = await session.engine.call('pickColour', { pick, level });
      if (round !== this.round || (isPreview && !this.pull)) return;
      if (found) this.give([this.maskShape(found, isPreview)]);
    });
  }

  // From scribbles

  /** A stroke over the thing, or (taking away) over what does not belong to it. With Shift another thing begins. */
  scribble(stroke: StrokeShape, another: boolean): void {
    const { session } = this;
    const isOutside = stroke.op === 'subtract';
    const goesOn = this.goesOn && !another;
    if (isOutside && !goesOn) {
      session.set({ drawing: null });
      session.notify('Scribble over the thing first, then over what does not belong to it.');
      return;
    }
    if (!goesOn) this.begin('add');
    const now = goesOn ? session.state.scribbles : { inside: [], outside: [] };
    const drawn: StrokeShape = { ...stroke, op: 'add' };
    const scribbles = isOutside
      ? { ...now, outside: [...now.outside, drawn] }
      : { ...now, inside: [...now.inside, drawn] };
    session.set({ scribbles, drawing: null });
    this.ask(async () => {
      const found = await session.engine.call('growScribbles', { scribbles });
      if (session.state.scribbles !== scribbles) return;
      if (found) this.give([this.maskShape(found, false)]);
      else session.notify('The scribble lies outside the photo.', 'warning');
    });
  }

  // Along a line

  click(at: Point, op: ShapeOp): void {
    const { session } = this;
    if (this.refusesZones()) return;
    if (!this.goesOn && session.state.spanClicks.length !== 1) {
      this.begin(op);
      session.set({ spanClicks: [] });
    }
    const clicks: SpanPoint[] = [...session.state.spanClicks, [at.x, at.y]];
    session.set({ spanClicks: clicks });
    if (clicks.length > 1) this.spanAgain();
  }

  /** Looks for the line anew, with what the panel says now. */
  spanAgain(): void {
    const { session } = this;
    const { spanClicks: clicks, next } = session.state;
    if (clicks.length < 2) return;
    this.ask(async () => {
      const strokes = await session.engine.call('findSpan', { clicks, options: next.span });
      if (session.state.spanClicks !== clicks) return;
      if (strokes.length > 0) {
        this.give(strokes);
        return;
      }
      session.set({ spanClicks: clicks.slice(0, -1) });
      session.notify(
        'No line was found between these clicks. Put them nearer together, or right on it.',
        'warning',
      );
    });
  }

  /** What the gestures left behind goes with the mark. */
  clear(): void {
    this.round++;
    this.given = null;
    this.before = null;
    this.pull = null;
    this.wanted = null;
    this.lastPick = null;
  }
}
