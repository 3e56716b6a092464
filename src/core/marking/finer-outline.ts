import { followOutline, type Outlined } from './grow/grow';
import type { Seen } from './seen';
import { countOf, type Sight } from './sight';

/** An outline is followed into a picture so many times finer by two. */
const levels = 2;
const mostGrown = 1.5;

/** A part of a sight with its outline as it is seen in a finer picture; as it is where it is as thin as its outline is rough, which cannot
 *  be followed.
 *  @param part  pixels of the sight */
export function finerOutline(
  seen: Seen,
  { rect, level }: Pick<Sight, 'rect' | 'level'>,
  part: readonly number[],
): Outlined {
  const inside = new Uint8Array(rect.w * rect.h);
  for (const i of part) inside[i] = 1;
  let fine: Outlined = { rect, level, inside };
  while (fine.level > Math.max(0, level - levels)) {
    const finer = followOutline(seen, fine);
    const grown = countOf(finer.inside) / (4 * countOf(fine.inside));
    if (grown < 1 / mostGrown || grown > mostGrown) break;
    fine = finer;
  }
  return fine;
}
