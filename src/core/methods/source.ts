import { boundsOfArea } from '../area';
import { InputError } from '../errors';
import { compose, fromUnitSquare, type Homography, invert, type PlanePoint, project } from '../geometry';
import type { Mend, SourceShift } from '../job/types';
import { instantiateKernel, resampleWasm } from '../kernels';
import {
  copyFloat,
  emptyRect,
  type FloatImage,
  grow,
  intersect,
  isEmpty,
  lanczosTables,
  makeFloatImage,
  mostLobes,
  type Rect,
  shift,
} from '../raster';
import type { MethodContext } from './definition';

/** Where a mend's pixels are taken from: a whole-pixel shift, or a projective map from target to source positions in
 *  document pixels (the centre of pixel (x, y) lies at +0.5). */
export type Placement =
  | { readonly kind: 'shift'; readonly dx: number; readonly dy: number }
  | { readonly kind: 'map'; readonly map: Homography };

/** The target point that a source's shift carries. */
export function aboutOf(mend: Pick<Mend, 'area' | 'source'>): PlanePoint {
  if (mend.source?.about) return mend.source.about;
  const box = boundsOfArea(mend.area);
  return [box.x + box.w / 2, box.y + box.h / 2];
}

/** @throws InputError `bad-plane` when the corners make no plane, or target or source lie beyond its horizon */
export function placementOf(mend: Mend): Placement {
  const { dx, dy, turnDeg = 0, scale = 1, mirror = false } = mend.source ?? { dx: 0, dy: 0 };
  const { plane } = mend.steer;
  if (!plane && turnDeg === 0 && scale === 1 && !mirror) return { kind: 'shift', dx, dy };
  const [ax, ay] = aboutOf(mend);
  if (!plane) return { kind: 'map', map: laidFrom([ax, ay], [ax + dx, ay + dy], turnDeg, scale, mirror) };
  const square = fromUnitSquare(plane);
  if (!square) throw new InputError('bad-plane', 'The four corners do not make a plane: drag them apart.');
  const flat = compose(metric(plane), invert(square));
  const [from, to] = [project(flat, ax, ay), project(flat, ax + dx, ay + dy)];
  if (!from || !to)
    throw new InputError('bad-plane', 'The area or its source lies beyond the horizon of the plane.');
  const within = laidFrom(from, to, turnDeg, scale, mirror);
  return { kind: 'map', map: compose(invert(flat), compose(within, flat)) };
}

/** Unit square to about the size at which the plane is seen, so that turning keeps angles as well as can be. */
function metric(plane: readonly PlanePoint[]): Homography {
  const side = (i: number, j: number) => Math.hypot(plane[i][0] - plane[j][0], plane[i][1] - plane[j][1]);
  const [w, h] = [(side(0, 1) + side(3, 2)) / 2, (side(0, 3) + side(1, 2)) / 2];
  return [w, 0, 0, 0, h, 0, 0, 0, 1];
}

/** The similarity that carries `from` to `to`, so that what is there appears turned, scaled and mirrored at `from`. */
function laidFrom(
  from: PlanePoint,
  to: PlanePoint,
  turnDeg: number,
  scale: number,
  mirror: boolean,
): Homography {
  const angle = (turnDeg * Math.PI) / 180;
  const [c, s] = [Math.cos(angle) / scale, Math.sin(angle) / scale];
  const flip = mirror ? -1 : 1;
  const [a, b, d, e] = [flip * c, flip * s, -s, c];
  return [a, b, to[0] - a * from[0] - b * from[1], d, e, to[1] - d * from[0] - e * from[1], 0, 0, 1];
}

/** The pixels that are read to fill a rectangle from a mend's source. */
export function sourceRect(mend: Mend, output: Rect, bounds: Rect): Rect {
  let placement: Placement;
  try {
    placement = placementOf(mend);
  } catch (error) {
    if (error instanceof InputError) return emptyRect;
    throw error;
  }
  if (placement.kind === 'shift') return intersect(shift(output, placement.dx, placement.dy), bounds);
  const corners = mappedCorners(placement.map, output);
  // Part of the rectangle lies beyond the horizon: the rest may come from anywhere.
  if (corners.some((p) => p === null)) return bounds;
  const [xs, ys] = [corners.map((p) => p![0]), corners.map((p) => p![1])];
  const [x0, y0] = [Math.floor(Math.min(...xs)), Math.floor(Math.min(...ys))];
  const [x1, y1] = [Math.ceil(Math.max(...xs)), Math.ceil(Math.max(...ys))];
  return intersect(grow({ x: x0, y: y0, w: x1 - x0, h: y1 - y0 }, mostLobes + 1), bounds);
}

/** Where the corners of a rectangle are taken from, in order round it; null beyond the horizon. */
const mappedCorners = (map: Homography, { x, y, w, h }: Rect) =>
  [
    [x, y],
    [x + w, y],
    [x + w, y + h],
    [x, y + h],
  ].map(([u, v]) => project(map, u, v));

/** How many times as large as it is a mend's source is laid on within a rectangle, on average; null where there is no telling: the
 *  plane is none, or it reaches beyond the horizon. */
export function enlargement(mend: Mend, output: Rect): number | null {
  let placement: Placement;
  try {
    placement = placementOf(mend);
  } catch (error) {
    if (error instanceof InputError) return null;
    throw error;
  }
  if (placement.kind === 'shift') return 1;
  const corners = mappedCorners(placement.map, output);
  let doubledArea = 0;
  for (let k = 0; k < 4; k++) {
    const [a, b] = [corners[k], corners[(k + 1) % 4]];
    if (!a || !b) return null;
    doubledArea += a[0] * b[1] - a[1] * b[0];
  }
  return Math.sqrt((2 * output.w * output.h) / Math.abs(doubledArea));
}

/** What was taken for a rectangle. */
export interface Taken {
  /** Transparent black where the source lies beyond the photo. */
  readonly image: FloatImage;
  /** 1 where something was taken; null: everywhere. */
  readonly valid: Uint8Array | null;
}

/** A mend's source brought to the target. A shift copies exactly; every other map resamples once, with six lobes, and
 *  over the footprint where the source is the larger: neither blurred nor ringing.
 *  @throws InputError `bad-plane` */
export function takeSource(mend: Mend, output: Rect, context: MethodContext): Taken {
  const placement = placementOf(mend);
  if (placement.kind === 'shift') return takeShifted(output, placement, context);
  const from = sourceRect(mend, output, context.bounds);
  const image = makeFloatImage(output);
  const valid = new Uint8Array(output.w * output.h);
  if (!isEmpty(from)) takeMapped(placement.map, context.read(from), context.bounds, image, valid);
  return { image, valid: valid.includes(0) ? valid : null };
}

/** The source's pixels brought to the target by a whole-pixel shift, copied exactly. */
export function takeShifted(output: Rect, { dx, dy }: SourceShift, context: MethodContext): Taken {
  const from = intersect(shift(output, dx, dy), context.bounds);
  if (isEmpty(from)) return { image: makeFloatImage(output), valid: new Uint8Array(output.w * output.h) };
  const moved: FloatImage = { rect: shift(from, -dx, -dy), data: context.read(from).data };
  if (from.w === output.w && from.h === output.h) return { image: moved, valid: null };
  const image = makeFloatImage(output);
  copyFloat(moved, image);
  const valid = new Uint8Array(output.w * output.h);
  for (let y = moved.rect.y; y < moved.rect.y + moved.rect.h; y++) {
    const i = (y - output.y) * output.w + moved.rect.x - output.x;
    valid.fill(1, i, i + moved.rect.w);
  }
  return { image, valid };
}

interface Kernel {
  release(): void;
  claim(bytes: number): number;
  begin(source: number, w: number, h: number, t3: number, t6: number): void;
  takeMapped(
    map: number,
    sx: number,
    sy: number,
    bx: number,
    by: number,
    bw: number,
    bh: number,
    ox: number,
    oy: number,
    ow: number,
    oh: number,
    out: number,
    valid: number,
  ): void;
}

let kernel: (Kernel & { memory: WebAssembly.Memory }) | null = null;

/** WebAssembly memory never shrinks, so an instance that grew beyond this is let go. */
const keepBytes = 96 << 20;

/** Resamples `source` through a map from target to source positions: {@link sampleSharp} with six lobes, and with three
 *  averaged over the target pixel's footprint where that is larger than a pixel of the source.
 *  @param bounds  a pixel whose centre comes from beyond them is left transparent and marked 0 in `valid`
 *  @throws RangeError when memory is short */
export function takeMapped(
  map: Homography,
  source: FloatImage,
  bounds: Rect,
  image: FloatImage,
  valid: Uint8Array,
): void {
  kernel ??= instantiateKernel<Kernel>(resampleWasm);
  const k = kernel;
  k.release();
  const claim = (bytes: number) => {
    const at = k.claim(bytes);
    if (at === 0) throw new RangeError('Resampling ran out of memory.');
    return at;
  };
  const [src, out] = [claim(source.data.byteLength), claim(image.data.byteLength)];
  const [isValid, mapAt] = [claim(valid.length), claim(72)];
  const [t3, t6] = [lanczosTables[3], lanczosTables[6]].map((table) => {
    const at = claim(table.byteLength);
    new Float32Array(k.memory.buffer, at, table.length).set(table);
    return at;
  });
  new Float32Array(k.memory.buffer, src, source.data.length).set(source.data);
  new Float32Array(k.memory.buffer, out, image.data.length).set(image.data);
  new Uint8Array(k.memory.buffer, isValid, valid.length).fill(0);
  new Float64Array(k.memory.buffer, mapAt, 9).set(map);
  k.begin(src, source.rect.w, source.rect.h, t3, t6);
  const { rect: o } = image;
  k.takeMapped(
    mapAt,
    source.rect.x,
    source.rect.y,
    bounds.x,
    bounds.y,
    bounds.w,
    bounds.h,
    o.x,
    o.y,
    o.w,
    o.h,
    out,
    isValid,
  );
  image.data.set(new Float32Array(k.memory.buffer, out, image.data.length));
  valid.set(new Uint8Array(k.memory.buffer, isValid, valid.length));
  if (k.memory.buffer.byteLength > keepBytes) kernel = null;
}

/** Coverage with everything taken away where nothing was taken: nothing can be laid where there is nothing to take. */
export function coverWhere(coverage: Float32Array, valid: Uint8Array | null): Float32Array {
  return valid ? coverage.map((v, i) => (valid[i] ? v : 0)) : coverage;
}
