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
import { letGoOfSearch } from './search/patch-search';
import { searchLevels } from './search/search-levels';

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
/** Patches get smaller, down to this, where fewer than so many sources lie beside a hole, in its rows, for each pixel of it. */
const leastRadius = 2;
const besidePerPixel = 0.5;
/** When even the smallest find no more than this share of them, there is no beside: an area from edge to edge. */
const nothingBeside = 0.1;
/** The coarsest level is one with patches of at least this radius. */
const leastCoarseRadius = 3;
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
  const { guide, sources, levels: minded } = searchLevels(levels, working, radiusOf, random, options);
  letGoOfSearch();
  options.onProgress('joining', 0);
  const joined = withoutGuesses(minded, roles);
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
