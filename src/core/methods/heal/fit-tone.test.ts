import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { type FloatImage, makeFloatImage } from '../../raster';
import { partsOf } from '../../testing/pictures';
import { fitTone, stop } from './fit-tone';
import { likelyStops, rasteriseStops } from './stop-lines';

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
    fitTone(source, partsOf(twoSides), coverage, null, rect, { ...plain, stops });
    for (const i of covered) expect(source.data[4 * i]).toBeCloseTo(0.6, 4);
    const smeared = picture(() => 0.4);
    fitTone(smeared, partsOf(twoSides), coverage, null, rect, plain);
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
    fitTone(source, partsOf(target), coverage, null, rect, { ...plain, stops });
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

  test('likely ones are found where the rim touches something of another tone, through grain, and nowhere else', () => {
    const random = makeRandom(3);
    const grain = () => 0.03 * (random.next() - 0.5);
    const target = picture((x) => (x < 30 ? 0.6 : 0.1) + grain());
    const source = picture(() => 0.5 + grain());
    const found = likelyStops(source, target, coverage, null);
    expect(found.length).toBeGreaterThan(0);
    for (const { points } of found) for (const [x] of points) expect(x).toBeGreaterThan(27);
    const plainTarget = picture(() => 0.6 + grain());
    expect(likelyStops(source, plainTarget, coverage, null)).toEqual([]);
  });
});

describe('stop lines where the rim lies on two sides of an edge', () => {
  const [cols, lines] = [120, 100];
  const all = { x: 0, y: 0, w: cols, h: lines };
  const large = (value: (x: number, y: number) => number): FloatImage => {
    const image = makeFloatImage(all);
    for (let i = 0; i < cols * lines; i++) {
      const v = value(i % cols, Math.floor(i / cols));
      image.data.set([v, 0.8 * v, 0.6 * v, 1], 4 * i);
    }
    return image;
  };
  const disc = Float32Array.from({ length: cols * lines }, (_, i) =>
    Math.hypot((i % cols) - 60, Math.floor(i / cols) - 50) < 32 ? 1 : 0,
  );
  /** Stones of 12 × 8 pixels, each as light as it happens to be. */
  const stones = (seed: number, spread: number) => {
    const random = makeRandom(seed);
    const tones = Array.from({ length: 150 }, () => 0.35 + spread * (random.next() - 0.5));
    return (x: number, y: number) => tones[Math.floor(y / 8) * 10 + Math.floor(x / 12)];
  };
  const [wall, other] = [stones(4, 0.16), stones(9, 0.16)];

  test('half of it on uneven stones, half on boards: the boards, which the source fits worse', () => {
    const found = likelyStops(
      large(other),
      large((x, y) => (y < 52 ? wall(x, y) : 0.75)),
      disc,
      null,
    );
    const along = found.flatMap(({ points }) => points);
    expect(along.length).toBeGreaterThan(20);
    const onBoards = along.filter(([, y]) => y > 48).length;
    expect(onBoards).toBeGreaterThan(0.9 * along.length);
    // Most of the rim on the boards is let go.
    const [xs, ys] = [along.map(([x]) => x), along.map(([, y]) => y)];
    expect(Math.max(...xs) - Math.min(...xs)).toBeGreaterThan(58);
    expect(Math.max(...ys)).toBeGreaterThan(78);
  });

  test('none where the source crosses the same edge', () => {
    const boards = (seed: number) => {
      const ground = stones(seed, 0.05);
      return large((x, y) => (y < 52 ? ground(x, y) : 0.75));
    };
    expect(likelyStops(boards(9), boards(4), disc, null)).toEqual([]);
  });

  test('none where light falls off', () => {
    expect(
      likelyStops(
        large(() => 0.3),
        large((x) => 0.3 + 0.006 * (x - 28)),
        disc,
        null,
      ),
    ).toEqual([]);
  });

  test('none where leaves get denser, which lie on both sides', () => {
    const random = makeRandom(3);
    const dots = Array.from({ length: 60 * 50 }, () => random.next());
    const leaves = (x: number, y: number) =>
      dots[Math.floor(y / 6) * 60 + Math.floor(x / 6)] < (y < 50 ? 0.2 : 0.75) ? 0.2 : 0.8;
    expect(
      likelyStops(
        large(() => 0.75),
        large(leaves),
        disc,
        null,
      ),
    ).toEqual([]);
  });

  test('none where stones differ as they do along the source', () => {
    const offered = Array.from(
      { length: 40 },
      (_, k) => likelyStops(large(stones(k + 20, 0.5)), large(stones(k + 90, 0.5)), disc, null).length,
    );
    expect(offered.filter((n) => n > 0).length).toBeLessThan(6);
  });

  test('none where both sides are as unlike the source', () => {
    expect(
      likelyStops(
        large(() => 0.5),
        large((_, y) => (y < 50 ? 0.3 : 0.7)),
        disc,
        null,
      ),
    ).toEqual([]);
  });
});

describe('tone and texture', () => {
  const random = makeRandom(8);
  const detail = Array.from({ length: w * h }, () => 0.2 * (random.next() - 0.5));
  const textured = () => picture((x, y) => 0.4 + detail[y * w + x]);
  const target = picture((x, y) => 0.3 + 0.005 * x + 0.004 * y);

  test('without texture only the rim’s tone is left, smoothly spread', () => {
    const source = textured();
    fitTone(source, partsOf(target), coverage, null, rect, { ...plain, texture: 0 });
    // The target is harmonic, so what is spread from its rim is the target itself.
    for (const i of covered) expect(source.data[4 * i]).toBeCloseTo(target.data[4 * i], 2.5);
  });

  test('half the texture lies half-way between none and all', () => {
    const [none, half, all] = [0, 0.5, 1].map((texture) => {
      const source = textured();
      fitTone(source, partsOf(target), coverage, null, rect, { ...plain, texture });
      return source.data;
    });
    for (const i of covered) expect(half[4 * i]).toBeCloseTo((none[4 * i] + all[4 * i]) / 2, 4);
  });

  test('on a coarser grid, as while it is dragged, tone is off by little', () => {
    const sloping = picture((x, y) => 0.35 + 0.1 * Math.sin(x / 9) + 0.08 * Math.cos(y / 7));
    const [exact, coarse] = [1, 3].map((coarseness) => {
      const source = textured();
      fitTone(source, partsOf(sloping), coverage, null, rect, { ...plain, coarseness });
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
    fitTone(source, partsOf(target), coverage, null, rect, { ...plain, tone: 0 });
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
  fitTone(source, read, inside, null, whole, plain);
  let most = 0;
  for (let y = 3; y < high - 3; y += 7)
    for (let x = 3; x < wide - 3; x += 7)
      most = Math.max(most, Math.abs(source.data[4 * (y * wide + x)] - 0.3 - plane(x, y)));
  expect(most).toBeLessThan(0.2 / 255);
  // Never is all of it read at once.
  expect(Math.max(...reads)).toBeLessThan(0.3 * wide * high);
});
