import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { noMasks } from '../area';
import { Evaluator, renderPicture } from '../evaluate';
import { fromUnitSquare, invert, project, stepsAt } from '../geometry';
import type { Mend, Source } from '../job';
import { makeRandom } from '../random';
import { contains, type FloatImage, makeFloatImage, type Raster, sampleSharp } from '../raster';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf } from '../testing/jobs';
import { noisePhoto, readsOf } from '../testing/pictures';
import { placementOf, takeSource } from '.';
import { sourceRect, takeMapped } from './source';

function render(photo: Raster, mend: Mend): Raster {
  const evaluator = new Evaluator(photo, 'photo', { masks: noMasks, tries: () => undefined });
  evaluator.setJob(jobOf(photo, [layerOf([mend])]));
  return renderPicture(evaluator, photo);
}

const pixel = (r: Raster, x: number, y: number) => [
  ...r.data.subarray(4 * (y * r.width + x), 4 * (y * r.width + x) + 4),
];

const boxMend = (source: Source, x = 20, y = 20, w = 20, h = 20, more: Partial<Mend> = {}) =>
  mendOf('clone', areaOfShapes([boxShape(x, y, w, h)]), source, more);

/** A grainy texture as a lens gives it: white noise, blurred a little. */
function photographic(w: number, h: number, seed: number): FloatImage {
  const random = makeRandom(seed);
  const white = Float32Array.from({ length: w * h }, () => random.next());
  const image = makeFloatImage({ x: 0, y: 0, w, h });
  const weights = [0.06, 0.24, 0.4, 0.24, 0.06];
  const blur = (from: Float32Array, step: number) =>
    from.map((_, i) => weights.reduce((n, k, d) => n + k * (from[i + (d - 2) * step] ?? 0.5), 0));
  const soft = blur(blur(white, 1), w);
  soft.forEach((v, i) => {
    image.data.set([v, v, v, 1], 4 * i);
  });
  return image;
}

describe('sources that are turned, scaled and mirrored', () => {
  const photo = noisePhoto(120, 90, 4);

  test('a quarter turn puts every pixel where turning by hand does, exactly', () => {
    const out = render(photo, boxMend({ dx: 50, dy: 20, turnDeg: 90 }));
    // About (30, 30), whose source is (80, 50): what lies above there is laid to the right of here.
    for (let y = 20; y < 40; y++)
      for (let x = 20; x < 40; x++) {
        const [u, v] = [x + 0.5 - 30, y + 0.5 - 30];
        expect(pixel(out, x, y)).toEqual(pixel(photo, 80 + v - 0.5, 50 - u - 0.5));
      }
  });

  test('mirrored, left and right change places, exactly', () => {
    const out = render(photo, boxMend({ dx: 50, dy: 20, mirror: true }));
    for (let y = 20; y < 40; y++)
      for (let x = 20; x < 40; x++) expect(pixel(out, x, y)).toEqual(pixel(photo, 80 - (x - 29), y + 20));
  });

  test('scaled up, the source covers so much less; nothing is read beyond what was declared', () => {
    fc.assert(
      fc.property(
        fc.record({
          dx: fc.integer({ min: -60, max: 60 }),
          dy: fc.integer({ min: -60, max: 60 }),
          turnDeg: fc.integer({ min: -180, max: 180 }),
          scale: fc.double({ min: 0.4, max: 3, noNaN: true }),
          mirror: fc.boolean(),
        }),
        (source) => {
          const mend = boxMend(source, 40, 30);
          const bounds = { x: 0, y: 0, w: 120, h: 90 };
          const output = { x: 40, y: 30, w: 20, h: 20 };
          const declared = sourceRect(mend, output, bounds);
          const read = (rect: typeof bounds) => {
            expect(contains(declared, rect)).toBe(true);
            const image = makeFloatImage(rect);
            image.data.fill(0.5);
            return image;
          };
          const context = {
            bounds,
            isPreview: false,
            read,
            readAlong: readsOf(makeFloatImage(bounds)).readAlong,
            coverage: () => new Float32Array(400),
            mayDraw: () => null,
            allowedWithin: null,
            pending: () => null,
            avoided: () => null,
            chosen: () => null,
          };
          const { image, valid } = takeSource(mend, output, context);
          for (let i = 0; i < 400; i++) if (!valid || valid[i]) expect(image.data[4 * i]).toBeCloseTo(0.5, 5);
        },
      ),
      { numRuns: 60 },
    );
  });

  test('where the source lies beyond the photo the picture stays as it is', () => {
    const out = render(photo, boxMend({ dx: -25, dy: 0, turnDeg: 20 }));
    expect(pixel(out, 21, 30)).toEqual(pixel(photo, 21, 30));
    expect(pixel(out, 38, 22)).not.toEqual(pixel(photo, 38, 22));
  });
});

describe('sources in a plane', () => {
  const corners = [
    [40, 20],
    [160, 20],
    [190, 140],
    [10, 140],
  ] as const;
  const square = fromUnitSquare(corners)!;
  const flat = invert(square);

  test('positions are those of the homography, evaluated in float64', () => {
    const mend = mendOf(
      'clone',
      areaOfShapes([boxShape(80, 90, 30, 30)]),
      { dx: -20, dy: -30, about: [95, 105] },
      {},
    );
    const inPlane = { ...mend, steer: { ...mend.steer, plane: corners } };
    const placement = placementOf(inPlane);
    if (placement.kind !== 'map') throw new Error('a plane needs a map');
    const [a, b] = [project(flat, 95, 105)!, project(flat, 75, 75)!];
    for (const [x, y] of [
      [80, 90],
      [101.5, 97.25],
      [110, 120],
    ]) {
      const u = project(flat, x, y)!;
      const wanted = project(square, u[0] + b[0] - a[0], u[1] + b[1] - a[1])!;
      const got = project(placement.map, x, y)!;
      expect(got[0]).toBeCloseTo(wanted[0], 8);
      expect(got[1]).toBeCloseTo(wanted[1], 8);
    }
  });

  test('squares of a floor stay squares of the floor', () => {
    const light = (x: number, y: number) => {
      const p = project(flat, x, y);
      return p && (Math.floor(p[0] * 8) + Math.floor(p[1] * 8)) & 1 ? 0.8 : 0.2;
    };
    const photo = noisePhoto(200, 160, 1);
    for (let y = 0; y < 160; y++)
      for (let x = 0; x < 200; x++) {
        let sum = 0;
        for (let v = 0; v < 4; v++)
          for (let u = 0; u < 4; u++) sum += light(x + (u + 0.5) / 4, y + (v + 0.5) / 4) / 16;
        photo.data.fill(255 * sum, 4 * (y * 200 + x), 4 * (y * 200 + x) + 3);
        photo.data[4 * (y * 200 + x) + 3] = 255;
      }
    // Two squares to the left and two further away: the same pattern again.
    const about = project(square, 0.6, 0.7)!;
    const from = project(square, 0.35, 0.45)!;
    const source = {
      dx: Math.round(from[0] - about[0]),
      dy: Math.round(from[1] - about[1]),
    };
    const exact = project(flat, about[0], about[1])!;
    const mend = mendOf('clone', areaOfShapes([boxShape(100, 95, 30, 25)]), { ...source, about }, {});
    const error = (m: Mend) => {
      const out = render(photo, m);
      let sum = 0;
      for (let y = 95; y < 120; y++)
        for (let x = 100; x < 130; x++) sum += Math.abs(pixel(out, x, y)[0] - pixel(photo, x, y)[0]);
      return sum / 750;
    };
    expect(exact[0]).toBeCloseTo(0.6, 9);
    const inPlane = error({ ...mend, steer: { ...mend.steer, plane: corners } });
    expect(inPlane).toBeLessThan(22);
    expect(inPlane).toBeLessThan(0.5 * error(mend));
  });

  test('corners that make no plane are told as the mend’s failure and leave the picture as it is', () => {
    const photo = noisePhoto(60, 60, 2);
    const mend = mendOf('clone', areaOfShapes([boxShape(10, 10, 10, 10)]), { dx: 20, dy: 5 });
    const crossed = [corners[0], corners[2], corners[1], corners[3]];
    const evaluator = new Evaluator(photo, 'photo', { masks: noMasks, tries: () => undefined });
    evaluator.setJob(jobOf(photo, [layerOf([{ ...mend, steer: { ...mend.steer, plane: crossed } }])]));
    expect(renderPicture(evaluator, photo).data).toEqual(photo.data);
    expect([...evaluator.failures().values()][0]).toMatch(/do not make a plane/);
  });
});

test.each([
  ['near its own size', 1.03],
  ['taken from something twice as large', 2.1],
])('the kernel takes the same as sampling pixel by pixel does, %s', (_, size) => {
  const [w, h] = [64, 48];
  const source = photographic(w, h, 2);
  const bounds = { x: 0, y: 0, w, h };
  const map = [size * 0.95, 0.2, 3, -0.15, size * 0.97, 2, 0.0004, -0.0003, 1] as const;
  const output = { x: 2, y: 3, w: 24, h: 20 };
  const image = makeFloatImage(output);
  const valid = new Uint8Array(output.w * output.h);
  takeMapped(map, source, bounds, image, valid);
  const one = new Float32Array(4);
  for (let y = 0; y < output.h; y++)
    for (let x = 0; x < output.w; x++) {
      const [tx, ty] = [output.x + x + 0.5, output.y + y + 0.5];
      const at = project(map, tx, ty)!;
      const i = y * output.w + x;
      const inside = at[0] >= 0 && at[1] >= 0 && at[0] < w && at[1] < h;
      expect(valid[i]).toBe(inside ? 1 : 0);
      if (!inside) continue;
      const { across, down } = stepsAt(map, tx, ty)!;
      const step = Math.max(Math.hypot(...across), Math.hypot(...down));
      const n = step <= 1.15 ? 1 : Math.ceil(step * 1.5);
      let sum = 0;
      for (let v = 0; v < n; v++)
        for (let u = 0; u < n; u++) {
          const [fx, fy] = [(u + 0.5) / n - 0.5, (v + 0.5) / n - 0.5];
          const px = at[0] + fx * across[0] + fy * down[0] - 0.5;
          const py = at[1] + fx * across[1] + fy * down[1] - 0.5;
          sampleSharp(source, px, py, null, one, 0, n === 1 ? 6 : 3);
          sum += one[0] / (n * n);
        }
      expect(image.data[4 * i]).toBeCloseTo(sum, 4);
    }
});

test('ten round trips through a plane keep at least 95 % of the fine energy, and do not ring', () => {
  const [w, h] = [180, 180];
  const texture = photographic(w, h, 9);
  const there = [
    [2, 1],
    [179.5, 3.5],
    [177, 178.5],
    [1.5, 176],
  ] as const;
  const unit = fromUnitSquare([
    [0, 0],
    [180, 0],
    [180, 180],
    [0, 180],
  ])!;
  const plane = fromUnitSquare(there)!;
  const times = (a: readonly number[], b: readonly number[]) =>
    [0, 1, 2].flatMap((r) =>
      [0, 1, 2].map((c) => [0, 1, 2].reduce((n, k) => n + a[3 * r + k] * b[3 * k + c], 0)),
    );
  const out = times(plane, invert(unit)) as unknown as typeof unit;
  const bounds = { x: 0, y: 0, w, h };
  const energy = (image: FloatImage) => {
    let sum = 0;
    for (let y = 50; y < 130; y++)
      for (let x = 50; x < 130; x++) {
        const at = (u: number, v: number) => image.data[4 * (v * w + u)];
        sum += (4 * at(x, y) - at(x - 1, y) - at(x + 1, y) - at(x, y - 1) - at(x, y + 1)) ** 2;
      }
    return sum;
  };
  let image = texture;
  for (let trip = 0; trip < 10; trip++)
    for (const map of [out, invert(out)]) {
      const next = makeFloatImage(bounds);
      takeMapped(map, image, bounds, next, new Uint8Array(w * h));
      image = next;
    }
  const kept = energy(image) / energy(texture);
  expect(kept).toBeGreaterThan(0.95);
  expect(kept).toBeLessThan(1.05);
});
