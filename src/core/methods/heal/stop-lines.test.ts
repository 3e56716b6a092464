import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { type FloatImage, makeFloatImage } from '../../raster';
import { likelyStops } from './stop-lines';

describe('likely stop lines', () => {
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
      false,
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
    expect(likelyStops(boards(9), boards(4), disc, null, false)).toEqual([]);
  });

  test('none where light falls off', () => {
    expect(
      likelyStops(
        large(() => 0.3),
        large((x) => 0.3 + 0.003 * (x - 28)),
        disc,
        null,
        false,
      ),
    ).toEqual([]);
  });

  test('none where stones differ as they do along the source', () => {
    const offered = Array.from(
      { length: 40 },
      (_, k) => likelyStops(large(stones(k + 20, 0.5)), large(stones(k + 90, 0.5)), disc, null, false).length,
    );
    expect(offered.filter((n) => n > 0).length).toBeLessThan(10);
  });

  test('through grain, where the rim touches something of another tone, and nowhere else', () => {
    const random = makeRandom(3);
    const grain = () => 0.03 * (random.next() - 0.5);
    const source = large(() => 0.5 + grain());
    const found = likelyStops(
      source,
      large((x) => (x < 86 ? 0.6 : 0.1) + grain()),
      disc,
      null,
      false,
    );
    expect(found.length).toBeGreaterThan(0);
    for (const { points } of found) for (const [x] of points) expect(x).toBeGreaterThan(83);
    const plainTarget = large(() => 0.6 + grain());
    expect(likelyStops(source, plainTarget, disc, null, false)).toEqual([]);
  });

  test('a little colour is something else, as much light is not', () => {
    const source = large(() => 0.5);
    const beside = (r: number, g: number, b: number) => {
      const image = large(() => 0.5);
      for (let i = 0; i < cols * lines; i++)
        if (i % cols > 80)
          [r, g, b].forEach((by, c) => {
            image.data[4 * i + c] += by;
          });
      return image;
    };
    expect(likelyStops(source, beside(0.1, 0.1, 0.1), disc, null, false)).toEqual([]);
    expect(likelyStops(source, beside(0.05, -0.02, -0.03), disc, null, false)).toHaveLength(1);
  });

  test('a line ends where the other thing does, however long the rim', () => {
    const side = 320;
    const image = (value: (x: number) => number) => {
      const out = makeFloatImage({ x: 0, y: 0, w: side, h: side });
      for (let i = 0; i < side * side; i++) out.data.set([value(i % side), 0.4, 0.3, 1], 4 * i);
      return out;
    };
    const wide = Float32Array.from({ length: side * side }, (_, i) =>
      Math.hypot((i % side) - 160, Math.floor(i / side) - 160) < 130 ? 1 : 0,
    );
    const found = likelyStops(
      image(() => 0.5),
      image((x) => (x < 220 ? 0.5 : 0.7)),
      wide,
      null,
      false,
    );
    const xs = found.flatMap(({ points }) => points.map(([x]) => x));
    expect(Math.min(...xs)).toBeGreaterThan(216);
    expect(Math.min(...xs)).toBeLessThan(225);
  });

  test('what most of the rim lies on is not let go', () => {
    const source = large(() => 0.5);
    const along = (edge: number) =>
      likelyStops(
        source,
        large((x) => (x < edge ? 0.5 : 0.1)),
        disc,
        null,
        false,
      ).flatMap(({ points }) => points);
    expect(along(62).length).toBeGreaterThan(0);
    for (const [x] of along(62)) expect(x).toBeGreaterThan(58);
    // The other side prevails now.
    for (const [x] of along(40)) expect(x).toBeLessThan(44);
  });

  test('who asks is shown what is smaller', () => {
    const target = large((x, y) => (Math.hypot(x - 92, y - 50) > 2 ? 0.5 : 0.2));
    const found = (isAsked: boolean) =>
      likelyStops(
        large(() => 0.5),
        target,
        disc,
        null,
        isAsked,
      );
    expect(found(false)).toEqual([]);
    expect(found(true)).toHaveLength(1);
  });

  test('who asks is shown what differs less', () => {
    const [ground, there] = [stones(5, 0.12), stones(12, 0.12)];
    const shown = [0.1, 0.15, 0.2, 0.25, 0.3, 0.35, 0.4].map((by) => {
      const target = large((x, y) => there(x, y) + (x > 75 ? by : 0));
      return [false, true].map(
        (isAsked) => likelyStops(large(ground), target, disc, null, isAsked).length > 0,
      );
    });
    expect(shown.some(([unasked, asked]) => asked && !unasked)).toBe(true);
    expect(shown.some(([unasked, asked]) => unasked && !asked)).toBe(false);
    expect(shown[6]).toEqual([true, true]);
  });
});
