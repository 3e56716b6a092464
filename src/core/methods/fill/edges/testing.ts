import { makeRandom } from '../../../random';
import { type FloatImage, makeFloatImage } from '../../../raster';
import { role } from '../frame';

/** The size of {@link edgeScene}. */
export const [w, h] = [240, 200];

/** Grainy grey, lighter where `isLight` says so, edges as soft as a lens makes them; a hole in the middle.
 *  @param isHole  of pixels; a box of 60 × 60 unless it is said otherwise */
export function edgeScene(
  isLight: (x: number, y: number) => boolean,
  seed = 3,
  isHole = (x: number, y: number) => x >= 90 && x < 150 && y >= 70 && y < 130,
): { image: FloatImage; roles: Uint8Array } {
  const random = makeRandom(seed);
  const image = makeFloatImage({ x: 0, y: 0, w, h });
  const roles = new Uint8Array(w * h).fill(role.source);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let light = 0;
      for (let k = 0; k < 9; k++)
        if (isLight(x + ((k % 3) + 0.5) / 3, y + (Math.floor(k / 3) + 0.5) / 3)) light++;
      const v = 0.3 + (0.4 * light) / 9 + 0.06 * (random.next() - 0.5);
      image.data.set([v, v, v, 1], 4 * (y * w + x));
      if (isHole(x, y)) roles[y * w + x] = role.target;
    }
  return { image, roles };
}
