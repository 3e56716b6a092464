import { boundsOfArea, type MaskLookup, rasteriseArea } from '../../core/area';
import { allMends, findMend, type Job, type Mend } from '../../core/job';
import { reachLike } from '../../core/methods';
import { grow } from '../../core/raster';

/** A mark this near to what an earlier fill covers is a second pass over it when it is so much smaller, box by box; a larger one that is
 *  still the smaller of both, when so much of it lies on what that covers. */
const secondPass = { nearPx: 12, ofFirst: 1 / 6, onFirst: 0.5 };

/** The fill whose settings are repeated: the one last filled, else the topmost of the job. */
export function fillToRepeat(job: Job, lastFilled: string | null): Mend | null {
  const last = lastFilled ? findMend(job, lastFilled)?.mend : undefined;
  if (last?.method === 'fill') return last;
  return [...allMends(job)].findLast((mend) => mend.method === 'fill') ?? null;
}

/** The topmost visible fill that a new area is a second pass over. */
export function firstPassOf(job: Job, mend: Mend, masks: MaskLookup): Mend | null {
  const box = boundsOfArea(mend.area);
  const isFirst = (other: Mend) => {
    if (!other.visible || other.method !== 'fill') return false;
    const { w, h } = boundsOfArea(other.area);
    const size = (box.w * box.h) / (w * h);
    if (size >= 1) return false;
    if (size <= secondPass.ofFirst)
      return rasteriseArea(other.area, grow(box, secondPass.nearPx), masks).some((v) => v > 0);
    const first = rasteriseArea(other.area, box, masks);
    const own = rasteriseArea(mend.area, box, masks);
    let [on, all] = [0, 0];
    own.forEach((v, i) => {
      if (v <= 0) return;
      all++;
      if (first[i] > 0) on++;
    });
    return on >= secondPass.onFirst * all;
  };
  return [...allMends(job)].findLast(isFirst) ?? null;
}

/** A mend with another one's settings, looking as far as that one does. */
export const withSettingsOf = (mend: Mend, other: Mend): Mend => ({
  ...mend,
  params: { ...mend.params, ...other.params, reach: reachLike(mend, other) },
  steer: other.steer,
});
