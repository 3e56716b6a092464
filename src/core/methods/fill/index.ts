import { bitsWhere, boundsOfArea } from '../../area';
import { InputError } from '../../errors';
import type { Mend } from '../../job/types';
import { grow, intersect, isEmpty, makeFloatImage, type Rect } from '../../raster';
import {
  type MethodContext,
  type MethodDefinition,
  type ParameterDefinition,
  parameterOf,
} from '../definition';
import type { FillInput } from './compute';
import { touches } from './frame';
import { type AllowZone, leastRoomPx, planPieces } from './pieces';

/** How far the search may look, in sides of the area's box. */
const reach: ParameterDefinition = {
  key: 'reach',
  label: 'Reach',
  unit: '×',
  min: 0.5,
  max: 20,
  step: 0.1,
  initial: 1,
};

const offAndOn = (key: string, label: string, initial: 0 | 1): ParameterDefinition => ({
  key,
  label,
  unit: '',
  min: 0,
  max: 1,
  step: 1,
  initial,
  isSwitch: true,
});

const apart = offAndOn('apart', 'No neighbours', 0);
const mirror = offAndOn('mirror', 'Mirror too', 0);
const planes = offAndOn('planes', 'See planes', 1);

const turn: ParameterDefinition = {
  key: 'turn',
  label: 'Turn up to',
  unit: '°',
  min: 0,
  max: 180,
  step: 1,
  initial: 0,
};

const scale: ParameterDefinition = {
  key: 'scale',
  label: 'Scale up to',
  unit: '×',
  min: 1,
  max: 2,
  step: 0.05,
  initial: 1,
};

/** Of what lies next to an area. */
const mostAvoided = 0.6;
/** So far from an area patches that are to fit in may reach where the search begins. */
const matchedPx = 160;
/** On a plane seen at a slant the same room takes more of the photo. */
const planeRoom = 1.5;

/** From the surroundings: what lies round the area is continued into it. */
export const fill: MethodDefinition = {
  id: 'fill',
  version: 39,
  title: 'Fill',
  says: 'Continues what lies round the area into it.',
  parameters: [reach, apart, planes, mirror, turn, scale],
  scope: 'kept',
  needsSource: false,
  requiredInput: (mend, _output, bounds, allowedWithin) => [
    widestWindow(mend, bounds),
    ...(allowedWithin ? [allowedWithin] : []),
  ],
  affectedOutput: (mend, bounds) => intersect(boundsOfArea(mend.area), bounds),
  evaluate(_mend, output, context) {
    const chosen = context.chosen(output);
    if (!chosen) return { image: makeFloatImage(output), coverage: new Float32Array(output.w * output.h) };
    const coverage = context.coverage(output);
    // A try was computed for the area as it was then; where the area has grown since, there is nothing to lay on.
    for (let i = 0; i < coverage.length; i++) if (chosen.data[4 * i + 3] === 0) coverage[i] = 0;
    return { image: chosen, coverage };
  },
};

/** All that a fill may read, but for an allow zone farther off: the area's box and room round it on all sides. */
function widestWindow(mend: Mend, bounds: Rect): Rect {
  const box = intersect(boundsOfArea(mend.area), bounds);
  if (isEmpty(box)) return box;
  const room = Math.max(leastRoomPx, Math.ceil(Math.max(box.w, box.h) * reachOf(mend)));
  return intersect(grow(box, room), bounds);
}

/** Whether it was said in which directions a mend's sources lie: then an allow zone counts within reach only. */
export const keepsDirections = ({ steer: { plane, rail, lines } }: Mend): boolean =>
  plane !== null || rail !== null || lines.length > 0;

const reachOf = (mend: Mend): number => parameterOf(mend, reach) * (mend.steer.plane ? planeRoom : 1);

/** Everything that a fill is computed from.
 *  @throws InputError `empty-area` */
export function fillInputOf(mend: Mend, context: MethodContext, seed: number): FillInput {
  const box = intersect(boundsOfArea(mend.area), context.bounds);
  if (isEmpty(box))
    throw new InputError('empty-area', 'The area lies outside the photo: there is nothing to fill.');
  const mask = bitsWhere(context.coverage(box), (v) => v > 0);
  const { plane, rail, lines } = mend.steer;
  // A plane, or a line that was drawn, goes through all of an area.
  const compact = plane || lines.length > 0 ? 'whole' : 'in parts';
  const { allowedWithin: within, mayDraw } = context;
  const zone: AllowZone | null = within && { within, mayDraw, mayBeMoved: !keepsDirections(mend) };
  const plan = planPieces(mask, box, context.bounds, reachOf(mend), compact, zone);
  const letsGo = !isMostlyAvoided(mask, box, context);
  return {
    plan,
    windows: plan.pieces.map(({ window, beside }) => ({
      image: context.read(window),
      allowed: mayDraw(window),
      beside: beside && { image: context.read(beside), allowed: mayDraw(beside) },
      pending: united(context.pending(window), letsGo ? avoidedNear(box, window, context) : null),
    })),
    steering: {
      plane,
      rail,
      lines,
      variety: {
        mirror: parameterOf(mend, mirror) > 0,
        turnDeg: parameterOf(mend, turn),
        scale: parameterOf(mend, scale),
      },
      // Where a zone says what to draw from, nothing else is to be clever about it. On a plane lies one ground: whatever rises from
      // it is another thing.
      leavesOut: parameterOf(mend, apart) > 0 || (plane && !zone) ? 'somewhat' : zone ? null : 'clearly',
      keepsLayers: !zone,
      seesPlane: parameterOf(mend, planes) > 0,
    },
    seed,
  };
}

/** What is in an avoid zone is another thing that the area touches, and is not continued: it stands before the ground that is
 *  filled in. Where most of what lies round the area is avoided, though, there is nothing else to go by. */
function isMostlyAvoided(mask: Uint8Array, box: Rect, context: MethodContext): boolean {
  const around = intersect(grow(box, 1), context.bounds);
  const avoided = context.avoided(around);
  if (!avoided) return false;
  const area = new Uint8Array(around.w * around.h);
  for (let y = 0; y < box.h; y++)
    area.set(mask.subarray(y * box.w, (y + 1) * box.w), (box.y - around.y + y) * around.w + box.x - around.x);
  let [rim, ofIt] = [0, 0];
  for (let p = 0; p < area.length; p++) {
    if (area[p] || !touches(area, around.w, around.h, p)) continue;
    rim++;
    ofIt += avoided[p];
  }
  return ofIt > mostAvoided * rim;
}

/** Avoided pixels of a window that lie near enough to an area to be matched with it. */
function avoidedNear(box: Rect, window: Rect, context: MethodContext): Uint8Array | null {
  const near = intersect(grow(box, matchedPx), window);
  const avoided = isEmpty(near) ? null : context.avoided(near);
  if (!avoided) return null;
  const out = new Uint8Array(window.w * window.h);
  for (let y = 0; y < near.h; y++)
    out.set(
      avoided.subarray(y * near.w, (y + 1) * near.w),
      (near.y - window.y + y) * window.w + near.x - window.x,
    );
  return out;
}

function united(a: Uint8Array | null, b: Uint8Array | null): Uint8Array | null {
  return a && b ? a.map((is, i) => is | b[i]) : (a ?? b);
}

/** The reach that lets an area look as far as another one does, in whole steps. */
export function reachLike(mend: Mend, other: Mend): number {
  const side = (m: Mend) => {
    const { w, h } = boundsOfArea(m.area);
    return Math.max(1, w, h);
  };
  const wanted = (parameterOf(other, reach) * side(other)) / side(mend);
  const inSteps = Number((Math.ceil(wanted / reach.step) * reach.step).toFixed(4));
  return Math.min(reach.max, Math.max(reach.min, inSteps));
}
