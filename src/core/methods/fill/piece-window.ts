import { squaredDistance } from '../../area';
import type { PlanePoint } from '../../geometry';
import { type FloatImage, intersect, isEmpty, makeFloatImage } from '../../raster';
import { role } from './frame';
import { guess } from './guess';
import type { Piece, PiecePlan } from './pieces';

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

/** Pixels of later chunks within this distance are filled along, and then filled again in their turn. */
const overlapPx = 10;

/** What each window pixel is to piece k. What comes later is filled along when near, else guessed and not drawn from.
 *  @param earlier  whether the pieces before it are filled already, or still to go as well */
export function rolesOf(
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
export interface SeenWindow {
  /** Its rectangle begins where the window does. */
  readonly image: FloatImage;
  readonly roles: Uint8Array;
  /** Where in the document a pixel of it was. */
  readonly placeOf: (x: number, y: number) => PlanePoint;
}

/** Between a window and what is put beside it nothing is known, also when both are halved some times. */
const gapPx = 32;

export function withBeside(plan: PiecePlan, { image, beside }: FillWindow, roles: Uint8Array): SeenWindow {
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

/** Brings what a piece filled into the window of a later one. */
export function paste(part: FloatImage, plan: PiecePlan, k: number, piece: Piece, into: FloatImage): void {
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
