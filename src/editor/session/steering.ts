import type { Area, Shape } from '../../core/area';
import { boundsOfArea } from '../../core/area';
import {
  changeMend,
  changeZones,
  type GuideLine,
  type Mend,
  mostGuideLines,
  type Steer,
} from '../../core/job';
import type { Grip } from '../tools/gesture';
import type { Session } from './session';
import type { Laying } from './state';

/** Lays down, on the photo, where a mend's sources come from: zones, a rail, a plane, guide lines. What is laid down does
 *  not compute the mend again by itself; it is then told to be out of date, and filled again when asked. */
export class Steering {
  constructor(private readonly session: Session) {}

  /** The next gestures draw this, until {@link done}. */
  begin(laying: Laying): void {
    const { session } = this;
    if (session.state.readOnly) return;
    const { markTool } = session.state;
    session.clearMark();
    session.set({ laying, method: null, markTool: markTool === 'choose' ? 'paint' : markTool });
  }

  done(): void {
    if (this.session.state.laying) this.session.set({ laying: null, drawnLine: null, markTool: 'choose' });
  }

  /** Adds a drawn shape to the zone that is being laid down, or takes it away. */
  addToZone(shape: Shape): void {
    const { laying } = this.session.state;
    if (laying?.what !== 'allow' && laying?.what !== 'avoid') return;
    const { what, mendId } = laying;
    const now = this.zoneOf(what, mendId);
    if (shape.op === 'subtract' && !now) return;
    const area: Area = { shapes: [...(now?.shapes ?? []), hard(shape)], marginPx: 0, featherPx: 0 };
    this.setZone(what, mendId, area);
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
    this.change(mendId, 'place plane', {
      plane: [
        [x0, y0],
        [x1, y0],
        [x1, y1],
        [x0, y1],
      ],
    });
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
      plane:
        steer.plane?.map(([x, y], i) =>
          i === grip.index ? ([x + dx, y + dy] as const) : ([x, y] as const),
        ) ?? null,
    };
  const moved = (line: GuideLine): GuideLine =>
    grip.end === 0
      ? [line[0] + dx, line[1] + dy, line[2], line[3]]
      : [line[0], line[1], line[2] + dx, line[3] + dy];
  return { ...steer, lines: steer.lines.map((line, i) => (i === grip.index ? moved(line) : line)) };
}

/** −90…90, whichever way the line was drawn. */
function angleOf([x0, y0, x1, y1]: GuideLine): number {
  const angle = Math.round((Math.atan2(y1 - y0, x1 - x0) * 1800) / Math.PI) / 10;
  if (angle > 90) return angle - 180;
  return angle < -90 ? angle + 180 : angle;
}

const hard = (shape: Shape): Shape => (shape.kind === 'stroke' ? { ...shape, hardness: 1 } : shape);
