import { gaussianBlur } from '../../../raster';

/** A picture at some size, four numbers a pixel. */
export interface Level {
  readonly w: number;
  readonly h: number;
  /** Colours times how much of a pixel is known, and that: 0…1. */
  readonly pixels: Float32Array;
  /** The same, blurred: means of what is known round about. */
  readonly low: Float32Array;
}

/** A mean of less than this is one of one side only. */
const leastKnown = 0.9;

/** Deviation of the blur between one level and the next, in the finer one's pixels. */
export const blurPx = 1;
const leastSide = 8;

/** A picture at ever half the size, each level blurred before every other pixel is taken. */
export class BlurPyramid {
  /** The first is the picture itself. */
  readonly levels: readonly Level[];
  private readonly across = new Float32Array(4);
  private readonly down = new Float32Array(4);

  /** @param pixels  w×h×4 float32, as {@link Level} says; kept
   *  @param octaves  levels above the picture itself: fewer where it is too small */
  constructor(pixels: Float32Array, w: number, h: number, octaves: number) {
    const levels = [levelOf(pixels, w, h)];
    for (let k = 0; k < octaves && levels[k].w >= leastSide && levels[k].h >= leastSide; k++)
      levels.push(halved(levels[k]));
    this.levels = levels;
  }

  /** The colour at place (x, y) of the picture, in pixels, as a level shows it, smoothly: the cubic B-spline of the level's pixels.
   *  @returns whether all is known round it */
  at(octave: number, x: number, y: number, out: Float32Array): boolean {
    const { w, h, pixels } = this.levels[octave];
    const [u, v] = [x / 2 ** octave, y / 2 ** octave];
    const [left, top] = [Math.floor(u), Math.floor(v)];
    const { across, down } = this;
    weigh(u - left, across);
    weigh(v - top, down);
    let [red, green, blue, known] = [0, 0, 0, 0];
    for (let b = 0; b < 4; b++) {
      const row = w * within(top + b - 1, h);
      for (let a = 0; a < 4; a++) {
        const weight = down[b] * across[a];
        const from = 4 * (row + within(left + a - 1, w));
        red += weight * pixels[from];
        green += weight * pixels[from + 1];
        blue += weight * pixels[from + 2];
        known += weight * pixels[from + 3];
      }
    }
    if (known < leastKnown) return false;
    out[0] = red / known;
    out[1] = green / known;
    out[2] = blue / known;
    return true;
  }
}

const within = (v: number, n: number): number => (v < 0 ? 0 : v >= n ? n - 1 : v);

/** The cubic B-spline's weights of the four points round a place, so far behind the second of them. */
function weigh(t: number, out: Float32Array): void {
  const s = 1 - t;
  out[0] = (s * s * s) / 6;
  out[1] = ((3 * t - 6) * t * t + 4) / 6;
  out[2] = ((3 * s - 6) * s * s + 4) / 6;
  out[3] = (t * t * t) / 6;
}

function levelOf(pixels: Float32Array, w: number, h: number): Level {
  const low = pixels.slice();
  gaussianBlur(low, w, h, blurPx);
  return { w, h, pixels, low };
}

function halved({ w, h, low }: Level): Level {
  const [nw, nh] = [(w + 1) >> 1, (h + 1) >> 1];
  const pixels = new Float32Array(4 * nw * nh);
  for (let y = 0, to = 0; y < nh; y++)
    for (let x = 0; x < nw; x++, to += 4) {
      const from = 4 * (2 * y * w + 2 * x);
      for (let c = 0; c < 4; c++) pixels[to + c] = low[from + c];
    }
  return levelOf(pixels, nw, nh);
}
