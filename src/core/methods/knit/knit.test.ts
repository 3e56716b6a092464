import { describe, expect, test } from 'vitest';
import { noMasks } from '../../area';
import { Evaluator, renderPicture } from '../../evaluate';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf, strokeShape } from '../../testing/jobs';
import { noisePhoto } from '../../testing/pictures';
import { knit } from '.';

const [w, h] = [160, 120];

/** Grain on two tones that meet at a line. */
function joined(): ReturnType<typeof noisePhoto> {
  const photo = noisePhoto(w, h, 5);
  for (let i = 0; i < w * h; i++)
    for (let c = 0; c < 3; c++)
      photo.data[4 * i + c] = 90 + (i % w < 80 ? 0 : 50) + (photo.data[4 * i + c] - 128) * 0.12;
  return photo;
}

function knitted(strength: number, params = {}) {
  const photo = joined();
  const path = Array.from({ length: 11 }, (_, k) => [80, 10 + 10 * k] as const);
  const mend = mendOf('knit', areaOfShapes([strokeShape(path, 20, 0.5)]), null, {
    params: { strength, ...params },
  });
  const evaluator = new Evaluator(photo, 'photo', { masks: noMasks, tries: () => undefined });
  evaluator.setJob(jobOf(photo, [layerOf([mend])]));
  return { photo, picture: renderPicture(evaluator, photo) };
}

const column = (data: ArrayLike<number>, x: number) => {
  let [sum, squares] = [0, 0];
  for (let y = 40; y < 80; y++) {
    const v = data[4 * (y * w + x) + 1];
    sum += v / 40;
    squares += v ** 2 / 40;
  }
  return { mean: sum, deviation: Math.sqrt(squares - sum ** 2) };
};

describe('knit', () => {
  test('a hard step of tone becomes a slope, and the grain stays', () => {
    const { photo, picture } = knitted(100);
    const step = (data: ArrayLike<number>) => column(data, 83).mean - column(data, 77).mean;
    expect(step(photo.data)).toBeGreaterThan(40);
    expect(step(picture.data)).toBeLessThan(18);
    let last = 0;
    for (let x = 62; x <= 98; x += 6) {
      const { mean } = column(picture.data, x);
      expect(mean).toBeGreaterThan(last - 5);
      last = mean;
    }
    const grain = column(photo.data, 40).deviation;
    for (const x of [70, 80, 90]) {
      const ratio = column(picture.data, x).deviation / grain;
      expect(ratio).toBeGreaterThan(0.7);
      expect(ratio).toBeLessThan(1.5);
    }
  });

  test('what is wide and has no path of its own takes its sources from no farther off than a wide brush does', () => {
    const wide = mendOf('knit', areaOfShapes([boxShape(50, 60, 900, 800)]), null);
    const bounds = { x: 0, y: 0, w: 4000, h: 3000 };
    const output = { x: 1500, y: 1500, w: 256, h: 256 };
    const [read] = knit.requiredInput(wide, output, bounds, null);
    expect(read.w).toBeLessThan(900);
  });

  test('at half strength it is half-way, and outside the brush nothing changes', () => {
    const [none, half, all] = [0, 50, 100].map((s) => knitted(s).picture.data);
    expect(none).toEqual(joined().data);
    for (const i of [60 * w + 78, 60 * w + 84].map((p) => 4 * p))
      expect(Math.abs(half[i] - (none[i] + all[i]) / 2)).toBeLessThanOrEqual(1);
    for (let y = 0; y < h; y++) expect(all[4 * (y * w + 55)]).toBe(none[4 * (y * w + 55)]);
  });
});
