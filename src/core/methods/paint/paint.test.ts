import { describe, expect, test } from 'vitest';
import { makeFloatImage } from '../../raster';
import { makeGrain, pickedPaint } from '.';

const statistics = (value: (x: number, y: number) => number) => {
  let [sum, squares, along, count] = [0, 0, 0, 0];
  for (let y = 0; y < 120; y++)
    for (let x = 0; x < 120; x++) {
      const v = value(x, y);
      sum += v;
      squares += v * v;
      along += v * value(x + 1, y);
      count++;
    }
  return { mean: sum / count, deviation: Math.sqrt(squares / count), correlation: along / squares };
};

describe('grain', () => {
  test.each([0, 0.3, 0.6])('has mean 0, deviation 1 and neighbours alike by %f', (wanted) => {
    const { mean, deviation, correlation } = statistics(makeGrain(wanted));
    expect(Math.abs(mean)).toBeLessThan(0.05);
    expect(deviation).toBeCloseTo(1, 1);
    expect(Math.abs(correlation - wanted)).toBeLessThan(0.05);
  });

  test.each([
    [3, 0],
    [6, 0.5],
  ])('of deviation %f and correlation %f is picked up from a slope of light', (deviation, correlation) => {
    const grain = makeGrain(correlation);
    const image = makeFloatImage({ x: 0, y: 0, w: 60, h: 60 });
    for (let i = 0; i < 3600; i++) {
      const [x, y] = [i % 60, Math.floor(i / 60)];
      const v = (100 + 0.5 * x + deviation * grain(x, y)) / 255;
      image.data.set([v, v, v * 0.5, 1], 4 * i);
    }
    const picked = pickedPaint(image);
    expect(picked.red).toBeCloseTo(114.8, -0.3);
    expect(picked.blue).toBeCloseTo(57.4, -0.3);
    // Blue carries half the grain, with a weight of 0.114 in lightness.
    expect(Math.abs(picked.grain / (deviation * 0.943) - 1)).toBeLessThan(0.25);
    expect(Math.abs(picked.coarseness / 100 - correlation)).toBeLessThan(0.2);
  });
});
