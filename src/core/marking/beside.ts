import { squaredDistance } from '../area';
import { grow } from '../raster';
import { finerOutline } from './finer-outline';
import type { Found } from './found';
import { goingOn } from './going-on';
import type { ItsLike } from './its-like';
import type { Seen } from './seen';
import {
  coveredOf,
  coversHalf,
  difference,
  foundOf,
  type MarkedArea,
  pixelsIn,
  type Sight,
  shareInRows,
} from './sight';
import { touchingParts } from './touching';

/** A thing's pixels lie within this, in CIELAB with colour counting half more, of its mean. */
const ofOneThing = 12;
/** What lies round it differs from it by so much, in the mean; or by so much when it touches one that does: the rest of somebody. */
const standsOut = { byItself: 20.5, besideAnother: 16 };
/** So little of all else in its rows has its colours: a ground is seen again beside. */
const mostAlike = 0.05;
/** How large it is at least and at most, in sizes of the area, and how much of the area's edge it touches at least. */
const sizes = { least: 0.05, most: 3 };
const leastOfRim = 0.03;
/** What stands beside a thing as its like: its size against the area's, how much of the area's edge it touches at least, and how
 *  much of it, at most, goes on within the area. */
const itsLike = { least: 0.3, most: 1, ofRim: 0.15, goesOn: 0.2 };
/** Something of several colours is at least so large, and ends for so much of what lies round it at least, with so much contrast; and
 *  so much of its rows at most is like it. */
const several = { least: 0.15, ends: 0.55, contrast: 12, alike: 0.3 };
/** Such a thing ends where it touches the area when an edge parts it from what is marked, hardly farther in than that was given room:
 *  in pixels of the photo, or in sizes of the area. */
const endsThere = { link: 0.25, reachPx: 12, reach: 0.07 };
/** Along an edge colours mix, and right beside what stands there it is darker: what was found is made so many pixels wider. */
const edge = 2;

/** Other things that touch an area, as one. */
export interface Beside extends Found {
  /** Whether they are nearly as large as the area, touch much of its edge and end there, as somebody does who stands next to the one
   *  that is marked, or are of its kind or of several colours and end there ({@link goingOn}): a fill had better leave them out. */
  readonly standsNext: boolean;
}

/** Things that touch an area, in pixels of the sight. */
interface Touching {
  readonly pixels: readonly number[];
  readonly standsNext: boolean;
}

/** Other things that touch an area, as one: of a colour that stands out, ending nearby on their other sides, and rare in their
 *  rows; of its kind; where there are none of these, such as are of several colours ({@link touchingParts}). A fill would go on with
 *  them. Where some stand next to it, the others are not told of. The measure is ours.
 *
 *  @param sight  of the area
 *  @param rim  pixels a little outside it
 *  @param kind  those of its kind, as {@link itsLikeBeside} finds them
 *  @param own  what belongs to the area, such as its shadow, which is none of them
 *  @param mayDraw  whether sources may come from a document point: what is avoided already is not told again
 *  @returns null when nothing touches it
 */
export function thingsBeside(
  seen: Seen,
  area: MarkedArea,
  sight: Sight,
  rim: readonly number[],
  kind: readonly ItsLike[],
  own: readonly Found[],
  mayDraw: ((x: number, y: number) => boolean) | null,
): Beside | null {
  const { rect, by } = sight;
  const { w } = rect;
  const isAvoided = (i: number) =>
    mayDraw && !mayDraw((rect.x + (i % w) + 0.5) * by, (rect.y + Math.floor(i / w) + 0.5) * by);
  const isNew = (members: readonly number[]) =>
    members.filter(isAvoided).length <= 0.5 * members.length &&
    !own.some((found) => coversHalf(sight, found, members));
  let found = [ofOneColour(sight, rim, isNew), ofItsKind(sight, kind, isNew)].flatMap((some) => some ?? []);
  // What is of one colour, or of its kind, is found more exactly by itself.
  if (found.length === 0) found = [ofSeveralColours(sight, rim, isNew)].flatMap((some) => some ?? []);
  if (found.length === 0) return null;
  const next = found.filter(({ standsNext }) => standsNext);
  const pixels = (next.length > 0 ? next : found).flatMap((thing) => thing.pixels);
  return { ...outlined(seen, area, sight, pixels), standsNext: next.length > 0 };
}

/** Things beside an area, with their outline as it is seen in a finer picture, and a little more. */
function outlined(seen: Seen, area: MarkedArea, sight: Sight, pixels: readonly number[]): Found {
  // Where they end at the area none is seen: it is followed round both, and the area taken out again.
  const own = pixelsIn(sight.inside);
  const fine = finerOutline(seen, sight, [...own, ...pixels]);
  const { rect } = fine;
  const by = 2 ** (sight.level - fine.level);
  const near = widened(pixels, sight.rect);
  const isNear = (i: number) => {
    const x = Math.floor(((i % rect.w) + rect.x) / by) - sight.rect.x;
    const y = Math.floor((Math.floor(i / rect.w) + rect.y) / by) - sight.rect.y;
    return x >= 0 && y >= 0 && x < sight.rect.w && y < sight.rect.h && near[y * sight.rect.w + x] === 1;
  };
  const covered = area.coverage(rect, fine.level);
  const room = edge * by;
  const wide = grow(rect, room);
  const set = new Uint8Array(wide.w * wide.h);
  for (const i of pixelsIn(fine.inside))
    if (covered[i] < 0.5 && isNear(i))
      set[(Math.floor(i / rect.w) + room) * wide.w + (i % rect.w) + room] = 1;
  const all = squaredDistance(set, wide.w, wide.h).map((d) => (d <= room * room ? 1 : 0));
  return foundOf({ rect: wide, by: 2 ** fine.level }, pixelsIn(all));
}

/** @param isNew  whether some pixels are none of what is avoided already or belongs to the area */
function ofOneColour(
  sight: Sight,
  rim: readonly number[],
  isNew: (members: readonly number[]) => boolean,
): Touching | null {
  const { inside, rect } = sight;
  const { w, h } = rect;
  const isRim = new Uint8Array(w * h);
  for (const i of rim) isRim[i] = 1;
  const onRim = (members: readonly number[]) => members.reduce((n, i) => n + isRim[i], 0) / rim.length;
  const area = inside.reduce((n, v) => n + v, 0);
  const done = inside.slice();
  let left: Grown[] = [];
  for (const start of rim) {
    if (done[start]) continue;
    const thing = grownFrom(sight, start);
    for (const i of thing.members) done[i] = 1;
    const size = thing.members.length / area;
    if (size < sizes.least || size > sizes.most || onRim(thing.members) < leastOfRim) continue;
    if (thing.isCut || thing.contrast < standsOut.besideAnother) continue;
    const isLike = (i: number) => difference(sight, i, thing.mean) < ofOneThing;
    if (shareInRows(sight, thing.members, isLike) > mostAlike || !isNew(thing.members)) continue;
    left.push(thing);
  }
  const things: Grown[] = [];
  let taken = left.filter((thing) => thing.contrast >= standsOut.byItself);
  while (taken.length > 0) {
    things.push(...taken);
    const reached = widened(
      things.flatMap(({ members }) => members),
      rect,
    );
    left = left.filter((thing) => !taken.includes(thing));
    taken = left.filter(({ members }) => members.some((i) => reached[i]));
  }
  if (things.length === 0) return null;
  const pixels = things.flatMap(({ members }) => members);
  const within = things.reduce((n, { goingOn }) => n + goingOn, 0);
  const reached = widened(pixels, rect);
  const standsNext =
    pixels.length >= itsLike.least * area &&
    pixels.length <= itsLike.most * area &&
    rim.filter((i) => reached[i]).length >= itsLike.ofRim * rim.length &&
    within < itsLike.goesOn * pixels.length;
  return { pixels, standsNext };
}

function ofItsKind(
  sight: Sight,
  kind: readonly ItsLike[],
  isNew: (members: readonly number[]) => boolean,
): Touching | null {
  const beyond = [...sight.inside.keys()].filter((i) => !sight.inside[i]);
  const things = kind
    .map((found) => ({ ends: found.ends, members: coveredOf(sight, found, beyond) }))
    .filter(({ members }) => isNew(members));
  if (things.length === 0) return null;
  return {
    pixels: things.flatMap(({ members }) => members),
    standsNext: things.every(({ ends }) => ends),
  };
}

function ofSeveralColours(
  sight: Sight,
  rim: readonly number[],
  isNew: (members: readonly number[]) => boolean,
): Touching | null {
  const { inside, rect, by } = sight;
  const isRim = new Uint8Array(rect.w * rect.h);
  for (const i of rim) isRim[i] = 1;
  const area = inside.reduce((n, v) => n + v, 0);
  const parts = touchingParts(sight, rim).filter(({ pixels, ends, contrast, alike }) => {
    const size = pixels.length / area;
    if (size < several.least || size > sizes.most) return false;
    if (pixels.filter((i) => isRim[i]).length < leastOfRim * rim.length) return false;
    if (ends < several.ends || contrast < several.contrast || alike > several.alike) return false;
    return isNew(pixels);
  });
  if (parts.length === 0) return null;
  const pixels = parts.flatMap((part) => part.pixels);
  const mostReach = Math.max(endsThere.reachPx / by, endsThere.reach * Math.sqrt(area));
  const standsNext =
    pixels.length >= itsLike.least * area &&
    parts
      .map((part) => goingOn(sight, part.pixels))
      .every(({ reach, link }) => reach <= mostReach && link <= endsThere.link);
  return { pixels, standsNext };
}

/** Some pixels and those right round them, as far as colours mix along an {@link edge}: 1 where they are. */
function widened(pixels: readonly number[], { w, h }: Sight['rect']): Uint8Array {
  const all = new Uint8Array(w * h);
  for (const i of pixels)
    for (let v = Math.max(0, Math.floor(i / w) - edge); v <= Math.min(h - 1, Math.floor(i / w) + edge); v++)
      for (let u = Math.max(0, (i % w) - edge); u <= Math.min(w - 1, (i % w) + edge); u++) all[v * w + u] = 1;
  return all;
}

interface Grown {
  readonly members: readonly number[];
  readonly mean: readonly number[];
  /** Whether it goes on beyond what is looked at. */
  readonly isCut: boolean;
  /** Mean difference of what lies round it, beyond the area. */
  readonly contrast: number;
  /** So many pixels of the area carry it on. */
  readonly goingOn: number;
}

/** Pixel by pixel beyond the area, as long as they are like the mean so far; then within it, as far as they are like the whole. */
function grownFrom(sight: Sight, start: number): Grown {
  const { inside, lab, rect } = sight;
  const { w, h } = rect;
  const mean = [...lab.subarray(3 * start, 3 * start + 3)];
  const members = [start];
  const own = new Uint8Array(w * h);
  own[start] = 1;
  let [isCut, sum, beyond] = [false, 0, 0];
  for (let k = 0; k < members.length; k++) {
    const i = members[k];
    const [x, y] = [i % w, Math.floor(i / w)];
    if (x === 0 || y === 0 || x === w - 1 || y === h - 1) {
      isCut = true;
      continue;
    }
    for (const q of [i - 1, i + 1, i - w, i + w]) {
      if (inside[q] || own[q]) continue;
      const d = difference(sight, q, mean);
      if (d > ofOneThing) {
        sum += d;
        beyond++;
        continue;
      }
      own[q] = 1;
      members.push(q);
      for (let c = 0; c < 3; c++) mean[c] += (lab[3 * q + c] - mean[c]) / members.length;
    }
  }
  const all = members.slice();
  for (let k = 0; k < all.length; k++) {
    const i = all[k];
    const [x, y] = [i % w, Math.floor(i / w)];
    if (x === 0 || y === 0 || x === w - 1 || y === h - 1) continue;
    for (const q of [i - 1, i + 1, i - w, i + w]) {
      if (!inside[q] || own[q] || difference(sight, q, mean) > ofOneThing) continue;
      own[q] = 1;
      all.push(q);
    }
  }
  const goingOn = all.length - members.length;
  return { members, mean, isCut, contrast: beyond > 0 ? sum / beyond : 0, goingOn };
}
