import { offRail } from '../../geometry';
import type { Mend, Rail, SourceShift } from '../../job/types';
import { grow, intersect, type Rect } from '../../raster';
import type { MethodContext, MethodDefinition } from '../definition';
import { healFrom, healOutput, texture, toneFit } from '../heal';
import { enlargement, sourceRect, takeShifted, takeSource } from '../source';
import { rankSources, searchReach } from './find-source';

/** A spot repair that finds its own source. Once it has one, it heals from there until it is told otherwise. */
export const tap: MethodDefinition = {
  id: 'tap',
  version: 5,
  title: 'Tap',
  says: 'Finds a source for a speck by itself and heals from there.',
  parameters: [toneFit, texture],
  scope: 'whole',
  needsSource: false,
  requiredInput: (mend, output, bounds) =>
    mend.source
      ? [output, sourceRect(mend, output, bounds)]
      : [intersect(grow(output, searchReach(output)), bounds)],
  affectedOutput: healOutput,
  evaluate(mend, output, context) {
    if (mend.source) return healFrom(mend, takeSource(mend, output, context), output, context);
    const [found] = sourcesFor(mend, context);
    // Nowhere to take from (the photo is hardly larger than the spot): leave the picture as it is.
    if (!found) return { image: context.read(output), coverage: new Float32Array(output.w * output.h) };
    return healFrom(mend, takeShifted(output, found, context), output, context);
  },
};

/** The shifts that suit a mend's area best, best first; by its rail and zones.
 *  @param further  more shifts to be compared, from a source map */
export function sourcesFor(
  mend: Mend,
  context: MethodContext,
  further: readonly SourceShift[] = [],
): SourceShift[] {
  const spot: Rect = healOutput(mend, context.bounds);
  if (spot.w === 0) return [];
  const { rail } = mend.steer;
  const onRail = (shift: SourceShift) => !rail || offRail(rail, shift) <= rail.slackPx;
  const inZones = (shift: SourceShift) =>
    context.mayDraw({ ...spot, x: spot.x + shift.dx, y: spot.y + shift.dy })?.includes(0) !== true;
  const ranked = (serves: (shift: SourceShift) => boolean) =>
    rankSources(context.read, context.bounds, spot, context.coverage(spot), {
      further: rail ? [...further, ...alongRail(rail, spot)] : further,
      mindsThings: mend.method !== 'tap',
      serves: (shift) => onRail(shift) && inZones(shift) && serves(shift),
    });
  const found = ranked((shift) => keepsSize(mend, shift, spot));
  return found.length > 0 || !mend.steer.plane ? found : ranked(() => true);
}

/** A source on a plane serves when it is laid on at most so many times as large as it is, and no smaller than that. */
const mostEnlarged = 1.4;

/** Whether a source keeps about its size on its way: what is much enlarged is blurred. */
function keepsSize(mend: Mend, { dx, dy }: SourceShift, spot: Rect): boolean {
  if (!mend.steer.plane) return true;
  const times = enlargement({ ...mend, source: { ...mend.source, dx, dy } }, spot);
  return times !== null && times <= mostEnlarged && times >= 1 / mostEnlarged;
}

/** Shifts along a rail, both ways, up to twelve times the spot's size. */
function alongRail(rail: Rail, spot: Rect): SourceShift[] {
  const angle = (rail.angleDeg * Math.PI) / 180;
  const size = Math.max(spot.w, spot.h);
  return Array.from({ length: 48 }, (_, k) => {
    const reach = (k % 2 ? -1 : 1) * size * (1.1 + 0.45 * (k >> 1));
    return { dx: Math.round(Math.cos(angle) * reach), dy: Math.round(Math.sin(angle) * reach) };
  });
}
