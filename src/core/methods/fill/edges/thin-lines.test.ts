import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import { makeFloatImage } from '../../../raster';
import { makeAtlas } from '../atlas';
import { unsteered } from '../compute';
import { role } from '../frame';
import { makeRules } from '../rules';
import { thinLines } from './thin-lines';

const [w, h] = [300, 240];
const hole = { x: 110, y: 80, w: 80, h: 80 };

/** Grainy ground on which `darker` says by how many 8-bit steps each place is darker, and a hole in the middle. */
function scene(darker: (x: number, y: number) => number, grain = 16) {
  const random = makeRandom(8);
  const image = makeFloatImage({ x: 0, y: 0, w, h });
  const roles = new Uint8Array(w * h).fill(role.source);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const v = (110 - darker(x, y) + grain * (random.next() - 0.5)) / 255;
      image.data.set([v, 0.6 * v, 0.5 * v, 1], 4 * (y * w + x));
      const inside = x >= hole.x && x < hole.x + hole.w && y >= hole.y && y < hole.y + hole.h;
      if (inside) roles[y * w + x] = role.target;
    }
  return { image, roles };
}

const found = (darker: (x: number, y: number) => number, grain?: number) => {
  const { image, roles } = scene(darker, grain);
  return thinLines(image, roles, w, h);
};

/** A joint that slants a little. */
const at = (x: number) => 118 + 0.06 * (x - 150);
const joint = (by: number) => (x: number, y: number) => (Math.abs(y - at(x)) < 1.5 ? by : 0);

/** Strokes as of grass: each strong, none of them long. */
const strokes = (() => {
  const random = makeRandom(4);
  const out = new Float32Array(w * h);
  for (let n = 0; n < 900; n++) {
    const [x0, y0, slope, by] = [
      random.below(w),
      random.below(h),
      random.next() - 0.5,
      60 * random.next() - 30,
    ];
    for (let k = 0; k < 26; k++) {
      const [x, y] = [Math.round(x0 + slope * k), y0 + k];
      for (let d = 0; d < 2; d++) if (x + d >= 0 && x + d < w && y < h) out[y * w + x + d] = by;
    }
  }
  return (x: number, y: number) => out[y * w + x];
})();

describe('a thin line', () => {
  test('fainter than the grain is found on both sides of a hole, to within a pixel', () => {
    const lines = found(joint(9));
    expect(lines).toHaveLength(1);
    const [x0, y0, x1, y1] = lines[0];
    expect(Math.abs(y0 - at(x0))).toBeLessThan(1);
    expect(Math.abs(y1 - at(x1))).toBeLessThan(1);
    expect(Math.min(x0, x1)).toBeLessThanOrEqual(hole.x + 1);
    expect(Math.max(x0, x1)).toBeGreaterThanOrEqual(hole.x + hole.w - 2);
  });

  test('that is lighter is one as well', () => {
    expect(found(joint(-9))).toHaveLength(1);
  });

  test('may be wider than what is looked at first', () => {
    expect(found((x, y) => (Math.abs(y - at(x)) < 4.5 ? 20 : 0))).toHaveLength(1);
  });

  test('is none when it ends at the hole, jogs behind it, or is dark before and light behind it', () => {
    expect(found((x, y) => (x < 150 ? joint(14)(x, y) : 0))).toEqual([]);
    expect(found((x, y) => joint(14)(x, x < 150 ? y : y - 14))).toEqual([]);
    expect(found((x, y) => (x < 150 ? 1 : -1) * joint(14)(x, y))).toEqual([]);
  });

  test('is none when another ground crosses it near the hole, as a hoop does a stave', () => {
    const hoop = (x: number) => (x > 82 && x < 98 ? 50 : 0);
    expect(found((x, y) => joint(14)(x, y) + hoop(x))).toEqual([]);
  });

  test('is not seen in grass, nor in grain alone', () => {
    expect(found(strokes)).toEqual([]);
    expect(found(() => 0, 40)).toEqual([]);
  });

  test('is seen before grass that is as strong', () => {
    expect(found((x, y) => joint(60)(x, y) || strokes(x, y))).toHaveLength(1);
  });
});

test('sources of what lies on a thin line lie along it', () => {
  const { image, roles } = scene(joint(9));
  const rules = makeRules(
    makeAtlas(image, roles, null, unsteered.variety),
    image.rect,
    unsteered,
    'seen too',
  )!;
  expect(rules.list).toHaveLength(1);
  const [{ nx, ny, period }] = rules.list;
  expect(Math.abs(nx / ny + 0.06)).toBeLessThan(0.02);
  expect(period).toBeNull();
  expect(rules.index[Math.round(at(150)) * w + 150]).toBe(1);
  expect(rules.index[(Math.round(at(150)) + 12) * w + 150]).toBe(0);
});
