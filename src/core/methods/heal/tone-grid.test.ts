import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { copyFloat, type FloatImage, makeFloatImage, type Rect } from '../../raster';
import { readsOf } from '../../testing/pictures';
import { fitTone } from './fit-tone';
import { ToneGrid } from './tone-grid';

const rect: Rect = { x: 37, y: 21, w: 90, h: 70 };

function picture(seed: number): FloatImage {
  const random = makeRandom(seed);
  const [a, b] = [0.2 * random.next(), 0.2 * random.next()];
  const image = makeFloatImage(rect);
  for (let i = 0; i < rect.w * rect.h; i++) {
    const [x, y] = [i % rect.w, Math.floor(i / rect.w)];
    const v = 0.4 + a * Math.sin(x / 15) + b * Math.cos(y / 11) + 0.02 * random.next();
    image.data.set([v, v, v, 1], 4 * i);
  }
  return image;
}

const disc = Float32Array.from({ length: rect.w * rect.h }, (_, i) =>
  Math.hypot((i % rect.w) - 45, Math.floor(i / rect.w) - 35) < 26 ? 1 : 0,
);
const covered = [...disc.keys()].filter((i) => disc[i] > 0);
const copy = (image: FloatImage): FloatImage => ({ rect: image.rect, data: image.data.slice() });

const part = (image: FloatImage, coverage: Float32Array, { x, y, w, h }: Rect) => {
  const out = makeFloatImage({ x, y, w, h });
  const cover = new Float32Array(w * h);
  for (let v = 0; v < h; v++) {
    const from = (y + v - rect.y) * rect.w + x - rect.x;
    out.data.set(image.data.subarray(4 * from, 4 * (from + w)), 4 * v * w);
    cover.set(coverage.subarray(from, from + w), v * w);
  }
  return { image: out, cover };
};

describe('a tone on a coarser grid', () => {
  test('with cells of one pixel is the exact one', () => {
    const [target, source] = [picture(1), picture(2)];
    const exact = copy(source);
    fitTone(exact, readsOf(target), disc, null, rect, { tone: 1, texture: 1, stops: null, coarseness: 1 });
    const grid = new ToneGrid(1);
    grid.take(rect, source, target, disc, null);
    grid.solve(rect);
    const got = copy(source);
    grid.fit(got, disc, null, 1);
    for (const i of covered) expect(255 * Math.abs(got.data[4 * i] - exact.data[4 * i])).toBeLessThan(0.2);
  });

  test.each([2, 3, 5])('with cells of %i pixels it is near', (side) => {
    const [target, source] = [picture(3), picture(4)];
    const exact = copy(source);
    fitTone(exact, readsOf(target), disc, null, rect, { tone: 1, texture: 1, stops: null, coarseness: 1 });
    const grid = new ToneGrid(side);
    grid.take(rect, source, target, disc, null);
    grid.solve(rect);
    const got = copy(source);
    grid.fit(got, disc, null, 1);
    const off = covered.map((i) => 255 * Math.abs(got.data[4 * i] - exact.data[4 * i]));
    expect(off.reduce((s, v) => s + v, 0) / off.length).toBeLessThan(1.5);
    expect(off.reduce((m, v) => Math.max(m, v), 0)).toBeLessThan(12);
  });

  test('wider than what is handed over at once, it is the same as in halves', () => {
    const wide: Rect = { x: 5, y: 3, w: 9001, h: 4 };
    const random = makeRandom(7);
    const made = () => {
      const image = makeFloatImage(wide);
      for (let i = 0; i < image.data.length; i++) image.data[i] = i % 4 === 3 ? 1 : random.next();
      return image;
    };
    const [target, source] = [made(), made()];
    const coverage = Float32Array.from({ length: wide.w * wide.h }, () => random.below(2));
    const grid = new ToneGrid(2);
    grid.take(wide, source, target, coverage, null);
    grid.solve(wide);
    const whole = copy(source);
    grid.fit(whole, coverage, null, 0.8);
    for (const [x, w] of [
      [5, 4000],
      [4005, 5001],
    ]) {
      const rect = { ...wide, x, w };
      const [some, cover] = [makeFloatImage(rect), new Float32Array(w * 4)];
      copyFloat(source, some);
      for (let y = 0; y < 4; y++)
        cover.set(coverage.subarray(y * wide.w + x - 5, y * wide.w + x - 5 + w), y * w);
      grid.fit(some, cover, null, 0.8);
      const expected = makeFloatImage(rect);
      copyFloat(whole, expected);
      expect(some.data).toEqual(expected.data);
    }
    expect(whole.data).not.toEqual(source.data);
  });

  test('taken part by part, in any order, it is what it is taken at once', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 1, max: 6 }), (seed, side) => {
        const [target, source] = [picture(seed), picture(seed + 1)];
        const whole = new ToneGrid(side);
        whole.take(rect, source, target, disc, null);
        whole.solve(rect);
        const inParts = new ToneGrid(side);
        const random = makeRandom(seed);
        const strips = [0, 1, 2, 3, 4, 5, 6].sort(() => random.next() - 0.5);
        for (const k of strips) {
          const wanted = inParts.wholeCells({ x: rect.x, y: rect.y + 10 * k, w: rect.w, h: 10 });
          const x = Math.max(rect.x, wanted.x);
          const y = Math.max(rect.y, wanted.y);
          const at = {
            x,
            y,
            w: Math.min(rect.x + rect.w, wanted.x + wanted.w) - x,
            h: Math.min(rect.y + rect.h, wanted.y + wanted.h) - y,
          };
          const s = part(source, disc, at);
          inParts.take(at, s.image, part(target, disc, at).image, s.cover, null);
        }
        inParts.solve(rect);
        const [a, b] = [copy(source), copy(source)];
        whole.fit(a, disc, null, 1);
        inParts.fit(b, disc, null, 1);
        for (const i of covered) expect(255 * Math.abs(a.data[4 * i] - b.data[4 * i])).toBeLessThan(0.5);
      }),
      { numRuns: 15 },
    );
  });

  test('taken in squares it is as taken at once, and no square is read that is covered all over', () => {
    const [target, source] = [picture(8), picture(9)];
    const most = disc.map((_, i) => (i % rect.w > 3 && i > 4 * rect.w ? 1 : 0));
    const fitted = (take: (grid: ToneGrid) => void) => {
      const grid = new ToneGrid(3);
      take(grid);
      grid.solve(rect);
      const got = copy(source);
      grid.fit(got, most, null, 1);
      return got.data;
    };
    let read = 0;
    const whole = fitted((grid) => grid.take(rect, source, target, most, null));
    const inSquares = fitted((grid) =>
      grid.takeInSquares(rect, most, (square) => {
        read += square.w * square.h;
        const { image, cover } = part(source, most, square);
        expect(cover.every((v) => v > 0)).toBe(false);
        return { source: image, target: part(target, most, square).image, coverage: cover, valid: null };
      }),
    );
    most.forEach((v, i) => {
      if (v > 0) expect(inSquares[4 * i]).toBe(whole[4 * i]);
    });
    expect(read).toBeLessThan(rect.w * rect.h);
  });

  test('where the source has no pixels nothing is fitted, and tone goes by share', () => {
    const [target, source] = [picture(5), picture(6)];
    const valid = Uint8Array.from(disc, (_, i) => (i % rect.w < 40 ? 1 : 0));
    const grid = new ToneGrid(3);
    grid.take(rect, source, target, disc, valid);
    grid.solve(rect);
    const [half, all] = [copy(source), copy(source)];
    grid.fit(half, disc, valid, 0.5);
    grid.fit(all, disc, valid, 1);
    for (const i of covered) {
      const s = source.data[4 * i];
      if (!valid[i]) expect(all.data[4 * i]).toBe(s);
      else expect(half.data[4 * i] - s).toBeCloseTo((all.data[4 * i] - s) / 2, 5);
    }
  });

  test('tells where its field has changed since it was shown, and only there, once', () => {
    const side = 4;
    const [target, source] = [picture(7), picture(8)];
    const limit = 2 / 255;
    const grid = new ToneGrid(side);
    grid.take(rect, source, target, disc, null);
    grid.solve(rect);
    grid.markShown(rect);
    expect(grid.changes(rect, limit)).toEqual([]);
    // The ground beside the left half of the area gets lighter.
    const lighter = copy(target);
    for (let i = 0; i < rect.w * rect.h; i++)
      if (i % rect.w < 40) for (let c = 0; c < 3; c++) lighter.data[4 * i + c] += 0.15;
    const [before, after] = [copy(source), copy(source)];
    grid.fit(before, disc, null, 1);
    grid.take(rect, source, lighter, disc, null);
    grid.solve(rect);
    grid.fit(after, disc, null, 1);
    const told = new Uint8Array(rect.w * rect.h);
    for (const { x, y, w, h } of grid.changes(rect, limit))
      for (let v = Math.max(y, rect.y); v < Math.min(y + h, rect.y + rect.h); v++)
        for (let u = Math.max(x, rect.x); u < Math.min(x + w, rect.x + rect.w); u++)
          told[(v - rect.y) * rect.w + u - rect.x] = 1;
    let untold = 0;
    for (const i of covered) {
      const moved = Math.abs(after.data[4 * i] - before.data[4 * i]);
      // Cells that are partly covered are shown with what was painted.
      const isInner = Math.hypot((i % rect.w) - 45, Math.floor(i / rect.w) - 35) < 26 - 3 * side;
      if (isInner && moved > 1.5 * limit) expect(told[i]).toBe(1);
      if (!told[i]) untold++;
    }
    expect(untold).toBeGreaterThan(0);
    expect(grid.changes(rect, limit)).toEqual([]);
  });
});
