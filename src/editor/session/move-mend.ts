import { moveArea } from '../../core/area';
import { ontoRail } from '../../core/geometry';
import type { Mend, Source } from '../../core/job';
import { aboutOf } from '../../core/methods';
import type { Grip } from '../tools/gesture';
import { steerDragged } from './steering';

/** A mend moved by whole pixels: its source goes along. */
export function movedMend(mend: Mend, dx: number, dy: number): Partial<Omit<Mend, 'id'>> {
  const { source } = mend;
  const about = source?.about;
  return {
    area: moveArea(mend.area, dx, dy),
    ...(mend.rubbed && { rubbed: moveArea(mend.rubbed, dx, dy) }),
    ...(about && { source: { ...source, about: [about[0] + dx, about[1] + dy] as const } }),
  };
}

/** Its source moved by whole pixels; on its rail, where there is one. */
export function movedSource(mend: Mend, dx: number, dy: number): Source {
  const source = mend.source ?? { dx: 0, dy: 0 };
  const shift = { dx: source.dx + dx, dy: source.dy + dy };
  const { rail, plane } = mend.steer;
  return { ...source, ...(rail && !plane ? ontoRail(rail, shift) : shift) };
}

/** Its source turned and scaled by dragging the handle that stands off its middle. What is laid on turns the other way
 *  round than the source's outline does, and grows as the outline shrinks. */
export function turnedSource(
  mend: Mend,
  grip: Extract<Grip, { kind: 'turn' }>,
  dx: number,
  dy: number,
): Source {
  const source = mend.source ?? { dx: 0, dy: 0 };
  const [ax, ay] = aboutOf(mend);
  const [mx, my] = [ax + source.dx, ay + source.dy];
  const before = { x: grip.x - mx, y: grip.y - my };
  const after = { x: before.x + dx, y: before.y + dy };
  const [was, is] = [Math.hypot(before.x, before.y), Math.hypot(after.x, after.y)];
  if (was < 1 || is < 1) return source;
  const turned = ((Math.atan2(after.y, after.x) - Math.atan2(before.y, before.x)) * 180) / Math.PI;
  const flip = source.mirror ? -1 : 1;
  const turnDeg = wrap((source.turnDeg ?? 0) - flip * turned);
  const scale = Math.min(10, Math.max(0.1, ((source.scale ?? 1) * was) / is));
  return {
    ...source,
    turnDeg: near(turnDeg, 0, 1.5, 10),
    scale: near(scale, 1, 0.015, 1000),
    about: [ax, ay],
  };
}

/** Rounded, and caught by the value that it nearly is. */
const near = (v: number, stop: number, reach: number, parts: number): number =>
  Math.abs(v - stop) <= reach ? stop : Math.round(v * parts) / parts;

const wrap = (deg: number): number => ((((deg + 180) % 360) + 360) % 360) - 180;

/** What dragging a handle is called in the history. */
export const dragLabel = (kind: Grip['kind']): string =>
  ({
    source: 'move source',
    turn: 'turn source',
    mend: 'move mend',
    mark: 'patch',
    corner: 'move corner',
    'line-end': 'move guide line',
  })[kind];

/** A mend after one of its handles was dragged. Moving the mend takes its source along. */
export function dragged(
  mend: Mend,
  grip: Exclude<Grip, { kind: 'mark' }>,
  dx: number,
  dy: number,
): Partial<Omit<Mend, 'id'>> {
  switch (grip.kind) {
    case 'corner':
    case 'line-end':
      return { steer: steerDragged(mend, grip, dx, dy) };
    case 'mend':
      return movedMend(mend, dx, dy);
    case 'source':
      return { source: movedSource(mend, dx, dy) };
    case 'turn':
      return { source: turnedSource(mend, grip, dx, dy) };
  }
}
