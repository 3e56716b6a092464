import type { Area, Shape, StrokeShape } from '../../core/area';
import { boundsOfArea } from '../../core/area';
import type { PlanePoint } from '../../core/geometry';
import {
  changeMend,
  changeZones,
  type GuideLine,
  type Mend,
  mostGuideLines,
  mostStopLines,
  type Steer,
  type StopLine,
} from '../../core/job';
import type { Grip } from '../tools/gesture';
import type { Session } from './session';
import type { Laying, MarkTool } from './state';

/** Lays down, on the photo, where a mend's sources come from: zones, a rail, a plane, guide lines. What is laid down does
 *  not compute the mend again by itself; it is then told to be out of date, and filled again when asked. */
export class Steering {
  /** The next mends' plane as it was before it is dragged. */
  private nextBefore: readonly PlanePoint[] | null = null;

  constructor(private readonly session: Session) {}

  /** The next gestures draw this, until {@link done}. */
  begin(laying: Laying): void {
    const { session } = this;
    if (session.state.readOnly) return;
    const { markTool } = session.state;
    const ofMark = laying.what === 'guard' && !laying.mendId;
    session.set({
      ...(!ofMark && session.marking.makeRoom()),
      laying,
      method: null,
      markTool: drawsZones(markTool) ? markTool : 'paint',
    });
  }

  done(): void {
    if (this.session.state.laying) this.session.set({ laying: null, drawnLine: null, markTool: 'choose' });
  }

  /** Takes a drawn shape as what is being laid down: part of a zone, a stop line, something rubbed away. */
  addDrawn(shape: Shape): void {
    const { session } = this;
    const { laying } = session.state;
    if (laying?.what === 'stop') return this.addStop(laying.mendId, shape);
    if (laying?.what === 'rub') return this.rub(laying.mendId, shape);
    if (laying?.what === 'cut' || laying?.what === 'bridge')
      return session.islands.addCut(shape, laying.what === 'bridge');
    if (laying?.what === 'guard') return this.addGuard(laying.mendId, shape);
    if (laying?.what !== 'allow' && laying?.what !== 'avoid') return;
    const { what, mendId } = laying;
    const now = this.zoneOf(what, mendId);
    if (shape.op === 'subtract' && !now) return;
    const area: Area = { shapes: [...(now?.shapes ?? []), hard(shape)], marginPx: 0, featherPx: 0 };
    this.setZone(what, mendId, area);
  }

  /** What the margin of a mend's area, or (null) of what is marked, stops at. */
  private addGuard(mendId: string | null, shape: Shape): void {
    const { session } = this;
    const area = mendId ? session.mendOf(mendId)?.area : session.state.mark;
    if (!area) return;
    const guard = [...(area.guard ?? []), hard(shape)];
    if (mendId) session.mending.change(mendId, 'draw guard', { area: { ...area, guard } });
    else session.set({ mark: { ...area, guard } });
  }

  private addStop(mendId: string, shape: Shape): void {
    const { session } = this;
    const mend = session.mendOf(mendId);
    if (!mend) return;
    if (shape.kind !== 'stroke') {
      session.notify('A stop line is painted along the edge: choose Brush.');
      return;
    }
    if (shape.op === 'subtract') {
      const left = mend.stops.filter((line) => !touches(line, shape));
      session.run(changeMend(mendId, 'remove stop line', { stops: left }));
      return;
    }
    if (mend.stops.length >= mostStopLines) {
      session.notify(`A mend has at most ${mostStopLines} stop lines.`, 'warning');
      return;
    }
    const points = thinned(shape.points.map(([x, y]) => [x, y] as const));
    const line = { points, widthPx: Math.max(2, shape.radiusPx) };
    session.run(changeMend(mendId, 'draw stop line', { stops: [...mend.stops, line] }));
  }

  /** Adds stop lines where the rim seems to touch something else. */
  async findStops(mendId: string): Promise<void> {
    const { session } = this;
    const mend = session.mendOf(mendId);
    if (!mend) return;
    const found = await session.engine.call('likelyStops', { mend, isAsked: true });
    if (found.length === 0)
      session.notify('Nothing along the edge of this area looks as if it belonged to something else.');
    else {
      session.run(
        changeMend(mendId, 'find stop lines', {
          stops: [...(session.mendOf(mendId) ?? mend).stops, ...found].slice(0, mostStopLines),
        }),
      );
      session.notify(
        `${found.length === 1 ? 'One stop line' : `${found.length} stop lines`} found. Alt takes one away.`,
      );
    }
  }

  /** After a mend was made: says that its edge seems to touch something else, and offers to keep that out.
   *  @param isWanted  whether the mend is still what one is at, once that is found out */
  async offerStops(mend: Mend, isWanted = () => this.session.state.chosen === mend.id): Promise<void> {
    const { session } = this;
    const all = await session.engine.call('likelyStops', { mend, isAsked: false }).catch(() => []);
    const found = all.slice(0, mostStopLines);
    if (found.length === 0 || !session.mendOf(mend.id) || !isWanted()) return;
    session.notify(
      'The edge of this area touches something of another tone, which may smear into it.',
      'plain',
      {
        label: found.length === 1 ? 'Add a stop line' : `Add ${found.length} stop lines`,
        run: () => session.run(changeMend(mend.id, 'add stop lines', { stops: found })),
      },
    );
  }

  removeStops(mendId: string): void {
    this.session.run(changeMend(mendId, 'remove stop lines', { stops: [] }));
  }

  /** Lets what lies below show through a mend, or (taking away) brings the mend back. */
  private rub(mendId: string, shape: Shape): void {
    const mend = this.session.mendOf(mendId);
    if (!mend) return;
    const away = shape.op === 'add';
    if (!away && !mend.rubbed) {
      this.session.notify('Nothing of this mend is rubbed away yet.');
      return;
    }
    const shapes = [...(mend.rubbed?.shapes ?? []), shape];
    this.session.run(
      changeMend(mendId, away ? 'rub away' : 'bring back', { rubbed: { shapes, marginPx: 0, featherPx: 0 } }),
    );
  }

  bringAllBack(mendId: string): void {
    this.session.run(changeMend(mendId, 'bring all back', { rubbed: null }));
  }

  /** The plane that the next mends take. @param onPhoto  where it is seen to lie; null: in the middle of what is shown */
  placeNextPlane(onPhoto: Mend['steer']['plane'] = null): void {
    const { session } = this;
    const seen = session.view?.seen();
    if (!seen) return;
    const at = (fx: number, fy: number) =>
      [Math.round(seen.x + fx * seen.w), Math.round(seen.y + fy * seen.h)] as const;
    const amidst = [at(0.3, 0.35), at(0.7, 0.35), at(0.75, 0.7), at(0.25, 0.7)];
    session.setNext({ plane: onPhoto ?? amidst });
    session.set({ markTool: 'choose' });
  }

  /** Drags a corner of the plane that the next mends take. */
  dragNext(grip: Grip, dx: number, dy: number, ends: boolean): void {
    const { next } = this.session.state;
    if (grip.kind !== 'corner' || !next.plane) return;
    this.nextBefore ??= next.plane;
    const plane = movedCorner(this.nextBefore, grip.index, dx, dy);
    if (ends) this.nextBefore = null;
    this.session.setNext({ plane });
  }

  undragNext(): void {
    if (this.nextBefore) this.session.setNext({ plane: this.nextBefore });
    this.nextBefore = null;
  }

  setZone(what: 'allow' | 'avoid', mendId: string | null, area: Area | null): void {
    const label = `${area ? 'draw' : 'remove'} ${what} zone`;
    if (mendId === null) this.session.run(changeZones(label, { [what]: area }));
    else this.change(mendId, label, { [what]: area });
  }

  zoneOf(what: 'allow' | 'avoid', mendId: string | null): Area | null {
    if (mendId === null) return this.session.state.job?.zones[what] ?? null;
    return this.session.mendOf(mendId)?.steer[what] ?? null;
  }

  /** A line drawn on the photo: an edge that runs on, or the direction of the rail. */
  addLine(line: GuideLine): void {
    const { laying } = this.session.state;
    if (laying?.what === 'line') {
      const mend = this.session.mendOf(laying.mendId);
      if (!mend) return;
      if (mend.steer.lines.length >= mostGuideLines)
        this.session.notify(`A mend has at most ${mostGuideLines} guide lines.`, 'warning');
      else this.change(mend.id, 'draw guide line', { lines: [...mend.steer.lines, line] });
    } else if (laying?.what === 'rail') {
      this.setRail(laying.mendId, angleOf(line));
      this.done();
    }
  }

  /** What was still to go when the mend was made is ground now. */
  endPending(mendId: string): void {
    this.session.run(changeMend(mendId, 'count later parts as ground', { pending: null }));
  }

  setRail(mendId: string, angleDeg: number | null): void {
    const slackPx = this.session.mendOf(mendId)?.steer.rail?.slackPx ?? 8;
    const rail = angleDeg === null ? null : { angleDeg, slackPx };
    this.change(mendId, angleDeg === null ? 'remove rail' : 'set rail', { rail });
  }

  setSlack(mendId: string, slackPx: number): void {
    const rail = this.session.mendOf(mendId)?.steer.rail;
    if (rail) this.change(mendId, 'widen rail', { rail: { ...rail, slackPx } });
  }

  /** Four corners round the area, to be dragged to something flat. */
  placePlane(mendId: string): void {
    const mend = this.session.mendOf(mendId);
    if (!mend) return;
    const box = boundsOfArea(mend.area);
    const [rx, ry] = [Math.max(20, box.w * 0.4), Math.max(20, box.h * 0.4)];
    const { width, height } = this.session.state.job!.photo;
    const within = (v: number, most: number) => Math.min(most, Math.max(0, v));
    const [x0, x1] = [within(box.x - rx, width), within(box.x + box.w + rx, width)];
    const [y0, y1] = [within(box.y - ry, height), within(box.y + box.h + ry, height)];
    this.setPlane(mendId, [
      [x0, y0],
      [x1, y0],
      [x1, y1],
      [x0, y1],
    ]);
  }

  /** A mend's plane, with its corners at hand. */
  setPlane(mendId: string, plane: readonly PlanePoint[]): void {
    this.change(mendId, 'place plane', { plane });
    this.session.set({ markTool: 'choose', method: null });
  }

  removePlane(mendId: string): void {
    this.change(mendId, 'remove plane', { plane: null });
  }

  removeLines(mendId: string): void {
    this.change(mendId, 'remove guide lines', { lines: [] });
  }

  private change(mendId: string, label: string, changes: Partial<Steer>): void {
    const mend = this.session.mendOf(mendId);
    if (mend) this.session.run(changeMend(mendId, label, { steer: { ...mend.steer, ...changes } }));
  }
}

/** The steering after one of its handles was dragged. */
export function steerDragged(
  mend: Mend,
  grip: Extract<Grip, { kind: 'corner' | 'line-end' }>,
  dx: number,
  dy: number,
): Steer {
  const { steer } = mend;
  if (grip.kind === 'corner')
    return {
      ...steer,
      plane: steer.plane && movedCorner(steer.plane, grip.index, dx, dy),
    };
  const moved = (line: GuideLine): GuideLine =>
    grip.end === 0
      ? [line[0] + dx, line[1] + dy, line[2], line[3]]
      : [line[0], line[1], line[2] + dx, line[3] + dy];
  return { ...steer, lines: steer.lines.map((line, i) => (i === grip.index ? moved(line) : line)) };
}

const movedCorner = (plane: readonly PlanePoint[], index: number, dx: number, dy: number): PlanePoint[] =>
  plane.map(([x, y], i) => (i === index ? [x + dx, y + dy] : [x, y]));

/** Whether a stroke passes over a stop line. */
const touches = (line: StopLine, stroke: StrokeShape): boolean =>
  line.points.some(([x, y]) =>
    stroke.points.some(([px, py]) => Math.hypot(px - x, py - y) <= stroke.radiusPx),
  );

/** A path without points nearer together than two pixels; at least two of them. */
function thinned(points: readonly PlanePoint[]): PlanePoint[] {
  const out: PlanePoint[] = [];
  for (const p of points) {
    const last = out[out.length - 1];
    if (!last || Math.hypot(p[0] - last[0], p[1] - last[1]) >= 2) out.push(p);
  }
  return out.length > 1 ? out : [out[0], [out[0][0] + 1, out[0][1]]];
}

/** −90…90, whichever way the line was drawn. */
function angleOf([x0, y0, x1, y1]: GuideLine): number {
  const angle = Math.round((Math.atan2(y1 - y0, x1 - x0) * 1800) / Math.PI) / 10;
  if (angle > 90) return angle - 180;
  return angle < -90 ? angle + 180 : angle;
}

/** The tools that draw shapes by themselves, without looking at the photo. */
const drawsZones = (tool: MarkTool): boolean => tool === 'paint' || tool === 'lasso' || tool === 'box';

const hard = (shape: Shape): Shape => (shape.kind === 'stroke' ? { ...shape, hardness: 1 } : shape);
