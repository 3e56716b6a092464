import { type ColourModel, fitColours } from './colour-model';
import type { Ground } from './way';

/** An outline is looked at in squares of this side, each with so much round it. */
const cellPx = 16;
const roomPx = 12;
/** Every second pixel of a square is looked at, and at most about so many of each side teach. */
const every = 2;
const mostSamples = 400;
/** Fewer tell nothing about a side here: then what is seen all along the outline stands for it. */
const fewest = 40;
/** So near to each other, a side has few colours. */
const clusters = { near: 2, all: 5 };
/** Of the pixels that are not in doubt, one of so many tells what is seen all along. */
const oneOf = 3;

/** What a thing and its surroundings look like. */
export interface Sides {
  readonly mine: ColourModel;
  readonly others: ColourModel;
}

/** Colours of both sides of an outline, as they are near each place of it: a sleeve against a wall says nothing about a boot on grass.
 *
 *  @param labels  w·h, 1 inside
 *  @param free    w·h, 1 where it is in doubt: what is taught near a place is taught by others
 *  Source: Bai, Wang, Simons & Sapiro 2009, Video SnapCut, doi:10.1145/1531326.1531376, section 3 (colour models in windows along
 *  an outline). Cost: a small mixture for each square that the outline passes.
 */
export function nearColours(ground: Ground, labels: Uint8Array, free: Uint8Array): Sides {
  const { w, values } = ground;
  const all = sidesOf(values, labels, free);
  const columns = Math.ceil(w / cellPx);
  const cells: (Sides | undefined)[] = new Array(columns * Math.ceil(ground.h / cellPx));
  const near = (i: number): Sides => {
    const y = Math.floor(i / w);
    const cell = Math.floor(y / cellPx) * columns + Math.floor((i - y * w) / cellPx);
    const known = cells[cell];
    if (known) return known;
    const own = sidesNear(
      ground,
      labels,
      free,
      (cell % columns) * cellPx,
      Math.floor(cell / columns) * cellPx,
    );
    const sides = { mine: own.mine ?? all.mine, others: own.others ?? all.others };
    cells[cell] = sides;
    return sides;
  };
  return {
    mine: { cost: (i) => near(i).mine.cost(i) },
    others: { cost: (i) => near(i).others.cost(i) },
  };
}

function sidesOf(values: Float32Array, labels: Uint8Array, free: Uint8Array): Sides {
  const model = (label: number) => {
    const its = new Int32Array(labels.length);
    let count = 0;
    for (let i = 0; i < labels.length; i++)
      if (labels[i] === label && (!free[i] || i % oneOf === 0)) its[count++] = i;
    return fitColours(values, its.subarray(0, Math.max(1, count)), clusters.all);
  };
  return { mine: model(1), others: model(0) };
}

/** What is not in doubt in and round a square whose corner is given; null for a side of which too little is seen. */
function sidesNear(
  { w, h, values }: Ground,
  labels: Uint8Array,
  free: Uint8Array,
  left: number,
  top: number,
): { mine: ColourModel | null; others: ColourModel | null } {
  const seen: [others: number[], mine: number[]] = [[], []];
  for (let y = Math.max(0, top - roomPx); y < Math.min(h, top + cellPx + roomPx); y += every)
    for (let x = Math.max(0, left - roomPx); x < Math.min(w, left + cellPx + roomPx); x += every) {
      const p = y * w + x;
      if (!free[p]) seen[labels[p]].push(p);
    }
  const [others, mine] = seen.map((list) => {
    if (list.length < fewest) return null;
    const step = Math.max(1, Math.floor(list.length / mostSamples));
    return fitColours(
      values,
      list.filter((_p, k) => k % step === 0),
      clusters.near,
    );
  });
  return { mine, others };
}
