import { describe, expect, test } from 'vitest';
import { Evaluator } from '../../evaluate';
import { boundsOf, makeRaster, type Raster, tileKey } from '../../raster';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf, strokeShape } from '../../testing/jobs';
import { heal, healOutput, stopsFor } from '.';
import { partsOf } from './long-strokes';

/** Smooth tone that changes all over, with a little texture. */
function photoOf(width: number, height: number): Raster {
  const photo = makeRaster(width, height, 4, 8);
  for (let y = 0, p = 0; y < height; y++)
    for (let x = 0; x < width; x++, p += 4) {
      const v = 110 + 60 * Math.sin(x / 130) * Math.cos(y / 90) + ((x * 7 + y * 13) % 9);
      photo.data.set([v, v - 10, 0.8 * v, 255], p);
    }
  return photo;
}

const across = (width: number, height: number, radiusPx: number) =>
  areaOfShapes([
    strokeShape(
      Array.from({ length: 41 }, (_, k) => [
        20 + ((width - 40) * k) / 40,
        20 + ((height - 40) * k) / 40 + 25 * Math.sin(k),
      ]),
      radiusPx,
      0.7,
    ),
  ]);

describe('a long stroke', () => {
  test('is healed in parts, which give what it gives in one piece to a fifth of a grey level', () => {
    const photo = photoOf(1700, 1300);
    const mend = mendOf('heal', across(1700, 1300, 12), { dx: 60, dy: -70 });
    expect(partsOf(mend.area)).not.toBeNull();
    const evaluator = new Evaluator(photo, 'photo', { masks: () => undefined, tries: () => undefined });
    evaluator.setJob(jobOf(photo, [layerOf([mend])]));
    const context = evaluator.contextOf(mend);
    const whole = healOutput(mend, boundsOf(photo));
    const { image, coverage } = heal.evaluate(mend, whole, context);
    const side = heal.partSide!(mend)!;
    let [most, compared, differing] = [0, 0, 0];
    for (let y = 0; y < photo.height; y += side)
      for (let x = 0; x < photo.width; x += side) {
        const x0 = Math.max(x, whole.x);
        const y0 = Math.max(y, whole.y);
        const w = Math.min(x + side, whole.x + whole.w) - x0;
        const h = Math.min(y + side, whole.y + whole.h) - y0;
        const part = heal.evaluate(mend, { x: x0, y: y0, w, h }, context);
        for (let i = 0; i < w * h; i++) {
          const j = (y0 + Math.floor(i / w) - whole.y) * whole.w + x0 + (i % w) - whole.x;
          if (part.coverage[i] !== coverage[j]) differing++;
          if (coverage[j] <= 0) continue;
          compared++;
          for (let c = 0; c < 3; c++)
            most = Math.max(most, 255 * Math.abs(part.image.data[4 * i + c] - image.data[4 * j + c]));
        }
      }
    expect(differing).toBe(0);
    expect(compared).toBeGreaterThan(40_000);
    expect(most).toBeLessThan(0.2);
  });

  test('runs across a photo that is too large to be fitted in one piece', () => {
    const photo = photoOf(4200, 2600);
    const mend = mendOf('heal', across(4200, 2600, 9), { dx: 40, dy: -60 });
    const evaluator = new Evaluator(photo, 'photo', { masks: () => undefined, tries: () => undefined });
    evaluator.setJob(jobOf(photo, [layerOf([mend])]));
    const tile = evaluator.pictureTile(tileKey(8, 5))!;
    expect(evaluator.failures().size).toBe(0);
    let changed = 0;
    for (let i = 0; i < tile.data.length; i += 4) {
      const [x, y] = [8 * 256 + ((i / 4) % 256), 5 * 256 + Math.floor(i / 1024)];
      if (Math.abs(255 * tile.data[i] - photo.data[4 * (y * 4200 + x)]) > 0.6) changed++;
    }
    expect(changed).toBeGreaterThan(1000);
  });

  test('finds what its rim touches on its way', () => {
    const photo = photoOf(1700, 1300);
    // Something of another tone in the stroke's way, as far as its lower rim.
    for (let y = 640; y < 700; y++)
      for (let x = 840; x < 880; x++) photo.data.set([250, 40, 30, 255], 4 * (y * 1700 + x));
    const mend = mendOf('heal', across(1700, 1300, 12), { dx: 60, dy: -170 });
    const evaluator = new Evaluator(photo, 'photo', { masks: () => undefined, tries: () => undefined });
    evaluator.setJob(jobOf(photo, [layerOf([mend])]));
    const stops = stopsFor(mend, evaluator.contextOf(mend), false);
    expect(stops.length).toBeGreaterThan(0);
    for (const [x, y] of stops.flatMap(({ points }) => points)) {
      expect(Math.abs(x - 860)).toBeLessThan(60);
      expect(Math.abs(y - 670)).toBeLessThan(60);
    }
  });

  test('what is compact, small, or not drawn with a brush is healed in one piece', () => {
    expect(partsOf(across(900, 700, 12))).toBeNull();
    expect(partsOf(across(1700, 1300, 300))).toBeNull();
    expect(partsOf(areaOfShapes([boxShape(0, 0, 3000, 40), boxShape(0, 0, 40, 3000)]))).toBeNull();
    const taken = { ...boxShape(500, 500, 200, 200), op: 'subtract' as const };
    const less = { ...across(1700, 1300, 12), shapes: [...across(1700, 1300, 12).shapes, taken] };
    expect(partsOf(less)).not.toBeNull();
  });

  test('the wider it is, the larger its parts and the room round them', () => {
    const [thin, wide] = [partsOf(across(6000, 4000, 15))!, partsOf(across(6000, 4000, 90))!];
    expect(wide.reach).toBeGreaterThan(2 * thin.reach);
    expect(wide.side).toBeGreaterThan(thin.side);
    expect(thin.reach).toBeGreaterThan(4 * 15);
  });
});
