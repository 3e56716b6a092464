/** A picture in CIELAB, three floats a pixel. */
export interface ColouredPicture {
  readonly w: number;
  readonly h: number;
  readonly lab: Float32Array;
}

/** A part of one pixel is so unsure of how much its colours change, in units of difference for each pixel of the picture; a larger one
 *  in proportion less. */
const unsure = 0.002;
/** Parts of less than this share of the picture, or of so few pixels, go with what they meet. */
const least = { share: 1 / 1500, px: 10 };
/** Differences are sorted in steps, so many a unit, up to so much. */
const steps = { perUnit: 16, most: 100 };
/** Colours are softened so often by 1-2-1 in both directions. */
const softenings = 2;
/** Which of its neighbours a pixel is compared with; the others are compared with it. */
const neighbours = [
  [1, 0],
  [-1, 1],
  [0, 1],
  [1, 1],
] as const;

/** Parts of a picture within which colours change little, each as large as it can be: two are one where what they differ by as they meet
 *  is no more than what they differ by within.
 *
 *  @param isSeen  w×h, 1 where the picture shows something; elsewhere lies no part
 *  @returns w×h, for each pixel the number of one pixel of its part, the same for all of it; −1 where nothing is seen
 *  Cost: O(pixels · α(pixels)). Source: Felzenszwalb & Huttenlocher 2004, Efficient Graph-Based Image Segmentation,
 *  doi:10.1023/B:VISI.0000022288.19776.77, its differences sorted in steps of 1/16.
 */
export function picturePartsOf(picture: ColouredPicture, isSeen: Uint8Array): Int32Array {
  const { w, h } = picture;
  const n = w * h;
  const pairs = pairsByDifference({ w, h, lab: softened(picture, isSeen) }, isSeen);
  const up = Int32Array.from({ length: n }, (_, p) => p);
  const size = new Int32Array(n).fill(1);
  const differ = new Float32Array(n).fill(unsure * n);
  const partOf = (p: number): number => {
    while (up[p] !== p) {
      up[p] = up[up[p]];
      p = up[p];
    }
    return p;
  };
  const join = (a: number, b: number): number => {
    const [larger, smaller] = size[a] < size[b] ? [b, a] : [a, b];
    up[smaller] = larger;
    size[larger] += size[smaller];
    return larger;
  };
  pairs((p, q, difference) => {
    const [a, b] = [partOf(p), partOf(q)];
    if (a === b || difference > Math.min(differ[a], differ[b])) return;
    const joined = join(a, b);
    differ[joined] = difference + (unsure * n) / size[joined];
  });
  const leastPx = Math.max(least.px, least.share * n);
  pairs((p, q) => {
    const [a, b] = [partOf(p), partOf(q)];
    if (a !== b && Math.min(size[a], size[b]) < leastPx) join(a, b);
  });
  return up.map((_, p) => (isSeen[p] ? partOf(p) : -1));
}

/** Goes through neighbouring pixels that are both seen, the likest first. */
function pairsByDifference({ w, h, lab }: ColouredPicture, isSeen: Uint8Array) {
  const ends = new Int32Array(steps.perUnit * steps.most + 1);
  const forAll = (take: (p: number, q: number, step: number) => void) => {
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const p = y * w + x;
        if (!isSeen[p]) continue;
        for (const [dx, dy] of neighbours) {
          if (x + dx < 0 || x + dx >= w || y + dy >= h) continue;
          const q = p + dy * w + dx;
          if (isSeen[q]) take(p, q, stepOf(lab, p, q));
        }
      }
  };
  forAll((_p, _q, step) => ends[step]++);
  for (let k = 1; k < ends.length; k++) ends[k] += ends[k - 1];
  const all = ends[ends.length - 1];
  const [from, to, which] = [new Int32Array(all), new Int32Array(all), new Int16Array(all)];
  forAll((p, q, step) => {
    const at = --ends[step];
    from[at] = p;
    to[at] = q;
    which[at] = step;
  });
  return (take: (p: number, q: number, difference: number) => void) => {
    for (let k = 0; k < all; k++) take(from[k], to[k], which[k] / steps.perUnit);
  };
}

function stepOf(lab: Float32Array, p: number, q: number): number {
  const [l, a, b] = [
    lab[3 * p] - lab[3 * q],
    lab[3 * p + 1] - lab[3 * q + 1],
    lab[3 * p + 2] - lab[3 * q + 2],
  ];
  return Math.min(steps.perUnit * steps.most, Math.round(steps.perUnit * Math.sqrt(l * l + a * a + b * b)));
}

/** Each pixel's colour as the mean of those seen round it. */
function softened({ w, h, lab }: ColouredPicture, isSeen: Uint8Array): Float32Array {
  let soft = lab;
  for (let k = 0; k < softenings; k++)
    for (const [step, length, at] of [
      [1, w, (p: number) => p % w],
      [w, h, (p: number) => Math.floor(p / w)],
    ] as const) {
      const out = new Float32Array(lab.length);
      for (let p = 0; p < w * h; p++) {
        const [before, after] = [at(p) > 0 ? isSeen[p - step] : 0, at(p) < length - 1 ? isSeen[p + step] : 0];
        for (let i = 3 * p; i < 3 * p + 3; i++)
          out[i] =
            (2 * soft[i] + (before ? soft[i - 3 * step] : 0) + (after ? soft[i + 3 * step] : 0)) /
            (2 + before + after);
      }
      soft = out;
    }
  return soft;
}
