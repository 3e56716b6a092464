import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import type { FloatImage } from '../../../raster';
import { role } from '../frame';
import { makeFrame, shrink } from '../levels';
import { boxHole, checkSources, fillPicture, picture } from '../testing';
import { withoutThings } from './things';

const [w, h] = [480, 360];
const hole = boxHole(w, h, 80, 40, 280, 260);
const radius = 4;
const green = [0.38, 0.54, 0.38] as const;

type Colour = readonly [number, number, number];

/** Rows of grey stones, lighter and darker, with dark joints, and what else lies there. */
function stones(other: (x: number, y: number) => Colour | null = () => null): FloatImage {
  const random = makeRandom(4);
  const tones = new Map<number, number>();
  return picture(w, h, (x, y) => {
    const row = Math.floor(y / 30);
    const across = x + ((row * 37) % 53);
    const stone = 100 * row + Math.floor(across / 60);
    if (!tones.has(stone)) tones.set(stone, 0.25 * (random.next() - 0.5));
    const grain = 0.06 * (random.next() - 0.5);
    const v = across % 60 < 3 || y % 30 < 3 ? 0.3 : 0.55 + tones.get(stone)!;
    const [red, g, b] = other(x, y) ?? [v, v, v * 0.95];
    return [red + grain, g + grain, b + grain];
  });
}

/** Six pixels thick, winding from top to bottom in the right margin. */
const inHose = (x: number, y: number) => Math.abs(x - 415 - 12 * Math.sin(y / 30)) < 3;
const hose = (colour: Colour = green) => stones((x, y) => (inHose(x, y) ? colour : null));

function levelsOf(image: FloatImage) {
  const roles = hole.map((v) => (v ? role.target : role.source));
  const fine = makeFrame(image, roles, radius, null, null);
  return [fine, shrink(fine), shrink(shrink(fine))];
}

/** Shares of two kinds of places that may be drawn from, before and after. */
function keptOf(image: FloatImage, isIn: (x: number, y: number) => boolean) {
  const before = levelsOf(image);
  const after = withoutThings(before, radius);
  return after.map(({ w, source }, level) => {
    const scale = 2 ** level;
    const count = { of: 0, kept: 0, others: 0, othersKept: 0 };
    before[level].source.forEach((v, p) => {
      if (!v) return;
      const is = isIn((p % w) * scale + (scale - 1) / 2, Math.floor(p / w) * scale + (scale - 1) / 2);
      count[is ? 'of' : 'others']++;
      if (source[p]) count[is ? 'kept' : 'othersKept']++;
    });
    return { itself: count.kept / count.of, others: count.othersKept / count.others };
  });
}

describe('what hangs together in colours that the rim does not show is left out', () => {
  test('what is looked at one level higher is left out as it is of that level, and where it lies in the finest', () => {
    const levels = levelsOf(stones((x, y) => (Math.abs(x - 415 - 12 * Math.sin(y / 30)) < 7 ? green : null)));
    const higher = withoutThings(levels, radius, 1);
    withoutThings(levels.slice(1), radius).forEach(({ source }, level) => {
      expect(higher[level + 1].source).toEqual(source);
    });
    for (let y = 20; y < h - 20; y += 7)
      expect(higher[0].source[y * w + Math.round(415 + 12 * Math.sin(y / 30))]).toBe(0);
  });

  test('a thin thing, at every level, with little round it', () => {
    for (const { itself, others } of keptOf(hose(), inHose)) {
      expect(itself).toBe(0);
      expect(others).toBeGreaterThan(0.85);
    }
  });

  test('a broad thing', () => {
    const inBox = (x: number, y: number) => x > 400 && x < 450 && y > 60 && y < 160;
    const [{ itself, others }] = keptOf(
      stones((x, y) => (inBox(x, y) ? [0.1, 0.2, 0.7] : null)),
      inBox,
    );
    expect(itself).toBe(0);
    expect(others).toBeGreaterThan(0.85);
  });
});

test('of more than may be left out, what is large stays: it is ground', () => {
  const [left, right] = [(x: number) => x < 40, (x: number) => x > 444];
  const image = stones((x, y) => (inHose(x, y) ? green : left(x) || right(x) ? [0.75, 0.45, 0.4] : null));
  expect(keptOf(image, inHose)[0].itself).toBe(0);
  expect(keptOf(image, right)[0].itself).toBe(0);
  expect(keptOf(image, left)[0].itself).toBe(1);
});

describe('what stays', () => {
  const staysAll = (image: FloatImage) => {
    const levels = levelsOf(image);
    expect(withoutThings(levels, radius) === levels).toBe(true);
  };

  test('a ground of one kind', () => staysAll(stones()));

  test('what the rim shows too', () =>
    staysAll(stones((x, y) => (inHose(x, y) || (Math.abs(x - 200) < 3 && y > 295) ? green : null))));

  test('what is only darker: a shadow', () => staysAll(hose([0.15, 0.15, 0.14])));

  test('specks', () => staysAll(stones((x, y) => (x > 380 && x % 40 < 6 && y % 30 < 6 ? green : null))));

  test('most of the picture', () => staysAll(stones((x) => (x > 390 ? green : null))));

  test('everything, where nothing is known at the rim', () => {
    const [fine, ...coarser] = levelsOf(hose());
    const blind = [{ ...fine, known: fine.known.map(() => 0) }, ...coarser];
    const levels = blind.map((frame) => ({ ...frame, known: frame.known.map(() => 0) }));
    expect(withoutThings(levels, radius) === levels).toBe(true);
  });
});

test('a large fill takes nothing from a thin thing beside it', () => {
  for (const seed of [1, 2]) {
    const filled = fillPicture({ image: hose(), hole, reach: 4, seed });
    checkSources(filled, w, h, hole);
    const taken = hole.filter((v, p) => v && inHose(filled.origin[2 * p], filled.origin[2 * p + 1]));
    expect(taken).toHaveLength(0);
  }
});
