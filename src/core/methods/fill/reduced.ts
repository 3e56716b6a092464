import { type FloatImage, makeFloatImage } from '../../raster';
import { role } from './frame';

/** A picture and what each of its pixels is to a fill: its {@link role}. */
export interface Seen {
  readonly image: FloatImage;
  readonly roles: Uint8Array;
}

/** The same made smaller by a whole factor: means, to be filled where any pixel is, to be drawn from where all may be. Its rectangle
 *  begins at (0, 0); what is left over at the far sides is left out. Cost: O(pixels). */
export function reduced({ image, roles }: Seen, by: number): Seen {
  const { rect, data } = image;
  const [w, h] = [Math.floor(rect.w / by), Math.floor(rect.h / by)];
  const small = makeFloatImage({ x: 0, y: 0, w, h });
  const smallRoles = new Uint8Array(w * h);
  const n = by ** 2;
  for (let y = 0, p = 0; y < h; y++)
    for (let x = 0; x < w; x++, p++) {
      let [red, green, blue, alpha] = [0, 0, 0, 0];
      let [sources, targets, guessed, voids] = [0, 0, 0, 0];
      for (let v = 0; v < by; v++)
        for (let i = (y * by + v) * rect.w + x * by, end = i + by; i < end; i++) {
          const is = roles[i];
          if (is === role.source) sources++;
          else if (is === role.target) targets++;
          else if (is === role.guessed) guessed++;
          else if (is === role.void) voids++;
          red += data[4 * i];
          green += data[4 * i + 1];
          blue += data[4 * i + 2];
          alpha += data[4 * i + 3];
        }
      small.data[4 * p] = red / n;
      small.data[4 * p + 1] = green / n;
      small.data[4 * p + 2] = blue / n;
      small.data[4 * p + 3] = alpha / n;
      if (targets > 0) smallRoles[p] = role.target;
      else if (guessed > 0) smallRoles[p] = role.guessed;
      else if (sources === n) smallRoles[p] = role.source;
      else smallRoles[p] = voids === n ? role.void : role.context;
    }
  return { image: small, roles: smallRoles };
}
