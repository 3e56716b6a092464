import type { Area, MaskShape, Shape, ShapeOp, StrokeShape } from '../../core/area';
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
  /** What moves while the hand does is held under one id, which only this session knows. */
  private pull: { at: Point; tolerance: number; rough: string } | null = null;
  /** What was asked for an earlier mark has no say in the present one. */
  private round = 0;
  private asking = false;
  private wanted: (() => Promise<void>) | null = null;
  /** Questions that are answered whatever is asked after them. */
  private readonly due: (() => Promise<void>)[] = [];
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

  /** Asks one question at a time, of those that may be passed over always the newest. */
  private ask(question: () => Promise<void>, may: 'be passed over' | 'wait' = 'be passed over'): void {
    if (may === 'wait') this.due.push(question);
    else this.wanted = question;
    if (!this.asking) this.session.begin(this.askOn());
  }

  private async askOn(): Promise<void> {
    this.asking = true;
    try {
      for (let question = this.next(); question; question = this.next()) await question();
    } finally {
      this.asking = false;
    }
  }

  private next(): (() => Promise<void>) | null {
    const first = this.due.shift();
    if (first) return first;
    const { wanted } = this;
    this.wanted = null;
    return wanted;
  }

  private maskShape({ x, y, w, h, mask }: Found): MaskShape {
    return { kind: 'mask', op: 'add', x, y, w, h, maskId: this.session.holdMask(mask) };
  }

  /** Puts what was found in the end in the place of what was only looked at, or (null) takes that away. */
  private settle(rough: string, found: MaskShape | null): void {
    const { session } = this;
    const settled = (area: Area | null): Area | null => {
      if (!area?.shapes.some((s) => s.kind === 'mask' && s.maskId === rough)) return area;
      const shapes = area.shapes.flatMap((s): Shape[] => {
        if (s.kind !== 'mask' || s.maskId !== rough) return [s];
        return found ? [{ ...found, op: s.op }] : [];
      });
      return shapes.length > 0 ? { ...area, shapes } : null;
    };
    this.before = settled(this.before);
    const { mark } = session.state;
    const now = settled(mark);
    if (now !== mark) {
      if (this.given === mark) this.given = now;
      session.set({ mark: now });
    }
    session.masks.delete(rough);
  }

  // By colour

  pullBegin(at: Point, op: ShapeOp): void {
    if (this.refusesZones()) return;
    if (op !== 'add' && !this.session.state.mark) {
      this.session.notify('Nothing is marked yet, so there is nothing to take away from.');
      return;
    }
    this.begin(op);
    this.pull = { at, tolerance: this.session.state.next.pick.tolerance, rough: newId() };
    this.pickRoughly(this.pull);
  }

  pullTo(dx: number): void {
    if (!this.pull) return;
    const { session, pull } = this;
    const zoom = session.state.zoom;
    const tolerance = Math.min(100, Math.max(1, Math.round(pull.tolerance + (dx * zoom) / 4)));
    if (tolerance === session.state.next.pick.tolerance) return;
    session.setNext({ pick: { ...session.state.next.pick, tolerance } });
    this.pickRoughly(pull);
  }

  pullEnd(): void {
    if (!this.pull) return;
    this.pick(this.pull.at, this.pull.rough);
    this.pull = null;
  }

  pullCancel(): void {
    if (!this.pull) return;
    const { rough } = this.pull;
    this.pull = null;
    this.wanted = null;
    this.session.set({ mark: this.before });
    this.session.masks.delete(rough);
  }

  /** The tolerance or the reach of the last pick was changed in the panel. */
  pickAgain(): void {
    if (this.lastPick && this.goesOn) this.pick(this.lastPick, null);
  }

  /** What a colour marks, on a level that is quick; the engine need not know of it. */
  private pickRoughly(pull: { at: Point; rough: string }): void {
    const { session, round } = this;
    const pick = { x: pull.at.x, y: pull.at.y, ...session.state.next.pick };
    const level = Math.max(1, session.view?.level ?? 1);
    this.ask(async () => {
      const found = await session.engine.call('pickColour', { pick, level });
      if (!found || round !== this.round || this.pull?.rough !== pull.rough) return;
      const { mask, x, y, w, h } = found;
      session.masks.set(pull.rough, mask);
      this.give([{ kind: 'mask', op: 'add', x, y, w, h, maskId: pull.rough }]);
    });
  }

  /** What a colour marks. @param rough  what stands for it until then; that may be part of another mark by now */
  private pick(at: Point, rough: string | null): void {
    this.lastPick = at;
    const { session, round } = this;
    const pick = { x: at.x, y: at.y, ...session.state.next.pick };
    this.ask(async () => {
      let shape: MaskShape | null = null;
      try {
        const found = await session.engine.call('pickColour', { pick, level: 0 });
        shape = found && this.maskShape(found);
        if (shape && round === this.round) this.give([shape]);
      } finally {
        if (rough) this.settle(rough, shape);
      }
    }, 'wait');
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
      if (found) this.give([this.maskShape(found)]);
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
