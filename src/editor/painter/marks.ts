import type { Shape } from '../../core/area';
import { findMend, type Mend } from '../../core/job';
import { aboutOf, methods, type Placement, placementOf } from '../../core/methods';
import type { SessionState } from '../session/state';
import type { Grip } from '../tools/gesture';
import type { Point } from '../viewport/camera';
import { colours } from './colours';
import type { Overlay } from './overlay';
import { mappedOutline, outlinePath } from './paths';
import type { Scene } from './scene';

/** Where something was drawn that can be taken hold of. */
export interface Handle {
  readonly at: Point;
  readonly grip: Grip;
}

/** What of a scene lies over the photo, but for the brush: which marks and mends are shown, and what belongs to them. How
 *  each looks: overlay/. */
export class Marks {
  private readonly handles: Handle[] = [];

  constructor(
    private readonly scene: Scene,
    private readonly overlay: Overlay,
  ) {}

  /** Draws all of it. @returns where handles were drawn */
  draw(): readonly Handle[] {
    const { overlay } = this;
    const { state, masks, painting } = this.scene;
    const job = state.job!;
    if (state.sourceMap) overlay.sources.sourceMap(state.sourceMap, job.photo);
    const hovered = state.hovered && state.hovered !== state.chosen ? findMend(job, state.hovered) : null;
    if (hovered) overlay.marked.outline(outlinePath(hovered.mend.area, masks), 'hovered');
    const chosen = state.chosen && !painting ? findMend(job, state.chosen) : null;
    if (chosen) {
      const { mend } = chosen;
      const path = outlinePath(mend.area, masks);
      if (mend.source && (methods[mend.method].needsSource || mend.method === 'tap')) this.source(mend, path);
      for (const line of mend.stops) overlay.steering.stopLine(line);
      if (state.laying?.what === 'rub' && mend.rubbed)
        overlay.marked.outline(outlinePath(mend.rubbed, masks), 'source');
      if (mend.method !== 'paint' && mend.method !== 'knit') this.steering(mend);
      overlay.marked.outline(path, 'mended');
    } else if (state.next.plane && (state.method === null || methods[state.method].needsSource))
      this.plane(state.next.plane, null);
    if (state.laying?.mendId === null || state.method === 'fill' || (state.mark && !chosen))
      overlay.steering.zones(job.zones, masks);
    if (state.drawnLine) overlay.steering.guideLine(state.drawnLine);
    if (state.mark && state.dragging) {
      const { target, source } = state.dragging;
      const path = outlinePath(state.mark, masks);
      const good = state.next.patchFrom === 'good';
      const [dx, dy] = [source[0] - target[0], source[1] - target[1]];
      overlay.marked.outline(path, 'mended', good ? { dx: -dx, dy: -dy } : undefined);
      overlay.marked.outline(path, 'source', good ? undefined : { dx, dy });
    } else if (state.mark) overlay.marked.mark(outlinePath(state.mark, masks), state.markLook, state.markHue);
    if (state.mark) this.aroundMark(state);
    state.sweep?.faults.forEach((fault, i) => {
      overlay.marked.fault(fault, state.sweep!.refused.has(i), state.sweep!.pointed === i);
    });
    const guard = state.laying?.what === 'guard' ? this.guardOf(state) : null;
    if (guard)
      overlay.steering.zones({ allow: null, avoid: { shapes: guard, marginPx: 0, featherPx: 0 } }, masks);
    if (state.markTool === 'grow' && !state.islands) overlay.marked.scribbles(state.scribbles);
    if (state.markTool === 'span') overlay.marked.clicks(state.spanClicks);
    if (state.drawing) overlay.marked.shape(state.drawing);
    return this.handles;
  }

  /** What is offered beside what is marked, and the parts it is about to be split into. */
  private aroundMark({ offers, offerHovered, outlook, islands, dragging }: SessionState): void {
    const { overlay } = this;
    // What is dragged is looked at now.
    if (dragging) return;
    if (!islands) {
      offers.forEach((offer, i) => {
        overlay.marked.offer(offer, offerHovered === i);
      });
      if (outlook?.beside && offerHovered === 'beside')
        overlay.marked.offer(outlook.beside, true, colours.avoid);
      return;
    }
    islands.parts.forEach(({ island }, i) => {
      overlay.marked.island(island, i + 1);
    });
    for (const cut of islands.cuts) overlay.marked.shape(cut);
  }

  private guardOf({ laying, mark, job }: SessionState): readonly Shape[] | null {
    const area = laying?.mendId && job ? findMend(job, laying.mendId)?.mend.area : mark;
    return area?.guard ?? null;
  }

  /** Where a mend takes from: outline, thread, and handles to move, turn and scale it. */
  private source(mend: Mend, path: Path2D): void {
    const { overlay } = this;
    const { state, masks } = this.scene;
    const { area } = mend;
    const source = mend.source!;
    let placement: Placement;
    try {
      placement = placementOf(mend);
    } catch {
      return;
    }
    if (placement.kind === 'shift') overlay.marked.outline(path, 'source', placement);
    else overlay.marked.outline(mappedOutline(area, masks, placement.map), 'source');
    const about = aboutOf(mend);
    const { handle } = overlay.sources.thread(about, source);
    const live = state.markTool === 'choose' && !state.readOnly && !state.laying;
    overlay.sources.sourceHandle(handle, live);
    if (!live) return;
    this.handles.push({ at: handle, grip: { kind: 'source', mendId: mend.id } });
    const turn = overlay.sources.turnHandle(mend, about);
    this.handles.push({
      at: turn.at,
      grip: { kind: 'turn', mendId: mend.id, x: turn.doc.x, y: turn.doc.y },
    });
  }

  private plane(plane: NonNullable<Mend['steer']['plane']>, mendId: string | null): void {
    const { overlay } = this;
    const { state } = this.scene;
    const live = state.markTool === 'choose' && !state.laying && !state.readOnly;
    const corners = overlay.steering.plane(plane, live);
    if (live)
      corners.forEach((at, index) => {
        this.handles.push({ at, grip: { kind: 'corner', mendId, index } });
      });
  }

  /** What was laid down about a mend's sources, with handles. */
  private steering(mend: Mend): void {
    const { overlay } = this;
    const { state, masks } = this.scene;
    const { steer } = mend;
    const { zones } = state.job!;
    overlay.steering.zones({ allow: steer.allow ?? zones.allow, avoid: zones.avoid }, masks);
    overlay.steering.zones({ allow: null, avoid: steer.avoid }, masks);
    const live = state.markTool === 'choose' && !state.laying && !state.readOnly;
    if (steer.rail) overlay.steering.rail(mend.area, steer.rail, steer.plane);
    if (steer.plane) this.plane(steer.plane, mend.id);
    steer.lines.forEach((line, index) => {
      const ends = overlay.steering.guideLine(line, live);
      if (live)
        ends.forEach((at, end) => {
          const grip = { kind: 'line-end', mendId: mend.id, index, end: end as 0 | 1 } as const;
          this.handles.push({ at, grip });
        });
    });
  }
}
