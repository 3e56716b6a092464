import { gaussianWasm, instantiateKernel } from '../kernels';

interface Kernel {
  release(): void;
  claim(bytes: number): number;
  convolve(picture: number, scratch: number, w: number, h: number, weights: number, reach: number): void;
}

let kernel: (Kernel & { memory: WebAssembly.Memory }) | null = null;

/** Weighs each pixel's surroundings by a Gaussian; the weights sum to 1 where the picture goes on to 2.5 deviations, and
 *  there is nothing beyond it. Divide by a channel of ones to get means of what is known.
 *
 *  @param data     w×h×4 float32; changed in place
 *  @param sigmaPx  standard deviation in pixels, above 0
 *  @throws RangeError when memory is short
 *  Cost: O(pixels · deviation).
 */
export function gaussianBlur(data: Float32Array, w: number, h: number, sigmaPx: number): void {
  if (w * h === 0) return;
  const reach = Math.ceil(2.5 * sigmaPx);
  const weights = Float32Array.from({ length: 2 * reach + 1 }, (_, k) =>
    Math.exp(-((k - reach) ** 2) / (2 * sigmaPx ** 2)),
  );
  const total = weights.reduce((n, v) => n + v, 0);
  kernel ??= instantiateKernel<Kernel>(gaussianWasm);
  kernel.release();
  const [picture, scratch, table] = [w * h * 16, w * h * 16, weights.length * 4].map(kernel.claim);
  if (!picture || !scratch || !table) throw new RangeError('There is not enough memory for a blur.');
  const pixels = new Float32Array(kernel.memory.buffer, picture, w * h * 4);
  pixels.set(data);
  new Float32Array(kernel.memory.buffer, table, weights.length).set(weights.map((v) => v / total));
  kernel.convolve(picture, scratch, w, h, table, reach);
  data.set(pixels);
  if (kernel.memory.buffer.byteLength > keepBytes) kernel = null;
}

/** WebAssembly memory never shrinks, so an instance that grew beyond this is let go. */
const keepBytes = 64 << 20;
