import { squaredDistance } from '../../area';
import { InputError } from '../../errors';
import type { PlanePoint } from '../../geometry';
import type { GuideLine, Rail } from '../../job/types';
import { makeRandom } from '../../random';
import {
  type FloatImage,
  intersect,
  isEmpty,
  makeFloatImage,
  type Rect,
  sampleFootprint,
} from '../../raster';
import { type Atlas, makeAtlas, type Variety } from './atlas';
import { bentCopies } from './bends/bent-copies';
import { correctionField } from './correction';
import { type CoarseAnswer, FirstAnswer } from './first-answer';
import { followGrain } from './follow-grain';
import { countOf, nothingToDrawFrom, role } from './frame';
import { guess } from './guess';
import { matchDetail } from './match-detail';
import type { Piece, PiecePlan } from './pieces';
import { makeRules } from './rules';
import type { Shift, ShiftMap } from './seam-cut';
import { sketchOf } from './sketch';
import { solveShifts } from './solve';
import type { Different } from './strangers';

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
}

export const unsteered: FillSteering = {
  plane: null,
  rail: null,
  lines: [],
  variety: { mirror: false, turnDeg: 0, scale: 1 },
  leavesOut: 'clearly',
  keepsLayers: true,
};

/** The photo round one piece. */
export interface FillWindow {
  /** Pixels of the area are not drawn from: a large fill looks at what is to go only to know others of its kind. */
  readonly image: FloatImage;
  /** image.rect in size; 0 = must not be drawn from. Null: everything may. */
  readonly allowed: Uint8Array | null;
  /** image.rect in size; 1 = not of this fill, but still to go, or another thing that is to be left out: neither drawn from nor
   *  continued. Null: nothing is. */
  readonly pending: Uint8Array | null;
  /** What may be drawn from farther off; null: nothing. */
  readonly beside: Pick<FillWindow, 'image' | 'allowed'> | null;
}

export interface FillInput {
  readonly plan: PiecePlan;
  /** One for each piece of the plan. */
  readonly windows: readonly FillWindow[];
  readonly steering: FillSteering;
  readonly seed: number;
}

export interface FilledPart {
  /** The piece's box: filled pixels where the piece owns them, transparent black elsewhere. */
  readonly image: FloatImage;
  /** Two numbers a pixel: the document position that it was taken from, NaN where nothing was filled. */
  readonly origin: Float32Array;
}

export type FillStage = 'reading' | 'searching' | 'joining' | 'blending';

export type FillProgress = (stage: FillStage, share: number, coarse?: CoarseAnswer) => void;

/** From how many pixels on a part is worth showing before the others are finished. */
const worthShowingPx = 30_000;
/** From so many on a piece takes so long that it is sketched first. */
const worthSketchingPx = 100_000;
/** There is not enough to draw from where so many targets come on a source pixel. */
const mostServed = 10;
/** Pixels of later chunks within this distance are filled along, and then filled again in their turn. */
const overlapPx = 10;

/** Continues the surroundings into an area, so that nobody can tell.
 *
 *  Coarse to fine: an onion-peel start, then rounds of patch search and weighted votes (Wexler, Shechtman & Irani 2007;
 *  Barnes et al. 2009; texture features after Newson et al. 2014). The votes only guide: the pixels themselves are
 *  copied in coherent parts whose shifts a graph cut chooses (He & Sun 2012; Kwatra et al. 2003), bent by a few pixels
 *  where lines would miss each other at joins ({@link bentCopies}), and joined by a Poisson correction; {@link followGrain}
 *  lets the pixels at joins know of each other. So grain and sharpness are those of the surroundings; {@link matchDetail}
 *  makes up for most of what is left. What is large keeps to the layers that the picture lies in (withLayout), is copied
 *  in larger parts (firstCut), and takes nothing from others of the kind of what is to go
 *  (itsKindIn). With a plane, search and cut work on the plane seen squarely, and each pixel is resampled once, from the photo.
 *
 *  @returns one part for each piece of the plan
 *  @throws InputError `empty-area`; `no-source` when there is not enough to draw from; `bad-plane`
 *  Degenerate: a hole of one pixel, at the edge or in several parts works. Same input and seed, same result, anywhere.
 *  Cost grows with the area and the windows round it, not with the photo.
 */
export function computeFill(input: FillInput, onProgress: FillProgress = () => {}): FilledPart[] {
  const { plan, windows, steering, seed } = input;
  if (plan.pieces.length === 0)
    throw new InputError('empty-area', 'The area is empty: there is nothing to fill.');
  onProgress('reading', 0);
  const count = plan.pieces.length;
  // What one piece fills is written into the windows of the next: the caller's stay as they are.
  const images = windows.map(({ image }) =>
    count === 1 ? image : { rect: image.rect, data: image.data.slice() },
  );
  const parts: FilledPart[] = [];
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
): FilledPart {
  const roles = rolesOf(plan, k, window);
  const seen = withBeside(plan, window, roles);
  if (isTooLittle(seen.roles)) throw nothingToDrawFrom({ rules: null });
  const { image } = seen;
  const atlas = makeAtlas(image, seen.roles, steering.plane, steering.variety);
  const { box, isThin } = plan.pieces[k];
  onProgress('searching', 0);
  const solve = (edges: 'drawn' | 'seen too') =>
    solveShifts(atlas.image, atlas.roles, makeRandom(seed), {
      isThin,
      leavesOut: steering.leavesOut,
      keepsLayers: steering.keepsLayers,
      stepsAt: atlas.stepsAt,
      views: atlas.views,
      // What was put beside the window lies in another direction than it seems.
      rules: makeRules(atlas, image.rect, steering, window.beside ? 'drawn' : edges),
      onProgress,
    });
  const solved = solveWithEdges(solve);
  onProgress('blending', 0);
  // A rail says from where each pixel may come: to the pixel.
  const copies = atlas.isPlain && !steering.rail ? bentCopies(atlas.image, atlas.roles, solved) : null;
  const { image: drawn, roles: drawnRoles, map } = copies ?? { ...atlas, map: solved };
  const field = correctionField(drawn, drawnRoles, map);
  followGrain(drawn, drawnRoles, map, field);
  const placeOf = (x: number, y: number) => seen.placeOf(...(copies?.originOf(x, y) ?? [x, y]));
  const shown = copies ? { image: drawn, roles: drawnRoles, placeOf } : seen;
  const part = render(plan, k, shown, atlas, map, field);
  const filled = new Uint8Array(box.w * box.h);
  for (let i = 0; i < filled.length; i++) if (!Number.isNaN(part.origin[2 * i])) filled[i] = 1;
  matchDetail(window.image, roles, part.image, filled);
  onProgress('blending', 1);
  return part;
}

/** Whether each source pixel would have to serve so often that what comes out could only look made up. */
function isTooLittle(roles: Uint8Array): boolean {
  return mostServed * countOf(roles, role.source) < countOf(roles, role.target);
}

function sourcesOf(roles: Uint8Array): Uint8Array {
  const out = new Uint8Array(roles.length);
  for (let i = 0; i < out.length; i++) if (roles[i] === role.source) out[i] = 1;
  return out;
}

/** Edges that were only seen must not stand in the way: where nothing can be drawn from along them, they do not count. */
function solveWithEdges(solve: (edges: 'drawn' | 'seen too') => ShiftMap): ShiftMap {
  try {
    return solve('seen too');
  } catch (error) {
    if (!(error instanceof InputError) || error.code !== 'no-source') throw error;
    return solve('drawn');
  }
}

/** What each window pixel is to piece k. What comes later is filled along when near, else guessed and not drawn from.
 *  @param earlier  whether the pieces before it are filled already, or still to go as well */
function rolesOf(
  plan: PiecePlan,
  k: number,
  window: FillWindow,
  earlier: 'filled' | 'to go' = 'filled',
): Uint8Array {
  const { image, allowed } = window;
  const { rect } = image;
  const roles = new Uint8Array(rect.w * rect.h).fill(role.source);
  if (allowed) for (let i = 0; i < roles.length; i++) if (!allowed[i]) roles[i] = role.context;
  const own = new Uint8Array(roles.length);
  const toFill = new Uint8Array(roles.length);
  const pending: number[] = [];
  const common = intersect(rect, plan.box);
  for (let y = common.y; y < common.y + common.h; y++)
    for (let x = common.x; x < common.x + common.w; x++) {
      const owner = plan.owner[(y - plan.box.y) * plan.box.w + x - plan.box.x];
      if (owner < 0) continue;
      const i = (y - rect.y) * rect.w + x - rect.x;
      roles[i] = role.context;
      toFill[i] = 1;
      if (owner === k) {
        own[i] = 1;
        roles[i] = role.target;
      } else if (owner > k || earlier === 'to go') pending.push(i);
    }
  if (window.pending)
    for (let i = 0; i < roles.length; i++) {
      if (!window.pending[i] || toFill[i]) continue;
      roles[i] = role.context;
      pending.push(i);
    }
  if (pending.length === 0) return roles;
  const near = squaredDistance(own, rect.w, rect.h);
  const far: number[] = [];
  for (const i of pending) {
    if (near[i] <= overlapPx ** 2) roles[i] = role.target;
    else far.push(i);
  }
  guess(image, roles, far);
  return roles;
}

/** What a piece is filled from: its window, and to the right of it what may be drawn from farther off. */
interface SeenWindow {
  /** Its rectangle begins where the window does. */
  readonly image: FloatImage;
  readonly roles: Uint8Array;
  /** Where in the document a pixel of it was. */
  readonly placeOf: (x: number, y: number) => PlanePoint;
}

/** Between a window and what is put beside it nothing is known, also when both are halved some times. */
const gapPx = 32;

function withBeside(plan: PiecePlan, { image, beside }: FillWindow, roles: Uint8Array): SeenWindow {
  const { rect } = image;
  if (!beside) return { image, roles, placeOf: (x, y) => [x + rect.x, y + rect.y] };
  const { rect: other } = beside.image;
  const left = rect.w + gapPx;
  const [w, h] = [left + other.w, Math.max(rect.h, other.h)];
  const out = makeFloatImage({ x: rect.x, y: rect.y, w, h });
  const all = new Uint8Array(w * h).fill(role.void);
  for (let y = 0; y < rect.h; y++) {
    out.data.set(image.data.subarray(4 * y * rect.w, 4 * (y + 1) * rect.w), 4 * y * w);
    all.set(roles.subarray(y * rect.w, (y + 1) * rect.w), y * w);
  }
  const { box, owner } = plan;
  const isMarked = (x: number, y: number) =>
    x >= 0 && y >= 0 && x < box.w && y < box.h && owner[y * box.w + x] >= 0;
  for (let y = 0, i = 0; y < other.h; y++) {
    out.data.set(beside.image.data.subarray(4 * y * other.w, 4 * (y + 1) * other.w), 4 * (y * w + left));
    for (let x = 0; x < other.w; x++, i++)
      if (beside.allowed?.[i] !== 0 && !isMarked(other.x + x - box.x, other.y + y - box.y))
        all[y * w + left + x] = role.source;
  }
  const placeOf = (x: number, y: number): PlanePoint =>
    x < left - 1 ? [x + rect.x, y + rect.y] : [x - left + other.x, y + other.y];
  return { image: out, roles: all, placeOf };
}

function render(
  plan: PiecePlan,
  k: number,
  { image, roles, placeOf }: SeenWindow,
  atlas: Atlas,
  map: ShiftMap,
  field: Float32Array,
): FilledPart {
  const { box } = plan.pieces[k];
  const { rect } = image;
  const { w } = atlas.ground;
  const out = makeFloatImage(box);
  const origin = new Float32Array(box.w * box.h * 2).fill(Number.NaN);
  const usable = atlas.isPlain ? null : sourcesOf(roles);
  const tone = new Float32Array(4);
  for (let y = 0; y < box.h; y++)
    for (let x = 0; x < box.w; x++) {
      if (plan.owner[(box.y + y - plan.box.y) * plan.box.w + box.x + x - plan.box.x] !== k) continue;
      const i = y * box.w + x;
      const [wx, wy] = [box.x + x - rect.x, box.y + y - rect.y];
      let [sx, sy] = [0, 0];
      if (usable) {
        const [gx, gy] = atlas.groundOf(wx, wy)!;
        const shift = map.shifts[map.label[Math.round(gy) * w + Math.round(gx)]];
        [sx, sy] = sourceOf(atlas, shift, wx, wy)!;
        const [right, below] = [sourceOf(atlas, shift, wx + 1, wy), sourceOf(atlas, shift, wx, wy + 1)];
        const across = right ? ([right[0] - sx, right[1] - sy] as const) : onePixel.across;
        const down = below ? ([below[0] - sx, below[1] - sy] as const) : onePixel.down;
        fieldAt(field, map, w, gx, gy, tone);
        sampleFootprint(image, sx, sy, across, down, usable, out.data, 4 * i);
      } else {
        const p = wy * w + wx;
        const { dx, dy } = map.shifts[map.label[p]];
        sx = wx + dx;
        sy = wy + dy;
        const from = 4 * (p + dy * w + dx);
        for (let c = 0; c < 4; c++) {
          tone[c] = field[4 * p + c];
          out.data[4 * i + c] = image.data[from + c];
        }
      }
      const alpha = out.data[4 * i + 3];
      for (let c = 4 * i; c < 4 * i + 3; c++)
        out.data[c] = Math.max(0, Math.min(alpha, out.data[c] + tone[c - 4 * i]));
      origin.set(placeOf(Math.round(sx), Math.round(sy)), 2 * i);
    }
  return { image: out, origin };
}

const onePixel = { across: [1, 0], down: [0, 1] } as const;

/** Where in the window a shift takes a window pixel from; null beyond the horizon. */
function sourceOf(atlas: Atlas, { dx, dy }: Shift, x: number, y: number): PlanePoint | null {
  const ground = atlas.groundOf(x, y);
  return ground && atlas.windowOf(...atlas.toGround(ground[0] + dx, ground[1] + dy));
}

/** The tone that belongs to a place between pixels of the ground: the mean of those of the four round it that have one. */
function fieldAt(
  field: Float32Array,
  { label }: ShiftMap,
  w: number,
  x: number,
  y: number,
  out: Float32Array,
): void {
  const [x0, y0] = [Math.floor(x), Math.floor(y)];
  out.fill(0);
  let all = 0;
  for (let v = y0; v <= y0 + 1; v++)
    for (let u = x0; u <= x0 + 1; u++) {
      const p = v * w + u;
      const weight = (1 - Math.abs(x - u)) * (1 - Math.abs(y - v));
      if (weight === 0 || !(label[p] >= 0)) continue;
      all += weight;
      for (let c = 0; c < 4; c++) out[c] += weight * field[4 * p + c];
    }
  if (all > 0) for (let c = 0; c < 4; c++) out[c] /= all;
}

/** Brings what a piece filled into the window of a later one. */
function paste(part: FloatImage, plan: PiecePlan, k: number, piece: Piece, into: FloatImage): void {
  const common = intersect(piece.box, into.rect);
  if (isEmpty(common)) return;
  for (let y = common.y; y < common.y + common.h; y++)
    for (let x = common.x; x < common.x + common.w; x++) {
      if (plan.owner[(y - plan.box.y) * plan.box.w + x - plan.box.x] !== k) continue;
      const from = 4 * ((y - piece.box.y) * piece.box.w + x - piece.box.x);
      into.data.set(
        part.data.subarray(from, from + 4),
        4 * ((y - into.rect.y) * into.rect.w + x - into.rect.x),
      );
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
