import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import { type FloatImage, makeFloatImage } from '../../../raster';
import { role } from '../frame';
import { boxHole, picture } from '../testing';
import type { FilledPart } from './render';
import { softenJoins } from './soft-joins';

const [w, h] = [320, 200];
const box = { x: 120, y: 60, w: 80, h: 80 };
const hole = boxHole(w, h, box.x, box.y, box.w, box.h);
const roles = hole.map((v) => (v ? role.target : role.source));

/** A ground with grain; what is to go is NaN, so that nobody looks at it. */
function ground(at: (x: number, y: number) => number, grain = 0.02): FloatImage {
  const random = makeRandom(4);
  return picture(w, h, (x, y) => {
    const v = hole[y * w + x] ? Number.NaN : at(x, y) + grain * (random.next() - 0.5);
    return [v, v, v];
  });
}

/** The left half of the box from one shift, the right half from another. */
function filled(
  { data }: FloatImage,
  left: readonly [number, number],
  right: readonly [number, number],
): FilledPart {
  const image = makeFloatImage(box);
  const origin = new Float32Array(2 * box.w * box.h);
  for (let y = 0, i = 0; y < box.h; y++)
    for (let x = 0; x < box.w; x++, i++) {
      const [dx, dy] = x < box.w / 2 ? left : right;
      const [u, v] = [box.x + x + dx, box.y + y + dy];
      origin.set([u, v], 2 * i);
      image.data.set(data.subarray(4 * (v * w + u), 4 * (v * w + u) + 4), 4 * i);
    }
  return { image, origin };
}

/** Mean brightness of the middle rows, column by column. */
const columns = ({ image: { data } }: FilledPart) =>
  Array.from({ length: box.w }, (_, x) => {
    let sum = 0;
    for (let y = 20; y < 60; y++) sum += data[4 * (y * box.w + x)];
    return sum / 40;
  });

const largestStep = (list: readonly number[]) =>
  Math.max(...list.slice(1).map((v, k) => Math.abs(v - list[k])));

/** Deviation of neighbours from each other beside the join. */
function grainOf({ image: { data } }: FilledPart): number {
  let sum = 0;
  for (let y = 20; y < 60; y++)
    for (let x = 36; x < 43; x++) sum += (data[4 * (y * box.w + x)] - data[4 * (y * box.w + x + box.w)]) ** 2;
  return Math.sqrt(sum / (40 * 7));
}

const copyOf = ({ image, origin }: FilledPart): FilledPart => ({
  image: { rect: image.rect, data: image.data.slice() },
  origin,
});

describe('joins where the ground is out of focus', () => {
  const soft = ground((x, y) => 0.5 + 0.12 * Math.sin(x / 45) + 0.1 * Math.cos(y / 38));

  test('run softly from piece to piece; grain stays, and what lies farther off', () => {
    const part = filled(soft, [-110, 0], [90, -50]);
    const before = copyOf(part);
    const step = largestStep(columns(before));
    expect(step).toBeGreaterThan(10 / 255);
    softenJoins(soft, roles, part);
    expect(part.image.data.every(Number.isFinite)).toBe(true);
    expect(largestStep(columns(part))).toBeLessThan(step / 4);
    expect(grainOf(part) / grainOf(before)).toBeGreaterThan(0.93);
    expect(grainOf(part) / grainOf(before)).toBeLessThan(1.07);
    for (const x of [0, 3, box.w - 4, box.w - 1]) expect(columns(part)[x]).toBeCloseTo(columns(before)[x], 6);
  });

  test('are left alone where the pieces go on alike, and where there is but one', () => {
    const repeats = picture(w, h, (x, y) => [0.5 + 0.2 * Math.sin((x * Math.PI) / 40), 0.5, y / 400]);
    for (const right of [
      [-80, 0],
      [80, 0],
    ] as const) {
      const part = filled(repeats, [-80, 0], right);
      const before = copyOf(part);
      softenJoins(repeats, roles, part);
      expect(part.image.data).toEqual(before.image.data);
    }
  });

  test('nothing changes where there is detail, nor beside it', () => {
    const random = makeRandom(8);
    const speckled = Array.from({ length: w * h }, () => random.next());
    const sharp = ground((x, y) => 0.3 + 0.3 * speckled[(y >> 1) * w + (x >> 1)]);
    const part = filled(sharp, [-110, 0], [90, -50]);
    const before = copyOf(part);
    softenJoins(sharp, roles, part);
    expect(part.image.data).toEqual(before.image.data);
    // A sharp post that comes with one of the pieces, right at the join.
    const posted = ground((x, y) =>
      x === 49 || x === 50 ? 0.9 : 0.5 + 0.12 * Math.sin(x / 45) + 0.1 * Math.cos(y / 38),
    );
    const withPost = filled(posted, [-110, 0], [90, -50]);
    const post = columns(withPost).slice(38, 41);
    softenJoins(posted, roles, withPost);
    expect(columns(withPost).slice(38, 41)).toEqual(post);
  });
});
