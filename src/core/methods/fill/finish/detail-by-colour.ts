import { detailWasm, keptKernel } from '../../../kernels';

/** Colours are told apart in so many steps a channel. */
const mostKinds = 20 ** 3;
/** How far colours count as alike: deviation, of full scale. */
const alike = 0.05;
/** Fewer pixels of like colour, each counted as far as it is alike, say nothing. */
const fewest = 20;

/** What pixels are sorted in by their colours, and the sums over each kind. All numbers are where things begin in the kernel's memory,
 *  but for counts. */
export class DetailByColour {
  readonly kernel: DetailKernel;
  readonly buffer: ArrayBuffer;
  /** The pieces of the sizes asked for. */
  readonly at: readonly number[];
  /** For each pixel its kind, −1 where it has none: Int32. */
  readonly of: number;
  private readonly numbers: number;
  private readonly midst: number;
  private readonly sums: number;
  private readonly pixels: number;
  private readonly means: number;
  private kinds = 0;

  /** @param sizes  of what else is to be kept in the kernel's memory, in bytes
   *  @throws RangeError when memory is short */
  constructor(
    private readonly count: number,
    sizes: readonly number[],
  ) {
    const perKind = 8 * mostKinds;
    const own = [4 * count, 4 * mostKinds, 3 * perKind, perKind, perKind, perKind];
    const { kernel, buffer, at } = detailKernel([...own, ...sizes]);
    this.kernel = kernel;
    this.buffer = buffer;
    [this.of, this.numbers, this.midst, this.sums, this.pixels, this.means, ...this.at] = at;
  }

  /** @param colours  4 f32 a pixel, 0…1; the fourth is not looked at
   *  @param wanted   u8 a pixel: whether it is to be sorted
   *  @returns how many kinds there are */
  sort(colours: number, wanted: number): number {
    this.kinds = this.kernel.sort(colours, wanted, this.count, this.numbers, this.midst, this.of);
    return this.kinds;
  }

  /** How strong the detail of colours like each kind's is: the square of its mean size. A few edges count for less than in a mean of
   *  squares. NaN where next to nothing of such a colour was taken.
   *  @param details  f64 a pixel
   *  @param set      u8 a pixel: those that are set are taken, or the others
   *  @returns how many pixels were taken, and a number for each kind */
  near(details: number, set: number, which: 'set' | 'others'): { taken: number; strengths: Float64Array } {
    const { kernel: k, count, kinds, sums, pixels, means } = this;
    const taken = k.gather(this.of, details, set, which === 'set' ? 1 : 0, count, kinds, sums, pixels);
    k.near(this.midst, kinds, sums, pixels, alike, fewest, means);
    return { taken, strengths: new Float64Array(this.buffer, means, kinds).slice() };
  }
}

interface DetailKernel {
  release(): void;
  claim(bytes: number): number;
  sort(colours: number, wanted: number, count: number, numbers: number, midst: number, of: number): number;
  gather(
    of: number,
    details: number,
    set: number,
    which: number,
    count: number,
    kinds: number,
    sums: number,
    pixels: number,
  ): number;
  near(
    midst: number,
    kinds: number,
    sums: number,
    pixels: number,
    alike: number,
    fewest: number,
    out: number,
  ): void;
  compose(
    values: number,
    roles: number,
    w: number,
    h: number,
    part: number,
    filled: number,
    px: number,
    py: number,
    pw: number,
    ph: number,
    own: number,
    around: number,
  ): void;
  weigh(values: number, either: number, or: number, count: number, out: number): void;
  weighBytes(img: number, bytes: number, known: number, hole: number, count: number, out: number): void;
  means(sums: number, count: number): void;
  details(values: number, low: number, count: number, out: number): void;
  sizes(
    img: number,
    bytes: number,
    known: number,
    hole: number,
    count: number,
    sums: number,
    out: number,
  ): void;
  octaves(of: number, sizes: number, noise: number, count: number, out: number): void;
  spread(of: number, set: number, fine: number, coarse: number, count: number, out: number): void;
  multiply(
    part: number,
    filled: number,
    px: number,
    py: number,
    pw: number,
    ph: number,
    soft: number,
    low: number,
    gains: number,
    deep: number,
    w: number,
    ramp: number,
  ): void;
  prices(
    of: number,
    strengths: number,
    usual: number,
    count: number,
    perOctave: number,
    most: number,
    freeSurplus: number,
    out: number,
  ): void;
}

const detailKernel = keptKernel<DetailKernel>(detailWasm);
