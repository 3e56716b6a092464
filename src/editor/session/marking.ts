import type { Shape } from '../../core/area';
import type { MethodId } from '../../core/job';
import { addShape } from './new-mend';
import type { Session } from './session';

/** What is marked and not yet mended: added to, taken from, given to a mend as its area. */
export class Marking {
  constructor(private readonly session: Session) {}

  clear(): void {
    this.session.set({ mark: null, drawing: null, reshaping: null });
  }

  /** Takes a mend's area up as what is marked, so that it can be added to and taken away from. */
  reshape(mendId: string): void {
    const mend = this.session.mendOf(mendId);
    if (!mend || !this.session.mayWrite()) return;
    const { markTool } = this.session.state;
    this.session.set({
      mark: mend.area,
      reshaping: mendId,
      chosen: mendId,
      method: null,
      markTool: markTool === 'choose' ? 'paint' : markTool,
    });
  }

  /** Gives the mend being reshaped what is marked now as its area. */
  keepShape(): void {
    const { mark, reshaping } = this.session.state;
    if (!mark || !reshaping) return;
    this.clear();
    this.session.mending.change(reshaping, 'change area', { area: mark });
  }

  /** Adds to what is marked; with a method ready, mends it at once unless more is to be added. */
  add(shape: Shape, more: boolean): void {
    const { mark, next, method, laying } = this.session.state;
    if (laying) {
      this.session.set({ drawing: null });
      this.session.steering.addDrawn(shape);
      return;
    }
    if (shape.op === 'subtract' && !mark) {
      this.session.notify('Nothing is marked yet, so there is nothing to take away from.');
      return;
    }
    const area = addShape(mark, shape, next);
    this.session.set({ mark: area, drawing: null });
    if (method === 'patch') this.tellPatch();
    else if (method && !more && shape.op === 'add')
      this.session.begin(this.session.mending.make(method, area));
  }

  tellPatch(): void {
    const { next } = this.session.state;
    this.session.notify(
      next.patchFrom === 'thing'
        ? 'Drag what is marked to where it should come from.'
        : 'Drag what is marked onto the thing that it should cover.',
      'plain',
      next.patchFrom === 'thing'
        ? { label: 'Use the best source', run: () => this.mendNow('patch') }
        : undefined,
    );
  }

  /** Mends what is marked, without another gesture. */
  mendNow(method: MethodId): void {
    const { mark } = this.session.state;
    if (mark) this.session.begin(this.session.mending.make(method, mark));
  }
}
