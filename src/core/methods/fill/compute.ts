import { InputError } from '../../errors';
import type { PlanePoint } from '../../geometry';
import type { GuideLine, Rail } from '../../job/types';
import { makeRandom } from '../../random';
import type { FloatImage, Rect } from '../../raster';
import { makeAtlas, type Variety } from './atlas';
import { bentCopies } from './bends/bent-copies';
import { seenPlane } from './edges/seen-plane';
import { evenlyLit } from './even-light';
import { correctionField } from './finish/correction';
import { followGrain } from './finish/follow-grain';
import { matchDetail } from './finish/match-detail';
import { type FilledPart, render } from './finish/render';
import { softenJoins } from './finish/soft-joins';
import { type CoarseAnswer, FirstAnswer } from './first-answer';
import { countOf, lookedAtLevel, nothingToDrawFrom, role } from './frame';
import type { Different } from './left-out/strangers';
import { type FillWindow, paste, rolesOf, withBeside } from './piece-window';
import type { PiecePlan } from './pieces';
import { reduced } from './reduced';
import { makeRules } from './rules';
import { sketchOf } from './sketch';
import { solveShifts } from './solve';

/** What the user laid down about where a fill takes from. Coordinates are document pixels. */
export interface FillSteering {
  /** Four corners in order round the outline: the pattern follows this plane's perspective. */
  readonly plane: readonly PlanePoint[] | null;
  readonly rail: Rail | null;
  readonly lines: readonly GuideLine[];
  readonly variety: Variety;
  /** Other things that stand there are not drawn from: those that differ clearly, or somewhat. Null: they are. */
  readonly leavesOut: Different | null;
  /** What lies in layers, as a wall above a ground, is continued in them. */
  readonly keepsLayers: boolean;
  /** Ground that runs away is filled on the plane that it is seen to lie on, where none was placed. */
  readonly seesPlane: boolean;
}

export const unsteered: FillSteering = {
  plane: null,
  rail: null,
  lines: [],
  variety: { mirror: false, turnDeg: 0, scale: 1 },
  leavesOut: 'clearly',
  keepsLayers: true,
  seesPlane: true,
};

export interface FillInput {
  readonly plan: PiecePlan;
  /** One for each piece of the plan. */
  readonly windows: readonly FillWindow[];
  readonly steering: FillSteering;
  readonly seed: number;
}

export interface FilledPiece extends FilledPart {
  /** The plane that it was seen to lie on, and filled on: four corners, document pixels. Null: none, or one was placed. */
  readonly seenPlane: readonly PlanePoint[] | null;
}

export type FillStage = 'reading' | 'searching' | 'joining' | 'blending';

export type FillProgress = (stage: FillStage, share: number, coarse?: CoarseAnswer) => void;

/** From how many pixels on a part is worth showing before the others are finished. */
const worthShowingPx = 30_000;
/** From so many on a piece takes so long that it is sketched first. */
const worthSketchingPx = 100_000;
/** There is not enough to draw from where so many targets come on a source pixel. */
const mostServed = 10;

/** Continues the surroundings into an area, so that nobody can tell.
 *
 *  Coarse to fine: an onion-peel start, then rounds of patch search and weighted votes (Wexler, Shechtman & Irani 2007;
 *  Barnes et al. 2009; texture features after Newson et al. 2014). The votes only guide: the pixels themselves are
 *  copied in coherent parts whose shifts a graph cut chooses (He & Sun 2012; Kwatra et al. 2003), bent by a few pixels
 *  where lines would miss each other at joins ({@link bentCopies}), and joined by a Poisson correction; {@link followGrain}
 *  lets the pixels at joins know of each other. So grain and sharpness are those of the surroundings; {@link matchDetail}
 *  makes up for most of what is left. What is large keeps to the layers that the picture lies in (withLayout), is copied
 *  in larger parts (firstCut), and takes nothing from others of the kind of what is to go
 *  (itsKindIn). Where pieces do not go together in tone, and the rim tells of a soft shadow, all is done once more without it
 *  ({@link evenlyLit}). With a plane, search and cut work on the plane seen squarely, and each pixel is resampled once, from the photo.
 *
 *  @returns one part for each piece of the plan
 *  @throws InputError `empty-area`; `no-source` when there is not enough to draw from; `bad-plane`
 *  Degenerate: a hole of one pixel, at the edge or in several parts works. Same input and seed, same result, anywhere.
 *  Cost grows with the area and the windows round it, not with the photo.
 */
export function computeFill(input: FillInput, onProgress: FillProgress = () => {}): FilledPiece[] {
  const { plan, windows, steering, seed } = input;
  if (plan.pieces.length === 0)
    throw new InputError('empty-area', 'The area is empty: there is nothing to fill.');
  onProgress('reading', 0);
  const count = plan.pieces.length;
  // What one piece fills is written into the windows of the next: the caller's stay as they are.
  const images = windows.map(({ image }) =>
    count === 1 ? image : { rect: image.rect, data: image.data.slice() },
  );
  const parts: FilledPiece[] = [];
  const shown = new FirstAnswer(plan.box);
  sketchPieces(input, images, (share, sketch, at) => onProgress('reading', share, shown.with(sketch, at)));
  let furthest: FillStage = 'reading';
  plan.pieces.forEach((piece, k) => {
    const part = fillPiece(
      plan,
      k,
      { ...windows[k], image: images[k] },
      steering,
      (seed + Math.imul(k, 0x9e3779b9)) >>> 0,
      (stage, share) => {
        if (k === 0 || stages.indexOf(stage) > stages.indexOf(furthest)) furthest = stage;
        const within = (stages.indexOf(stage) - 1 + share) / 3;
        onProgress(count === 1 ? stage : furthest, count === 1 ? share : (k + within) / count);
      },
    );
    parts.push(part);
    if (count > 1 && piece.box.w * piece.box.h >= worthShowingPx)
      onProgress(furthest, (k + 1) / count, shown.with(part.image));
    for (let later = k + 1; later < count; later++) paste(part.image, plan, k, piece, images[later]);
  });
  return parts;
}

const stages: readonly FillStage[] = ['reading', 'searching', 'joining', 'blending'];

/** A first answer of each large piece, within a fraction of the time: filled as it will be, in a smaller picture.
 *  @param images   of the windows
 *  @param onSketch  a piece's sketch, and the document rectangle that it is of */
function sketchPieces(
  { plan, windows, steering, seed }: FillInput,
  images: readonly FloatImage[],
  onSketch: (share: number, sketch: FloatImage, at: Rect) => void,
): void {
  const sizes = new Int32Array(plan.pieces.length);
  for (let i = 0; i < plan.owner.length; i++) if (plan.owner[i] >= 0) sizes[plan.owner[i]]++;
  const large = [...sizes.keys()].filter((k) => sizes[k] >= worthSketchingPx);
  large.forEach((k, n) => {
    const window = { ...windows[k], image: images[k] };
    const sketch = sketchOf(withBeside(plan, window, rolesOf(plan, k, window, 'to go')), steering);
    if (!sketch) return;
    try {
      const [part] = computeFill({ ...sketch.input, seed });
      onSketch((n + 1) / large.length, part.image, sketch.placeOf(part.image.rect));
    } catch (error) {
      // What is too little here may still be enough where nothing is left out for being small.
      if (!(error instanceof InputError)) throw error;
    }
  });
}

function fillPiece(
  plan: PiecePlan,
  k: number,
  window: FillWindow,
  steering: FillSteering,
  seed: number,
  onProgress: (stage: FillStage, share: number) => void,
): FilledPiece {
  const roles = rolesOf(plan, k, window);
  const seen = planeSeen(plan, k, window, roles, steering);
  if (seen)
    try {
      const onPlane = { ...steering, plane: seen, leavesOut: steering.leavesOut && ('somewhat' as const) };
      return { ...fillGround(plan, k, window, roles, onPlane, seed, onProgress).part, seenPlane: seen };
    } catch (error) {
      // Nobody asked for it.
      if (!(error instanceof InputError)) throw error;
    }
  const fill = (from: FillWindow, its: Uint8Array, tell: typeof onProgress) =>
    fillGround(plan, k, from, its, steering, seed, tell);
  const { part, takenUp } = fill(window, roles, onProgress);
  const plain = { ...part, seenPlane: null };
  const isPlain = !steering.plane && !window.beside;
  const lit = isPlain && takenUp >= muchTakenUp ? evenlyLit(window.image, roles, part.image) : null;
  if (!lit) return plain;
  try {
    // The search goes over the same ground again: what was told of it is not taken back.
    const again = fill({ ...window, image: lit.image }, lit.roles, () => onProgress('blending', 0));
    lit.relight(again.part.image);
    return { ...again.part, seenPlane: null };
  } catch (error) {
    if (!(error instanceof InputError) || error.code !== 'no-source') throw error;
    return plain;
  }
}

/** A plane that a piece is seen to lie on, in document pixels; null where none is, or where it was said how to draw. */
function planeSeen(
  { pieces }: PiecePlan,
  k: number,
  { image, beside }: FillWindow,
  roles: Uint8Array,
  { plane, rail, lines, variety, seesPlane }: FillSteering,
): readonly PlanePoint[] | null {
  const isVaried = variety.mirror || variety.turnDeg > 0 || variety.scale > 1;
  const isSteered = plane || rail || lines.length > 0 || isVaried;
  if (!seesPlane || isSteered || beside || pieces[k].isChunk || pieces[k].isThin) return null;
  const { x, y, w, h } = image.rect;
  const by = 2 ** lookedAtLevel(countOf(roles, role.target));
  const small = by > 1 ? reduced({ image, roles }, by) : { image, roles };
  const corners = seenPlane(small.image, small.roles, Math.floor(w / by), Math.floor(h / by));
  return corners?.map(([u, v]) => [x + by * (u + 0.5), y + by * (v + 0.5)] as const) ?? null;
}

/** From here on pieces do not go together in tone: {@link takenUpBy}. */
const muchTakenUp = 4 / 255;

/** How much a correction takes up, of full scale: root mean square. @param pixels  that are corrected */
function takenUpBy({ data }: FloatImage, pixels: number): number {
  let sum = 0;
  for (let i = 0; i < data.length; i++) sum += data[i] ** 2;
  return Math.sqrt(sum / (3 * Math.max(1, pixels)));
}

/** A piece's pixels, copied from its window, and how much of their tone had to be taken up: {@link takenUpBy}. */
function fillGround(
  plan: PiecePlan,
  k: number,
  window: FillWindow,
  roles: Uint8Array,
  steering: FillSteering,
  seed: number,
  onProgress: (stage: FillStage, share: number) => void,
): { part: FilledPart; takenUp: number } {
  const seen = withBeside(plan, window, roles);
  if (isTooLittle(seen.roles)) throw nothingToDrawFrom({ rules: null });
  const { image } = seen;
  const atlas = makeAtlas(image, seen.roles, steering.plane, steering.variety);
  const { box, isChunk, isThin } = plan.pieces[k];
  onProgress('searching', 0);
  const solve = (edges: 'drawn' | 'seen too') => {
    // What was put beside the window lies in another direction than it seems.
    const rules = makeRules(atlas, image.rect, steering, window.beside ? 'drawn' : edges);
    const map = solveShifts(atlas.image, atlas.roles, makeRandom(seed), {
      isChunk,
      isThin,
      leavesOut: steering.leavesOut,
      keepsLayers: steering.keepsLayers,
      stepsAt: atlas.stepsAt,
      views: atlas.views,
      rules,
      onProgress,
    });
    return { map, isExact: rules?.list.some((rule) => rule.isExact) === true };
  };
  const { map: solved, isExact } = solveWithEdges(solve);
  onProgress('blending', 0);
  const copies = atlas.isPlain && !isExact ? bentCopies(atlas.image, atlas.roles, solved) : null;
  const { image: drawn, roles: drawnRoles, map } = copies ?? { ...atlas, map: solved };
  const field = correctionField(drawn, drawnRoles, map);
  const takenUp = takenUpBy(field, countOf(drawnRoles, role.target));
  followGrain(drawn, drawnRoles, map, field);
  const placeOf = (x: number, y: number) => seen.placeOf(...(copies?.originOf(x, y) ?? [x, y]));
  const shown = copies ? { image: drawn, roles: drawnRoles, placeOf } : seen;
  const part = render(plan, k, shown, atlas, map, field);
  const filled = new Uint8Array(box.w * box.h);
  for (let i = 0; i < filled.length; i++) if (!Number.isNaN(part.origin[2 * i])) filled[i] = 1;
  if (atlas.isPlain) softenJoins(window.image, roles, part);
  matchDetail(window.image, roles, part.image, filled);
  onProgress('blending', 1);
  return { part, takenUp };
}

/** Whether each source pixel would have to serve so often that what comes out could only look made up. */
function isTooLittle(roles: Uint8Array): boolean {
  return mostServed * countOf(roles, role.source) < countOf(roles, role.target);
}

/** Edges that were only seen must not stand in the way: where nothing can be drawn from along them, they do not count. */
function solveWithEdges<T>(solve: (edges: 'drawn' | 'seen too') => T): T {
  try {
    return solve('seen too');
  } catch (error) {
    if (!(error instanceof InputError) || error.code !== 'no-source') throw error;
    return solve('drawn');
  }
}

/** What a request's pixels are held in, to be handed over to a worker. */
export const buffersOf = ({ plan, windows }: FillInput): ArrayBuffer[] => [
  plan.owner.buffer as ArrayBuffer,
  ...windows.flatMap(({ image, allowed, pending, beside }) =>
    [image.data, allowed, pending, beside?.image.data, beside?.allowed].flatMap((held) =>
      held ? [held.buffer as ArrayBuffer] : [],
    ),
  ),
];
