import { squaredDistance } from '../../area';
import { type Frame, periodAt, pixelBytes } from './frame';

/** Colours are told apart in so many steps a channel. */
const bits = 5;
const side = 2 ** bits;
export const colourCount = side ** 3;
const stepSize = 256 / side;
/** A hole is looked at in so many cells along each side. At home in a cell is what the nearest part of the rim shows, this near to
 *  the hole; a step up or down counts for more than one sideways. */
const cells = 5;
const nearestShare = 0.4;
const upDown = 2;
const homePx = 8;
/** A colour of fewer of the pixels there than this share is chance. */
const leastShare = 0.001;
/** In 8-bit steps: so far from the nearest colour that is at home one is as good as known, and so much farther as strange as any. */
const alike = 16;
const most = 60;
/** What is only darker is less strange, as joints are; but not in ruled ground, whose joints lie where its lines are. */
const darker = { elsewhere: 0.3, inRuledGround: 1 };

/** How strange a source's colour is where it would be put: how far it lies from the nearest colour that is seen at that part of
 *  the hole's rim. What is of another colour than all round is another thing: a hose, a shirt. The joints of a pavement are seen
 *  at the rim too. The measure is ours.
 *  @returns for a pixel of the hole and a source: 0…{@link most} 8-bit steps */
export function strangeColours({
  w,
  h,
  img,
  hole,
  known,
  rules,
}: Frame): (target: number, source: number) => number {
  const near = squaredDistance(hole, w, h);
  const colours = coloursOf(img);
  const rim: number[] = [];
  let [x0, y0, x1, y1] = [w, h, 0, 0];
  for (let p = 0; p < w * h; p++) {
    if (hole[p]) {
      const [x, y] = [p % w, Math.floor(p / w)];
      [x0, y0, x1, y1] = [Math.min(x0, x), Math.min(y0, y), Math.max(x1, x), Math.max(y1, y)];
    } else if (known[p] && near[p] <= homePx ** 2) rim.push(p);
  }
  if (rim.length === 0) return () => 0;
  const cellOf = (k: number, from: number, to: number) =>
    Math.min(cells - 1, Math.floor(((k - from) * cells) / (to - from + 1)));
  const midst = (cell: number, from: number, to: number) => from + ((cell + 0.5) * (to - from + 1)) / cells;
  const homes = Array.from({ length: cells * cells }, (_, cell) => {
    const [x, y] = [midst(cell % cells, x0, x1), midst(Math.floor(cell / cells), y0, y1)];
    const away = (p: number) => Math.hypot((p % w) - x, upDown * (Math.floor(p / w) - y));
    const distances = Float64Array.from(rim, away);
    const limit = distances.slice().sort()[Math.floor(nearestShare * (rim.length - 1))];
    return homeOf(
      rim.filter((_p, k) => distances[k] <= limit),
      colours,
      leastShare,
    );
  });
  const isRuled = hole.map((v, p) => (v && periodAt({ rules }, p) !== null ? 1 : 0));
  const found = [0, 1].map(() => homes.map(() => new Int16Array(colourCount).fill(-1)));
  return (target, source) => {
    const cell = cellOf(Math.floor(target / w), y0, y1) * cells + cellOf(target % w, x0, x1);
    const colour = colours[source];
    const its = found[isRuled[target]][cell];
    if (its[colour] < 0)
      its[colour] = strangeness(
        colour,
        homes[cell],
        isRuled[target] ? darker.inRuledGround : darker.elsewhere,
      );
    return its[colour];
  };
}

/** How strange the colours that a search gave a hole are beside its rim, in the mean.
 *  @param picture  the frame's, with the hole filled
 *  @param rimPx    how much of the surroundings is its rim, in pixels of the frame
 *  @returns 0…{@link most} 8-bit steps */
export function meanStrangeness({ w, h, hole, known }: Frame, picture: Uint8Array, rimPx: number): number {
  const near = squaredDistance(hole, w, h);
  const colours = coloursOf(picture);
  const rim: number[] = [];
  for (let p = 0; p < w * h; p++) if (!hole[p] && known[p] && near[p] <= rimPx ** 2) rim.push(p);
  const home = homeOf(rim, colours, leastShare);
  if (home.length === 0) return 0;
  const found = new Map<number, number>();
  let [sum, count] = [0, 0];
  for (let p = 0; p < w * h; p++) {
    if (!hole[p]) continue;
    let its = found.get(colours[p]);
    if (its === undefined) {
      its = strangeness(colours[p], home, darker.elsewhere);
      found.set(colours[p], its);
    }
    sum += its;
    count++;
  }
  return count > 0 ? sum / count : 0;
}

/** The colour of each pixel, told apart in steps: a number of 15 bits.
 *  @param img  as a {@link Frame} has it */
export function coloursOf(img: Uint8Array): Uint16Array {
  const out = new Uint16Array(img.length / pixelBytes);
  for (let p = 0, i = 0; p < out.length; p++, i += pixelBytes)
    out[p] = ((img[i] >> (8 - bits)) * side + (img[i + 1] >> (8 - bits))) * side + (img[i + 2] >> (8 - bits));
  return out;
}

/** The colours that at least such a share of some pixels shows. */
export function homeOf(pixels: readonly number[], colours: Uint16Array, share: number): number[] {
  const seen = new Map<number, number>();
  for (const p of pixels) seen.set(colours[p], (seen.get(colours[p]) ?? 0) + 1);
  return [...seen].filter(([, count]) => count >= share * pixels.length).map(([colour]) => colour);
}

/** How far a colour lies from the nearest one that is at home.
 *  @param ofDarker  share of a difference that is counted when it is only darker
 *  @returns 0…{@link most} 8-bit steps */
export function strangeness(colour: number, home: readonly number[], ofDarker: number): number {
  let least = Number.POSITIVE_INFINITY;
  for (const known of home) {
    const dr = (colour >> (2 * bits)) - (known >> (2 * bits));
    const dg = ((colour >> bits) & (side - 1)) - ((known >> bits) & (side - 1));
    const db = (colour & (side - 1)) - (known & (side - 1));
    const grey = (dr + dg + db) / 3;
    const kept = grey < 0 ? ofDarker * grey : grey;
    const d = (dr - grey + kept) ** 2 + (dg - grey + kept) ** 2 + (db - grey + kept) ** 2;
    if (d < least) least = d;
  }
  return Math.round(Math.min(most, Math.max(0, Math.sqrt(least) * stepSize - alike)));
}
