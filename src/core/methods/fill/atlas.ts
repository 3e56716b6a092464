import { InputError } from '../../errors';
import {
  compose,
  fromUnitSquare,
  type Homography,
  invert,
  type PlanePoint,
  project,
  stepsAt,
} from '../../geometry';
import { type FloatImage, makeFloatImage, type Rect, sampleMean, sampleSharp } from '../../raster';
import { boxOfTargets, type FrameViews, role } from './frame';

/** How sources may be turned about before they are compared. */
export interface Variety {
  /** Also mirrored left to right. */
  readonly mirror: boolean;
  /** Also turned by up to so many degrees either way, 0…180. */
  readonly turnDeg: number;
  /** Also smaller and larger by up to this factor, 1…2. */
  readonly scale: number;
}

/** Beyond this enlargement a source is too soft to be used. */
const mostEnlargement = 1.6;
/** Nearer to each other than this, in ground pixels and in sides of the area's box, two views of a place are not joined. */
const viewsApart = { least: 48, sides: 0.5 };
const mostGroundPixels = 6_000_000;
/** Round the area, in ground pixels. */
const leastGroundRoom = 60;

/** What a piece's pixels are matched in: its window brought to the ground of its plane (or as it is), and below it, in the
 *  same picture, the same ground mirrored, turned or scaled. A source in any of these views is then just a shift away. */
export interface Atlas {
  readonly image: FloatImage;
  readonly roles: Uint8Array;
  /** Rows from one view to the next. */
  readonly stride: number;
  /** Where a point of the atlas lies in the ground. */
  toGround(x: number, y: number): PlanePoint;
  /** From window pixels to ground pixels and back; both count from pixel centres. Null beyond the horizon. */
  groundOf(x: number, y: number): PlanePoint | null;
  windowOf(gx: number, gy: number): PlanePoint | null;
  /** What a step to the right and a step down in the atlas are in the window: x, y, x, y; null beyond the horizon. No function: they
   *  are the same. */
  readonly stepsAt: ((x: number, y: number) => readonly [number, number, number, number] | null) | null;
  readonly isPlain: boolean;
  /** Null: the ground is seen once. */
  readonly views: FrameViews | null;
  readonly ground: { readonly w: number; readonly h: number };
}

/** @param plane   four corners in document pixels, in order round the outline; null: the window itself is the ground
 *  @param levels  how often the atlas will be halved: its views lie as far apart as that takes
 *  @throws InputError `bad-plane` when the corners make no plane or the area reaches its horizon */
export function makeAtlas(
  image: FloatImage,
  roles: Uint8Array,
  plane: readonly PlanePoint[] | null,
  variety: Variety,
): Atlas {
  const ground = plane ? groundOfPlane(image.rect, roles, plane) : groundOfWindow(image);
  const turns = turnsOf(variety);
  const { w, h } = ground;
  if (!plane && turns.length === 1)
    return {
      image,
      roles,
      stride: h,
      toGround: (x, y) => [x, y],
      groundOf: ground.groundOf,
      windowOf: ground.windowOf,
      stepsAt: null,
      isPlain: true,
      views: null,
      ground,
    };
  const base = plane ? resampleGround(image, roles, ground) : { data: image.data, roles };
  const span = 2 ** Math.max(1, Math.ceil(Math.log2(Math.max(w, h) / 16)));
  const stride = turns.length > 1 ? Math.ceil((h + span) / span) * span : h;
  const height = stride * (turns.length - 1) + h;
  const atlas = makeFloatImage({ x: 0, y: 0, w, h: height });
  const atlasRoles = new Uint8Array(w * height);
  atlas.data.set(base.data);
  atlasRoles.set(base.roles);
  const middle = middleOf(base.roles, w);
  const affine = turns.map((t) => affineOf(t, t.mirrored ? [(w - 1) / 2, middle[1]] : middle));
  const groundImage: FloatImage = { rect: { x: 0, y: 0, w, h }, data: base.data };
  const known = knownOf(base.roles);
  for (let k = 1; k < turns.length; k++)
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const [gx, gy] = affine[k](x, y);
        const i = (k * stride + y) * w + x;
        atlasRoles[i] = viewRole(base.roles, w, h, gx, gy);
        if (atlasRoles[i] !== role.void) sampleSharp(groundImage, gx, gy, known, atlas.data, 4 * i);
      }
  const viewAt = (y: number) => Math.min(turns.length - 1, Math.max(0, Math.floor((y + 0.5) / stride)));
  const toGround = (x: number, y: number) => affine[viewAt(y)](x, y - viewAt(y) * stride);
  return {
    image: atlas,
    roles: atlasRoles,
    stride,
    toGround,
    stepsAt: plane ? (x, y) => stepsBetween(ground.windowOf, toGround, x, y) : null,
    groundOf: ground.groundOf,
    windowOf: ground.windowOf,
    isPlain: false,
    views: turns.length > 1 ? viewsOf(w, height, stride, toGround, base.roles) : null,
    ground,
  };
}

function stepsBetween(
  windowOf: Ground['windowOf'],
  toGround: Atlas['toGround'],
  x: number,
  y: number,
): [number, number, number, number] | null {
  const here = windowOf(...toGround(x, y));
  const right = windowOf(...toGround(x + 1, y));
  const below = windowOf(...toGround(x, y + 1));
  return here && right && below
    ? [right[0] - here[0], right[1] - here[1], below[0] - here[0], below[1] - here[1]]
    : null;
}

function viewsOf(
  w: number,
  h: number,
  stride: number,
  toGround: (x: number, y: number) => PlanePoint,
  roles: Uint8Array,
): FrameViews {
  const [gx, gy] = [new Float32Array(w * h), new Float32Array(w * h)];
  for (let y = 0, i = 0; y < h; y++) for (let x = 0; x < w; x++, i++) [gx[i], gy[i]] = toGround(x, y);
  const box = boxOfTargets(roles, w);
  const apart = Math.max(viewsApart.least, viewsApart.sides * Math.max(box.w, box.h));
  return { x: gx, y: gy, stride, apart };
}

interface Ground {
  readonly w: number;
  readonly h: number;
  groundOf(x: number, y: number): PlanePoint | null;
  windowOf(gx: number, gy: number): PlanePoint | null;
  /** Window pixels that one ground pixel covers along a side; null beyond the horizon. */
  stepAt(gx: number, gy: number): number | null;
}

const groundOfWindow = ({ rect }: FloatImage): Ground => ({
  w: rect.w,
  h: rect.h,
  groundOf: (x, y) => [x, y],
  windowOf: (gx, gy) => [gx, gy],
  stepAt: () => 1,
});

/** The plane seen squarely, one ground pixel to the photo's pixel in the middle of the area; round that, as much as the window
 *  shows and memory holds. @throws InputError `bad-plane` */
export function groundOfPlane(rect: Rect, roles: Uint8Array, plane: readonly PlanePoint[]): Ground {
  const corners = plane.map(([x, y]) => [x - rect.x - 0.5, y - rect.y - 0.5] as const);
  const toWindow = fromUnitSquare(corners);
  if (!toWindow)
    throw new InputError(
      'bad-plane',
      'These four corners make no plane. Drag them to an outline without a dent.',
    );
  const box = boxOfTargets(roles, rect.w);
  const toUnit = invert(toWindow);
  const [mx, my] = [box.x + box.w / 2, box.y + box.h / 2];
  const ends = [
    [mx, my],
    [box.x, box.y],
    [box.x + box.w, box.y],
    [box.x, box.y + box.h],
    [box.x + box.w, box.y + box.h],
  ].map(([x, y]) => project(toUnit, x, y));
  const beyond = new InputError(
    'bad-plane',
    'The area reaches the plane’s horizon, where nothing can be laid flat. Mark less, or move the plane’s corners.',
  );
  if (ends.some((p) => !p)) throw beyond;
  const steps = stepsAt(toWindow, ends[0]![0], ends[0]![1])!;
  const [su, sv] = [Math.hypot(...steps.across), Math.hypot(...steps.down)];
  const us = ends.map((p) => p![0] * su);
  const vs = ends.map((p) => p![1] * sv);
  const [u0, u1, v0, v1] = [Math.min(...us), Math.max(...us), Math.min(...vs), Math.max(...vs)];
  const wanted = Math.max(leastGroundRoom, (Math.max(rect.w - box.w, rect.h - box.h) / 2) * 1.5);
  const room = Math.min(wanted, roomWithin(u1 - u0, v1 - v0, mostGroundPixels));
  if (!(room >= leastGroundRoom)) throw beyond;
  const w = Math.floor(u1 - u0 + 2 * room);
  const h = Math.floor(v1 - v0 + 2 * room);
  const shift: Homography = [1 / su, 0, (u0 - room) / su, 0, 1 / sv, (v0 - room) / sv, 0, 0, 1];
  const groundToWindow = compose(toWindow, shift);
  const windowToGround = invert(groundToWindow);
  return {
    w,
    h,
    groundOf: (x, y) => project(windowToGround, x, y),
    windowOf: (gx, gy) => project(groundToWindow, gx, gy),
    stepAt: (gx, gy) => {
      const s = stepsAt(groundToWindow, gx, gy);
      return s && Math.sqrt(Math.abs(s.across[0] * s.down[1] - s.across[1] * s.down[0]));
    },
  };
}

/** How much may be added on all sides of a w × h rectangle until it has so many pixels; negative when it has more. */
const roomWithin = (w: number, h: number, pixels: number): number =>
  (Math.sqrt((w - h) ** 2 + 4 * pixels) - w - h) / 4;

/** What colours may be mixed from: what is to go must not tint what lies next to it. */
const knownOf = (roles: Uint8Array): Uint8Array =>
  roles.map((r) => (r === role.target || r === role.void ? 0 : 1));

function resampleGround(image: FloatImage, roles: Uint8Array, ground: Ground) {
  const { w, h } = ground;
  const { rect } = image;
  const data = new Float32Array(w * h * 4);
  const out = new Uint8Array(w * h);
  const known = knownOf(roles);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const p = ground.windowOf(x, y);
      const step = p && ground.stepAt(x, y);
      if (!p || !step) continue;
      out[i] = footprintRole(roles, rect.w, rect.h, p[0], p[1], step);
      if (out[i] === role.void) continue;
      sampleMean(image, p[0], p[1], step, known, data, 4 * i);
      if (out[i] === role.source && step < 1 / mostEnlargement) out[i] = role.context;
    }
  for (let y = 0; y < rect.h; y++)
    for (let x = 0; x < rect.w; x++) {
      if (roles[y * rect.w + x] !== role.target) continue;
      const g = ground.groundOf(x, y)!;
      out[Math.round(g[1]) * w + Math.round(g[0])] = role.target;
    }
  return { data, roles: out };
}

/** What a ground pixel is, whose footprint in the window has this middle and side: target where any of it is, source
 *  only where all of it and a pixel more may be drawn from. */
function footprintRole(roles: Uint8Array, w: number, h: number, x: number, y: number, step: number): number {
  if (x < 0 || y < 0 || x > w - 1 || y > h - 1) return role.void;
  const core = Math.max(0.5, step / 2);
  let isSource = true;
  let isContext = true;
  const reach = core + 1;
  for (let v = Math.floor(y - reach + 0.5); v <= Math.floor(y + reach + 0.5); v++)
    for (let u = Math.floor(x - reach + 0.5); u <= Math.floor(x + reach + 0.5); u++) {
      if (u < 0 || v < 0 || u >= w || v >= h) {
        isSource = false;
        continue;
      }
      const r = roles[v * w + u];
      const inCore = Math.abs(u - x) <= core && Math.abs(v - y) <= core;
      if (r === role.target && inCore) return role.target;
      if (r !== role.source) isSource = false;
      if (r === role.void && inCore) isContext = false;
    }
  return isSource ? role.source : isContext ? role.context : role.void;
}

/** In a turned view nothing is filled: a pixel may be drawn from when the four round it may. */
function viewRole(roles: Uint8Array, w: number, h: number, x: number, y: number): number {
  const [x0, y0] = [Math.floor(x + 1e-4), Math.floor(y + 1e-4)];
  const [x1, y1] = [Math.ceil(x - 1e-4), Math.ceil(y - 1e-4)];
  if (x0 < 0 || y0 < 0 || x1 >= w || y1 >= h) return role.void;
  let least: number = role.source;
  for (const p of [y0 * w + x0, y0 * w + x1, y1 * w + x0, y1 * w + x1]) {
    const r = roles[p] === role.target ? role.void : roles[p];
    least = Math.min(least, r);
  }
  return least;
}

interface Turn {
  readonly mirrored: boolean;
  readonly angle: number;
  readonly scale: number;
}

function turnsOf({ mirror, turnDeg, scale }: Variety): Turn[] {
  const turns: Turn[] = [{ mirrored: false, angle: 0, scale: 1 }];
  if (mirror) turns.push({ mirrored: true, angle: 0, scale: 1 });
  const angles = turnDeg <= 0 ? [] : turnDeg > 20 ? [turnDeg, turnDeg / 2] : [turnDeg];
  for (const a of angles)
    for (const side of a < 180 ? [1, -1] : [1])
      turns.push({ mirrored: false, angle: (side * a * Math.PI) / 180, scale: 1 });
  if (scale > 1) for (const s of [scale, 1 / scale]) turns.push({ mirrored: false, angle: 0, scale: s });
  return turns;
}

/** From a view's pixels to the ground's, about a point that stays where it is. */
function affineOf(turn: Turn, [mx, my]: PlanePoint): (x: number, y: number) => PlanePoint {
  const c = Math.cos(turn.angle) / turn.scale;
  const s = Math.sin(turn.angle) / turn.scale;
  const m = turn.mirrored ? -1 : 1;
  const isRound = turn.scale === 1 && turn.angle === 0;
  return (x, y) => {
    const [dx, dy] = [m * (x - mx), y - my];
    return isRound ? [mx + dx, y] : [mx + c * dx - s * dy, my + s * dx + c * dy];
  };
}

function middleOf(roles: Uint8Array, w: number): PlanePoint {
  const box = boxOfTargets(roles, w);
  return [box.x + box.w / 2, box.y + box.h / 2];
}
