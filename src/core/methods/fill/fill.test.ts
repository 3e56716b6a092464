import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { makeFloatImage } from '../../raster';
import { boxHole, checkSources, fillPicture, grainy, mostError, noisy, picture } from './testing';

describe('fill', () => {
  test('a constant picture is completed exactly', () => {
    const image = picture(120, 100, () => [0.25, 0.5, 0.75]);
    const hole = boxHole(120, 100, 45, 40, 30, 22);
    expect(mostError(fillPicture({ image, hole }).image, image, hole)).toBeLessThan(0.01);
  });

  test('stripes run on in phase', () => {
    const image = picture(160, 120, (x) => (x % 16 < 8 ? [0.9, 0.8, 0.7] : [0.2, 0.25, 0.3]));
    const hole = boxHole(160, 120, 60, 40, 40, 36);
    expect(mostError(fillPicture({ image, hole, seed: 3 }).image, image, hole)).toBeLessThan(1);
  });

  test('a gentle gradient is completed to within a few grey levels', () => {
    const image = picture(140, 120, (x, y) => [0.3 + x / 500, 0.6 - y / 600, 0.5]);
    const hole = boxHole(140, 120, 50, 45, 32, 28);
    expect(mostError(fillPicture({ image, hole, seed: 2 }).image, image, hole)).toBeLessThan(6);
  });

  test('two halves keep their border straight', () => {
    const image = picture(160, 120, (_x, y) => (y < 60 ? [0.8, 0.85, 0.9] : [0.25, 0.3, 0.15]));
    const hole = boxHole(160, 120, 60, 42, 40, 36);
    const { image: out } = fillPicture({ image, hole, seed: 4 });
    let wrong = 0;
    hole.forEach((v, i) => {
      if (v && Math.abs(out.data[4 * i] - image.data[4 * i]) > 0.2) wrong++;
    });
    expect(wrong).toBeLessThanOrEqual(40);
  });

  test('every pixel comes from an allowed place outside the hole, and nothing outside the hole is filled', () => {
    const w = 130;
    const h = 110;
    const image = noisy(w, h, 5);
    const hole = boxHole(w, h, 50, 40, 30, 30);
    const allowed = new Uint8Array(w * h);
    for (let y = 0; y < h; y++) allowed.fill(1, y * w, y * w + 48);
    const result = fillPicture({ image, hole, allowed });
    checkSources(result, w, h, hole, allowed);
  });

  test('the same seed gives the same bytes, another seed another candidate', () => {
    const image = grainy(130, 110, 6);
    const hole = boxHole(130, 110, 50, 40, 34, 30);
    const a = fillPicture({ image, hole, seed: 7 });
    fillPicture({ image: noisy(90, 90, 1), hole: boxHole(90, 90, 30, 30, 20, 20) });
    const b = fillPicture({ image, hole, seed: 7 });
    const c = fillPicture({ image, hole, seed: 8 });
    expect(b.image.data).toEqual(a.image.data);
    expect(c.image.data).not.toEqual(a.image.data);
  });

  test.each([
    ['at the corner', boxHole(100, 90, 0, 0, 22, 18)],
    ['at the edge', boxHole(100, 90, 40, 72, 20, 18)],
    ['of one pixel', boxHole(100, 90, 50, 50, 1, 1)],
    ['in two parts', boxHole(100, 90, 10, 10, 12, 12).map((v, i) => v | boxHole(100, 90, 60, 50, 14, 9)[i])],
    ['one pixel wide', boxHole(100, 90, 10, 45, 80, 1)],
  ])('a hole %s works', (_name, hole) => {
    const image = noisy(100, 90, 8);
    const result = fillPicture({ image, hole });
    checkSources(result, 100, 90, hole);
    hole.forEach((v, i) => {
      if (v && result.image.data[4 * i + 3] !== 1) throw new Error(`pixel ${i} was left empty`);
    });
  });

  test('with nothing to draw from it says so and what would help', () => {
    const image = noisy(60, 60, 9);
    expect(() => fillPicture({ image, hole: new Uint8Array(3600).fill(1) })).toThrow(/not enough/);
    expect(() => fillPicture({ image, hole: new Uint8Array(3600) })).toThrow(/empty/);
  });

  test('an area that is too large for what it may draw from says so, a smaller one is filled', () => {
    const image = noisy(100, 90, 5);
    const allowed = boxHole(100, 90, 4, 60, 18, 18);
    const filled = (side: number) =>
      fillPicture({ image, hole: boxHole(100, 90, 30, 5, side, side), allowed });
    expect(() => filled(60)).toThrow(/not enough/);
    checkSources(filled(30), 100, 90, boxHole(100, 90, 30, 5, 30, 30), allowed);
  });

  test.each([
    ['a small hole', 100, 30],
    ['one whose search starts twice', 220, 80],
  ])('progress names the stages in order, never falls back and ends whole: %s', (_says, size, hole) => {
    const seen: string[] = [];
    let last = -1;
    fillPicture(
      { image: noisy(size, size, 8), hole: boxHole(size, size, hole, hole, hole, hole) },
      (stage, share) => {
        if (seen[seen.length - 1] !== stage) seen.push(stage);
        else expect(share).toBeGreaterThanOrEqual(last);
        last = share;
        expect(share >= 0 && share <= 1.0001).toBe(true);
      },
    );
    expect(seen).toEqual(['reading', 'searching', 'joining', 'blending']);
    expect(last).toBe(1);
  });
});

describe('small and odd pictures', () => {
  test.each([
    [3, 3],
    [2, 2],
    [12, 1],
    [1, 9],
    [7, 5],
  ])('%i × %i pixels with one marked', (w, h) => {
    const hole = new Uint8Array(w * h);
    hole[w * h - 1] = 1;
    checkSources(fillPicture({ image: noisy(w, h, 3), hole }), w, h, hole);
  });

  test('transparent surroundings are continued as transparent', () => {
    const image = makeFloatImage({ x: 0, y: 0, w: 90, h: 80 });
    const hole = boxHole(90, 80, 30, 30, 20, 16);
    const filled = fillPicture({ image, hole });
    expect(filled.image.data.every((v) => v === 0)).toBe(true);
    checkSources(filled, 90, 80, hole);
  });

  test('of a wall that is plain but for grain and soft shades hardly anything is pasted twice', () => {
    const random = makeRandom(5);
    const image = picture(240, 200, (x, y) => {
      const v = 0.6 + 0.05 * (random.next() - 0.5 + Math.sin(x / 40) * Math.cos(y / 30));
      return [v, v * 0.95, v * 0.8];
    });
    const hole = boxHole(240, 200, 80, 60, 80, 70);
    const { origin } = fillPicture({ image, hole });
    const takers = new Map<string, number>();
    const sources = [...hole.keys()].flatMap((i) =>
      hole[i] ? [`${origin[2 * i]},${origin[2 * i + 1]}`] : [],
    );
    for (const q of sources) takers.set(q, (takers.get(q) ?? 0) + 1);
    const twice = sources.filter((q) => takers.get(q)! > 1).length;
    expect(twice / sources.length).toBeLessThan(0.03);
  });

  test('a repeated pattern is completed exactly, also when its period is odd', () => {
    const random = makeRandom(9);
    const [pw, ph] = [17, 13];
    const tile = Float32Array.from({ length: pw * ph }, () => random.next());
    const image = picture(150, 130, (x, y) => {
      const v = tile[(y % ph) * pw + (x % pw)];
      return [v, 1 - v, 0.5];
    });
    const hole = boxHole(150, 130, 60, 50, 24, 20);
    expect(mostError(fillPicture({ image, hole }).image, image, hole)).toBeLessThan(1);
  });
});
