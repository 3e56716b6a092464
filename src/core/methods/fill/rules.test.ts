import { expect, test } from 'vitest';
import { makeFloatImage } from '../../raster';
import { makeAtlas } from './atlas';
import { unsteered } from './compute';
import { role } from './frame';
import { makeRules } from './rules';

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
