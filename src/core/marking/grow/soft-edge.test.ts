import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { withSoftEdge } from './soft-edge';

const w = 120;
const h = 100;

/** The share of a Gaussian's edge, nearly all of it within `spread` pixels, so far beyond its middle (a logistic curve comes within a
 *  hundredth of it). */
const edgeShare = (d: number, spread: number) => 1 / (1 + Math.exp((1.702 * 4 * d) / spread));

/** A disc that goes over into its surroundings within `spread` pixels; grain on all. */
function disc(
  spread: number,
  contrast: number,
): { values: Float32Array; share: Float32Array; cut: Uint8Array } {
  const random = makeRandom(5);
  const values = new Float32Array(w * h * 3);
  const share = new Float32Array(w * h);
  const cut = new Uint8Array(w * h);
  for (let i = 0; i < w * h; i++) {
    const d = Math.hypot((i % w) - 60, Math.floor(i / w) - 50) - 30;
    share[i] = edgeShare(d, spread);
    cut[i] = d < 0 ? 1 : 0;
    values[3 * i] = 40 + contrast * share[i] + 4 * (random.next() - 0.5);
    values[3 * i + 1] = 5 + 4 * (random.next() - 0.5);
    values[3 * i + 2] = 10 + 4 * (random.next() - 0.5);
  }
  return { values, share, cut };
}

describe('the soft edge of a thing', () => {
  test.each([2, 4, 6])('spread over %i pixels, all that shows the thing is in, and little else', (spread) => {
    const { values, share, cut } = disc(spread, 30);
    const got = withSoftEdge({ w, h, values }, cut);
    let [missing, extra] = [0, 0];
    share.forEach((v, i) => {
      if (v > 0.1 && !got[i]) missing++;
      if (v < 0.01 && got[i]) extra++;
    });
    expect(missing).toBeLessThan(12);
    // Less than one row of the 190 pixels along the outline.
    expect(extra).toBeLessThan(190);
  });

  test('an outline drawn too wide is drawn in', () => {
    const { values, cut } = disc(1, 30);
    const wide = cut.map((_, i) => (Math.hypot((i % w) - 60, Math.floor(i / w) - 50) < 33 ? 1 : 0));
    const got = withSoftEdge({ w, h, values }, wide);
    const size = (m: Uint8Array) => m.reduce((n, v) => n + (v ? 1 : 0), 0);
    expect(size(got)).toBeLessThan(size(wide));
    expect(size(got)).toBeGreaterThan(size(cut) * 0.97);
  });

  test('where the two sides look alike, an edge of the usual width is taken', () => {
    const { values, cut } = disc(2, 1);
    const got = withSoftEdge({ w, h, values }, cut);
    for (let i = 0; i < w * h; i++) {
      const d = Math.hypot((i % w) - 60, Math.floor(i / w) - 50) - 30;
      if (d < 0.5) expect(got[i]).toBe(255);
      if (d > 3.5) expect(got[i]).toBe(0);
    }
  });

  test('nothing and everything stay as they are', () => {
    const { values } = disc(2, 30);
    expect(withSoftEdge({ w, h, values }, new Uint8Array(w * h)).includes(255)).toBe(false);
    expect(withSoftEdge({ w, h, values }, new Uint8Array(w * h).fill(1)).includes(0)).toBe(false);
  });
});
