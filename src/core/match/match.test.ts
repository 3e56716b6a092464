import { describe, expect, test } from 'vitest';
import { makeRandom } from '../random';
import { type FloatImage, makeFloatImage } from '../raster';
import { bestShifts, makeSourceMap, matchFigures, type Overview } from '.';

const [w, h] = [60, 60];
const rect = { x: 0, y: 0, w, h };
const coverage = Float32Array.from({ length: w * h }, (_, i) =>
  Math.hypot((i % w) - 30, Math.floor(i / w) - 30) < 14 ? 1 : 0,
);

function textured(seed: number, light: number, strength: number): FloatImage {
  const random = makeRandom(seed);
  const image = makeFloatImage(rect);
  for (let i = 0; i < w * h; i++) {
    const v = light + strength * (random.next() - 0.5);
    image.data.set([v, v, v, 1], 4 * i);
  }
  return image;
}

describe('match figures', () => {
  const target = textured(1, 0.5, 0.2);

  test('another piece of the same texture fits', () => {
    const figures = matchFigures(target, textured(2, 0.5, 0.2), coverage, null)!;
    expect(Math.abs(figures.lightness)).toBeLessThan(1.5);
    expect(figures.colour).toBeLessThan(0.5);
    expect(Math.abs(figures.sharpness)).toBeLessThan(0.2);
    expect(Math.abs(figures.grain)).toBeLessThan(0.25);
  });

  test('a lighter source says so, a softer one too, in octaves', () => {
    const figures = matchFigures(target, textured(2, 0.6, 0.1), coverage, null)!;
    expect(figures.lightness).toBeGreaterThan(6);
    expect(figures.sharpness).toBeCloseTo(-1, 0.5);
    expect(figures.grain).toBeLessThan(-0.7);
  });

  test('a line that does not meet shows on the rim', () => {
    const striped = (at: number) => {
      const image = textured(3, 0.5, 0.02);
      for (let x = 0; x < w; x++)
        for (let y = at; y < at + 4; y++) image.data.fill(0.1, 4 * (y * w + x), 4 * (y * w + x) + 3);
      return image;
    };
    const meets = matchFigures(striped(28), striped(28), coverage, null)!.rim;
    expect(meets).toBe(0);
    expect(matchFigures(striped(28), striped(40), coverage, null)!.rim).toBeGreaterThan(15);
  });

  test('of a source that reaches beyond the photo, what is there is compared', () => {
    const valid = Uint8Array.from(coverage, (_, i) => (i % w < 34 ? 1 : 0));
    const source = textured(2, 0.5, 0.2);
    valid.forEach((is, i) => {
      if (!is) source.data.fill(0, 4 * i, 4 * i + 4);
    });
    const figures = matchFigures(target, source, coverage, valid)!;
    expect(Math.abs(figures.lightness)).toBeLessThan(2);
    expect(Math.abs(figures.sharpness)).toBeLessThan(0.25);
    expect(matchFigures(target, source, coverage, null)!.lightness).toBeLessThan(-10);
    expect(matchFigures(target, source, coverage, new Uint8Array(w * h))).toBeNull();
  });

  test('nothing covered, or everything, has no figures', () => {
    expect(matchFigures(target, target, new Float32Array(w * h), null)).toBeNull();
    expect(matchFigures(target, target, new Float32Array(w * h).fill(1), null)).toBeNull();
  });
});

describe('source map', () => {
  /** Three bands, dark, middle and light; the middle one returns at the right. Cells are 8 document pixels wide. */
  const [mw, mh] = [90, 60];
  const light = (x: number, y: number) => (x > 60 && y > 40 ? 120 : y < 20 ? 30 : y < 40 ? 120 : 220);
  const overview: Overview = {
    w: mw,
    h: mh,
    scale: 8,
    detail: new Float32Array(mw * mh).fill(5),
    data: Uint8ClampedArray.from({ length: mw * mh * 4 }, (_, k) => {
      const i = k >> 2;
      return k % 4 === 3 ? 255 : light(i % mw, Math.floor(i / mw));
    }),
  };
  const spot = { x: 160, y: 216, w: 48, h: 48 };
  const covered = (x: number, y: number) => Math.hypot(x - 184, y - 240) < 22;

  test('the best places are of the area’s own kind', () => {
    const map = makeSourceMap(overview, spot, covered, () => true);
    const best = bestShifts(map, 60, 6);
    expect(best).toHaveLength(6);
    for (const { dx, dy } of best) {
      const [x, y] = [Math.floor((184 + dx) / 8), Math.floor((240 + dy) / 8)];
      expect(light(x, y)).toBe(120);
    }
    const at = (x: number, y: number) => map.score[y * mw + x];
    expect(at(75, 50)).toBeGreaterThan(5 * at(20, 50));
    expect(at(23, 30)).toBeNaN();
  });

  test('where something of a colour that is nowhere along the rim stands, a place serves less', () => {
    const withThing = { ...overview, data: overview.data.slice() };
    // Small, and of the ground's own lightness: the place's mean hardly tells.
    for (let y = 29; y < 32; y++)
      for (let x = 59; x < 61; x++) withThing.data.set([150, 115, 70], 4 * (y * mw + x));
    const at = (of: Overview) => makeSourceMap(of, spot, covered, () => true).score[30 * mw + 60];
    expect(at(withThing)).toBeLessThan(0.6 * at(overview));
  });

  test('what a rail or a zone rules out is no source', () => {
    const map = makeSourceMap(overview, spot, covered, ({ dx, dy }) => Math.abs(dy) <= 8 && dx > 0);
    const best = bestShifts(map, 20, 20);
    expect(best.length).toBeGreaterThan(3);
    for (const { dx, dy } of best) {
      expect(Math.abs(dy)).toBeLessThanOrEqual(8);
      expect(dx).toBeGreaterThan(0);
    }
  });
});
