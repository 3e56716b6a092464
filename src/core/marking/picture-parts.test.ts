import fc from 'fast-check';
import { expect, test } from 'vitest';
import { connected } from '../area';
import { labOfPixels } from '../colour';
import { makeRandom } from '../random';
import { picturePartsOf } from './picture-parts';

const [w, h] = [160, 120];
const leastPx = (w * h) / 1500;
type Tone = (x: number, y: number) => number;

/** A grey picture of 8-bit tones. */
function grey(toneAt: Tone) {
  const rgba = new Uint8Array(4 * w * h);
  for (let i = 0; i < w * h; i++) rgba.fill(toneAt(i % w, Math.floor(i / w)), 4 * i, 4 * i + 4);
  return { w, h, lab: labOfPixels(rgba, w * h) };
}

const all = new Uint8Array(w * h).fill(1);
const fromMiddle = (i: number) => Math.hypot((i % w) - 80, Math.floor(i / w) - 60);
const countOf = (parts: Int32Array) => new Set(parts.filter((part) => part >= 0)).size;

test('what differs clearly is parted, though it is grainy; what passes over slowly is not', () => {
  const random = makeRandom(3);
  const grain = Float32Array.from({ length: w * h }, () => 4 * (random.next() - 0.5));
  const parts = picturePartsOf(
    grey((x, y) => (fromMiddle(y * w + x) < 30 ? 150 : 90) + grain[y * w + x]),
    all,
  );
  const [disc, ground] = [parts[60 * w + 80], parts[0]];
  expect(disc).not.toBe(ground);
  // Where colours mix, along the border, there are slivers.
  const clear = [...parts.keys()].filter((i) => Math.abs(fromMiddle(i) - 30) > 5);
  const right = clear.filter((i) => parts[i] === (fromMiddle(i) < 30 ? disc : ground));
  expect(right.length / clear.length).toBeGreaterThan(0.99);
  const passing = picturePartsOf(
    grey((x, y) => 60 + x / 3 + grain[y * w + x]),
    all,
  );
  expect(passing[0]).toBe(passing[w * h - 1]);
});

test('two grounds that touch only where nothing is seen are two parts; unseen pixels have none', () => {
  const isSeen = Uint8Array.from({ length: w * h }, (_, i) => (i % w > 78 && i % w < 82 ? 0 : 1));
  const parts = picturePartsOf(
    grey(() => 120),
    isSeen,
  );
  expect(countOf(parts)).toBe(2);
  isSeen.forEach((is, i) => {
    expect(parts[i] >= 0).toBe(is === 1);
  });
});

test('parts hang together, are named by one of their own pixels, and are no smaller than specks', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 1e6 }), fc.integer({ min: 2, max: 90 }), (seed, contrast) => {
      const random = makeRandom(seed);
      const blocks = Float32Array.from({ length: 100 }, () => contrast * random.next());
      const picture = grey((x, y) => 80 + blocks[10 * Math.floor(y / 13) + Math.floor(x / 17)]);
      const parts = picturePartsOf(picture, all);
      for (const part of new Set(parts)) {
        expect(parts[part]).toBe(part);
        const own = Uint8Array.from(parts, (v) => (v === part ? 1 : 0));
        expect(connected(own, w, h)).toHaveLength(1);
        expect(own.reduce((n, v) => n + v, 0)).toBeGreaterThanOrEqual(leastPx);
      }
    }),
    { numRuns: 15 },
  );
});
