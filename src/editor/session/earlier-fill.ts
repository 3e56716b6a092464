import { boundsOfArea, type MaskLookup, rasteriseArea } from '../../core/area';
import { allMends, findMend, type Job, type Mend } from '../../core/job';
import { reachLike } from '../../core/methods';
import { grow } from '../../core/raster';

/** A smaller mark this near to what an earlier fill covers is a second pass over it. */
const secondPassPx = 12;

/** The fill whose settings are repeated: the one last filled, else the topmost of the job. */
export function fillToRepeat(job: Job, lastFilled: string | null): Mend | null {
  const last = lastFilled ? findMend(job, lastFilled)?.mend : undefined;
  if (last?.method === 'fill') return last;
  return [...allMends(job)].findLast((mend) => mend.method === 'fill') ?? null;
}

/** The topmost visible fill of which a new area is a small part, or which it touches. */
export function firstPassOf(job: Job, mend: Mend, masks: MaskLookup): Mend | null {
  const box = boundsOfArea(mend.area);
  const near = grow(box, secondPassPx);
  const isFirst = (other: Mend) => {
    if (!other.visible || other.method !== 'fill') return false;
    const { w, h } = boundsOfArea(other.area);
    return w * h > box.w * box.h && rasteriseArea(other.area, near, masks).some((v) => v > 0);
  };
  return [...allMends(job)].findLast(isFirst) ?? null;
}

/** A mend with another one's settings, looking as far as that one does. */
export const withSettingsOf = (mend: Mend, other: Mend): Mend => ({
  ...mend,
  params: { ...mend.params, ...other.params, reach: reachLike(mend, other) },
  steer: other.steer,
});
