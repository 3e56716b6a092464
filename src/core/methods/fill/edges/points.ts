import { squaredDistance } from '../../../area';
import { edgesWasm, keptKernel } from '../../../kernels';
import type { FloatImage, Rect } from '../../../raster';
import { select } from '../../../statistics';
import type { Seen } from './contrast';

/** One gradient of so many tells how strong they are in the middle. */
const sampledEvery = 5;

export interface EdgePoints {
  readonly x: Float64Array;
  readonly y: Float64Array;
  /** Direction of the gradient, −π…π. */
  readonly angle: Float64Array;
}

/** A part of the picture, made smaller. */
export interface Small {
  readonly w: number;
  readonly h: number;
  readonly known: Uint8Array;
  readonly hole: Uint8Array;
}

/** Part of the picture by means of scale × scale pixels, and in it the ridges of the gradient within reach of the hole that are clearly
 *  above what texture and grain give there. */
export function edgesOf(
  image: FloatImage,
  roles: Uint8Array,
  part: Rect,
  scale: number,
  reach: number,
): { small: Small; points: EdgePoints } {
  const [w, h] = [Math.floor(part.w / scale), Math.floor(part.h / scale)];
  const n = w * h;
  const { k, buffer, imageAt, rolesAt, others } = handOver(image, roles, part, [
    4 * n,
    n,
    n,
    4 * n,
    4 * n,
    4 * n,
    4 * n,
    4 * n,
    32 * n,
  ]);
  const [lumaAt, knownAt, holeAt, distanceAt, gxAt, gyAt, sizeAt, someAt, pointsAt] = others;
  k.reduce(imageAt, rolesAt, part.w, scale, w, h, lumaAt, knownAt, holeAt);
  const hole = new Uint8Array(buffer, holeAt, n).slice();
  const known = new Uint8Array(buffer, knownAt, n).slice();
  new Float32Array(buffer, distanceAt, n).set(squaredDistance(hole, w, h));
  const farthest = (reach + 2) ** 2;
  const sampled = k.gradients(
    lumaAt,
    knownAt,
    distanceAt,
    w,
    h,
    farthest,
    sampledEvery,
    gxAt,
    gyAt,
    sizeAt,
    someAt,
  );
  const sizes = new Float32Array(buffer, someAt, sampled);
  const least = Math.max(3, 1.6 * (sampled > 0 ? select(sizes, sampled, sampled >> 1) : 0));
  const count = k.ridges(w, h, least, gxAt, gyAt, sizeAt, pointsAt);
  const found = new Float64Array(buffer, pointsAt, 4 * count);
  const points = {
    x: Float64Array.from({ length: count }, (_, p) => found[4 * p]),
    y: Float64Array.from({ length: count }, (_, p) => found[4 * p + 1]),
    angle: Float64Array.from({ length: count }, (_, p) => Math.atan2(found[4 * p + 3], found[4 * p + 2])),
  };
  return { small: { w, h, known, hole }, points };
}

/** Part of the picture by means of scale × scale pixels; rows and columns that make no whole square are left out. What is not known
 *  all over is not known. */
export function coloursOf(image: FloatImage, roles: Uint8Array, part: Rect, scale: number): Seen {
  const [w, h] = [Math.floor(part.w / scale), Math.floor(part.h / scale)];
  const n = w * h;
  const { k, buffer, imageAt, rolesAt, others } = handOver(image, roles, part, [12 * n, n, n, 8 * n]);
  const [pxAt, knownAt, holeAt, rimAt] = others;
  k.reduceColours(imageAt, rolesAt, part.w, scale, w, h, pxAt, knownAt, holeAt);
  const rims = k.rim(holeAt, w, h, rimAt);
  return {
    w,
    h,
    px: new Float32Array(buffer, pxAt, 3 * n).slice(),
    known: new Uint8Array(buffer, knownAt, n).slice(),
    rim: new Int32Array(buffer, rimAt, 2 * rims).slice(),
  };
}

/** Gives the kernel a part of the picture, and room of the sizes wanted, in bytes. */
function handOver(image: FloatImage, roles: Uint8Array, part: Rect, sizes: readonly number[]) {
  const m = part.w * part.h;
  const { kernel: k, buffer, at } = edgeKernel([16 * m, m, ...sizes]);
  const [imageAt, rolesAt, ...others] = at;
  const pixels = new Float32Array(buffer, imageAt, 4 * m);
  const their = new Uint8Array(buffer, rolesAt, m);
  for (let y = 0; y < part.h; y++) {
    const from = (part.y + y) * image.rect.w + part.x;
    pixels.set(image.data.subarray(4 * from, 4 * (from + part.w)), 4 * y * part.w);
    their.set(roles.subarray(from, from + part.w), y * part.w);
  }
  return { k, buffer, imageAt, rolesAt, others };
}

export interface EdgeKernel {
  release(): void;
  claim(bytes: number): number;
  reduce(
    image: number,
    roles: number,
    pictureW: number,
    scale: number,
    w: number,
    h: number,
    luma: number,
    known: number,
    hole: number,
  ): void;
  reduceColours(
    image: number,
    roles: number,
    pictureW: number,
    scale: number,
    w: number,
    h: number,
    colours: number,
    known: number,
    hole: number,
  ): void;
  rim(hole: number, w: number, h: number, out: number): number;
  gradients(
    luma: number,
    known: number,
    distance: number,
    w: number,
    h: number,
    farthest: number,
    every: number,
    gx: number,
    gy: number,
    size: number,
    some: number,
  ): number;
  ridges(w: number, h: number, least: number, gx: number, gy: number, size: number, out: number): number;
}

const edgeKernel = keptKernel<EdgeKernel>(edgesWasm);
