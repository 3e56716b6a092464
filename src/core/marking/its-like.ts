import { connected, squaredDistance } from '../area';
import type { Found } from './found';
import { goingOn } from './going-on';
import { type ColourModel, fitColours } from './grow/colour-model';
import { costAcrossEdges, linksOf, partedLabels } from './grow/links';
import { minCut } from './grow/min-cut';
import { picturePartsOf } from './picture-parts';
import type { Seen } from './seen';
import {
  acrossOutline,
  difference,
  foundOf,
  type MarkedArea,
  rimOfSight,
  type Sight,
  sightOf,
} from './sight';

/** How far round the area is looked, in its own sizes, and in how many pixels. */
const reach = 1.5;
const mostPixels = 40_000;
/** A thing is at least so deep, in sizes of its area: lines and what is strewn about have no like beside them. */
const leastDepth = 0.25;
/** What lies deeper than this share of its depth is the thing that it was drawn round. */
const core = 0.15;
/** Its surroundings are first known by what is less like it than so large a share of itself. */
const ownShare = 0.9;
const clusters = 5;
const rounds = 3;
const mostPull = 14;
const sure = 1e6;
/** So much of a thing has colours at least that are rather its own: log-likelihoods from which on they are, and the share. */
const telling = { least: 2.5, share: 0.3 };
/** A part of the picture that goes on beyond it, for so much of its outline, is a ground, in square roots of its size. If too much is left,
 *  so is what differs from a ground by less than so much along a border of so many pixels at least. */
const ground = { goesOn: 0.2, alike: 10, leastBorder: 4 };
/** One of its like is so large, in sizes of the area, touches so much of its rim, and differs from what lies beyond it by so much,
 *  as {@link difference} tells, for so much of its outline. */
const like = { least: 0.3, most: 6, ofRim: 0.02, differs: 10, sharp: 0.6 };
/** A thing's own outline within the area is so sharp, 0…1, and so long, in lengths of the area's. */
const outline = { sharp: 0.7, ofArea: 0.22 };
/** What is left touches no more of its rim than this in all, or it is what the thing stands before; less where grounds had to spread. */
const mostOfRim = { first: 0.5, second: 0.35 };
/** One ends at the area when an edge parts it from what is marked, no farther in than this, in sizes of the area: that much room it was
 *  given. */
const endsThere = { reach: 0.17, link: 0.5 };

/** Something of the kind of what is marked, right beside it. */
export interface ItsLike extends Found {
  /** Whether it ends there; else some of it was marked as well. */
  readonly ends: boolean;
}

/** Whatever touches a marked thing and is of its kind: the next apple of some. It has the colours that the thing has and its other
 *  surroundings have not, ends at an outline, and is no ground that goes on.
 *
 *  Cost: one small picture, whatever the photo's size.
 *  Source: Rother, Kolmogorov & Blake 2004, doi:10.1145/1186562.1015720 (colours and cut in turn), let go beyond what is marked;
 *  what is taken for a ground, and what for a thing, is ours.
 */
export function itsLikeBeside(seen: Seen, marked: MarkedArea): ItsLike[] {
  const sight = sightOf(seen, marked, reach, mostPixels);
  if (!sight) return [];
  const { rect, inside } = sight;
  const { w, h } = rect;
  const area = inside.reduce((n, v) => n + v, 0);
  const depth = squaredDistance(
    inside.map((v) => 1 - v),
    w,
    h,
  ).map(Math.sqrt);
  const deepest = depth.reduce((most, d, i) => (inside[i] ? Math.max(most, d) : most), 0);
  if (area === w * h || deepest < leastDepth * Math.sqrt(area)) return [];
  const labels = alikeBeyond(
    sight,
    depth.map((d) => (d > core * deepest ? 1 : 0)),
  );
  if (!labels || !hasOutline(sight, labels)) return [];
  const beyond = labels.map((v, i) => (v && !inside[i] ? 1 : 0));
  const rim = rimOfSight(sight);
  const isRim = new Uint8Array(w * h);
  for (const i of rim) isRim[i] = 1;
  const withoutGrounds = groundsOf(sight);
  for (const [alike, most] of [
    [0, mostOfRim.first],
    [ground.alike, mostOfRim.second],
  ]) {
    const parts = connected(withoutGrounds(beyond, alike), w, h).map((pixels) => ({
      pixels,
      size: pixels.length / area,
      ofRim: pixels.reduce((n, i) => n + isRim[i], 0) / rim.length,
    }));
    if (parts.reduce((sum, { ofRim }) => sum + ofRim, 0) > most) continue;
    return parts
      .filter(({ size, ofRim }) => size >= like.least && size <= like.most && ofRim >= like.ofRim)
      .filter(({ pixels }) => sharpOutline(sight, pixels) >= like.sharp)
      .map(({ pixels }) => {
        const { reach: within, link } = goingOn(sight, pixels);
        const ends = within <= endsThere.reach * Math.sqrt(area) && link <= endsThere.link;
        return { ...foundOf(sight, pixels), ends };
      });
  }
  return [];
}

/** The area and what hangs together with it and is rather like it than like all else; null when the area has no colours of its own. */
function alikeBeyond(sight: Sight, isCore: ArrayLike<number>): Uint8Array | null {
  const { rect, lab, inside, away } = sight;
  const n = rect.w * rect.h;
  const [its, others]: [number[], number[]] = [[], []];
  for (let i = 0; i < n; i++)
    if (isCore[i]) its.push(i);
    else if (!inside[i] && away[i] > 1) others.push(i);
  if (its.length === 0 || others.length === 0) return null;
  const own = fitColours(lab, its, clusters);
  const limit = its.map(own.cost).sort((a, b) => a - b)[Math.floor(ownShare * (its.length - 1))];
  const unlike = others.filter((i) => own.cost(i) > limit);
  let rest: ColourModel = fitColours(lab, unlike.length >= clusters ? unlike : others, clusters);
  const links = linksOf(rect, null, costAcrossEdges({ ...rect, values: lab }));
  let labels: Uint8Array = inside;
  for (let round = 0; round < rounds; round++) {
    const pull = links.fromBand.map((fromBand, node) => {
      const i = links.nodes[node];
      if (isCore[i]) return sure;
      return fromBand + Math.max(-mostPull, Math.min(mostPull, rest.cost(i) - own.cost(i)));
    });
    labels = partedLabels(links, minCut({ ...links, pull }), labels);
    const theirs = others.filter((i) => !labels[i]);
    if (theirs.length < clusters) return null;
    rest = fitColours(lab, theirs, clusters);
  }
  const told = its.filter((i) => rest.cost(i) - own.cost(i) > telling.least);
  if (told.length < telling.share * its.length) return null;
  return labels;
}

/** Whether what is marked ends at an outline of its own within the area, as a thing does that was marked with room to spare, and a piece of
 *  ground does not. */
function hasOutline(sight: Sight, labels: Uint8Array): boolean {
  const { rect, inside, lab } = sight;
  const { w, h } = rect;
  const own = [...inside.keys()].filter((i) => inside[i]);
  let [all, sharp] = [0, 0];
  for (const i of own) {
    if (!labels[i]) continue;
    const [x, y] = [i % w, Math.floor(i / w)];
    for (const [u, v] of [
      [x + 2, y],
      [x - 2, y],
      [x, y + 2],
      [x, y - 2],
    ]) {
      const off = v * w + u;
      if (u < 0 || v < 0 || u >= w || v >= h || labels[off]) continue;
      all++;
      if (difference(sight, off, lab.subarray(3 * i, 3 * i + 3)) >= like.differs) sharp++;
    }
  }
  return sharp >= outline.sharp * all && sharp > outline.ofArea * acrossOutline(own, sight).length;
}

/** Looks for grounds: parts of the picture that go on beyond what is seen of it.
 *  @returns takes out of a set what lies in them, and in what differs by less than `alike` from these where it meets them */
function groundsOf(sight: Sight): (set: Uint8Array, alike: number) => Uint8Array {
  const { rect, lab, inside } = sight;
  const { w, h } = rect;
  const parts = picturePartsOf(
    { w, h, lab },
    inside.map((v) => 1 - v),
  );
  const [size, atEdge] = [new Int32Array(w * h), new Int32Array(w * h)];
  parts.forEach((part, i) => {
    if (part < 0) return;
    const [x, y] = [i % w, Math.floor(i / w)];
    size[part]++;
    if (x === 0 || y === 0 || x === w - 1 || y === h - 1) atEdge[part]++;
  });
  const first = [...size.keys()].filter((part) => atEdge[part] > ground.goesOn * Math.sqrt(size[part]));
  const borders = bordersOf(sight, parts);
  return (set, alike) => {
    const isGround = new Uint8Array(w * h);
    const grounds = first.slice();
    for (let part = grounds.pop(); part !== undefined; part = grounds.pop()) {
      if (isGround[part]) continue;
      isGround[part] = 1;
      for (const [other, { differ, long }] of borders.get(part) ?? [])
        if (long >= ground.leastBorder && differ < alike * long) grounds.push(other);
    }
    return set.map((v, i) => (v && !isGround[parts[i]] ? 1 : 0));
  };
}

interface Border {
  /** Pairs of pixels along it, and the sum of what they differ by. */
  long: number;
  differ: number;
}

/** The borders of each part of a picture with each other one. */
function bordersOf(sight: Sight, parts: Int32Array): Map<number, Map<number, Border>> {
  const {
    rect: { w, h },
    lab,
  } = sight;
  const all = new Map<number, Map<number, Border>>();
  const borderOf = (a: number, b: number): Border => {
    const its = all.get(a) ?? new Map<number, Border>();
    all.set(a, its);
    const border = its.get(b) ?? { long: 0, differ: 0 };
    its.set(b, border);
    return border;
  };
  for (let i = 0; i < w * h; i++)
    for (const step of [1, w]) {
      const [x, y] = [i % w, Math.floor(i / w)];
      if (step === 1 ? x < 1 || x + 2 >= w : y < 1 || y + 2 >= h) continue;
      const [a, b] = [parts[i], parts[i + step]];
      if (a === b || a < 0 || b < 0) continue;
      // Right at a border colours mix.
      const p = parts[i - step] === a ? i - step : i;
      const q = parts[i + 2 * step] === b ? i + 2 * step : i + step;
      const differ = difference(sight, q, lab.subarray(3 * p, 3 * p + 3));
      for (const border of [borderOf(a, b), borderOf(b, a)]) {
        border.long++;
        border.differ += differ;
      }
    }
  return all;
}

/** For how much of its outline, 0…1, a part differs clearly from what lies beyond it and beyond the area. */
function sharpOutline(sight: Sight, part: readonly number[]): number {
  const { lab } = sight;
  let [all, sharp] = [0, 0];
  for (const [i, off] of acrossOutline(part, sight)) {
    if (off === null) continue;
    all++;
    if (difference(sight, off, lab.subarray(3 * i, 3 * i + 3)) >= like.differs) sharp++;
  }
  return all > 0 ? sharp / all : 0;
}
