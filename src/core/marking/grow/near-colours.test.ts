import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { nearColours } from './near-colours';

const [w, h] = [160, 80];
const outline = 40;

/** Above the outline lies the thing: red on green at the left, green on red at the right. */
const isRed = (x: number, y: number) => x < w / 2 === y < outline;

const ground = (() => {
  const random = makeRandom(4);
  const values = new Float32Array(3 * w * h);
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i += 3)
      values.set([50 + 4 * random.next(), (isRed(x, y) ? 40 : -40) + 6 * random.next(), 20], i);
  return { w, h, values };
})();
const labels = Uint8Array.from({ length: w * h }, (_, i) => (i < outline * w ? 1 : 0));
const freeWithin = (px: number) =>
  Uint8Array.from({ length: w * h }, (_, i) => (Math.abs(Math.floor(i / w) + 0.5 - outline) < px ? 1 : 0));

describe('colours near an outline', () => {
  test('what is the thing’s colour here may be the surroundings’ there', () => {
    const { mine, others } = nearColours(ground, labels, freeWithin(4));
    for (let y = outline - 3; y < outline + 3; y++)
      for (const x of [4, 30, 55, w - 56, w - 31, w - 5]) {
        const i = y * w + x;
        expect(mine.cost(i) < others.cost(i), `${x}, ${y}`).toBe(y < outline);
      }
  });

  test('where nothing near is sure, what is seen all along tells', () => {
    const free = freeWithin(4);
    // In the middle of the left half, everything is in doubt.
    for (let y = 0; y < h; y++) free.fill(1, y * w + 8, y * w + 72);
    const { mine, others } = nearColours(ground, labels, free);
    const i = outline * w + 40;
    expect(Number.isFinite(mine.cost(i))).toBe(true);
    expect(Math.abs(mine.cost(i) - others.cost(i))).toBeLessThan(2);
  });

  test('all inside, or all outside, is no outline, and fails nothing', () => {
    for (const label of [0, 1]) {
      const { mine, others } = nearColours(ground, new Uint8Array(w * h).fill(label), freeWithin(4));
      expect(Number.isFinite(mine.cost(0)) && Number.isFinite(others.cost(0))).toBe(true);
    }
  });
});
