import { expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { type FloatImage, makeFloatImage } from '../../raster';
import { makeAtlas } from './atlas';
import { unsteered } from './compute';
import { role } from './frame';
import { reduced } from './reduced';
import { makeRules } from './rules';
import { boxHole, picture } from './testing';

const [w, h] = [80, 60];
const rect = { x: 0, y: 0, w, h };

test('a guide line that misses the area has no rule, and takes none from the lines that it crosses', () => {
  const roles = new Uint8Array(w * h).fill(role.source);
  for (let y = 25; y < 35; y++) roles.fill(role.target, y * w + 50, y * w + 60);
  const atlas = makeAtlas(makeFloatImage(rect), roles, null, unsteered.variety);
  const through = [0, 30, 80, 30] as const;
  const beside = [20, 0, 20, 60] as const;
  const rulesOf = (lines: (typeof through | typeof beside)[]) =>
    makeRules(atlas, rect, { ...unsteered, lines }, 'drawn');
  const rules = rulesOf([through, beside]);
  expect(rules).toEqual(rulesOf([through]));
  expect(rules!.list).toHaveLength(1);
  // Where the two cross, the line through the area holds.
  expect(rules!.index[30 * w + 20]).toBe(1);
  expect(rulesOf([beside])).toBeNull();
});

test('a guide line drawn to an end within the area ends there, from whichever side; one that is all within it goes through', () => {
  const roles = new Uint8Array(w * h).fill(role.source);
  for (let y = 10; y < 50; y++) roles.fill(role.target, y * w + 20, y * w + 60);
  const atlas = makeAtlas(makeFloatImage(rect), roles, null, unsteered.variety);
  const ruledAt = (line: readonly [number, number, number, number]) => {
    const { index } = makeRules(atlas, rect, { ...unsteered, lines: [line] }, 'drawn')!;
    return [24, 38, 44, 56].map((x) => index[30 * w + x]);
  };
  expect(ruledAt([5, 30, 40, 30])).toEqual([1, 1, 0, 0]);
  expect(ruledAt([40, 30, 5, 30])).toEqual([1, 1, 0, 0]);
  expect(ruledAt([75, 30, 40, 30])).toEqual([0, 0, 1, 1]);
  expect(ruledAt([5, 30, 75, 30])).toEqual([1, 1, 1, 1]);
  expect(ruledAt([30, 30, 50, 30])).toEqual([1, 1, 1, 1]);
});

test('what is seen in a picture rules in one twice as large as well, in its own measures', () => {
  const side = 1000;
  const random = makeRandom(3);
  const joint = (x: number) => (Math.abs((x % 80) - 40) < 4 ? 0.45 : 1);
  // Boards above a ground, with a straight edge between them.
  const large = picture(side, side, (x, y) => {
    const grain = 0.08 * (random.next() - 0.5);
    const light = y < 700 ? joint(x + 0.03 * y) : 1;
    return y < 700 ? [0.35 * light + grain, 0.5 * light + grain, 0.4] : [0.8 + grain, 0.75, 0.6 + grain];
  });
  const roles = boxHole(side, side, 180, 150, 650, 640).map((v) => (v ? role.target : role.source));
  const rulesOf = (image: FloatImage, its: Uint8Array) =>
    makeRules(makeAtlas(image, its, null, unsteered.variety), image.rect, unsteered, 'seen too')!;
  const rules = rulesOf(large, roles);
  const half = reduced({ image: large, roles }, 2);
  const small = rulesOf(half.image, half.roles);
  const [regular] = small.list;
  expect(regular.period).toBeGreaterThan(38);
  expect(regular.period).toBeLessThan(42);
  expect(rules.list.map(({ nx, ny, period }) => [nx, ny, period])).toEqual(
    small.list.map(({ nx, ny, period }) => [nx, ny, period && 2 * period]),
  );
  let [same, off] = [0, 0];
  for (let y = 0, p = 0; y < side / 2; y++)
    for (let x = 0; x < side / 2; x++, p++) {
      const four = [0, 1, side, side + 1].map((d) => 2 * y * side + 2 * x + d);
      if (four.every((q) => rules.index[q] === small.index[p])) same++;
      if (small.index[p] !== 1 || four.some((q) => rules.index[q] !== 1)) continue;
      const mean = four.reduce((sum, q) => sum + rules.across![q], 0) / 4;
      off = Math.max(off, Math.abs(mean - 2 * small.across![p]));
    }
  // All but what lies at the edge of a band.
  expect(same / half.roles.length).toBeGreaterThan(0.97);
  expect(off).toBeLessThan(1);
});
