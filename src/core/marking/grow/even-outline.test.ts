import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { evenOutline } from './even-outline';

const [w, h] = [80, 60];
const free = () => 0;

/** A thing above a straight edge; `contrast` in lightness. */
function picture(contrast: (x: number) => number) {
  const random = makeRandom(9);
  const values = new Float32Array(w * h * 3);
  const truth = new Uint8Array(w * h);
  for (let i = 0; i < w * h; i++) {
    truth[i] = Math.floor(i / w) < 30 ? 1 : 0;
    values[3 * i] = 40 + truth[i] * contrast(i % w) + 3 * (random.next() - 0.5);
  }
  return { truth, ground: { w, h, values } };
}

/** The truth with teeth of so many pixels on its edge. */
const toothed = (truth: Uint8Array, teeth: number) =>
  truth.map((_, i) => (Math.floor(i / w) < 30 + teeth * ((i % w) % 14 < 5 ? 1 : 0) ? 1 : 0));

const wrong = (got: Uint8Array, truth: Uint8Array) =>
  got.reduce((n, v, i) => n + (v !== truth[i] ? 1 : 0), 0);

describe('an outline with teeth', () => {
  test('follows the edge in the picture', () => {
    const { truth, ground } = picture(() => 25);
    expect(wrong(evenOutline(ground, toothed(truth, 3), free), truth)).toBe(0);
  });

  test('runs straight where nothing tells the sides apart', () => {
    const { truth, ground } = picture((x) => (x > 20 && x < 55 ? 0 : 25));
    const given = toothed(truth, 3);
    const got = evenOutline(ground, given, free);
    expect(wrong(got, truth)).toBeLessThan(wrong(given, truth) / 4);
  });

  test('moves no farther than a few pixels, and keeps to what is said', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: w - 1 }), fc.integer({ min: 0, max: 7 }), (x, off) => {
        const { truth, ground } = picture(() => 25);
        const drawn = truth.map((_, i) => (Math.floor(i / w) < 26 + off ? 1 : 0));
        const said = 33 * w + x;
        const got = evenOutline(ground, drawn, (i) => (i === said ? 1 : i === said - 6 * w ? -1 : 0));
        got.forEach((v, i) => {
          if (Math.abs(Math.floor(i / w) - 26 - off) > 4) expect(v).toBe(drawn[i]);
        });
        if (Math.abs(33 + 0.5 - 26 - off) <= 4) expect(got[said]).toBe(1);
        if (Math.abs(27 + 0.5 - 26 - off) <= 4) expect(got[said - 6 * w]).toBe(0);
      }),
      { numRuns: 25 },
    );
  });

  test('nothing and everything stay as they are', () => {
    const { ground } = picture(() => 25);
    expect(evenOutline(ground, new Uint8Array(w * h), free)).not.toContain(1);
    expect(evenOutline(ground, new Uint8Array(w * h).fill(1), free)).not.toContain(0);
  });
});
