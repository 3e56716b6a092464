import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { inputsOf, likelihoodOf, reliefOf, traitsOf } from './fault-likelihood';

const side = 60;

/** A disc of so much more lightness, `soft` pixels from full to none at its rim, on grain. */
function speck(radius: number, contrast: number, soft: number, grain: number) {
  const random = makeRandom(5);
  const values = new Float32Array(side * side);
  const pixels: number[] = [];
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const rim = radius - Math.hypot(x - side / 2, y - side / 2);
      const share = Math.min(1, Math.max(0, 0.5 + rim / soft));
      values[y * side + x] = 40 + contrast * share + grain * (random.next() - 0.5);
      if (share > 0.4) pixels.push(y * side + x);
    }
  return { relief: reliefOf(values, side, side), pixels };
}

const at = { level: 0, radius: 1, strength: 3, bar: 12 };

const oddsOf = (...args: Parameters<typeof speck>): number => {
  const { relief, pixels } = speck(...args);
  return likelihoodOf(inputsOf(traitsOf(relief, pixels), at));
};

describe('what tells a fault', () => {
  test('traits of a disc are those that it was drawn with', () => {
    const { relief, pixels } = speck(4, 30, 1, 0);
    const traits = traitsOf(relief, pixels);
    expect(traits.step).toBeCloseTo(30, 0);
    expect(traits.inside).toBeCloseTo(70, 0);
    expect(traits.top).toBeCloseTo(70, 5);
    expect(traits.unrest).toBeCloseTo(0, 5);
    expect(traits.crowd).toBe(0);
    expect(traits.size).toBe(pixels.length);
    expect([traits.w, traits.h]).toEqual([9, 9]);
    // Nothing of it lies farther out than its rim.
    expect(traits.rings[0]).toBeLessThan(traits.inside);
    for (const ring of traits.rings.slice(1)) expect(ring).toBeCloseTo(40, 5);
    // From full to none within a pixel or two: half the step and more a pixel at its steepest.
    expect(traits.edge / traits.step).toBeGreaterThan(0.4);
    const soft = speck(4, 30, 6, 0);
    expect(traitsOf(soft.relief, soft.pixels).edge / 30).toBeLessThan(0.25);
  });

  test('sharper, stronger and on quieter ground is surer', () => {
    expect(oddsOf(3, 25, 1, 4)).toBeGreaterThan(oddsOf(3, 25, 5, 4));
    expect(oddsOf(3, 25, 1, 4)).toBeGreaterThan(oddsOf(3, 10, 1, 4));
    expect(oddsOf(3, 25, 1, 4)).toBeGreaterThan(oddsOf(3, 25, 1, 30));
  });

  test('one candidate does not change what another is', () => {
    const { relief, pixels } = speck(3, 20, 1, 6);
    const first = traitsOf(relief, pixels);
    traitsOf(relief, [0, 1, 2]);
    expect(traitsOf(relief, pixels)).toEqual(first);
  });

  test('at the corner of the picture and of one pixel, all is still a number', () => {
    const { relief } = speck(3, 20, 1, 6);
    const corner = traitsOf(relief, [0]);
    expect(Object.values(corner).flat().every(Number.isFinite)).toBe(true);
    expect(Number.isFinite(likelihoodOf(inputsOf(corner, at)))).toBe(true);
    const alone = traitsOf(reliefOf(new Float32Array(1), 1, 1), [0]);
    expect(Number.isFinite(likelihoodOf(inputsOf(alone, at)))).toBe(true);
  });
});
