/** Colours are told apart in so many steps a channel. */
const steps = 20;
/** How far colours count as alike: deviation, of full scale. */
const alike = 0.05;
/** Fewer pixels of like colour, each counted as far as it is alike, say nothing. */
const fewest = 20;

/** How much detail pixels of each colour have. */
export interface DetailByColour {
  /** Takes a pixel. @param kind  its colour's number, as {@link Kinds} has it */
  add(kind: number, detail: number): void;
  /** How strong the detail of colours like one is: the square of its mean size. A few edges count for less than in a mean of squares.
   *  Null where next to nothing of such a colour was taken. */
  near(kind: number): number | null;
}

/** Colours by number. */
export interface Kinds {
  readonly count: number;
  /** w·h: the number of each pixel's colour; −1 where it has none. */
  readonly of: Int32Array;
  /** How much each colour counts for each other one. */
  weight(a: number, b: number): number;
}

/** Sorts pixels by their colours.
 *  @param colours  four numbers a pixel, 0…1; the fourth is not looked at
 *  @param isOne    whether a pixel is to be sorted */
export function kindsByColour(colours: Float32Array, isOne: (pixel: number) => boolean): Kinds {
  const of = new Int32Array(colours.length >> 2).fill(-1);
  const numbers = new Int32Array(steps ** 3).fill(-1);
  const midst: (readonly [grey: number, warm: number, cool: number])[] = [];
  const step = (v: number) => Math.min(steps - 1, Math.max(0, Math.floor(v * steps)));
  for (let i = 0; i < of.length; i++) {
    if (!isOne(i)) continue;
    const [r, g, b] = [step(colours[4 * i]), step(colours[4 * i + 1]), step(colours[4 * i + 2])];
    const key = (r * steps + g) * steps + b;
    if (numbers[key] < 0) {
      numbers[key] = midst.length;
      midst.push([(r + 2 * g + b) / (4 * steps), (r - g) / steps, (b - g) / steps]);
    }
    of[i] = numbers[key];
  }
  const weight = (a: number, b: number) => {
    const [p, q] = [midst[a], midst[b]];
    const squared = (p[0] - q[0]) ** 2 + (p[1] - q[1]) ** 2 + (p[2] - q[2]) ** 2;
    return Math.exp(-squared / (2 * alike ** 2));
  };
  return { count: midst.length, of, weight };
}

export function detailByColour({ count, weight }: Kinds): DetailByColour {
  const sums = new Float64Array(count);
  const pixels = new Float64Array(count);
  return {
    add(kind, detail) {
      sums[kind] += Math.abs(detail);
      pixels[kind]++;
    },
    near(kind) {
      let [sum, all] = [0, 0];
      for (let other = 0; other < count; other++) {
        if (pixels[other] === 0) continue;
        const w = weight(kind, other);
        sum += w * sums[other];
        all += w * pixels[other];
      }
      return all >= fewest ? (sum / all) ** 2 : null;
    },
  };
}
