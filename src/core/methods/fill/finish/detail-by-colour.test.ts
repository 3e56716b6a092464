import fc from 'fast-check';
import { expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import { DetailByColour } from './detail-by-colour';

test('the detail of like colours is the square of its mean size, each pixel counted as far as its colour is alike', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1e6 }), fc.constantFrom('set', 'others'), (seed, which) => {
      const random = makeRandom(seed);
      const n = 400;
      const colours = new DetailByColour(n, [16 * n, n, 8 * n, n]);
      const [coloursAt, wantedAt, detailsAt, setAt] = colours.at;
      const rgb = new Float32Array(colours.buffer, coloursAt, 4 * n);
      const wanted = new Uint8Array(colours.buffer, wantedAt, n);
      const details = new Float64Array(colours.buffer, detailsAt, n);
      const set = new Uint8Array(colours.buffer, setAt, n);
      for (let i = 0; i < n; i++) {
        // Beyond black and white too, as a sharpened photo has it.
        for (let c = 0; c < 3; c++) rgb[4 * i + c] = 0.4 * random.next() + (i % 2 ? 0.7 : -0.1);
        wanted[i] = random.next() < 0.8 ? 1 : 0;
        details[i] = random.next() - 0.5;
        set[i] = random.next() < 0.6 ? 1 : 0;
      }
      const kinds = colours.sort(coloursAt, wantedAt);
      const of = new Int32Array(colours.buffer, colours.of, n);
      const { taken, strengths } = colours.near(detailsAt, setAt, which);
      const step = (v: number) => Math.min(19, Math.max(0, Math.floor(20 * v)));
      const stepsOf = (i: number) => [0, 1, 2].map((c) => step(rgb[4 * i + c]));
      const steps = new Map<number, number[]>();
      const numbers = new Map<string, number>();
      for (let i = 0; i < n; i++) {
        const known = wanted[i] ? (numbers.get(stepsOf(i).join()) ?? numbers.size) : -1;
        if (of[i] !== known) throw new Error(`pixel ${i}: kind ${of[i]}, not ${known}`);
        if (known < 0) continue;
        numbers.set(stepsOf(i).join(), known);
        steps.set(known, stepsOf(i));
      }
      expect(steps.size).toBe(kinds);
      const counted = [...of.keys()].filter((i) => wanted[i] && (set[i] === 1) === (which === 'set'));
      expect(taken).toBe(counted.length);
      for (const [kind, [r, g, b]] of steps) {
        let [sum, all] = [0, 0];
        for (const i of counted) {
          const [s, t, u] = steps.get(of[i])!;
          const grey = (r + 2 * g + b - s - 2 * t - u) / 80;
          const [warm, cool] = [(r - g - s + t) / 20, (b - g - u + t) / 20];
          const weight = Math.exp(-(grey ** 2 + warm ** 2 + cool ** 2) / 0.005);
          sum += weight * Math.abs(details[i]);
          all += weight;
        }
        if (all < 20) expect(strengths[kind]).toBeNaN();
        else expect(strengths[kind]).toBeCloseTo((sum / all) ** 2, 9);
      }
    }),
    { numRuns: 30 },
  );
});
