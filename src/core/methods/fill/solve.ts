import type { Random } from '../../random';
import type { FloatImage } from '../../raster';
import type { Atlas } from './atlas';
import { withoutCrumbs } from './cut/crumbs';
import { firstCut } from './cut/first-cut';
import { nudgeShifts, refineMap } from './cut/refine';
import { cutSeams, letGoOfCut, type ShiftMap } from './cut/seam-cut';
import {
  countOf,
  type Frame,
  type FrameRules,
  type FrameViews,
  hasSources,
  holePixels,
  largeHolePixels,
  lookedAtLevel,
  nothingToDrawFrom,
  role,
  smallHolePixels,
  thicknessOf,
  usableCentres,
} from './frame';
import { withLayout } from './layout';
import { itsKindIn, withoutItsKind } from './left-out/its-kind';
import { type Different, withoutStrangers } from './left-out/strangers';
import { withoutThings } from './left-out/things';
import { makeFrame, shrink, withoutGuesses } from './levels';
import { letGoOfSearch, PatchSearch, refineSources } from './search/patch-search';
import { meanStrangeness } from './strange-colours';

/** Hole half-thickness in pixels at which the pyramid stops, and patch radius (9×9). */
const coarseEnoughPx = { compact: 9, thin: 6.5 };
/** Coarser than by so many halvings, from the level that is looked at, one thing is taken for another. */
const mostHalvings = 4;
const patchRadius = 4;
/** Half the side of the patches that a small hole is sought with, for there is less to be like it than near a large one. Not where it
 *  is thin, nor on a plane: what repeats there is kept in step by large ones. */
const smallPatchRadius = 3;
/** The level at which seams are first cut has at most this many hole pixels. */
const mostWorkingPixels = 12_000;
/** The start compares about so many pairs of patches. */
const peelEffort = 800_000;
/** A level's rounds end when targets find fewer better sources than this at a round's beginning, in the mean. */
const settled = 0.04;
/** Patches get smaller, down to this, where fewer than so many sources lie beside a hole, in its rows, for each pixel of it. */
const leastRadius = 2;
const besidePerPixel = 0.5;
/** When even the smallest find no more than this share of them, there is no beside: an area from edge to edge. */
const nothingBeside = 0.1;
/** The coarsest level is one with patches of at least this radius. */
const leastCoarseRadius = 3;
/** A search starts with patches of the first of these radii, or of the second where what comes of it has no more than this share of the
 *  faults: by how much it differs from its sources, and doubly when its colours are so many 8-bit steps strange in the mean beside a
 *  rim of so many pixels. Where sources keep to lines, small patches must be clearly better: they lose what runs along beside. */
const startRadii = [4, 2];
const less = { usually: 0.95, alongLines: 0.75 };
const compared = { rimPx: 3, strange: 10 };
/** From so many on a guide is a blur, and the cut goes by large pieces. */
const inPiecesPixels = 70_000;
/** Once cut, seams move by so much at each finer level; pieces stay where they are. */
const seamsMovePx = 4;

export interface SolveOptions {
  /** A chunk of something long: little but its ground lies near it. */
  readonly isChunk: boolean;
  /** One of something thin: fewer rounds do. */
  readonly isThin: boolean;
  /** Nothing is drawn from what is so different: {@link withoutStrangers}. What is large leaves out {@link withoutThings},
   *  but for chunks of something long, and {@link withoutItsKind} as well. */
  readonly leavesOut: Different | null;
  /** What is large keeps to the layers that the picture lies in: {@link withLayout}. */
  readonly keepsLayers: boolean;
  readonly rules: FrameRules | null;
  readonly views: FrameViews | null;
  readonly stepsAt: Atlas['stepsAt'];
  readonly onProgress: (stage: 'searching' | 'joining', share: number) => void;
}

/** Chooses for each target pixel the shift to its source.
 *  @param image  pixels of targets are what is to go: they are looked at only to know others of its kind
 *  @throws InputError `no-source` when there is none */
export function solveShifts(
  image: FloatImage,
  roles: Uint8Array,
  random: Random,
  options: SolveOptions,
): ShiftMap {
  const { w, h } = image.rect;
  const base = lookedAtLevel(countOf(roles, role.target));
  const wanted = halvings(roles, w, h, options.isThin, base);
  // The coarser the search starts, the wider the surroundings that tell textures apart.
  const isSmall = !options.isThin && !options.stepsAt && countOf(roles, role.target) < smallHolePixels;
  const largest = isSmall ? smallPatchRadius : patchRadius;
  const featureRadius = wanted > 2 ? 2 ** (wanted - 1) : largest;
  const all = [makeFrame(image, roles, featureRadius, options.rules, options.views)];
  let radius = Math.min(largest, Math.floor((Math.min(w, h) - 1) / 2));
  // Where little may be drawn from, smaller patches must do.
  while (radius > 0 && !hasSources(all[0], radius)) radius--;
  if (!hasSources(all[0], radius)) throw nothingToDrawFrom(all[0]);
  for (let left = wanted; left > 0; left--) {
    const next = shrink(all[all.length - 1]);
    if (Math.min(next.w, next.h) < 2 * radius + 3 || !hasSources(next, radius)) break;
    all.push(next);
  }
  const radiusOf = (frame: Frame) =>
    options.isThin || !options.keepsLayers ? radius : radiusAt(frame, radius);
  const isFew = (frame: Frame) => holePixels(frame).length <= mostWorkingPixels;
  while (all.length > 1 && radiusOf(all[all.length - 1]) < Math.min(radius, leastCoarseRadius)) {
    if (!isFew(all[all.length - 2])) break;
    all.pop();
  }
  const pixels = holePixels(all[0]).length;
  const inPieces = pixels >= inPiecesPixels;
  const kept = options.leavesOut ? withoutStrangers(all, radius, options.leavesOut) : all;
  // What is still to go beside it counts: a part of something large lies in the same layers.
  const toGo = options.isThin ? 0 : countOf(roles, role.guessed);
  const isLarge = pixels + toGo >= largeHolePixels;
  const isAmongThings = inPieces || (isLarge && !options.isChunk);
  const strict = options.leavesOut && isAmongThings ? withoutThings(kept, radius, base) : kept;
  const kin = options.leavesOut && options.keepsLayers && isLarge ? itsKindIn(strict, image, base) : null;
  const drawn = kin ? withoutItsKind(strict, kin, radius) : strict;
  const last = drawn.length - 1;
  let working = Math.min(last, 1);
  while (working < last && holePixels(drawn[working]).length > mostWorkingPixels) working++;
  const levels = options.keepsLayers && isLarge ? withLayout(drawn, radius, working, base, kin?.toGo) : drawn;
  const { guide, sources } = searchLevels(levels, working, radiusOf, random, options);
  letGoOfSearch();
  options.onProgress('joining', 0);
  const joined = withoutGuesses(levels, roles);
  let map = firstCut(
    joined[working],
    guide,
    sources,
    inPieces ? 'in large pieces' : 'near to the guide',
    2 ** working,
    options.stepsAt,
  );
  for (let level = working - 1; level >= 0; level--) {
    map = refineMap(joined[level], joined[level + 1], map);
    map = nudgeShifts(joined[level], map);
    map = cutSeams(joined[level], map, null, 1, seamsMovePx);
    options.onProgress('joining', (working - level) / (working + 1));
  }
  letGoOfCut();
  return withoutCrumbs(joined[0], map);
}

/** How often the picture is halved until the hole is as thin as the patches. */
function halvings(roles: Uint8Array, w: number, h: number, isThin: boolean, base: number): number {
  const enough = isThin ? coarseEnoughPx.thin : coarseEnoughPx.compact;
  const wanted = Math.ceil(Math.log2(thicknessOf(roles, w, h) / enough));
  return Math.max(0, Math.min(mostHalvings + base, wanted));
}

/** What a search has come to at one level. */
interface Searched {
  readonly level: number;
  readonly guide: Uint8Array;
  readonly sources: Int32Array;
  /** {@link PatchSearch.unlike} */
  readonly unlike: number;
}

/** Searches from the coarsest level to the working one. At the coarsest a large patch holds the whole neighbourhood, and where no other
 *  place looks like it (a label on a cask, with hoops above and below) the start brings in what has no business there. A small one
 *  finds what is right beside, but may lose lines. Both are tried, and compared a level farther on. */
function searchLevels(
  levels: readonly Frame[],
  working: number,
  radiusOf: (frame: Frame) => number,
  random: Random,
  { isThin, onProgress }: SolveOptions,
): Searched {
  const last = levels.length - 1;
  const largest = radiusOf(levels[last]);
  const isTwice = !isThin && last > working && largest > startRadii[1];
  const all = last - working + 1 + (isTwice ? 2 : 0);
  let done = 0;
  const search = (level: number, before: Searched | null, radius: number): Searched => {
    const found = searchLevel(levels, level, before, new PatchSearch(levels[level], radius, random), {
      rounds: roundsAt(level, last, working, isThin),
      isThin,
      onRound: (share) => onProgress('searching', (done + share) / all),
    });
    done++;
    return found;
  };
  const startWith = (radius: number): Searched => {
    const start = search(last, null, radius);
    return last > working ? search(last - 1, start, radiusOf(levels[last - 1])) : start;
  };
  let best = startWith(Math.min(startRadii[0], largest));
  if (isTwice) {
    const other = startWith(startRadii[1]);
    const faultOf = ({ level, guide, unlike }: Searched) =>
      unlike * (1 + meanStrangeness(levels[level], guide, compared.rimPx) / compared.strange);
    const enough = levels[last].rules ? less.alongLines : less.usually;
    if (faultOf(other) < enough * faultOf(best)) best = other;
  }
  for (let level = best.level - 1; level >= working; level--)
    best = search(level, best, radiusOf(levels[level]));
  return best;
}

function roundsAt(level: number, last: number, working: number, isThin: boolean): number {
  if (isThin) return level === 0 ? 1 : level === last ? 3 : 2;
  return level === 0 ? 3 : level === last ? 10 : 4 + level - working;
}

function searchLevel(
  levels: readonly Frame[],
  level: number,
  before: Searched | null,
  search: PatchSearch,
  { rounds, isThin, onRound }: { rounds: number; isThin: boolean; onRound: (share: number) => void },
): Searched {
  const window = Math.max(search.frame.w, search.frame.h);
  if (!before) search.peel(peelSources(search.holes.length, isThin, levels.length === 1));
  else {
    refineSources(levels[before.level], before.sources, search);
    search.vote(true);
  }
  for (let round = 0; round < rounds; round++) {
    const better = search.improve(before ? 3 : 4, before ? Math.max(8, window >> 2) : window);
    search.vote();
    if (better < settled) break;
    onRound((round + 1) / rounds);
  }
  search.improve(2, 8);
  onRound(1);
  return { level, guide: search.picture(), sources: search.sources(), unlike: search.unlike() };
}

/** Patches of this radius or less: where little lies beside the hole, only small ones fit in between, and without them a search
 *  takes what lies above or below for what is behind. */
export function radiusAt(frame: Frame, most: number): number {
  const { w, h, hole } = frame;
  const inRow = new Int32Array(h);
  for (let y = 0, p = 0; y < h; y++) for (let x = 0; x < w; x++, p++) inRow[y] += hole[p];
  const wanted = besidePerPixel * inRow.reduce((sum, n) => sum + n, 0);
  const besideAt = (radius: number) => {
    const usable = usableCentres(frame, radius);
    let beside = 0;
    for (let y = 0; y < h; y++)
      if (inRow[y] > 0) for (let p = y * w; p < (y + 1) * w; p++) beside += usable[p];
    return beside;
  };
  for (let radius = most; radius > leastRadius; radius--) if (besideAt(radius) >= wanted) return radius;
  return besideAt(leastRadius) >= nothingBeside * wanted ? Math.min(leastRadius, most) : most;
}

/** Among how many sources each pixel of a start is sought: fewer for very many pixels, and for a speck, which is sought at full
 *  size and needs little choice. */
function peelSources(pixels: number, isThin: boolean, isSpeck: boolean): number {
  if (isThin) return 300;
  return Math.max(
    300,
    Math.min(2500, Math.round(peelEffort / pixels), isSpeck ? 200 + 3 * pixels : Infinity),
  );
}
