import { gaussianWasm, keptKernel } from '../kernels';

interface Kernel {
  release(): void;
  claim(bytes: number): number;
  convolve(picture: number, scratch: number, w: number, h: number, weights: number, reach: number): void;
}

const gaussianKernel = keptKernel<Kernel>(gaussianWasm);

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
  const { kernel, buffer, at } = gaussianKernel([w * h * 16, w * h * 16, weights.length * 4]);
  const [picture, scratch, table] = at;
  const pixels = new Float32Array(buffer, picture, w * h * 4);
  pixels.set(data);
  new Float32Array(buffer, table, weights.length).set(weights.map((v) => v / total));
  kernel.convolve(picture, scratch, w, h, table, reach);
  data.set(pixels);
}
