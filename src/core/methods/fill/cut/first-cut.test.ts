import { expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import { boxHole, fillPicture, frameOf, grainy, picture } from '../testing';
import { firstCut } from './first-cut';

const [w, h] = [900, 640];

/** Flags of chance length and tone in rows that come nearer, with dark joints, and much grain on all of it. */
const pavement = (() => {
  const random = makeRandom(12);
  const { data } = grainy(w, h, 21);
  const rows: { top: number; high: number; flags: { end: number; tone: number }[] }[] = [];
  for (let top = 0, high = 14; top < h; top += high, high = 14 + top / 9) {
    const flags: { end: number; tone: number }[] = [];
    for (
      let end = random.below(4 * high);
      end < w + 5 * high;
      end += Math.round(high * (1.6 + random.next()))
    )
      flags.push({ end, tone: 0.45 + 0.2 * random.next() });
    rows.push({ top, high, flags });
  }
  return picture(w, h, (x, y) => {
    const { top, high, flags } = rows.findLast((row) => row.top <= y)!;
    const { end, tone } = flags.find((flag) => x < flag.end)!;
    const isJoint = Math.min(y - top, end - x) < high / 9;
    const v = (isJoint ? 0.2 : tone) + 0.3 * (data[4 * (y * w + x)] - 0.5);
    return [v, v * 0.97, v * 0.9];
  });
})();

const hole = boxHole(w, h, 280, 170, 340, 300);

/** Share of the filled pixels that were not taken from about beside where the pixel to their left was: a bend moves it by a pixel. */
const joinsIn = (origin: Float32Array) => {
  let [joins, all] = [0, 0];
  hole.forEach((v, p) => {
    if (!v || !hole[p - 1]) return;
    all++;
    const [dx, dy] = [origin[2 * p] - origin[2 * p - 2] - 1, origin[2 * p + 1] - origin[2 * p - 1]];
    if (Math.abs(dx) > 1 || Math.abs(dy) > 1) joins++;
  });
  return joins / all;
};

test('a large hole is filled in large pieces, in which joints stay whole', () => {
  const tries = [1, 2].map((seed) => fillPicture({ image: pavement, hole, seed }).origin);
  const share = tries.map(joinsIn);
  for (const joins of share) expect(joins).toBeLessThan(0.02);
  // Another try is another one.
  let alike = 0;
  hole.forEach((v, p) => {
    if (v && tries[0][2 * p] === tries[1][2 * p] && tries[0][2 * p + 1] === tries[1][2 * p + 1]) alike++;
  });
  expect(alike / hole.reduce((n, v) => n + v, 0)).toBeLessThan(0.7);
});

const [wide, high] = [240, 120];
const small = boxHole(wide, high, 100, 40, 50, 40);

/** Stripes, which join at every step to the side, and cans before them. */
const stripes = (isCan: (x: number, y: number) => boolean = () => false) =>
  picture(wide, high, (x, y) => {
    const v = 0.4 + 0.1 * Math.sin(y / 3);
    return isCan(x, y) ? [0.2, 0.6, 0.25] : [v, v, v];
  });

test('of pieces that join equally well, those without another thing in them are taken', () => {
  const isCan = (x: number, y: number) => ((x >= 44 && x < 56) || (x >= 194 && x < 206)) && y >= 54 && y < 68;
  const frame = frameOf(stripes(isCan), small);
  // A guide that cannot tell.
  const guide = frame.img.map((v, i) => [77, 128, 83][i % 8] ?? v);
  const { shifts, label } = firstCut(
    frame,
    guide,
    new Int32Array(wide * high).fill(-1),
    'in large pieces',
    1,
  );
  small.forEach((v, p) => {
    const { dx, dy } = shifts[Math.max(0, label[p])];
    if (v && isCan((p % wide) + dx, Math.floor(p / wide) + dy)) throw new Error(`pixel ${p} shows a can`);
  });
});

test('of pieces that join equally well, those away from what is left out are taken', () => {
  const frame = frameOf(stripes(), small);
  // Something stands on the left that is not drawn from; on the right nothing does.
  const source = frame.source.map((v, p) => (p % wide >= 40 && p % wide < 52 ? 0 : v));
  const guide = frame.img.slice();
  const sources = Int32Array.from(small, (v, p) => (v ? p + (p % 2 ? -45 : 60) : -1));
  const cut = firstCut({ ...frame, source }, guide, sources, 'in large pieces', 1);
  let near = 0;
  small.forEach((v, p) => {
    const x = v ? (p % wide) + cut.shifts[cut.label[p]].dx : wide;
    if (x < 52 + 40) near++;
  });
  expect(near).toBeLessThan(200);
});

test.each([
  ['larger', [1.6, 0, 0, 1.6]],
  ['larger in one direction, as much smaller in the other', [1.6, 0, 0, 0.625]],
  ['more slanted', [1, 0, 0.9, 1]],
] as const)('of pieces that join equally well, those that were not seen %s are taken', (_how, steps) => {
  const frame = frameOf(stripes(), small);
  const guide = frame.img.slice();
  const sources = Int32Array.from(small, (v, p) => (v ? p + (p % 2 ? -50 : 51) : -1));
  const cut = firstCut(frame, guide, sources, 'in large pieces', 1, (x) => (x < 100 ? steps : [1, 0, 0, 1]));
  let other = 0;
  small.forEach((v, p) => {
    if (v && (p % wide) + cut.shifts[cut.label[p]].dx < 100) other++;
  });
  expect(other).toBe(0);
});
