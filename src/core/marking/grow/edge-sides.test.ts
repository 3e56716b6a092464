import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { Cells, edgeOf, edgeSides } from './edge-sides';

const [w, h] = [60, 48];

/** A thing on the left: very uneven in lightness on both sides, as much lighter and redder than what is beside it. */
function ground(seed: number, lighter: number, redder: number) {
  const random = makeRandom(seed);
  const values = new Float32Array(w * h * 3);
  const inside = new Uint8Array(w * h);
  for (let i = 0; i < w * h; i++) {
    inside[i] = i % w < 30 ? 1 : 0;
    values[3 * i] = 50 + inside[i] * lighter + 60 * (random.next() - 0.5);
    values[3 * i + 1] = inside[i] * redder + 2 * (random.next() - 0.5);
    values[3 * i + 2] = 8 + 2 * (random.next() - 0.5);
  }
  return { inside, ground: { w, h, values } };
}

describe('pixels along an outline', () => {
  test('are those near it, with the distance to the nearest pixel of the other side', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 20 * 15, maxLength: 20 * 15, max: 9 }), (dice) => {
        const inside = Uint8Array.from(dice, (v) => (v > 8 ? 1 : 0));
        if (!inside.includes(1)) return;
        const { pixels, signed } = edgeOf(inside, 20, 15);
        for (let i = 0; i < inside.length; i++) {
          let nearest = Infinity;
          for (let j = 0; j < inside.length; j++)
            if (inside[j] !== inside[i])
              nearest = Math.min(
                nearest,
                Math.hypot((i % 20) - (j % 20), Math.floor(i / 20) - Math.floor(j / 20)),
              );
          expect(signed[i]).toBeCloseTo(inside[i] ? 0.5 - nearest : nearest - 0.5, 4);
          expect(pixels.includes(i)).toBe(Math.abs(signed[i]) <= 10);
        }
      }),
      { numRuns: 20 },
    );
  });
});

describe('squares of a picture', () => {
  test('are summed with their eight neighbours', () => {
    const cells = new Cells(31, 20);
    const random = makeRandom(2);
    const given = Float64Array.from({ length: cells.count * 3 }, () => random.next());
    const got = cells.pooled(given);
    for (let y = 0; y < cells.lines; y++)
      for (let x = 0; x < cells.columns; x++)
        for (let k = 0; k < 3; k++) {
          let sum = 0;
          for (let v = y - 1; v <= y + 1; v++)
            for (let u = x - 1; u <= x + 1; u++)
              if (u >= 0 && v >= 0 && u < cells.columns && v < cells.lines)
                sum += given[3 * (v * cells.columns + u) + k];
          expect(got[3 * (y * cells.columns + x) + k]).toBeCloseTo(sum, 9);
        }
  });

  test('have their own number in their middle, and go over into the next evenly', () => {
    const cells = new Cells(18, 6);
    const numbers = Float32Array.of(0, 10, 40);
    const middle = (x: number) => cells.between(numbers, 2 * 18 + x);
    // Squares are six wide: their middles lie between the third and the fourth pixel, half a pixel from each.
    expect(middle(8)).toBeCloseTo(10 - 10 / 12, 5);
    expect(middle(9)).toBeCloseTo(10 + 30 / 12, 5);
    expect(middle(12) - middle(11)).toBeCloseTo(5, 5);
    expect(middle(0)).toBe(0);
    expect(middle(17)).toBe(40);
  });
});

describe('the two sides of an outline', () => {
  test('are told apart by that in which they differ, however uneven the rest', () => {
    const { inside, ground: seen } = ground(3, 25, 12);
    const sides = edgeSides(seen, edgeOf(inside, w, h));
    let [wrong, wrongByMeans] = [0, 0];
    for (let y = 10; y < 38; y++)
      for (let x = 24; x < 36; x++) {
        const i = y * w + x;
        if (sides.share(i) > 0.5 !== (inside[i] === 1)) wrong++;
        // Which of the two means is nearer.
        const alongMeans = 25 * (seen.values[3 * i] - 62.5) + 12 * (seen.values[3 * i + 1] - 6);
        if (alongMeans > 0 !== (inside[i] === 1)) wrongByMeans++;
        expect(Math.sign(sides.likelier(i))).toBe(Math.sign(sides.share(i) - 0.5));
      }
    expect(wrongByMeans).toBeGreaterThan(50);
    expect(wrong).toBeLessThan(7);
  });

  test('have shares of 1 and 0 on average', () => {
    const { inside, ground: seen } = ground(4, 0, 25);
    const sides = edgeSides(seen, edgeOf(inside, w, h));
    const mean = (x0: number) => {
      let sum = 0;
      for (let y = 10; y < 38; y++) for (let x = x0; x < x0 + 4; x++) sum += sides.share(y * w + x);
      return sum / (28 * 4);
    };
    expect(mean(26)).toBeCloseTo(1, 1);
    expect(mean(30)).toBeCloseTo(0, 1);
  });

  test('that look alike tell nothing', () => {
    const { inside, ground: seen } = ground(5, 0, 0);
    const flat = { ...seen, values: seen.values.map((v, i) => (i % 3 === 0 ? 50 : v)) };
    const sides = edgeSides(flat, edgeOf(inside, w, h));
    expect(sides.share(20 * w + 30)).toBeNaN();
    expect(sides.likelier(20 * w + 30)).toBe(0);
  });
});
