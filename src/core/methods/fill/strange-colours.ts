import { squaredDistance } from '../../area';
import { type Frame, pixelBytes } from './frame';

/** Colours that are seen so near to a hole are at home in it. */
const homePx = 12;
/** Colours are told apart in so many steps a channel. */
const bits = 5;
const side = 2 ** bits;
const stepSize = 256 / side;
/** A colour of fewer of the pixels there than this share is chance. */
const leastShare = 0.0005;
/** So far from the nearest one a colour is as good as known; and beyond so much more it is no stranger. In 8-bit steps. */
const alike = 16;
const most = 60;

/** How strange each pixel's colour is to the surroundings of a hole: how far it lies from the nearest colour that is seen there.
 *  What is of another colour than all round the hole is another thing: a hose, a shirt. The joints of a pavement are seen at the
 *  rim too. The measure is ours.
 *  @returns frame size, 0…{@link most} 8-bit steps; 0 where nothing is known */
export function strangeColours({ w, h, img, hole, known }: Frame): Uint8Array {
  const near = squaredDistance(hole, w, h);
  const cellOf = (p: number) => {
    const [r, g, b] = [0, 1, 2].map((c) => img[pixelBytes * p + c] >> (8 - bits));
    return (r * side + g) * side + b;
  };
  const seen = new Int32Array(side ** 3);
  let all = 0;
  for (let p = 0; p < w * h; p++) {
    if (!known[p] || hole[p] || near[p] > homePx ** 2) continue;
    seen[cellOf(p)]++;
    all++;
  }
  const home: number[] = [];
  for (let cell = 0; cell < seen.length; cell++)
    if (seen[cell] >= Math.max(1, leastShare * all)) home.push(cell);
  const out = new Uint8Array(w * h);
  if (home.length === 0) return out;
  const found = new Int16Array(side ** 3).fill(-1);
  for (let p = 0; p < w * h; p++) {
    if (!known[p] || hole[p]) continue;
    const cell = cellOf(p);
    if (found[cell] < 0) found[cell] = strangeness(cell, home);
    out[p] = found[cell];
  }
  return out;
}

function strangeness(cell: number, home: readonly number[]): number {
  let least = Number.POSITIVE_INFINITY;
  for (const known of home) {
    const d =
      ((cell >> (2 * bits)) - (known >> (2 * bits))) ** 2 +
      (((cell >> bits) & (side - 1)) - ((known >> bits) & (side - 1))) ** 2 +
      ((cell & (side - 1)) - (known & (side - 1))) ** 2;
    if (d < least) least = d;
  }
  return Math.round(Math.min(most, Math.max(0, Math.sqrt(least) * stepSize - alike)));
}
