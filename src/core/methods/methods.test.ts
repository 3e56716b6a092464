import { describe, expect, test } from 'vitest';
import { noMasks } from '../area';
import { Evaluator, renderPicture } from '../evaluate';
import { type Mend, noSteer } from '../job';
import { contains, intersect, isEmpty, type Raster } from '../raster';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf, strokeShape } from '../testing/jobs';
import { differences, noisePhoto, paintPhoto, texturedPhoto } from '../testing/pictures';
import { methods, sourcesFor } from '.';
import { sourceRect } from './source';

function render(photo: Raster, mend: Mend): Raster {
  const evaluator = new Evaluator(photo, 'photo', { masks: noMasks, tries: () => undefined });
  evaluator.setJob(jobOf(photo, [layerOf([mend])]));
  return renderPicture(evaluator, photo);
}

const pixelAt = (r: Raster, x: number, y: number) => [
  ...r.data.subarray((y * r.width + x) * 4, (y * r.width + x) * 4 + 3),
];

describe('clone', () => {
  test.each([8, 16] as const)(
    'a whole-pixel shift copies exactly at %i bits, also at the photo’s edges',
    (depth) => {
      const photo = noisePhoto(80, 60, 1, depth);
      const out = render(
        photo,
        mendOf('clone', areaOfShapes([boxShape(-10, -10, 50, 40)]), { dx: 37, dy: 21 }),
      );
      for (let y = 0; y < 60; y++)
        for (let x = 0; x < 80; x++) {
          const inside = x < 40 && y < 30;
          const [sx, sy] = inside ? [x + 37, y + 21] : [x, y];
          const wanted = sx < 80 && sy < 60 ? pixelAt(photo, sx, sy) : pixelAt(photo, x, y);
          if (pixelAt(out, x, y).join() !== wanted.join()) throw new Error(`differs at ${x}, ${y}`);
        }
    },
  );

  test('at half opacity it is the mean of both, rounded', () => {
    const photo = paintPhoto(40, 10, 8, (x) => (x < 20 ? [0, 0, 0] : [1, 1, 1]));
    const out = render(
      photo,
      mendOf('clone', areaOfShapes([boxShape(0, 0, 10, 10)]), { dx: 20, dy: 0 }, { opacity: 0.5 }),
    );
    expect(pixelAt(out, 5, 5)).toEqual([128, 128, 128]);
  });
});

describe('heal', () => {
  test('a source that differs by a constant is fitted to it exactly', () => {
    const photo = texturedPhoto(200, 100, 3);
    const half = paintPhoto(200, 100, 8, (x, y) => {
      const i = (y * 200 + (x % 100)) * 4;
      const dark = x >= 100 ? 0.15 : 0;
      return [
        photo.data[i] / 255 / 1.3 - dark + 0.1,
        photo.data[i + 1] / 255 / 1.3 - dark + 0.1,
        photo.data[i + 2] / 255 / 1.3 - dark + 0.1,
      ];
    });
    const out = render(half, mendOf('heal', areaOfShapes([boxShape(30, 30, 30, 30)]), { dx: 100, dy: 0 }));
    expect(differences(out.data, half.data).most).toBeLessThanOrEqual(1);
  });

  test('a linear ramp of tone is bridged: nothing but the texture comes from the source', () => {
    const ramp = paintPhoto(120, 60, 8, (x, y) => [0.2 + x / 250, 0.7 - y / 200, 0.4]);
    const spotted = { ...ramp, data: ramp.data.slice() };
    for (let y = 25; y < 35; y++)
      for (let x = 25; x < 35; x++) spotted.data.fill(10, (y * 120 + x) * 4, (y * 120 + x) * 4 + 3);
    const out = render(spotted, mendOf('heal', areaOfShapes([boxShape(22, 22, 16, 16)]), { dx: 50, dy: 5 }));
    expect(differences(out.data, ramp.data).most).toBeLessThanOrEqual(1);
  });

  test('takes no tone from what is still to go', () => {
    const plain = paintPhoto(120, 60, 8, () => [0.5, 0.5, 0.5]);
    const photo = { ...plain, data: plain.data.slice() };
    for (let y = 0; y < 60; y++)
      for (let x = 40; x < 60; x++) photo.data.fill(250, (y * 120 + x) * 4, (y * 120 + x) * 4 + 3);
    const area = areaOfShapes([boxShape(20, 20, 20, 20)]);
    const pending = areaOfShapes([boxShape(40, 0, 20, 60)]);
    const beside = (more: object) => {
      const out = render(photo, mendOf('heal', area, { dx: 60, dy: 0 }, more));
      return out.data[(30 * 120 + 38) * 4];
    };
    expect(beside({})).toBeGreaterThan(180);
    expect(Math.abs(beside({ pending }) - plain.data[0])).toBeLessThanOrEqual(1);
  });

  test('without tone fit it is a clone', () => {
    const photo = texturedPhoto(200, 100, 4);
    const area = areaOfShapes([boxShape(30, 30, 30, 30)]);
    const healed = render(photo, mendOf('heal', area, { dx: 80, dy: 3 }, { params: { toneFit: 0 } }));
    const cloned = render(photo, mendOf('clone', area, { dx: 80, dy: 3 }));
    expect(differences(healed.data, cloned.data).count).toBe(0);
  });

  test('16 bits are not rounded to 8 on the way', () => {
    const photo = texturedPhoto(150, 80, 5, 16);
    const out = render(photo, mendOf('heal', areaOfShapes([boxShape(30, 30, 30, 20)]), { dx: 60, dy: 0 }));
    const odd = [...out.data].filter((v, i) => i % 4 < 3 && v % 257 !== 0 && v !== photo.data[i]).length;
    expect(odd).toBeGreaterThan(1000);
  });

  test('at the photo’s corner, where there is no rim on two sides, it stays in range', () => {
    const photo = texturedPhoto(120, 90, 6);
    const out = render(photo, mendOf('heal', areaOfShapes([boxShape(-5, -5, 40, 40)]), { dx: 60, dy: 30 }));
    const mean = (r: Raster, x0: number) => {
      let sum = 0;
      for (let y = 0; y < 35; y++) for (let x = x0; x < x0 + 35; x++) sum += r.data[(y * 120 + x) * 4];
      return sum / 1225;
    };
    expect(Math.abs(mean(out, 0) - mean(photo, 0))).toBeLessThan(30);
  });
});

describe('tap', () => {
  const speck = (photo: Raster) => {
    const out = { ...photo, data: photo.data.slice() };
    for (let y = 0; y < 9; y++)
      for (let x = 0; x < 9; x++)
        if (Math.hypot(x - 4, y - 4) < 4.5)
          out.data.fill(
            250,
            ((46 + y) * photo.width + 96 + x) * 4,
            ((46 + y) * photo.width + 96 + x) * 4 + 3,
          );
    return out;
  };

  test('a speck on a texture goes: what stands there is as the surroundings', () => {
    const clean = texturedPhoto(220, 120, 7);
    const out = render(speck(clean), mendOf('tap', areaOfShapes([strokeShape([[100.5, 50.5]], 8)], 0, 2)));
    expect(differences(out.data, clean.data).most).toBeLessThan(60);
    expect(differences(out.data, speck(clean).data).count).toBeGreaterThan(100);
  });

  test('its source does not touch the spot, lies in the photo, and avoids a bold edge', () => {
    const photo = paintPhoto(300, 300, 8, (x, y) =>
      x > 170 ? [0.9, 0.1, 0.1] : [0.4 + 0.02 * Math.sin(x) * Math.cos(y), 0.5, 0.4],
    );
    const mend = mendOf('tap', areaOfShapes([strokeShape([[140, 150]], 9)], 0, 2));
    const evaluator = new Evaluator(photo, 'photo', { masks: noMasks, tries: () => undefined });
    evaluator.setJob(jobOf(photo, [layerOf([])]));
    const ranked = sourcesFor(mend, evaluator.contextOf(mend));
    expect(ranked.length).toBeGreaterThan(3);
    const spot = methods.tap.affectedOutput(mend, evaluator.bounds);
    for (const { dx, dy } of ranked) {
      const from = { ...spot, x: spot.x + dx, y: spot.y + dy };
      expect(contains(evaluator.bounds, from)).toBe(true);
      expect(isEmpty(intersect(from, spot))).toBe(true);
    }
    const [best] = ranked;
    expect(spot.x + best.dx + spot.w).toBeLessThan(171);
  });

  test('a photo hardly larger than the spot stays as it is', () => {
    const photo = noisePhoto(24, 24, 8);
    expect(
      differences(render(photo, mendOf('tap', areaOfShapes([strokeShape([[12, 12]], 10)]))).data, photo.data)
        .count,
    ).toBe(0);
  });
});

test('every method says in words what it does, and its parameters’ initial values lie in range', () => {
  for (const [id, method] of Object.entries(methods)) {
    expect(method.id).toBe(id);
    expect(method.says.endsWith('.')).toBe(true);
    for (const p of method.parameters) expect(p.initial >= p.min && p.initial <= p.max).toBe(true);
  }
});

test('a thing that stands in a source counts against it, though it is no lighter or darker than the ground', () => {
  const grain = texturedPhoto(700, 400, 3);
  const isThing = (x: number, y: number) => x > 190 && x % 70 < 34 && y % 60 < 30 && !(x > 480 && y > 200);
  const photo = paintPhoto(700, 400, 8, (x, y) => {
    const v = 0.3 + 0.4 * (grain.data[4 * (y * 700 + x)] / 255);
    return isThing(x, y) ? [v + 0.12, v - 0.08, v + 0.12] : [v, v, v];
  });
  const mend = mendOf('heal', areaOfShapes([boxShape(60, 160, 80, 80)]));
  const evaluator = new Evaluator(photo, 'photo', { masks: noMasks, tries: () => undefined });
  evaluator.setJob(jobOf(photo, [layerOf([])]));
  const spot = methods.heal.affectedOutput(mend, evaluator.bounds);
  const share = ({ dx, dy }: { dx: number; dy: number }) => {
    let count = 0;
    for (let y = spot.y + dy; y < spot.y + dy + spot.h; y++)
      for (let x = spot.x + dx; x < spot.x + dx + spot.w; x++) count += isThing(x, y) ? 1 : 0;
    return count / (spot.w * spot.h);
  };
  const free = { dx: 490, dy: 60 };
  const ranked = sourcesFor(mend, evaluator.contextOf(mend), [free]);
  expect(share(free)).toBe(0);
  expect(share(ranked[0])).toBe(0);
  // Those with most of it come last.
  expect(ranked.slice(0, 4).every((s) => share(s) < 0.1)).toBe(true);
});

test('on a plane, sources that would be much enlarged or made small do not serve, unless there are no others', () => {
  const photo = texturedPhoto(600, 400, 5);
  const plane = [
    [0, 0],
    [600, 150],
    [600, 250],
    [0, 400],
  ] as const;
  const mend = mendOf('heal', areaOfShapes([boxShape(120, 170, 60, 60)]), null, {
    steer: { ...noSteer, plane },
  });
  const evaluator = new Evaluator(photo, 'photo', { masks: noMasks, tries: () => undefined });
  evaluator.setJob(jobOf(photo, [layerOf([])]));
  const context = evaluator.contextOf(mend);
  const far = { dx: 330, dy: 0 };
  const enlarged = ({ dx, dy }: typeof far) => {
    const { w, h } = sourceRect(
      { ...mend, source: { dx, dy } },
      { x: 120, y: 170, w: 60, h: 60 },
      evaluator.bounds,
    );
    // Around it lies what resampling takes in besides.
    return Math.sqrt((60 * 60) / ((w - 14) * (h - 14)));
  };
  expect(enlarged(far)).toBeGreaterThan(1.8);
  const ranked = sourcesFor(mend, context, [far]);
  expect(ranked.length).toBeGreaterThan(3);
  for (const shift of ranked) {
    expect(enlarged(shift)).toBeLessThan(1.6);
    expect(enlarged(shift)).toBeGreaterThan(0.6);
  }
  const onlyFar = sourcesFor(
    mend,
    { ...context, mayDraw: ({ x, w, h }) => new Uint8Array(w * h).fill(x > 400 ? 1 : 0) },
    [far],
  );
  expect(onlyFar).toContainEqual(far);
});

test('ranking sources for a large area on a large photo reads no more than a few areas at once', () => {
  const photo = texturedPhoto(2600, 1700, 9);
  const mend = mendOf('heal', areaOfShapes([boxShape(1000, 600, 420, 380)]));
  const evaluator = new Evaluator(photo, 'photo', { masks: noMasks, tries: () => undefined });
  evaluator.setJob(jobOf(photo, [layerOf([])]));
  const context = evaluator.contextOf(mend);
  let largest = 0;
  const watched = {
    ...context,
    read: (rect: Parameters<typeof context.read>[0]) => {
      largest = Math.max(largest, rect.w * rect.h);
      return context.read(rect);
    },
  };
  expect(sourcesFor(mend, watched).length).toBeGreaterThan(5);
  expect(largest).toBeLessThan(430 * 390);
});
