import { bitsWhere } from '../../area';
import type { PlanePoint } from '../../geometry';
import type { Rect } from '../../raster';
import type { FillInput, FillSteering } from './compute';
import { boxOfTargets, countOf, role } from './frame';
import { reduced, type Seen } from './reduced';

/** A sketch fills about so many pixels, and at most twice as many. */
const wantedPx = 30_000;

export interface Sketch {
  readonly input: Omit<FillInput, 'seed'>;
  /** The document rectangle of one of the sketch's. */
  readonly placeOf: (rect: Rect) => Rect;
}

/** The same fill in a picture made smaller by a whole factor.
 *
 *  @param seen  what a piece is filled from: its rectangle begins where the window does
 *  @returns null when so small a picture would not be worth it
 *  Cost: O(pixels seen); the fill itself is of about {@link wantedPx}. */
export function sketchOf(seen: Seen, steering: FillSteering): Sketch | null {
  const { rect } = seen.image;
  const by = Math.round(Math.sqrt(countOf(seen.roles, role.target) / wantedPx));
  if (by < 2) return null;
  const { image, roles } = reduced(seen, by);
  const { plane, rail, lines } = steering;
  const place = ([x, y]: PlanePoint): PlanePoint => [(x - rect.x) / by, (y - rect.y) / by];
  return {
    input: {
      plan: {
        box: image.rect,
        owner: Int32Array.from(roles, (is) => (is === role.target ? 0 : -1)),
        pieces: [
          {
            box: boxOfTargets(roles, image.rect.w),
            window: image.rect,
            beside: null,
            isChunk: false,
            isThin: false,
          },
        ],
      },
      windows: [
        {
          image,
          allowed: bitsWhere(roles, (is) => is === role.source),
          pending: bitsWhere(roles, (is) => is === role.guessed),
          beside: null,
        },
      ],
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
