import { expect, test } from 'vitest';
import { makeRandom } from '../random';
import { gaussianBlur } from './gaussian';

/** Two-dimensional sums in float64. */
function slowly(data: Float32Array, w: number, h: number, sigma: number): Float64Array {
  const reach = Math.ceil(2.5 * sigma);
  const g = (k: number) => Math.exp(-(k * k) / (2 * sigma * sigma));
  let total = 0;
  for (let k = -reach; k <= reach; k++) total += g(k);
  const out = new Float64Array(data.length);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      for (let v = -reach; v <= reach; v++)
        for (let u = -reach; u <= reach; u++) {
          if (x + u < 0 || x + u >= w || y + v < 0 || y + v >= h) continue;
          const weight = (g(u) * g(v)) / total ** 2;
          for (let c = 0; c < 4; c++)
            out[4 * (y * w + x) + c] += weight * data[4 * ((y + v) * w + x + u) + c];
        }
  return out;
}

test.each([
  [17, 9, 2.5],
  [3, 20, 1.2],
  [1, 1, 4],
])('%i × %i pixels by %f px agree with sums in float64', (w, h, sigma) => {
  const random = makeRandom(w * h);
  const data = Float32Array.from({ length: w * h * 4 }, () => random.next());
  const wanted = slowly(data, w, h, sigma);
  gaussianBlur(data, w, h, sigma);
  data.forEach((v, i) => {
    expect(v).toBeCloseTo(wanted[i], 5);
  });
});

test('nothing to blur is no error', () => {
  expect(() => gaussianBlur(new Float32Array(0), 0, 5, 2)).not.toThrow();
});
