import { type FloatImage, grow, intersect, type Rect } from '../../../raster';
import { boxOfTargets } from '../frame';
import { Contrast, depthPx, directionsOf, type Seen } from './contrast';
import { Lattice } from './lattice';
import { Along, areOfOneGround, type Chain, clarityOf } from './parallel-lines';
import { coloursOf } from './points';
import { UsualLight } from './usual-light';

/** Holes longer than this are looked at by half the photo's pixels along a side: a joint must still be seen. */
const halvedFromPx = 600;
/** Where nothing is ruled, lines that are so much finer and nearer to each other are looked for, as a small photo has them. */
const finer = 2;
/** What is less than twice so wide is a line, in photo pixels. */
const lineHalfWidthPx = 8;
/** Where fewer lines are clear in a direction that is nearly right, there are none in it. */
const fewestNearby = 3;
/** Directions are tried so finely, in degrees; then so finely in degrees and how much lines draw together, for each pixel along and
 *  across. */
const turns = { from: 3, step: 1.5 };
const finely = [
  { turn: 0.6, draw: 6e-5 },
  { turn: 0.3, draw: 3e-5 },
  { turn: 0.15, draw: 1.5e-5 },
];
/** What lies so near to the outermost lines is of their ground, in photo pixels. */
const besideLinesPx = 6;
/** In 8-bit steps of all three channels together: boards are even along their lines, stones and bricks differ. */
const mostUneven = 20;

/** Ground in which parallel lines run on into the hole: boards, courses of brick, a railing. */
export interface RuledGround {
  /** Direction of the lines, of length 1. */
  readonly ux: number;
  readonly uy: number;
  /** Distance from line to line in pixels, where it is regular. */
  readonly period: number;
  /** Where a pixel lies across the lines, in pixels, so that lines at regular distances lie a whole number of periods apart; null
   *  outside this ground. */
  placeOf(x: number, y: number): { readonly across: number; readonly isRegular: boolean } | null;
}

/** The part of the ground that is ruled most clearly by parallel lines which run straight on into the hole: lines seen on both sides of
 *  the hole, in line; or on one side of it, as far as what lies beside the hole is ruled as well, as a door's boards are down to
 *  its foot. Where two parts are ruled, places in one say nothing about the other, so that only one is told. The measure is ours.
 *
 *  @param image  the ground; pixels of targets are not read
 *  @param w, h   the ground's size, the first rows of the image
 *  @returns null where nothing is ruled
 *  Cost: some thirty looks at what lies within {@link depthPx} of the hole. */
export function ruledGround(image: FloatImage, roles: Uint8Array, w: number, h: number): RuledGround | null {
  const box = boxOfTargets(roles, image.rect.w);
  const scale = Math.max(box.w, box.h) > halvedFromPx ? 2 : 1;
  const part = intersect(grow(box, 2 * depthPx), { x: 0, y: 0, w, h });
  const seen = coloursOf(image, roles, part, scale);
  for (const unit of [scale, scale * finer]) {
    const found = clearestGround(seen, part, scale, unit);
    if (found) return found;
  }
  return null;
}

/** @param unit  what is so many photo pixels at most, or at least, is as many divided by this of what is seen */
function clearestGround(seen: Seen, part: Rect, scale: number, unit: number): RuledGround | null {
  let best: { ground: RuledGround; clarity: number } | null = null;
  for (const deg of directionsOf(seen)) {
    const contrast = new Contrast(seen, deg, lineHalfWidthPx / unit);
    const along = (at: number, draw: number) => new Along(contrast, at, draw, unit);
    const { found, chains } = clearestNear(deg, along);
    for (const chain of chains) {
      const reach = found.reachOf(chain);
      if (reach === null) continue;
      // Those of a chain may be lost among what is seen beside the hole.
      if (found.linesOf(chain, reach).length < 2) continue;
      const latticeOf = (of: Along) =>
        new Lattice(of, of.linesOf(chain, reach), of.extentOf(chain, reach), besideLinesPx / unit);
      // To find the sharpest takes long, and most are told without.
      const light = (lattice: Lattice) => new UsualLight(lattice, seen, unit);
      if (light(latticeOf(found)).unevenness() > mostUneven) continue;
      const sharp = sharpest(found, chain, reach, unit, along);
      const lines = sharp.linesOf(chain, reach);
      const clarity = clarityOf(lines);
      if (!areOfOneGround(lines) || (best && clarity <= best.clarity)) continue;
      const lattice = latticeOf(sharp);
      const usual = light(lattice);
      if (usual.unevenness() > mostUneven) continue;
      best = { ground: groundOf(sharp, lattice, usual, part, scale), clarity };
    }
  }
  return best?.ground ?? null;
}

type Look = (deg: number, draw: number) => Along;

/** The direction near to one in which most is clearly ruled. */
function clearestNear(deg: number, along: Look): { found: Along; chains: Chain[] } {
  let found = along(deg, 0);
  if (found.clearLines < fewestNearby) return { found, chains: [] };
  let chains = found.chains();
  const attempt = (at: number) => {
    const now = along(at, 0);
    const its = now.chains();
    if (weightOf(its) > weightOf(chains)) [found, chains] = [now, its];
  };
  for (let turn = turns.step; turn <= turns.from; turn += turns.step)
    for (const side of [-1, 1]) attempt(deg + side * turn);
  if (chains.length === 0) return { found, chains };
  for (const turn of [turns.step / 2, turns.step / 4]) {
    const middle = found.deg;
    for (const side of [-1, 1]) attempt(middle + side * turn);
  }
  return { found, chains };
}

/** The direction near to one, and how much lines draw together, with which a chain's lines are clearest over all of their ground. */
function sharpest(found: Along, chain: Chain, reach: number, scale: number, along: Look): Along {
  let best = found;
  let most = clarityOf(found.linesOf(chain, reach));
  const attempt = (deg: number, draw: number) => {
    const now = along(deg, draw);
    const clarity = clarityOf(now.linesOf(chain, reach));
    if (clarity > most) [best, most] = [now, clarity];
  };
  for (const { turn, draw } of finely) {
    const { deg, draw: drawn } = best;
    for (const a of [-1, 0, 1])
      for (const b of [-1, 0, 1]) if (a || b) attempt(deg + a * turn, drawn + b * draw * scale);
  }
  return best;
}

const weightOf = (all: readonly { readonly weight: number }[]) =>
  all.reduce((sum, { weight }) => sum + weight, 0);

function groundOf(
  { ux, uy }: Along,
  lattice: Lattice,
  usual: UsualLight,
  part: Rect,
  scale: number,
): RuledGround {
  return {
    ux,
    uy,
    period: lattice.period * scale,
    placeOf: (px, py) => {
      const [x, y] = [(px - part.x + 0.5) / scale - 0.5, (py - part.y + 0.5) / scale - 0.5];
      const spot = lattice.spotOf(x, y);
      if (!spot || usual.isOther(Math.round(x), Math.round(y), spot)) return null;
      return { across: scale * spot.across, isRegular: spot.isRegular };
    },
  };
}
