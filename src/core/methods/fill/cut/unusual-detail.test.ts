import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import { boxHole, frameOf, picture } from '../testing';
import { unusualDetail } from './unusual-detail';

const [w, h] = [120, 80];
const hole = boxHole(w, h, 50, 30, 16, 16);

/** Grains of one colour, of a strength for each place. */
function grains(strengthAt: (x: number, y: number) => number, hidden = 0.5) {
  const random = makeRandom(4);
  return picture(w, h, (x, y) => {
    const grain = strengthAt(x, y) * (random.next() - 0.5);
    if (hole[y * w + x]) return [hidden, hidden, hidden];
    return [0.5 + grain, 0.45 + grain, 0.3 + grain];
  });
}

/** Of the prices within a box, the mean. */
function meanIn(prices: Float32Array, x: number, y: number, bw: number, bh: number): number {
  const box = boxHole(w, h, x, y, bw, bh);
  return prices.reduce((sum, v, p) => sum + (box[p] ? v : 0), 0) / (bw * bh);
}

describe('unusual detail', () => {
  test('a smooth patch of the same colour costs an octave’s price or more, the rest a fraction of that', () => {
    const prices = unusualDetail(
      frameOf(
        grains((x) => (x < 30 ? 0.05 : 0.4)),
        hole,
      ),
    );
    expect(meanIn(prices, 4, 10, 20, 60)).toBeGreaterThan(15);
    expect(meanIn(prices, 80, 10, 34, 60)).toBeLessThan(4);
    expect(Math.max(...prices)).toBeLessThanOrEqual(30);
  });

  test('where all is alike, nothing costs much; a rougher patch costs less than a smoother one', () => {
    const alike = unusualDetail(
      frameOf(
        grains(() => 0.3),
        hole,
      ),
    );
    expect(meanIn(alike, 0, 0, w, h)).toBeLessThan(3);
    const [rough, smooth] = [0.8, 0.05].map((strength) =>
      meanIn(
        unusualDetail(
          frameOf(
            grains((x) => (x < 30 ? strength : 0.2)),
            hole,
          ),
        ),
        4,
        10,
        20,
        60,
      ),
    );
    expect(rough).toBeGreaterThan(4);
    expect(rough).toBeLessThan(0.8 * smooth);
  });

  test('plain ground of another colour is as plain as usual for it', () => {
    const random = makeRandom(4);
    const image = picture(w, h, (x) => {
      const grain = (x < 30 ? 0.01 : 0.4) * (random.next() - 0.5);
      return x < 30 ? [0.5 + grain, 0.7 + grain, 0.95] : [0.5 + grain, 0.45 + grain, 0.3 + grain];
    });
    const prices = unusualDetail(frameOf(image, hole));
    expect(meanIn(prices, 4, 10, 20, 60)).toBeLessThan(3);
  });

  test('what the hole hides has no say', () => {
    const of = (hidden: number) =>
      unusualDetail(
        frameOf(
          grains(() => 0.3, hidden),
          hole,
        ),
      );
    expect(of(0)).toEqual(of(1));
  });
});
