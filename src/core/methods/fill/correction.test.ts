import { expect, test } from 'vitest';
import { correctionField } from './correction';
import { role } from './frame';
import { boxHole, picture } from './testing';

const [w, h] = [40, 30];
const hole = boxHole(w, h, 15, 10, 10, 10);
/** Everything is taken from 12 px to the right, where it is darker by a step. */
const image = picture(w, h, (x) => (x < 26 ? [0.6, 0.6, 0.6] : [0.5, 0.5, 0.5]));
const label = Int32Array.from(hole, (v) => (v ? 0 : -1));
const map = { shifts: [{ dx: 12, dy: 0 }], label };
const fieldWith = (roles: Uint8Array) => {
  const field = correctionField(image, roles, map);
  return [...hole.keys()].filter((p) => hole[p]).map((p) => field[4 * p]);
};

test('a tone step at the rim is taken up all over the hole', () => {
  for (const v of fieldWith(hole.map((v) => (v ? role.target : role.source)))) expect(v).toBeCloseTo(0.1, 2);
});

test('a hole does not take the tone of what was only guessed', () => {
  const roles = hole.map((v) => (v ? role.target : role.source));
  const isGuessed = (p: number) => !hole[p] && p % w >= 10 && p % w < 20;
  roles.forEach((_, p) => {
    if (isGuessed(p)) roles[p] = role.guessed;
  });
  const before = fieldWith(roles);
  roles.forEach((_, p) => {
    if (isGuessed(p)) image.data.set([0.1, 0.3, 0.1], 4 * p);
  });
  expect(fieldWith(roles)).toEqual(before);
  for (const v of before) expect(v).toBeCloseTo(0.1, 2);
});
