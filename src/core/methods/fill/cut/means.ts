import { pixelBytes } from '../frame';

/** The mean colour of the square round each pixel, as far as it lies in the picture and is counted.
 *  @param img      w·h pixels as a frame has them
 *  @param radius   of the square, in pixels; 0: the pixel itself
 *  @param counted  w·h, 1 = counted; null: all are
 *  @returns three numbers a pixel, 8-bit steps; 0 where nothing is counted. Cost: O(w·h), whatever the radius */
export function meanColours(
  img: Uint8Array,
  w: number,
  h: number,
  radius: number,
  counted: Uint8Array | null,
): Float32Array {
  // Sums of three colours and of how many pixels, over columns of the square's height.
  const columns = new Float64Array(4 * w);
  const out = new Float32Array(3 * w * h);
  const addRow = (y: number, sign: number) => {
    if (y < 0 || y >= h) return;
    for (let x = 0, p = y * w; x < w; x++, p++) {
      if (counted && !counted[p]) continue;
      for (let c = 0; c < 3; c++) columns[4 * x + c] += sign * img[p * pixelBytes + c];
      columns[4 * x + 3] += sign;
    }
  };
  for (let y = 0; y < radius; y++) addRow(y, 1);
  for (let y = 0; y < h; y++) {
    addRow(y + radius, 1);
    addRow(y - radius - 1, -1);
    const sums = [0, 0, 0, 0];
    const addColumn = (x: number, sign: number) => {
      if (x >= 0 && x < w) for (let c = 0; c < 4; c++) sums[c] += sign * columns[4 * x + c];
    };
    for (let x = 0; x < radius; x++) addColumn(x, 1);
    for (let x = 0, p = 3 * y * w; x < w; x++, p += 3) {
      addColumn(x + radius, 1);
      addColumn(x - radius - 1, -1);
      if (sums[3] > 0) for (let c = 0; c < 3; c++) out[p + c] = sums[c] / sums[3];
    }
  }
  return out;
}
