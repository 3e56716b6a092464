import fc from 'fast-check';
import { expect, test } from 'vitest';
import { makeRandom } from '../random';
import { contains, copyFloat, intersect, makeFloatImage } from '../raster';
import { blendFunction, blendModes, compositeLayer, compositePatch } from '.';

const rect = { x: 0, y: 0, w: 1, h: 1 };
const pixel = (r: number, g: number, b: number, a = 1) => {
  const image = makeFloatImage(rect);
  image.data.set([r * a, g * a, b * a, a]);
  return image;
};
const unit = fc.double({ min: 0, max: 1, noNaN: true });
const colour = fc.tuple(unit, unit, unit);

test('full coverage in normal mode copies the patch exactly', () => {
  const below = pixel(0.2, 0.4, 0.6);
  compositePatch(below, pixel(0.1, 0.7, 0.3, 0.5), Float32Array.of(1), rect, rect, 1, 'normal');
  expect([...below.data]).toEqual([...pixel(0.1, 0.7, 0.3, 0.5).data]);
});

test('in normal mode colours cross over as plain code crosses them, wherever the pictures lie', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 1e6 }),
      fc.array(fc.integer({ min: 0, max: 6 }), { minLength: 8, maxLength: 8 }),
      fc.constantFrom(1, 0.37),
      (seed, [bx, by, px, py, cx, cy, ax, ay], opacity) => {
        const random = makeRandom(seed);
        const image = (x: number, y: number) => {
          const made = makeFloatImage({ x, y, w: 30, h: 20 });
          for (let i = 0; i < made.data.length; i++) made.data[i] = random.next();
          return made;
        };
        const [backdrop, patch] = [image(bx, by), image(px, py)];
        const covered = { x: cx, y: cy, w: 30, h: 20 };
        const coverage = Float32Array.from({ length: 600 }, () => [0, 1, random.next()][random.below(3)]);
        const at = { x: ax, y: ay, w: 25, h: 17 };
        const before = backdrop.data.slice();
        compositePatch(backdrop, patch, coverage, covered, at, opacity, 'normal');
        const common = [backdrop.rect, patch.rect, covered, at].reduce(intersect);
        for (let i = 0; i < 600; i++) {
          const [x, y] = [bx + (i % 30), by + Math.floor(i / 30)];
          const own = [...before.subarray(4 * i, 4 * i + 4)];
          const j = 4 * ((y - py) * 30 + x - px);
          const c = coverage[(y - cy) * 30 + x - cx] * opacity;
          const isIn = contains(common, { x, y, w: 1, h: 1 }) && c > 0;
          const mixed = own.map((v, k) =>
            c >= 1 ? patch.data[j + k] : Math.fround(v + (patch.data[j + k] - v) * c),
          );
          expect([...backdrop.data.subarray(4 * i, 4 * i + 4)]).toEqual(isIn ? mixed : own);
        }
      },
    ),
    { numRuns: 30 },
  );
});

test('laid on beside a backdrop, a patch gives what it gives on it, and the backdrop stays', () => {
  const random = makeRandom(5);
  const image = (x: number, y: number, w: number, h: number) => {
    const made = makeFloatImage({ x, y, w, h });
    for (let i = 0; i < made.data.length; i += 4) {
      const alpha = random.next();
      for (let c = 0; c < 3; c++) made.data[i + c] = alpha * random.next();
      made.data[i + 3] = alpha;
    }
    return made;
  };
  const [backdrop, patch, beside] = [image(0, 0, 120, 90), image(20, 10, 70, 60), image(20, 10, 60, 50)];
  const coverage = Float32Array.from({ length: 70 * 60 }, () => random.next());
  for (const mode of blendModes) {
    const own = { rect: backdrop.rect, data: backdrop.data.slice() };
    const into = makeFloatImage(beside.rect);
    compositePatch(backdrop, patch, coverage, patch.rect, beside.rect, 0.8, mode, into);
    expect(backdrop.data).toEqual(own.data);
    compositePatch(own, patch, coverage, patch.rect, beside.rect, 0.8, mode);
    const expected = makeFloatImage(beside.rect);
    copyFloat(own, expected);
    expect(into.data).toEqual(expected.data);
  }
});

test('no coverage and no opacity change nothing, in every mode', () => {
  for (const mode of blendModes)
    for (const [coverage, opacity] of [
      [0, 1],
      [1, 0],
    ]) {
      const below = pixel(0.2, 0.4, 0.6);
      compositePatch(below, pixel(0.9, 0.1, 0.5), Float32Array.of(coverage), rect, rect, opacity, mode);
      expect([...below.data]).toEqual([...pixel(0.2, 0.4, 0.6).data]);
    }
});

test('every blend function stays within 0…1', () => {
  fc.assert(
    fc.property(colour, colour, fc.constantFrom(...blendModes), (b, s, mode) => {
      for (const v of blendFunction(mode)(b, s)) {
        expect(v).toBeGreaterThanOrEqual(-1e-9);
        expect(v).toBeLessThanOrEqual(1 + 1e-9);
      }
    }),
  );
});

test('separable modes by their definitions', () => {
  const of = (mode: (typeof blendModes)[number]) => blendFunction(mode)([0.25, 0.5, 0.8], [0.5, 0.6, 0.2]);
  expect(of('multiply')[0]).toBeCloseTo(0.125);
  expect(of('screen')[1]).toBeCloseTo(0.8);
  expect(of('darken')).toEqual([0.25, 0.5, 0.2]);
  expect(of('lighten')).toEqual([0.5, 0.6, 0.8]);
  expect(of('difference')[2]).toBeCloseTo(0.6);
});

test('luminosity keeps the backdrop’s hue and takes the source’s lightness; color the reverse', () => {
  fc.assert(
    fc.property(colour, colour, (b, s) => {
      const lum = (c: readonly number[]) => 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2];
      expect(lum(blendFunction('luminosity')(b, s))).toBeCloseTo(lum(s), 5);
      expect(lum(blendFunction('color')(b, s))).toBeCloseTo(lum(b), 5);
    }),
  );
});

test('equal colours stay equal under any feather', () => {
  fc.assert(
    fc.property(colour, unit, (c, coverage) => {
      const below = pixel(...c);
      compositePatch(below, pixel(...c), Float32Array.of(coverage), rect, rect, 1, 'normal');
      expect(below.data.every((v, i) => Math.abs(v - pixel(...c).data[i]) < 1e-6)).toBe(true);
    }),
  );
});

test('a layer at full opacity shows what its mends made, at half the mean', () => {
  const full = pixel(0.8, 0.6, 0.4);
  compositeLayer(pixel(0.2, 0.2, 0.2), full, null, 1, 'normal');
  expect(full.data[0]).toBeCloseTo(0.8);
  const half = pixel(0.8, 0.6, 0.4);
  compositeLayer(pixel(0.2, 0.2, 0.2), half, null, 0.5, 'normal');
  expect(half.data[0]).toBeCloseTo(0.5);
});

test('a multiplying layer multiplies what its mends cover and leaves the rest', () => {
  const covered = pixel(0.5, 0.5, 0.5);
  compositeLayer(pixel(0.4, 0.4, 0.4), covered, Float32Array.of(1), 1, 'multiply');
  expect(covered.data[0]).toBeCloseTo(0.2);
  const bare = pixel(0.4, 0.4, 0.4);
  compositeLayer(pixel(0.4, 0.4, 0.4), bare, Float32Array.of(0), 1, 'multiply');
  expect(bare.data[0]).toBeCloseTo(0.4);
});
