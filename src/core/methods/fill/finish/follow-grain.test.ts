import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import { type FloatImage, gaussianBlur, makeFloatImage } from '../../../raster';
import type { ShiftMap } from '../cut/seam-cut';
import { role } from '../frame';
import { followGrain } from './follow-grain';

const side = 120;
const block = { x: 40, y: 40, w: 30, h: 30 };
const isInside = (x: number, y: number) =>
  x >= block.x && y >= block.y && x < block.x + block.w && y < block.y + block.h;

/** Grain as a lens of the given softness leaves it; 0: every pixel for itself. */
function grain(sigmaPx: number, seed = 3) {
  const image = makeFloatImage({ x: 0, y: 0, w: side, h: side });
  const random = makeRandom(seed);
  for (let i = 0; i < image.data.length; i += 4)
    image.data.fill((random.next() - 0.5) * (0.2 + sigmaPx), i, i + 3);
  if (sigmaPx > 0) gaussianBlur(image.data, side, side, sigmaPx);
  for (let i = 0; i < image.data.length; i++) image.data[i] = i % 4 === 3 ? 1 : 0.5 + image.data[i];
  return image;
}

/** The block in two pieces, each taken from elsewhere. */
function pieced(): { roles: Uint8Array; map: ShiftMap } {
  const roles = new Uint8Array(side * side).fill(role.source);
  const label = new Int32Array(side * side).fill(-1);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++)
      if (isInside(x, y)) {
        roles[y * side + x] = role.target;
        label[y * side + x] = x < block.x + 12 ? 0 : 1;
      }
  return {
    roles,
    map: {
      shifts: [
        { dx: 38, dy: 5 },
        { dx: -33, dy: 31 },
      ],
      label,
    },
  };
}

type Filled = { values: Float32Array; roughness: { rim: number; join: number; elsewhere: number } };

function filled(image: ReturnType<typeof grain>, field: Float32Array): Filled {
  const { roles, map } = pieced();
  const values = new Float32Array(side * side);
  for (let p = 0; p < values.length; p++) {
    const s = roles[p] === role.target ? map.shifts[map.label[p]] : { dx: 0, dy: 0 };
    values[p] = image.data[4 * (p + s.dy * side + s.dx)] + field[4 * p];
  }
  const sums = { rim: [0, 0], join: [0, 0], elsewhere: [0, 0] };
  for (let y = 2; y < side - 2; y++)
    for (let x = 2; x < side - 2; x++) {
      const p = y * side + x;
      const around = [p - 1, p + 1, p - side, p + side];
      const kind = around.some((q) => (roles[q] === role.target) !== (roles[p] === role.target))
        ? 'rim'
        : around.some((q) => map.label[q] !== map.label[p])
          ? 'join'
          : 'elsewhere';
      sums[kind][0] += Math.abs(4 * values[p] - around.reduce((n, q) => n + values[q], 0));
      sums[kind][1]++;
    }
  const mean = ([sum, count]: number[]) => sum / count;
  return {
    values,
    roughness: { rim: mean(sums.rim), join: mean(sums.join), elsewhere: mean(sums.elsewhere) },
  };
}

const untouched = (): FloatImage => makeFloatImage({ x: 0, y: 0, w: side, h: side });
function followed(image: ReturnType<typeof grain>): Float32Array {
  const field = untouched();
  const { roles, map } = pieced();
  followGrain(image, roles, map, field);
  return field.data;
}

describe('pixels at joins follow the grain beyond', () => {
  test.each([1, 1.6])('a photo %f px soft is hardly rougher at joins than elsewhere', (sigma) => {
    const image = grain(sigma);
    const before = filled(image, untouched().data).roughness;
    const { rim, join, elsewhere } = filled(image, followed(image)).roughness;
    expect(before.rim / before.elsewhere).toBeGreaterThan(1.6);
    expect(rim / elsewhere - 1).toBeLessThan(0.25 * (before.rim / before.elsewhere - 1));
    expect(join / elsewhere - 1).toBeLessThan(0.35 * (before.join / before.elsewhere - 1));
    expect(Math.min(rim, join) / elsewhere).toBeGreaterThan(0.7);
  });

  test('loose grain, where pixels have nothing in common, is left as it is', () => {
    const image = grain(0);
    const field = followed(image);
    const strength = Math.sqrt(field.reduce((n, v) => n + v * v, 0) / (block.w * block.h * 3));
    expect(strength).toBeLessThan(0.1 * 0.2);
  });

  test('nothing beyond a few pixels from a join changes, and nothing outside the area', () => {
    const field = followed(grain(1.4));
    for (let y = 0; y < side; y++)
      for (let x = 0; x < side; x++) {
        const deep =
          Math.min(
            x - block.x,
            y - block.y,
            block.x + block.w - 1 - x,
            block.y + block.h - 1 - y,
            Math.abs(x - block.x - 11.5),
          ) > 4;
        if (!isInside(x, y) || deep) expect(field[4 * (y * side + x)]).toBe(0);
      }
  });

  test('a plain picture stays as it is', () => {
    const image = makeFloatImage({ x: 0, y: 0, w: side, h: side });
    image.data.fill(0.5);
    expect(followed(image).every((v) => v === 0)).toBe(true);
  });

  test('a repeating pattern, whose covariances are none, blows nothing up', () => {
    for (const period of [2, 3, 4, 5]) {
      const image = grain(0.6);
      for (let p = 0; p < side * side; p++)
        for (let c = 0; c < 3; c++) image.data[4 * p + c] += (p % side) % period === 0 ? 0.3 : 0;
      const field = followed(image);
      expect(field.every((v) => Number.isFinite(v) && Math.abs(v) < 0.5)).toBe(true);
    }
  });

  test.each([
    ['twice as large', 2, 2],
    ['three times as large', 3, 3],
    ['twice as wide', 2, 1],
  ])('in a photo made %s by doubling pixels, joins change by no more than grain does', (_, wide, high) => {
    for (const sigma of [0, 0.6, 1, 1.6]) {
      const image = grain(sigma);
      for (let y = 0; y < side; y++)
        for (let x = 0; x < side; x++) {
          const from = 4 * ((y - (y % high)) * side + x - (x % wide));
          image.data.copyWithin(4 * (y * side + x), from, from + 4);
        }
      const values = image.data.filter((_, i) => i % 4 === 0);
      const deviation = Math.sqrt(values.reduce((sum, v) => sum + (v - 0.5) ** 2, 0) / values.length);
      const most = followed(image).reduce((m, v) => Math.max(m, Math.abs(v)), 0);
      expect(most / deviation, `${sigma} px soft`).toBeLessThan(4);
    }
  });

  test('what was only guessed round the area has no say in what pixels have in common', () => {
    const image = grain(1);
    const { roles, map } = pieced();
    const plain = untouched();
    followGrain(image, roles, map, plain);
    // Beyond the block’s left side, where neither piece is taken from, a stripe is known but no source: made of pairs of equal pixels, as no photo is.
    for (let y = 14; y < 66; y++)
      for (let x = 14; x < 38; x++) {
        roles[y * side + x] = role.context;
        const from = 4 * ((y & ~1) * side + (x & ~1));
        image.data.copyWithin(4 * (y * side + x), from, from + 4);
      }
    const beside = untouched();
    followGrain(image, roles, map, beside);
    // At the join between the pieces, far from the stripe, the same weights give the same.
    let differ = 0;
    for (let y = block.y + 6; y < block.y + block.h - 6; y++)
      for (let x = block.x + 10; x < block.x + 16; x++)
        differ = Math.max(differ, Math.abs(plain.data[4 * (y * side + x)] - beside.data[4 * (y * side + x)]));
    expect(differ).toBeLessThan(0.01);
    expect(Math.max(...plain.data.map(Math.abs))).toBeGreaterThan(0.02);
  });

  test('the same picture gives the same bits', () => {
    expect(followed(grain(1.3))).toEqual(followed(grain(1.3)));
  });
});
