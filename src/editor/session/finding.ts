import type { Area, MaskShape, Shape, ShapeOp, StrokeShape } from '../../core/area';
import type { Found, Scribbles, SpanPoint } from '../../core/marking';
import type { Point } from '../viewport/camera';
import { addShape, newId } from './new-mend';
import type { Session } from './session';

/** What is being found by one gesture, or by several that belong together. */
interface Thing {
  readonly by: 'pick' | 'grow' | 'span';
  readonly op: ShapeOp;
  /** What its last result put into the mark. */
  shown: readonly Shape[];
  /** Asked for and not answered yet. */
  isAwaited: boolean;
  /** What it is grown from. */
  scribbles: Scribbles;
}

/** A colour that is being picked, and what stands for its mark meanwhile. */
interface Pull {
  readonly thing: Thing;
  readonly at: Point;
  readonly tolerance: number;
  readonly rough: string;
}

const noScribbles: Scribbles = { inside: [], outside: [] };

/** Gestures whose mark the photo itself decides: a colour, a thing grown from scribbles, a line through clicks. While one
 *  is under way its result takes the place of its own earlier one; whatever else is marked, before or meanwhile, stays. */
export class Finding {
  private thing: Thing | null = null;
  private lastPick: Point | null = null;
  /** What moves while the hand does is held under one id, which only this session knows. */
  private pull: Pull | null = null;
  /** What was asked for an earlier mark has no say in the present one. */
  private round = 0;
  private asking = false;
  private wanted: (() => Promise<void>) | null = null;
  /** Questions that are answered whatever is asked after them. */
  private readonly due: (() => Promise<void>)[] = [];

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

  private begin(by: Thing['by'], op: ShapeOp): Thing {
    // What the one before is still waiting for is not passed over.
    if (this.wanted) this.due.push(this.wanted);
    this.wanted = null;
    const thing = { by, op, shown: [], isAwaited: false, scribbles: noScribbles };
    this.thing = thing;
    return thing;
  }

  /** The thing that a further gesture of its kind belongs to: its result is what was marked last, or is still awaited. */
  private goesOn(by: Thing['by']): Thing | null {
    const { thing } = this;
    if (thing?.by !== by) return null;
    if (thing.isAwaited) return thing;
    const shapes = this.session.state.mark?.shapes ?? [];
    const isLast =
      thing.shown.length > 0 && thing.shown.every((s, k) => shapes.at(k - thing.shown.length) === s);
    return isLast ? thing : null;
  }

  /** Puts a result where the thing's earlier one was, or behind what is marked. */
  private give(thing: Thing, found: readonly Shape[]): void {
    const { session } = this;
    const { mark, next } = session.state;
    const shown = found.map((shape) => ({ ...shape, op: thing.op }));
    const before = thing.shown[0] ? (mark?.shapes.indexOf(thing.shown[0]) ?? -1) : -1;
    const others = mark?.shapes.filter((s) => !thing.shown.includes(s)) ?? [];
    const at = before < 0 ? others.length : before;
    const area = shown.reduce((to: Area | null, shape) => addShape(to, shape, next), mark)!;
    thing.shown = shown;
    session.set({
      mark: { ...area, shapes: [...others.slice(0, at), ...shown, ...others.slice(at)] },
    });
  }

  /** Asks one question at a time, of those that may be passed over always the newest. */
  private ask(question: () => Promise<void>, may: 'be passed over' | 'wait' = 'be passed over'): void {
    if (may === 'wait') this.due.push(question);
    else this.wanted = question;
    if (!this.asking) this.session.begin(this.askOn());
  }

  /** Asks what a thing is, and does what the answer says unless the mark is gone or more was asked for since. */
  private askFor(thing: Thing, isNewest: () => boolean, question: () => Promise<() => void>): void {
    const { round } = this;
    thing.isAwaited = true;
    this.ask(async () => {
      try {
        const done = await question();
        if (round === this.round && isNewest()) done();
      } finally {
        if (isNewest()) thing.isAwaited = false;
      }
    });
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

  /** Puts what was found in the end in the place of what was only looked at, or (null) takes that away.
   *  @returns whether it was marked */
  private settle(thing: Thing, rough: string, found: MaskShape | null): boolean {
    const { session } = this;
    const { mark } = session.state;
    session.masks.delete(rough);
    const before = mark?.shapes.find((s) => s.kind === 'mask' && s.maskId === rough);
    if (!mark || !before) return false;
    const now = found && { ...found, op: before.op };
    const shapes = mark.shapes.flatMap((s) => (s !== before ? [s] : now ? [now] : []));
    thing.shown = now ? [now] : [];
    session.set({ mark: shapes.length > 0 ? { ...mark, shapes } : null });
    return true;
  }

  // By colour

  pullBegin(at: Point, op: ShapeOp): void {
    if (this.refusesZones()) return;
    if (op !== 'add' && !this.session.state.mark) {
      this.session.notify('Nothing is marked yet, so there is nothing to take away from.');
      return;
    }
    const thing = this.begin('pick', op);
    this.pull = { thing, at, tolerance: this.session.state.next.pick.tolerance, rough: newId() };
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
    this.pick(this.pull.thing, this.pull.at, this.pull.rough);
    this.pull = null;
  }

  pullCancel(): void {
    if (!this.pull) return;
    const { thing, rough } = this.pull;
    this.pull = null;
    this.wanted = null;
    this.settle(thing, rough, null);
  }

  /** The tolerance or the reach of the last pick was changed in the panel. */
  pickAgain(): void {
    const thing = this.goesOn('pick');
    if (this.lastPick && thing) this.pick(thing, this.lastPick, null);
  }

  /** What a colour marks, on a level that is quick; the engine need not know of it. */
  private pickRoughly(pull: Pull): void {
    const { session, round } = this;
    const pick = { x: pull.at.x, y: pull.at.y, ...session.state.next.pick };
    const level = Math.max(1, session.view?.level ?? 1);
    this.ask(async () => {
      const found = await session.engine.call('pickColour', { pick, level });
      if (!found || round !== this.round || this.pull?.rough !== pull.rough) return;
      const { mask, x, y, w, h } = found;
      session.masks.set(pull.rough, mask);
      this.give(pull.thing, [{ kind: 'mask', op: 'add', x, y, w, h, maskId: pull.rough }]);
    });
  }

  /** What a colour marks. @param rough  what stands for it until then; that may be part of another mark by now */
  private pick(thing: Thing, at: Point, rough: string | null): void {
    this.lastPick = at;
    const { session, round } = this;
    const pick = { x: at.x, y: at.y, ...session.state.next.pick };
    this.ask(async () => {
      let shape: MaskShape | null = null;
      let isMarked = false;
      try {
        const found = await session.engine.call('pickColour', { pick, level: 0 });
        shape = found && this.maskShape(found);
      } finally {
        if (rough) isMarked = this.settle(thing, rough, shape);
      }
      if (shape && !isMarked && round === this.round) this.give(thing, [shape]);
    }, 'wait');
  }

  // From scribbles

  /** A stroke over the thing, or (taking away) over what does not belong to it. With Shift another thing begins. */
  scribble(stroke: StrokeShape, another: boolean): void {
    const { session } = this;
    const isOutside = stroke.op === 'subtract';
    const before = another ? null : this.goesOn('grow');
    if (isOutside && !before) {
      session.set({ drawing: null });
      session.notify('Scribble over the thing first, then over what does not belong to it.');
      return;
    }
    const thing = before ?? this.begin('grow', 'add');
    const { inside, outside } = thing.scribbles;
    const drawn: StrokeShape = { ...stroke, op: 'add' };
    const scribbles = isOutside
      ? { inside, outside: [...outside, drawn] }
      : { inside: [...inside, drawn], outside };
    thing.scribbles = scribbles;
    session.set({ scribbles, drawing: null });
    this.askFor(
      thing,
      () => thing.scribbles === scribbles,
      async () => {
        const found = await session.engine.call('growScribbles', { scribbles });
        if (!found) return () => session.notify('The scribble lies outside the photo.', 'warning');
        return () => this.give(thing, [this.maskShape(found)]);
      },
    );
  }

  // Along a line

  click(at: Point, op: ShapeOp): void {
    const { session } = this;
    if (this.refusesZones()) return;
    const isSecond = this.thing?.by === 'span' && session.state.spanClicks.length === 1;
    if (!this.goesOn('span') && !isSecond) {
      this.begin('span', op);
      session.set({ spanClicks: [] });
    }
    const clicks: SpanPoint[] = [...session.state.spanClicks, [at.x, at.y]];
    session.set({ spanClicks: clicks });
    if (clicks.length > 1) this.spanAgain();
  }

  /** Looks for the line anew, with what the panel says now. */
  spanAgain(): void {
    const { session, thing } = this;
    const { spanClicks: clicks, next } = session.state;
    if (clicks.length < 2 || thing?.by !== 'span') return;
    this.askFor(
      thing,
      () => session.state.spanClicks === clicks,
      async () => {
        const strokes = await session.engine.call('findSpan', { clicks, options: next.span });
        if (strokes.length > 0) return () => this.give(thing, strokes);
        return () => {
          session.set({ spanClicks: clicks.slice(0, -1) });
          session.notify(
            'No line was found between these clicks. Put them nearer together, or right on it.',
            'warning',
          );
        };
      },
    );
  }

  /** How that is being found which was begun after an area was marked, and is none of it; null: nothing is. */
  begunAfter({ shapes }: Area): Thing['by'] | null {
    const { thing } = this;
    if (!thing) return null;
    const isFirstClick = thing.by === 'span' && this.session.state.spanClicks.length === 1;
    const isLater = thing.isAwaited || isFirstClick || !thing.shown.every((s) => shapes.includes(s));
    return isLater ? thing.by : null;
  }

  /** What the gestures left behind goes with the mark. */
  clear(): void {
    this.round++;
    this.thing = null;
    this.pull = null;
    this.wanted = null;
    this.lastPick = null;
  }
}
