import type { PlanePoint } from '../../geometry';
import { type FloatImage, makeFloatImage, type Rect } from '../../raster';
import type { FillInput, FillSteering } from './compute';
import { boxOfTargets, countOf, role } from './frame';

/** A sketch fills about so many pixels, and at most twice as many. */
const wantedPx = 30_000;

export interface Sketch {
  readonly input: Omit<FillInput, 'seed'>;
  /** The document rectangle of one of the sketch's. */
  readonly placeOf: (rect: Rect) => Rect;
}

/** The same fill in a picture made smaller by a whole factor: mean of what is known, to be filled where any pixel is.
 *
 *  @param seen  what a piece is filled from: its rectangle begins where the window does; `roles` are its pixels' {@link role}
 *  @returns null when so small a picture would not be worth it
 *  Cost: O(pixels seen); the fill itself is of about {@link wantedPx}. */
export function sketchOf(
  { image, roles }: { readonly image: FloatImage; readonly roles: Uint8Array },
  steering: FillSteering,
): Sketch | null {
  const { rect, data } = image;
  const by = Math.round(Math.sqrt(countOf(roles, role.target) / wantedPx));
  if (by < 2) return null;
  const [w, h] = [Math.floor(rect.w / by), Math.floor(rect.h / by)];
  const small = makeFloatImage({ x: 0, y: 0, w, h });
  const [owner, allowed, pending] = [
    new Int32Array(w * h).fill(-1),
    new Uint8Array(w * h),
    new Uint8Array(w * h),
  ];
  const smallRoles = new Uint8Array(w * h);
  for (let y = 0, p = 0; y < h; y++)
    for (let x = 0; x < w; x++, p++) {
      let [red, green, blue, alpha, sources, targets, guessed] = [0, 0, 0, 0, 0, 0, 0];
      for (let v = 0; v < by; v++)
        for (let i = (y * by + v) * rect.w + x * by, end = i + by; i < end; i++) {
          const is = roles[i];
          if (is === role.source) sources++;
          else if (is === role.target) targets++;
          else if (is === role.guessed) guessed++;
          red += data[4 * i];
          green += data[4 * i + 1];
          blue += data[4 * i + 2];
          alpha += data[4 * i + 3];
        }
      const n = by ** 2;
      small.data[4 * p] = red / n;
      small.data[4 * p + 1] = green / n;
      small.data[4 * p + 2] = blue / n;
      small.data[4 * p + 3] = alpha / n;
      if (targets > 0) {
        smallRoles[p] = role.target;
        owner[p] = 0;
      } else if (guessed > 0) pending[p] = 1;
      else if (sources === n) allowed[p] = 1;
    }
  const box = boxOfTargets(smallRoles, w);
  const { plane, rail, lines } = steering;
  const place = ([x, y]: PlanePoint): PlanePoint => [(x - rect.x) / by, (y - rect.y) / by];
  return {
    input: {
      plan: {
        box: small.rect,
        owner,
        pieces: [{ box, window: small.rect, beside: null, isThin: false }],
      },
      windows: [{ image: small, allowed, pending, beside: null }],
      steering: {
        ...steering,
        plane: plane?.map(place) ?? null,
        rail: rail && { ...rail, slackPx: rail.slackPx / by },
        lines: lines.map(([x0, y0, x1, y1]) => [...place([x0, y0]), ...place([x1, y1])]),
      },
    },
    placeOf: ({ x, y, w, h }) => ({ x: rect.x + x * by, y: rect.y + y * by, w: w * by, h: h * by }),
  };
}
