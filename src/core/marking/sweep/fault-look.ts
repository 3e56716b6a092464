import { instantiateKernel, lookWasm } from '../../kernels';
import type { Candidate } from './candidates';
import type { FaultTraits } from './fault-likelihood';
import looks from './fault-look.json';

/** Side of the squares that are looked at, pixels of the level; and how many squares there are. */
const side = 21;
const half = (side - 1) / 2;
const squares = 3;
/** Lightness that counts as one, and the most that counts. */
const unit = 15;
const most = 4;

/** Whether all of a candidate can be seen in one view. */
export const isInView = ({ w, h }: Pick<FaultTraits, 'w' | 'h'>): boolean => Math.max(w, h) <= side;

/** What a candidate looks like: its strongest pixel in the middle of three squares, whose values lie together pixel by
 *  pixel. The first is lightness over the ground just round it, the second the same of a square twice as wide, the third
 *  tells what belongs to it. */
export function viewOf(
  { part, relief: { w, h, values } }: Pick<Candidate, 'part' | 'relief'>,
  traits: Pick<FaultTraits, 'inside' | 'step'>,
): Float32Array {
  const out = new Float32Array(squares * side * side);
  const ground = traits.inside - traits.step;
  const cx = part.peak % w;
  const cy = (part.peak - cx) / w;
  const at = (x: number, y: number) =>
    values[Math.min(h - 1, Math.max(0, y)) * w + Math.min(w - 1, Math.max(0, x))];
  const scaled = (v: number) => Math.min(most, Math.max(-most, (v - ground) / unit));
  for (let v = 0; v < side; v++)
    for (let u = 0; u < side; u++) {
      const i = squares * (v * side + u);
      out[i] = scaled(at(cx + u - half, cy + v - half));
      const [x, y] = [cx + 2 * (u - half), cy + 2 * (v - half)];
      out[i + 1] = scaled((at(x, y) + at(x + 1, y) + at(x, y + 1) + at(x + 1, y + 1)) / 4);
    }
  for (const i of part.pixels) {
    const u = (i % w) - cx + half;
    const v = Math.floor(i / w) - cy + half;
    if (u >= 0 && v >= 0 && u < side && v < side) out[squares * (v * side + u) + 2] = 1;
  }
  return out;
}

/** Log-odds that what is seen is a fault, the mean of what three nets say: each has two layers of 3 × 3 weights, rectified
 *  and pooled (LeCun, Bottou, Bengio & Haffner 1998, doi:10.1109/5.726791, section II), whose outcome a third layer weighs
 *  together with the inputs of the first look; that several err less than one, Hansen & Salamon 1990, doi:10.1109/34.58871.
 *  Fitted by `scripts/fit-faults` to 77,000 made-up specks and hairs on five demo photographs, of several sizes, as they are
 *  and as prints of several kinds; neither the demo's old print nor its studio picture was among them.
 *  @param view  as {@link viewOf} gives it
 *  @param inputs  what there is to tell without the picture, in deviations */
export function lookCloser(view: Float32Array, inputs: readonly number[]): number {
  nets ??= looks.map(makeNet);
  return nets.reduce((odds, net) => odds + net(view, inputs) / nets!.length, 0);
}

/** The mean of what {@link lookCloser} says of a view as it is and in the seven other ways to turn and mirror it: a fault
 *  has no way up. Eight times the work. */
export function lookFromAllSides(view: Float32Array, inputs: readonly number[]): number {
  let sum = 0;
  const turned = new Float32Array(view.length);
  for (let way = 0; way < 8; way++) {
    for (let v = 0; v < side; v++)
      for (let u = 0; u < side; u++) {
        const [x, y] = way & 1 ? [v, u] : [u, v];
        const from = squares * ((way & 4 ? side - 1 - y : y) * side + (way & 2 ? side - 1 - x : x));
        for (let c = 0; c < squares; c++) turned[squares * (v * side + u) + c] = view[from + c];
      }
    sum += lookCloser(turned, inputs);
  }
  return sum / 8;
}

interface LookKernel {
  claim(bytes: number): number;
  release(): void;
  convolve(from: number, side: number, inputs: number, weights: number, outputs: number, to: number): void;
  connect(from: number, count: number, weights: number, outputs: number, to: number): void;
}

type Look = (typeof looks)[number];

let nets: (typeof lookCloser)[] | null = null;

function makeNet(look: Look): typeof lookCloser {
  const kernel = instantiateKernel<LookKernel>(lookWasm);
  kernel.release();
  const layers = [look.first, look.second, look.last].map(({ weights, bias }) => {
    const at = kernel.claim(4 * (weights.length + bias.length));
    new Float32Array(kernel.memory.buffer, at, weights.length + bias.length).set([...weights, ...bias]);
    return { at, outputs: bias.length, inputs: weights.length / bias.length };
  });
  const [first, second, last] = layers;
  const smaller = (side - 2) >> 1;
  const smallest = (smaller - 2) >> 1;
  const given = smallest ** 2 * second.outputs;
  const viewAt = kernel.claim(4 * squares * side * side);
  const middleAt = kernel.claim(4 * smaller ** 2 * first.outputs);
  const lastAt = kernel.claim(4 * last.inputs);
  const endAt = kernel.claim(4 * last.outputs);
  const { buffer } = kernel.memory;
  const seen = new Float32Array(buffer, viewAt, squares * side * side);
  const told = new Float32Array(buffer, lastAt + 4 * given, last.inputs - given);
  const end = new Float32Array(buffer, endAt, last.outputs);
  return (view, inputs) => {
    seen.set(view);
    told.set(inputs);
    kernel.convolve(viewAt, side, squares, first.at, first.outputs, middleAt);
    kernel.convolve(middleAt, smaller, first.outputs, second.at, second.outputs, lastAt);
    kernel.connect(lastAt, last.inputs, last.at, last.outputs, endAt);
    return end.reduce((odds, v, k) => odds + look.out.weights[k] * v, look.out.bias);
  };
}
