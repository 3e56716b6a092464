import { type Area, type MaskShape, outlineOf, type Shape, type StrokeShape } from '../../core/area';
import { addMends, type Mend, type MethodId } from '../../core/job';
import type { Island } from '../../core/marking';
import { methods } from '../../core/methods';
import { newId } from './new-mend';
import type { Session } from './session';

const methodsFor: readonly MethodId[] = ['fill', 'heal', 'patch', 'clone'];

/** Splits what is marked into parts that become mends of their own, from the easiest to the hardest. */
export class Islands {
  /** What was asked for last and is not answered yet: a quick hand cuts again before. */
  private asked: { readonly area: Area; readonly cuts: readonly StrokeShape[] } | null = null;
  /** Bridges are laid in turn: each takes itself out of what is still marked. */
  private laid: Promise<unknown> = Promise.resolve();

  constructor(private readonly session: Session) {}

  /** The methods that a part may be mended by. */
  readonly methods = methodsFor;

  /** Splits by itself, or by the cuts that were drawn. */
  async find(cuts: readonly StrokeShape[] = []): Promise<void> {
    const { session } = this;
    const area = session.state.mark;
    if (!area) {
      session.notify('Mark the large thing first; then it can be split.');
      return;
    }
    const asked = { area, cuts };
    this.asked = asked;
    let found: readonly Island[];
    try {
      found = await session.engine.call('islands', asked);
      if (this.asked !== asked || session.state.mark !== area) return;
    } finally {
      if (this.asked === asked) this.asked = null;
    }
    if (found.length < 2) {
      session.notify(
        cuts.length > 0
          ? 'The cuts do not part it yet: draw them right across.'
          : 'It is compact and its ground is one: there is nothing to split by itself. Draw cuts if you know better.',
      );
      if (cuts.length === 0) return;
    }
    const before = session.state.islands?.parts ?? [];
    const parts = found.map((island, i) => ({ island, method: before[i]?.method ?? ('fill' as const) }));
    session.set({ islands: { cuts, parts } });
  }

  beginCuts(what: 'cut' | 'bridge'): void {
    const { session } = this;
    if (!session.state.mark) return;
    session.set({ laying: { what, mendId: null }, method: null, markTool: 'paint' });
  }

  /** A stroke across what is marked: a cut, or one along which a rough clone is laid first. */
  addCut(shape: Shape, isBridge: boolean): void {
    const { session } = this;
    const { islands, mark } = session.state;
    if (shape.kind !== 'stroke') {
      session.notify('Draw it as a stroke: choose Brush.');
      return;
    }
    if (isBridge) {
      const laid = this.laid.then(() => this.layBridge({ ...shape, op: 'add' }));
      this.laid = laid.catch(() => {});
      session.begin(laid);
      return;
    }
    const thin: StrokeShape = { ...shape, op: 'add', radiusPx: Math.max(1.5, Math.min(3, shape.radiusPx)) };
    const before = this.asked?.area === mark ? this.asked.cuts : (islands?.cuts ?? []);
    session.begin(this.find([...before, thin]));
  }

  /** Clones over the stroke from the best place, and takes it out of what is still marked. */
  private async layBridge(stroke: StrokeShape): Promise<void> {
    const { session } = this;
    const { activeLayer, mark, next } = session.state;
    if (!activeLayer || !mark || !session.mayWrite()) return;
    const area: Area = {
      shapes: [stroke],
      marginPx: 0,
      featherPx: Math.max(2, Math.round(stroke.radiusPx / 4)),
    };
    // The thing itself, of which the bridge lies in the midst, is no ground to take from.
    const shapes = outlineOf(mark, (id) => session.masks.get(id)).map((points) => ({
      kind: 'polygon' as const,
      op: 'add' as const,
      points,
    }));
    const avoid = shapes.length > 0 ? { shapes, marginPx: 0, featherPx: 0 } : null;
    const mend = session.mending.mendFor('clone', area, { ...next, hardness: 0.7 });
    const bridged: Mend = { ...mend, name: 'Bridge', steer: { ...mend.steer, avoid } };
    const source = await session.mending.findSource(bridged);
    if (!source) {
      session.notify(
        'No place near it would serve for this bridge. Draw a thinner or a shorter one.',
        'warning',
      );
      return;
    }
    if (!session.run(addMends(activeLayer, [{ ...bridged, source }], 'lay bridge'))) return;
    const cut: StrokeShape = { ...stroke, op: 'subtract', radiusPx: Math.max(1, stroke.radiusPx - 1) };
    const rest = session.state.mark ?? mark;
    session.set({ mark: { ...rest, shapes: [...rest.shapes, cut] }, islands: null });
    await this.find([]);
  }

  setMethod(index: number, method: MethodId): void {
    const { islands } = this.session.state;
    if (!islands) return;
    const parts = islands.parts.map((p, i) => (i === index ? { ...p, method } : p));
    this.session.set({ islands: { ...islands, parts } });
  }

  /** Mends a part sooner (−1) or later (1). */
  move(index: number, by: -1 | 1): void {
    const { islands } = this.session.state;
    const to = index + by;
    if (!islands || to < 0 || to >= islands.parts.length) return;
    const parts = [...islands.parts];
    [parts[index], parts[to]] = [parts[to], parts[index]];
    this.session.set({ islands: { ...islands, parts } });
  }

  leave(): void {
    const { laying } = this.session.state;
    this.asked = null;
    const mine = laying?.what === 'cut' || laying?.what === 'bridge';
    this.session.set({ islands: null, ...(mine && { laying: null }) });
  }

  /** Makes a mend of every part. To each, the parts after it are what is still to go: nothing is drawn from them, and nothing of
   *  them goes on into it. */
  async mend(): Promise<void> {
    const { session } = this;
    const { islands, activeLayer, mark, next } = session.state;
    if (!islands || !activeLayer || !mark || !session.mayWrite()) return;
    const { parts } = islands;
    this.leave();
    // What stands next to the whole is left out of each part.
    const { avoid } = (await session.advice.leavingOut(session.mending.mendFor('fill', mark, next))).steer;
    const mends: Mend[] = [];
    for (let i = 0; i < parts.length; i++) {
      const { method } = parts[i];
      const area: Area = { shapes: [this.shapeOf(parts[i].island)], marginPx: 0, featherPx: 2 };
      const later = parts.slice(i + 1).map((p) => this.shapeOf(p.island));
      const pending = later.length > 0 ? { shapes: later, marginPx: 0, featherPx: 0 } : null;
      const mendBy = (by: MethodId): Mend => {
        const plain = session.mending.mendFor(by, area, next);
        return { ...plain, pending, steer: { ...plain.steer, avoid: avoid ?? plain.steer.avoid } };
      };
      const mend = mendBy(method);
      const source = methods[method].needsSource ? await session.mending.findSource(mend) : null;
      if (methods[method].needsSource && !source) {
        session.notify(`Part ${i + 1} finds no place to take from, so it is filled instead.`, 'warning');
        mends.push({ ...mendBy('fill'), name: `Island ${i + 1}` });
      } else mends.push({ ...mend, id: newId(), source, name: `Island ${i + 1}` });
    }
    if (!session.run(addMends(activeLayer, mends, `${mends.length} islands`))) return;
    session.marking.mended(mark, mends[0].id);
    session.set({ chosen: mends[0]?.id ?? null });
    if (avoid) session.notify('What stands next to it was left out: no part goes on with it.');
    for (const mend of mends) {
      // Undone meanwhile, there is nothing to compute.
      if (methods[mend.method].scope === 'kept' && session.mendOf(mend.id))
        await session.fills.compute(mend.id);
    }
  }

  private readonly held = new WeakMap<Island, MaskShape>();

  private shapeOf(island: Island): MaskShape {
    const known = this.held.get(island);
    if (known) return known;
    const { mask, x, y, w, h } = island;
    const shape: MaskShape = { kind: 'mask', op: 'add', x, y, w, h, maskId: this.session.holdMask(mask) };
    this.held.set(island, shape);
    return shape;
  }
}
