import { boundsOfArea, moveArea } from '../../core/area';
import { ontoRail } from '../../core/geometry';
import { addMend, type Mend } from '../../core/job';
import { sourceRect } from '../../core/methods';
import { isEmpty } from '../../core/raster';
import { newMend } from './new-mend';
import type { Session } from './session';

/** Dragging what is marked: the thing to where it should come from, or a good part onto the thing. */
export class Patching {
  /** One mend from the first preview to the drop. */
  private mend: Mend | null = null;

  constructor(private readonly session: Session) {}

  drag(dx: number, dy: number): void {
    const made = this.patched(dx, dy);
    const { activeLayer } = this.session.state;
    if (!made || !activeLayer) return;
    this.session.show(addMend(activeLayer, made));
    this.session.scout.watch(made);
  }

  drop(dx: number, dy: number): void {
    const made = this.patched(dx, dy);
    const { activeLayer } = this.session.state;
    this.mend = null;
    this.session.scout.rest();
    if (!made || !activeLayer) return;
    const { width, height } = this.session.state.job!.photo;
    if (isEmpty(sourceRect(made, boundsOfArea(made.area), { x: 0, y: 0, w: width, h: height }))) {
      this.session.show(null);
      this.session.notify('There is nothing to take from beyond the edge of the photo.', 'warning');
      return;
    }
    if (!this.session.run(addMend(activeLayer, made))) return;
    this.session.set({ mark: null, chosen: made.id, notice: null });
    void this.session.steering.offerStops(made);
  }

  cancel(): void {
    this.mend = null;
    this.session.scout.rest();
    this.session.show(null);
  }

  private patched(dragX: number, dragY: number): Mend | null {
    const { job, mark, next } = this.session.state;
    if (!job || !mark || !this.session.mayWrite()) return null;
    const { dx, dy } = next.rail ? ontoRail(next.rail, { dx: dragX, dy: dragY }) : { dx: dragX, dy: dragY };
    this.mend ??= newMend(job, 'patch', mark, null, next);
    const good = next.patchFrom === 'good';
    const area = good ? moveArea(mark, dx, dy) : mark;
    const box = boundsOfArea(area);
    return {
      ...this.mend,
      area,
      source: {
        dx: good ? 0 - dx : dx,
        dy: good ? 0 - dy : dy,
        ...(next.plane && { about: [box.x + box.w / 2, box.y + box.h / 2] as const }),
      },
      steer: { ...this.mend.steer, plane: next.plane, rail: next.rail },
    };
  }
}
