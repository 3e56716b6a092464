import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { wayFrom } from './way';

const grey = (w: number, h: number, of: (x: number, y: number) => number) => {
  const values = new Float32Array(w * h * 3);
  for (let i = 0; i < w * h; i++) values[3 * i] = of(i % w, Math.floor(i / w));
  return { w, h, values };
};

/** Dijkstra's, by looking for the nearest anew each time. */
function slowWay(
  { w, h, values }: ReturnType<typeof grey>,
  seeds: Uint8Array,
  stepCost: number,
  edgeCost: number,
  most: number,
  level: number,
): Float64Array {
  const way = Float64Array.from(seeds, (v) => (v ? 0 : Infinity));
  const done = new Uint8Array(w * h);
  for (;;) {
    let at = -1;
    way.forEach((d, i) => {
      if (!done[i] && d < Infinity && (at < 0 || d < way[at])) at = i;
    });
    if (at < 0) return way.map((d) => Math.min(most, d));
    done[at] = 1;
    const [x, y] = [at % w, Math.floor(at / w)];
    for (let v = Math.max(0, y - 1); v <= Math.min(h - 1, y + 1); v++)
      for (let u = Math.max(0, x - 1); u <= Math.min(w - 1, x + 1); u++) {
        const j = v * w + u;
        const step = Math.hypot(u - x, v - y) * stepCost;
        const edge = edgeCost * Math.max(0, Math.abs(values[3 * at] - values[3 * j]) - level);
        way[j] = Math.min(way[j], way[at] + step + edge);
      }
  }
}

describe('the cheapest way from seeds', () => {
  test('is that of a slow search, on pictures without walls that wind', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
        const random = makeRandom(seed);
        const split = 3 + Math.floor(random.next() * 8);
        const ground = grey(14, 11, (x) => (x < split ? 20 : 60));
        const seeds = new Uint8Array(14 * 11);
        for (let k = 0; k < 2; k++) seeds[Math.floor(random.next() * seeds.length)] = 1;
        const got = wayFrom(ground, seeds, 0.1, 0.02, 5);
        // The median step of such a picture is none.
        slowWay(ground, seeds, 0.1, 0.02, 5, 0).forEach((d, i) => {
          expect(got[i]).toBeCloseTo(d, 4);
        });
      }),
      { numRuns: 30 },
    );
  });

  test('goes round a wall when that is nearer than through it', () => {
    const ground = grey(21, 21, (x, y) => (x === 10 && y < 15 ? 90 : 20));
    const seeds = new Uint8Array(21 * 21);
    seeds[5 * 21 + 5] = 1;
    const got = wayFrom(ground, seeds, 1, 10, 1000);
    slowWay(ground, seeds, 1, 10, 1000, 0).forEach((d, i) => {
      expect(got[i]).toBeCloseTo(d, 3);
    });
    expect(got[5 * 21 + 15]).toBeGreaterThan(20);
  });

  test('without seeds everything is as far as can be', () => {
    const got = wayFrom(
      grey(5, 4, () => 50),
      new Uint8Array(20),
      1,
      1,
      7,
    );
    expect([...got]).toEqual(new Array(20).fill(7));
  });
});
