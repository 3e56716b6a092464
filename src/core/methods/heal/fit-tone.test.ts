import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { type FloatImage, makeFloatImage } from '../../raster';
import { partsOf, readsOf } from '../../testing/pictures';
import { fitTone, stop } from './fit-tone';
import { rasteriseStops } from './stop-lines';

const [w, h] = [40, 30];
const rect = { x: 0, y: 0, w, h };
const plain = { tone: 1, texture: 1, stops: null, coarseness: 1 };

const picture = (value: (x: number, y: number) => number): FloatImage => {
  const image = makeFloatImage(rect);
  for (let i = 0; i < w * h; i++) {
    const v = value(i % w, Math.floor(i / w));
    image.data.set([v, v, v, 1], 4 * i);
  }
  return image;
};

/** Covered from column 10 to 29 and row 8 to 21. */
const coverage = Float32Array.from({ length: w * h }, (_, i) => {
  const [x, y] = [i % w, Math.floor(i / w)];
  return x >= 10 && x < 30 && y >= 8 && y < 22 ? 1 : 0;
});
const covered = [...coverage.keys()].filter((i) => coverage[i] > 0);

/** Light on the left, something dark from column 30 on, which the area touches. */
const twoSides = picture((x) => (x < 30 ? 0.6 : 0.1));

describe('stop lines', () => {
  test('no tone crosses one: what touches the area there does not tint it at all', () => {
    const stops = rasteriseStops(
      [
        {
          points: [
            [30.5, 7],
            [30.5, 23],
          ],
          widthPx: 2,
        },
      ],
      rect,
    );
    const source = picture(() => 0.4);
    fitTone(source, readsOf(twoSides), coverage, null, rect, { ...plain, stops });
    for (const i of covered) expect(source.data[4 * i]).toBeCloseTo(0.6, 4);
    const smeared = picture(() => 0.4);
    fitTone(smeared, readsOf(twoSides), coverage, null, rect, plain);
    expect(smeared.data[4 * (15 * w + 29)]).toBeLessThan(0.4);
  });

  test('one through the area keeps both sides’ tones apart, exactly', () => {
    const target = picture((x) => (x < 20 ? 0.3 : 0.7));
    const stops = rasteriseStops(
      [
        {
          points: [
            [20.5, 6],
            [20.5, 24],
          ],
          widthPx: 1,
        },
      ],
      rect,
    );
    const source = picture(() => 0.5);
    fitTone(source, readsOf(target), coverage, null, rect, { ...plain, stops });
    for (const i of covered)
      if (i % w !== 20) expect(source.data[4 * i]).toBeCloseTo(i % w < 20 ? 0.3 : 0.7, 4);
  });

  test('slanting lines have no gap that tone could pass', () => {
    const stops = rasteriseStops(
      [
        {
          points: [
            [3, 2],
            [36, 27],
          ],
          widthPx: 0,
        },
      ],
      rect,
    )!;
    const seen = new Uint8Array(w * h);
    const queue = [29 * w + 10];
    while (queue.length > 0) {
      const i = queue.pop()!;
      if (seen[i] || stops[i] === stop.on) continue;
      seen[i] = 1;
      const x = i % w;
      const y = Math.floor(i / w);
      if (x < 4 || x > 35) continue;
      if (x > 0) queue.push(i - 1);
      if (x < w - 1) queue.push(i + 1);
      if (y > 0) queue.push(i - w);
      if (y < h - 1) queue.push(i + w);
    }
    expect(seen[5 * w + 30]).toBe(0);
    expect(seen[25 * w + 10]).toBe(1);
  });
});

describe('tone and texture', () => {
  const random = makeRandom(8);
  const detail = Array.from({ length: w * h }, () => 0.2 * (random.next() - 0.5));
  const textured = () => picture((x, y) => 0.4 + detail[y * w + x]);
  const target = picture((x, y) => 0.3 + 0.005 * x + 0.004 * y);

  test('without texture only the rim’s tone is left, smoothly spread', () => {
    const source = textured();
    fitTone(source, readsOf(target), coverage, null, rect, { ...plain, texture: 0 });
    // The target is harmonic, so what is spread from its rim is the target itself.
    for (const i of covered) expect(source.data[4 * i]).toBeCloseTo(target.data[4 * i], 2.5);
  });

  test('half the texture lies half-way between none and all', () => {
    const [none, half, all] = [0, 0.5, 1].map((texture) => {
      const source = textured();
      fitTone(source, readsOf(target), coverage, null, rect, { ...plain, texture });
      return source.data;
    });
    for (const i of covered) expect(half[4 * i]).toBeCloseTo((none[4 * i] + all[4 * i]) / 2, 4);
  });

  test('on a coarser grid, as while it is dragged, tone is off by little', () => {
    const sloping = picture((x, y) => 0.35 + 0.1 * Math.sin(x / 9) + 0.08 * Math.cos(y / 7));
    const [exact, coarse] = [1, 3].map((coarseness) => {
      const source = textured();
      fitTone(source, readsOf(sloping), coverage, null, rect, { ...plain, coarseness });
      return source.data;
    });
    let [most, sum] = [0, 0];
    for (const i of covered) {
      const off = 255 * Math.abs(exact[4 * i] - coarse[4 * i]);
      most = Math.max(most, off);
      sum += off / covered.length;
    }
    expect(sum).toBeGreaterThan(0);
    expect(sum).toBeLessThan(6);
    expect(most).toBeLessThan(30);
  });

  test('without tone the source stays as it is', () => {
    const source = textured();
    fitTone(source, readsOf(target), coverage, null, rect, { ...plain, tone: 0 });
    expect(source.data).toEqual(textured().data);
  });
});

test('what is larger than can be solved at once is fitted on a coarser grid, nearly as exactly', () => {
  const [wide, high] = [4100, 2000];
  const whole = { x: 0, y: 0, w: wide, h: high };
  const fill = (value: (x: number, y: number) => number): FloatImage => {
    const image = makeFloatImage(whole);
    for (let y = 0, i = 0; y < high; y++)
      for (let x = 0; x < wide; x++, i += 4) image.data.fill(value(x, y), i, i + 3).fill(1, i + 3, i + 4);
    return image;
  };
  // The target is the source and a plane: the field is that plane, wherever one looks.
  const plane = (x: number, y: number) => 0.2 + (0.2 * x) / wide - (0.1 * y) / high;
  const target = fill((x, y) => 0.3 + plane(x, y));
  const source = fill(() => 0.3);
  const inside = new Float32Array(wide * high);
  for (let y = 3; y < high - 3; y++) inside.fill(1, y * wide + 3, (y + 1) * wide - 3);
  const reads: number[] = [];
  const read = (part: { x: number; y: number; w: number; h: number }) => {
    reads.push(part.w * part.h);
    return partsOf(target)(part);
  };
  fitTone(source, { ...readsOf(target), read }, inside, null, whole, plain);
  let most = 0;
  for (let y = 3; y < high - 3; y += 7)
    for (let x = 3; x < wide - 3; x += 7)
      most = Math.max(most, Math.abs(source.data[4 * (y * wide + x)] - 0.3 - plane(x, y)));
  expect(most).toBeLessThan(0.2 / 255);
  // Never is all of it read at once.
  expect(Math.max(...reads)).toBeLessThan(0.3 * wide * high);
});
