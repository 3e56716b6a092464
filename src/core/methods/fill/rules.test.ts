import { expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { type FloatImage, makeFloatImage } from '../../raster';
import { makeAtlas } from './atlas';
import { unsteered } from './compute';
import { bentEdges } from './edges/bent-edges';
import { straightEdges } from './edges/straight-edges';
import { h as edgeH, edgeScene, w as edgeW } from './edges/testing';
import { farAcross, offRuledGround, role } from './frame';
import { reduced } from './reduced';
import { makeRules } from './rules';
import { boxHole, picture } from './testing';

const [w, h] = [80, 60];
const rect = { x: 0, y: 0, w, h };
/** Light above, dark below. */
const halves = picture(w, h, (_, y) => (y < 30 ? [0.7, 0.7, 0.6] : [0.3, 0.2, 0.2]));

test('a guide line that misses the area has no rule, and takes none from the lines that it crosses', () => {
  const roles = new Uint8Array(w * h).fill(role.source);
  for (let y = 25; y < 35; y++) roles.fill(role.target, y * w + 50, y * w + 60);
  const atlas = makeAtlas(halves, roles, null, unsteered.variety);
  const through = [0, 30, 80, 30] as const;
  const beside = [20, 0, 20, 60] as const;
  const rulesOf = (lines: (typeof through | typeof beside)[]) =>
    makeRules(atlas, rect, { ...unsteered, lines }, 'drawn');
  const rules = rulesOf([through, beside]);
  expect(rules).toEqual(rulesOf([through]));
  // What lies along the line, and what lies on its sides.
  expect(rules!.list.map(({ nx, ny }) => [nx, ny])).toEqual([
    [0, 0],
    [0, 1],
  ]);
  // Where the two cross, the line through the area holds.
  expect(rules!.index[30 * w + 20]).toBe(2);
  expect(rulesOf([beside])).toBeNull();
});

test('a guide line drawn to an end within the area ends there, from whichever side; one that is all within it goes through', () => {
  const roles = new Uint8Array(w * h).fill(role.source);
  for (let y = 10; y < 50; y++) roles.fill(role.target, y * w + 20, y * w + 60);
  const atlas = makeAtlas(halves, roles, null, unsteered.variety);
  const ruledAt = (line: readonly [number, number, number, number]) => {
    const { index, list } = makeRules(atlas, rect, { ...unsteered, lines: [line] }, 'drawn')!;
    return [24, 38, 44, 56].map((x) => Math.abs(list[index[30 * w + x] - 1]?.ny ?? 0));
  };
  expect(ruledAt([5, 30, 40, 30])).toEqual([1, 1, 0, 0]);
  expect(ruledAt([40, 30, 5, 30])).toEqual([1, 1, 0, 0]);
  expect(ruledAt([75, 30, 40, 30])).toEqual([0, 0, 1, 1]);
  expect(ruledAt([5, 30, 75, 30])).toEqual([1, 1, 1, 1]);
  expect(ruledAt([30, 30, 50, 30])).toEqual([1, 1, 1, 1]);
});

test('guide lines part what is to be filled: each side comes from its own, unless there is too little of it', () => {
  const roles = new Uint8Array(w * h).fill(role.source);
  for (let y = 20; y < 40; y++) roles.fill(role.target, y * w + 20, y * w + 60);
  const atlas = makeAtlas(halves, roles, null, unsteered.variety);
  const rulesOf = (...lines: (readonly [number, number, number, number])[]) =>
    makeRules(atlas, rect, { ...unsteered, lines }, 'drawn')!;
  const at = (x: number, y: number) => y * w + x;
  const across = rulesOf([5, 30, 75, 30]).across!;
  expect(across[at(40, 22)]).toBe(across[at(5, 5)]);
  expect(across[at(40, 38)]).toBe(across[at(75, 55)]);
  expect(Math.abs(across[at(40, 22)] - across[at(40, 38)])).toBeGreaterThan(farAcross);
  // Along the line, as far off it.
  expect(across[at(5, 33)]).toBe(across[at(40, 33)]);
  expect(across[at(5, 33)] - across[at(40, 32)]).toBe(1);
  expect(Math.abs(across[at(5, 33)] - across[at(5, 5)])).toBeGreaterThan(farAcross);
  // What lies near it is not drawn from where no edge is seen there, and nothing keeps to it: the sides meet at the line.
  const plain = makeAtlas(makeFloatImage(rect), roles, null, unsteered.variety);
  const alone = makeRules(plain, rect, { ...unsteered, lines: [[5, 30, 75, 30]] }, 'drawn')!;
  expect(alone.list).toHaveLength(1);
  expect([23, 25, 35, 37].map((y) => alone.across![at(5, y)] === offRuledGround)).toEqual([
    false,
    true,
    true,
    false,
  ]);
  expect(alone.across![at(40, 28)]).toBe(alone.across![at(5, 5)]);
  // One that ends by itself parts nothing; three that meet part three sides.
  expect(rulesOf([5, 30, 40, 30]).across).toBeNull();
  const corner = rulesOf([5, 30, 39, 30], [40, 5, 40, 29], [75, 55, 41, 31]);
  const sides = [at(24, 22), at(56, 22), at(30, 38)].map((p) => corner.across![p]);
  expect(new Set(sides).size).toBe(3);
  // Beside the photo's edge nothing is left to one side.
  for (let y = 0; y < 20; y++) roles.fill(role.context, y * w, y * w + w);
  const { index, list } = rulesOf([5, 38, 75, 22]);
  expect([at(22, 22), at(58, 38)].map((p) => list[index[p] - 1]?.period ?? null)).toEqual([0, 0]);
  roles.fill(role.context, 0, 38 * w);
  for (let y = 20; y < 38; y++) roles.fill(role.target, y * w + 20, y * w + 60);
  const bare = rulesOf([5, 30, 75, 30]);
  expect(bare.index[at(40, 22)]).toBe(0);
  expect(bare.index[at(40, 37)]).toBe(1);
});

test('what is only seen asks nothing where it crosses a guide line that parts sides', () => {
  const side = 120;
  // A dark upright edge and a level one that nothing shows.
  const image = picture(side, side, (x) => (x < 60 ? [0.7, 0.7, 0.6] : [0.3, 0.2, 0.2]));
  const roles = boxHole(side, side, 40, 40, 40, 40).map((v) => (v ? role.target : role.source));
  const atlas = makeAtlas(image, roles, null, unsteered.variety);
  const rulesOf = (lines: (readonly [number, number, number, number])[]) =>
    makeRules(atlas, { x: 0, y: 0, w: side, h: side }, { ...unsteered, lines }, 'seen too')!;
  const normals = (lines: (readonly [number, number, number, number])[]) =>
    rulesOf(lines).list.map(({ nx }) => Math.round(Math.abs(nx)));
  expect(normals([])).toEqual([1]);
  expect(normals([[5, 60, 115, 60]])).toEqual([0]);
  // Beside it, it does.
  expect(normals([[50, 5, 50, 115]])).toEqual([0, 1]);
  // Where it hardly reaches over a line, it holds on the side that it lies on.
  const { index, list } = rulesOf([[5, 75, 115, 75]]);
  expect([50, 78].map((y) => Math.round(Math.abs(list[index[y * side + 60] - 1].nx)))).toEqual([1, 0]);
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

test('an edge that can be taken for straight and for bent is straight', () => {
  const { image, roles } = edgeScene((x, y) => Math.hypot(x - 120, y - 600) < 500);
  expect(straightEdges(image, roles, edgeW, edgeH)).toHaveLength(1);
  expect(bentEdges(image, roles, edgeW, edgeH)).toHaveLength(1);
  const atlas = makeAtlas(image, roles, null, unsteered.variety);
  const rules = makeRules(atlas, image.rect, unsteered, 'seen too')!;
  expect(rules.list.map(({ period, isExact }) => [period, isExact])).toEqual([[null, undefined]]);
});
