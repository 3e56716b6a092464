import type { FloatImage } from '../../raster';
import { role } from './frame';

/** Gives pixels the mean of their known neighbours above, below and beside, front by front from the rim inwards: all of a
 *  front are guessed from what was known before it. A pixel of a later piece that lies near is better guessed than black.
 *
 *  @param image   changed in place at the given pixels
 *  @param roles   pixels of targets count as unknown; the given pixels become guessed, or void where nothing known leads to them
 *  @param pixels  indices of the pixels to guess
 *  Cost: O(the given pixels).
 */
export function guess(image: FloatImage, roles: Uint8Array, pixels: readonly number[]): void {
  const { w, h } = image.rect;
  const { data } = image;
  /** 0 = known, 1 = to be guessed, 2 = to be filled, 3 = in the front. */
  const state = new Uint8Array(w * h);
  for (let i = 0; i < roles.length; i++) if (roles[i] === role.target) state[i] = 2;
  for (const i of pixels) state[i] = 1;
  const sides = [-1, 1, -w, w];
  const within = (x: number, y: number, d: number) =>
    d === 0 ? x > 0 : d === 1 ? x < w - 1 : d === 2 ? y > 0 : y < h - 1;
  /** Those of the given pixels' unknown neighbours that are not in the front yet. */
  const advance = (from: readonly number[]): number[] => {
    const next: number[] = [];
    for (const i of from) {
      const x = i % w;
      const y = (i - x) / w;
      for (let d = 0; d < 4; d++) {
        const q = i + sides[d];
        if (!within(x, y, d) || state[q] !== 1) continue;
        state[q] = 3;
        next.push(q);
      }
    }
    return next;
  };
  let front: number[] = [];
  for (const i of pixels) {
    const x = i % w;
    const y = (i - x) / w;
    for (let d = 0; d < 4; d++)
      if (within(x, y, d) && state[i + sides[d]] === 0) {
        front.push(i);
        break;
      }
  }
  for (const i of front) state[i] = 3;
  while (front.length > 0) {
    for (const i of front) {
      const x = i % w;
      const y = (i - x) / w;
      let [red, green, blue, alpha, count] = [0, 0, 0, 0, 0];
      for (let d = 0; d < 4; d++) {
        const q = i + sides[d];
        if (!within(x, y, d) || state[q] !== 0) continue;
        red += data[4 * q];
        green += data[4 * q + 1];
        blue += data[4 * q + 2];
        alpha += data[4 * q + 3];
        count++;
      }
      data[4 * i] = red / count;
      data[4 * i + 1] = green / count;
      data[4 * i + 2] = blue / count;
      data[4 * i + 3] = alpha / count;
    }
    for (const i of front) state[i] = 0;
    front = advance(front);
  }
  // Shut off from everything known: nothing to go by.
  for (const i of pixels) roles[i] = state[i] === 1 ? role.void : role.guessed;
}
