import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import type { FloatImage } from '../../../raster';
import { type Frame, pixelBytes } from '../frame';
import { boxHole, frameOf, picture } from '../testing';
import { withoutCrumbs } from './crumbs';
import type { ShiftMap } from './seam-cut';

const [w, h] = [360, 200];
const left = { dx: -140, dy: 0 };
const right = { dx: 110, dy: 0 };

/** A sky with a little grain, and dark spots in it. */
function sky(isDark: (x: number, y: number) => boolean, grain = 4): FloatImage {
  const random = makeRandom(5);
  return picture(w, h, (x, y) => {
    const value = ((isDark(x, y) ? 60 : 190) + grain * (random.next() - 0.5)) / 255;
    return [value, value, value];
  });
}

const isSpot = (x: number, y: number, cx: number, cy: number, r: number) =>
  (x - cx) ** 2 + (y - cy) ** 2 <= r * r;

/** The left half of a hole comes from the left, its right half from the right. */
function cutOf(image: FloatImage): { frame: Frame; map: ShiftMap } {
  const frame = frameOf(image, boxHole(w, h, 160, 60, 80, 80));
  const label = Int32Array.from(frame.hole, (v, p) => (v ? (p % w < 200 ? 0 : 1) : -1));
  return { frame, map: { shifts: [left, right], label } };
}

/** How many pixels of the hole are dark. */
function darkIn({ hole, img }: Frame, { shifts, label }: ShiftMap): number {
  let n = 0;
  for (let p = 0; p < hole.length; p++)
    if (hole[p] && img[(p + shifts[label[p]].dy * w + shifts[label[p]].dx) * pixelBytes] < 120) n++;
  return n;
}

// It comes to lie at 180, 100: forty pixels from the hole's sides.
const leaf = (x: number, y: number) => isSpot(x, y, 40, 100, 4);

const tree = (x: number, y: number) => x < 19 && Math.abs(y - 100) < 40;

test('a leaf that hung beside a tree does not hang alone in the sky', () => {
  const { frame, map } = cutOf(sky((x, y) => leaf(x, y) || tree(x, y)));
  expect(darkIn(frame, map)).toBeGreaterThan(40);
  const out = withoutCrumbs(frame, map);
  expect(darkIn(frame, out)).toBe(0);
  // Nothing else changes but what is round it.
  for (let p = 0; p < w * h; p++)
    if (!isSpot(p % w, Math.floor(p / w), 180, 100, 8)) expect(out.label[p]).toBe(map.label[p]);
});

describe('stays as it is', () => {
  test('what was alone before', () => {
    const { frame, map } = cutOf(sky(leaf));
    expect(darkIn(frame, withoutCrumbs(frame, map))).toBe(darkIn(frame, map));
  });

  test('what reaches the rim of the hole', () => {
    const { frame, map } = cutOf(sky((x, y) => (y > 97 && y < 102 && x > 15 && x < 45) || x < 6));
    expect(darkIn(frame, map)).toBeGreaterThan(40);
    expect(withoutCrumbs(frame, map)).toBe(map);
  });

  test('what is dark in ground that is not plain', () => {
    const { frame, map } = cutOf(sky((x, y) => leaf(x, y) || tree(x, y), 90));
    expect(withoutCrumbs(frame, map)).toBe(map);
  });

  test('a leaf, when no other piece shows sky there', () => {
    const { frame, map } = cutOf(sky((x, y) => leaf(x, y) || tree(x, y) || isSpot(x, y, 290, 100, 30)));
    const out = withoutCrumbs(frame, map);
    expect(out.label[100 * w + 180]).toBe(0);
  });
});
