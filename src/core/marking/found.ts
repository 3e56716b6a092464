import { type Mask, squaredDistance } from '../area';
import type { PlanePoint } from '../geometry';

/** Something found on the photo, as pixels: what is marked has 255. */
export interface Found {
  readonly mask: Mask;
  /** Its place on the photo, and the size at which it lies there: larger than the mask's where it was found on a smaller picture. */
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
}

/** Places hardly less deep than the deepest: the one nearest to the middle is taken. */
const asDeep = 0.9;

/** A place deep within something found, where its number stands on it and on nothing else. Document pixels.
 *  Degenerate: the middle of its box where the mask is empty. */
export function placeWithin({ mask, x, y, w, h }: Found): PlanePoint {
  // A frame of pixels that are not set, so that what touches the mask's edge ends there.
  const [fw, fh] = [mask.w + 2, mask.h + 2];
  const beyond = new Uint8Array(fw * fh).fill(1);
  for (let v = 0; v < mask.h; v++)
    for (let u = 0; u < mask.w; u++) if (mask.data[v * mask.w + u] > 127) beyond[(v + 1) * fw + u + 1] = 0;
  const depth = squaredDistance(beyond, fw, fh);
  const deepest = depth.reduce((most, d) => Math.max(most, d), 0);
  const from = ([u, v]: PlanePoint) => Math.hypot(u - mask.w / 2, v - mask.h / 2);
  let best: PlanePoint | null = null;
  depth.forEach((d, i) => {
    if (d <= 0 || d < asDeep ** 2 * deepest) return;
    const at: PlanePoint = [(i % fw) - 0.5, Math.floor(i / fw) - 0.5];
    if (!best || from(at) < from(best)) best = at;
  });
  const [u, v] = best ?? [mask.w / 2, mask.h / 2];
  return [x + (u * w) / mask.w, y + (v * h) / mask.h];
}
