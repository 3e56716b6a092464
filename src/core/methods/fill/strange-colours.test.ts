import { expect, test } from 'vitest';
import { makeRandom } from '../../random';
import type { FloatImage } from '../../raster';
import { meanStrangeness, strangeColours } from './strange-colours';
import { boxHole, frameOf, picture } from './testing';

const [w, h] = [160, 120];
const hole = boxHole(w, h, 40, 40, 80, 40);
const at = (x: number, y: number) => y * w + x;
const midst = at(80, 60);

/** Grey stones with dark joints, and what else stands there. */
function stones(other: (x: number, y: number) => readonly [number, number, number] | null): FloatImage {
  const random = makeRandom(4);
  return picture(w, h, (x, y) => {
    const grain = 0.04 * (random.next() - 0.5);
    const v = (x % 20 < 2 || y % 15 < 2 ? 0.3 : 0.55) + grain;
    return other(x, y) ?? [v, v, v * 0.95];
  });
}

const strangeIn = (image: FloatImage) => strangeColours(frameOf(image, hole));

test('stones and their joints are at home among stones, something green is not', () => {
  const strange = strangeIn(stones((x, y) => (x > 10 && x < 16 && y > 30 ? [0.2, 0.6, 0.2] : null)));
  expect(strange(midst, at(150, 68))).toBe(0);
  expect(strange(midst, at(141, 70))).toBe(0);
  expect(strange(midst, at(13, 60))).toBeGreaterThan(40);
});

test('what the rim shows is at home near it only', () => {
  // A red post that the hole touches on its left.
  const strange = strangeIn(
    stones((x, y) => (x > 20 && x < 40 && y > 30 && y < 90 ? [0.8, 0.1, 0.1] : null)),
  );
  const red = at(35, 60);
  expect(strange(at(41, 60), red)).toBe(0);
  expect(strange(at(118, 60), red)).toBeGreaterThan(30);
});

test('darker is less strange than brighter', () => {
  const strange = strangeIn(
    stones((x, y) => (y > 20 ? null : x < 40 ? [0.05, 0.05, 0.05] : x > 120 ? [1, 1, 1] : null)),
  );
  const [dark, bright] = [strange(midst, at(20, 10)), strange(midst, at(140, 10))];
  expect(bright).toBeGreaterThan(2 * dark);
  expect(bright).toBeGreaterThan(40);
});

test('in ruled ground darker is as strange as brighter', () => {
  const frame = frameOf(
    stones((x, y) => (y <= 20 && x < 40 ? [0.05, 0.05, 0.05] : null)),
    hole,
  );
  const index = hole.map((v, p) => (v && p % w >= 80 ? 1 : 0));
  const list = [{ nx: 1, ny: 0, slack: 1, period: 20 }];
  const rules = { index, list, across: new Float32Array(w * h) };
  const strange = strangeColours({ ...frame, rules });
  expect(strange(midst, at(20, 10))).toBeGreaterThan(2 * strange(at(79, 60), at(20, 10)));
});

test('a hole without any rim finds nothing strange', () => {
  const all = new Uint8Array(w * h).fill(1);
  expect(
    strangeColours(
      frameOf(
        stones(() => null),
        all,
      ),
    )(midst, midst),
  ).toBe(0);
});

test('a picture is the stranger the more of its hole has colours that the rim does not show', () => {
  const frame = frameOf(
    stones(() => null),
    hole,
  );
  const isGreen = (x: number, y: number, rows: number) => x > 45 && x < 115 && y >= 45 && y < 45 + rows;
  const withGreen = (rows: number) => {
    const filled = stones((x, y) => (isGreen(x, y, rows) ? [0.2, 0.6, 0.2] : null));
    return meanStrangeness(frame, frameOf(filled, new Uint8Array(w * h)).img, 3);
  };
  expect(withGreen(0)).toBe(0);
  expect(withGreen(10)).toBeGreaterThan(5);
  expect(withGreen(20)).toBeCloseTo(2 * withGreen(10), 0);
  // Where no rim is known, nothing is strange.
  expect(meanStrangeness({ ...frame, known: new Uint8Array(w * h) }, frame.img, 3)).toBe(0);
});
