import { boundsOfArea, type Shape, type StrokeShape } from '../../core/area';
import { messageOf } from '../../core/errors';
import { addMend, allMends, type Job, type Mend, type MethodId, noZones, type Source } from '../../core/job';
import { methods, placementOf } from '../../core/methods';
import type { StrokePoint } from '../tools/gesture';
import type { Point } from '../viewport/camera';
import { type BrushSource, emptySource, sourceAt, takenBefore, varied } from './brush-source';
import { newLayer, newMend, toSixteenth } from './new-mend';
import type { Session } from './session';
import { StrokeFeed } from './stroke-feed';

/** Methods whose mends appear while they are painted. */
export const paintsLive = (method: MethodId | null): method is 'clone' | 'heal' | 'paint' | 'knit' =>
  takesFrom(method) || method === 'paint' || method === 'knit';

/** Methods whose brush takes from a place that is set. */
export const takesFrom = (method: MethodId | null): method is 'clone' | 'heal' =>
  method === 'clone' || method === 'heal';

/** How often a source may land before it is told. */
const mostRepeats = 2;

/** Strokes within so many pixels are looked at for what their edge touches: about a fifth of a second. */
const mostLookedAt = 2_000_000;

/** Strokes: painted live with clone, heal and colour, or as something marked. */
export class Painting {
  private feed: StrokeFeed | null = null;
  /** Shift was held when the stroke began: more is to be marked after it. */
  private addsMore = false;
  /** Where the last stroke ended, to be joined by a straight line. */
  private lastEnd: StrokePoint | null = null;
  /** The evened-out hand. */
  private hand: StrokePoint | null = null;
  private strokes = 0;
  /** The last stroke is over, but not all of it is shown. */
  private finishing = false;
  /** The last stroke that became a mend and may smear. */
  private painted: string | null = null;
  /** What a quick hand did meanwhile. */
  private waiting: (() => void)[] = [];

  constructor(private readonly session: Session) {}

  get isLive(): boolean {
    return this.feed !== null;
  }

  /** Puts off until the last stroke is a mend what can only come after it. @returns whether it had to wait */
  defers(run: () => void): boolean {
    if (this.finishing) this.waiting.push(run);
    return this.finishing;
  }

  // Where the brush takes from

  get brush(): BrushSource {
    const { sources, slot } = this.session.state;
    return sources[slot];
  }

  setBrush(changes: Partial<BrushSource>, slot = this.session.state.slot): void {
    const { sources } = this.session.state;
    this.session.set({ sources: sources.map((s, i) => (i === slot ? { ...s, ...changes } : s)) });
  }

  pick(at: Point): void {
    const { method, markTool } = this.session.state;
    // Whoever says where to take from is about to paint.
    if (markTool === 'choose') this.session.set({ markTool: 'paint' });
    if (method === 'paint') this.session.begin(this.pickColour(at));
    else if (takesFrom(method)) this.setBrush({ at, fixed: null });
    else this.session.notify('Knit takes from both sides of the stroke by itself: no source is set for it.');
  }

  /** Someone paints while things are chosen and dragged. */
  tellNoBrush(): void {
    this.session.notify('Choose takes hold of mends and handles; it does not paint.', 'plain', {
      label: 'Take the brush',
      run: () => this.session.set({ markTool: 'paint' }),
    });
  }

  async pickColour(at: Point): Promise<void> {
    const { next } = this.session.state;
    const radiusPx = next.sizePx / 4;
    const colour = await this.session.engine.call('pickPaint', { x: at.x, y: at.y, radiusPx });
    this.session.setNext({ colour });
  }

  /** Takes from another of the remembered sources: each has the plane that was laid down with it. One that was never set
   *  begins with the plane in use. */
  takeSlot(slot: number): void {
    const { session } = this;
    const { sources, slot: left, next } = session.state;
    if (slot === left) return;
    session.set({
      slot,
      sources: sources.map((s, i) => (i === left ? { ...s, plane: next.plane } : s)),
      next: { ...next, plane: sources[slot].at ? sources[slot].plane : next.plane },
    });
  }

  clearSlot(slot: number): void {
    this.setBrush(emptySource, slot);
  }

  /** What the next stroke would be, were it begun at a point; null when nothing says where to take from. */
  hovering(point: Point): Mend | null {
    const { job, method, next } = this.session.state;
    if (!job || !takesFrom(method)) return null;
    const source = sourceAt(this.brush, point, next);
    return source && this.mendAt(job, method, [point.x, point.y, 1], source);
  }

  private mendAt(job: Job, method: MethodId, first: StrokePoint, source: Source | null): Mend {
    const { next } = this.session.state;
    const area = { shapes: [this.shapeOf([first], next.hardness, false)], marginPx: 0, featherPx: 0 };
    const mend = newMend(job, method, area, source, next);
    const params = method === 'paint' && next.colour ? next.colour : mend.params;
    return { ...mend, params, steer: { ...mend.steer, plane: source ? next.plane : null } };
  }

  private shapeOf(points: readonly StrokePoint[], hardness: number, away: boolean): StrokeShape {
    const { sizePx, pressureTo } = this.session.state.next;
    return {
      kind: 'stroke',
      op: away ? 'subtract' : 'add',
      points,
      radiusPx: sizePx / 2,
      hardness,
      ...(pressureTo !== 'size' && { pressureTo }),
    };
  }

  // Strokes

  /** Has strokes painted where nobody sees them, by each method whose first stroke would else be slow.
   *  @throws when the engine fails; nobody needs to know, who has not asked for it */
  async rehearse(): Promise<void> {
    const { job, readOnly, next } = this.session.state;
    if (!job || readOnly) return;
    const plain = { ...job, layers: [newLayer(job)], zones: noZones };
    const stroke = { ...this.shapeOf([[90, 80, 1]], next.hardness, false), radiusPx: 60 };
    const area = { shapes: [stroke], marginPx: 0, featherPx: 0 };
    const mends = (['clone', 'heal'] as const).map((method) =>
      newMend(plain, method, area, { dx: 70, dy: 90 }, { ...next, reads: 'below', opacity: 1 }),
    );
    await this.session.engine.call('rehearse', { job: plain, mends });
  }

  begin(point: StrokePoint, shift: boolean, alt: boolean): void {
    if (this.defers(() => this.begin(point, shift, alt))) return;
    const { session } = this;
    this.addsMore = shift && !alt;
    const { job, method, next, activeLayer, laying } = session.state;
    if (!job || !activeLayer || !session.mayWrite()) return;
    const first = rounded(point);
    this.hand = first;
    if (laying || !paintsLive(method) || session.state.markTool === 'grow') {
      const hardness = laying?.what === 'rub' ? next.hardness : 1;
      const keepsBoth = shift && alt && !laying && session.state.markTool === 'paint';
      const shape = this.shapeOf([first], hardness, alt);
      session.set({ drawing: keepsBoth ? { ...shape, op: 'intersect' } : shape });
      return;
    }
    const source = this.takeSource(method, first);
    if (source === undefined) return;
    const mend = this.mendAt(job, method, first, source);
    if (source && next.vary.walk) this.walk();
    try {
      placementOf(mend);
    } catch (error) {
      session.notify(messageOf(error), 'warning');
      return;
    }
    // With Shift a straight line leads here from where the last stroke ended.
    const from = shift ? this.lastEnd : null;
    const begun = from
      ? { ...mend, area: { ...mend.area, shapes: [this.shapeOf([from], next.hardness, false)] } }
      : mend;
    const level = () => session.view?.level ?? 0;
    this.feed = new StrokeFeed(
      begun,
      activeLayer,
      {
        begin: (m, layerId) => session.engine.call('beginStroke', { mend: m, layerId }),
        extend: (points) => session.engine.call('extendStroke', { points, level: level() }),
        settle: () => session.engine.call('settleStroke', { level: level() }),
        end: () => session.engine.call('endStroke', null),
      },
      (parts, since) => session.view?.strokeParts(parts, since),
    );
    if (from) this.feed.add([first], performance.now());
    // What else is drawn over the photo gives way to the stroke.
    session.view?.invalidate();
  }

  /** What a stroke takes from: null for what takes from no place that is set, undefined when it cannot begin; then it says why. */
  private takeSource(
    method: 'clone' | 'heal' | 'paint' | 'knit',
    first: StrokePoint,
  ): Source | null | undefined {
    const { session } = this;
    const { next } = session.state;
    const point = { x: first[0], y: first[1] };
    if (method === 'knit') return null;
    if (method === 'paint') {
      if (next.colour) return null;
      session.notify('No colour is picked yet: hold Alt and click on one.', 'warning', {
        label: 'Use the colour here',
        run: () => session.begin(this.pickColour(point)),
      });
      return undefined;
    }
    const source = sourceAt(this.brush, point, next);
    if (!source) {
      session.notify(
        `${methods[method].title} needs a place to take from: hold Alt and click there.`,
        'warning',
        { label: 'Use the best source', run: () => session.begin(this.pickBest(first)) },
      );
      return undefined;
    }
    if (next.keepsDistance && !this.brush.fixed)
      this.setBrush({ fixed: { dx: source.dx, dy: source.dy, about: source.about ?? [point.x, point.y] } });
    return varied(source, next.vary, this.strokes++, [Math.random(), Math.random()]);
  }

  /** On to the next of the sources that are set. */
  private walk(): void {
    const { sources, slot } = this.session.state;
    const set = sources.flatMap((s, i) => (s.at ? [i] : []));
    this.takeSlot(set[(set.indexOf(slot) + 1) % set.length] ?? slot);
  }

  async pickBest(point: StrokePoint): Promise<void> {
    const { session } = this;
    const { job, method } = session.state;
    if (!job || !method) return;
    const shift = await session.mending.findSource(this.mendAt(job, method, point, null));
    if (!shift)
      session.notify('No place on this photo would serve as a source for a brush of this size.', 'warning');
    else
      this.setBrush({
        at: { x: point[0] + shift.dx, y: point[1] + shift.dy },
        fixed: { dx: shift.dx, dy: shift.dy, about: [point[0], point[1]] },
      });
  }

  extend(points: readonly StrokePoint[], atMs: number): void {
    if (this.defers(() => this.extend(points, atMs))) return;
    const even = points.map((p) => this.evened(p));
    if (this.feed) {
      this.feed.add(even, atMs);
      return;
    }
    const { drawing } = this.session.state;
    if (drawing?.kind !== 'stroke') return;
    this.session.set({ drawing: { ...drawing, points: [...drawing.points, ...even.map(rounded)] } });
  }

  /** The path follows the hand like something drawn on a short string. */
  private evened(point: StrokePoint): StrokePoint {
    const { smoothing } = this.session.state.next;
    const { hand } = this;
    const share = 1 - 0.92 * smoothing;
    const next: StrokePoint = hand
      ? [
          hand[0] + (point[0] - hand[0]) * share,
          hand[1] + (point[1] - hand[1]) * share,
          hand[2] + (point[2] - hand[2]) * share,
        ]
      : point;
    this.hand = next;
    return next;
  }

  async end(): Promise<void> {
    if (this.finishing) return new Promise((done) => this.waiting.push(() => done(this.end())));
    const { session, feed } = this;
    this.lastEnd = this.hand;
    if (feed) session.quiet.strokeEnded();
    if (!feed) {
      const { drawing, method, laying, markTool } = session.state;
      if (drawing?.kind !== 'stroke') return;
      if (markTool === 'grow' && !laying) session.finding.scribble(drawing, this.addsMore);
      else if (method === 'tap' && !laying) await this.addTap(drawing);
      else session.marking.add(drawing, this.addsMore);
      return;
    }
    this.finishing = true;
    try {
      const mend = await feed.finish();
      // The stroke's end is seen before all else that a new mend brings about.
      await session.view?.drawn();
      this.feed = null;
      session.tell('endStroke', null);
      const isRepeat = this.tellRepeats(mend);
      session.run(addMend(feed.layerId, mend));
      session.set({ chosen: null });
      if (mend.method === 'heal' && !isRepeat) void this.offerStops(mend);
    } catch (error) {
      this.feed = null;
      session.notify(`The stroke was lost: ${messageOf(error)}`, 'warning');
    } finally {
      this.finishing = false;
      while (this.waiting.length > 0 && !this.finishing) this.waiting.shift()!();
    }
  }

  /** Once the hand rests, and unless it has gone on: what a stroke's edge touches may smear into it. It is not asked of what is so large
   *  that the next stroke would have to wait for the answer; the card finds stop lines there. */
  private async offerStops(mend: Mend): Promise<void> {
    const { session } = this;
    this.painted = mend.id;
    const { w, h } = boundsOfArea(mend.area);
    if (w * h > mostLookedAt) return;
    await session.quiet.comes();
    const isLast = () => this.painted === mend.id && !this.isLive && session.state.chosen === null;
    if (isLast()) await session.steering.offerStops(mend, isLast);
  }

  /** The eye finds a patch that lands a third time. @returns whether this one does */
  private tellRepeats(mend: Mend): boolean {
    const { job, next } = this.session.state;
    if (!job || !mend.source) return false;
    const earlier = allMends(job)
      .filter((m) => m.source && m.visible && takesFrom(m.method))
      .map(taken);
    const here = taken(mend);
    if (takenBefore(here.from, next.sizePx, earlier) < mostRepeats) return false;
    this.session.notify(
      'This place has been taken from three times now. The eye may find the repeat.',
      'plain',
      {
        label: 'Use another source',
        run: () => this.session.begin(this.pickBest([here.at.x, here.at.y, 1])),
      },
    );
    return true;
  }

  async cancel(): Promise<void> {
    if (this.finishing) return new Promise((done) => this.waiting.push(() => done(this.cancel())));
    const { feed } = this;
    this.feed = null;
    this.session.set({ drawing: null });
    if (feed) await feed.cancel().catch(() => {});
    this.session.view?.touch();
  }

  private async addTap(shape: Shape): Promise<void> {
    const { session } = this;
    const { job, next, activeLayer } = session.state;
    session.set({ drawing: null });
    if (!job || !activeLayer) return;
    const area = { shapes: [shape], marginPx: 0, featherPx: Math.max(1, Math.round(next.sizePx * 0.08)) };
    const mend = newMend(job, 'tap', area, null, next);
    const source = await session.mending.findSource(mend);
    if (!source) {
      session.notify('No place near this spot would serve as a source. Use a smaller brush.', 'warning');
      return;
    }
    if (session.run(addMend(activeLayer, { ...mend, source }))) session.set({ chosen: mend.id });
  }
}

const rounded = ([x, y, p]: StrokePoint): StrokePoint => [toSixteenth(x), toSixteenth(y), toSixteenth(p)];

/** Where a mend lies, where it takes from, and how large it is. */
function taken(mend: Mend): { at: Point; from: Point; sizePx: number } {
  const box = boundsOfArea(mend.area);
  const at = { x: box.x + box.w / 2, y: box.y + box.h / 2 };
  const { dx, dy } = mend.source!;
  return { at, from: { x: at.x + dx, y: at.y + dy }, sizePx: Math.min(box.w, box.h) };
}
