import fc from 'fast-check';
import { describe, expect, test, vi } from 'vitest';
import { methods } from '../methods';
import {
  boundsOf,
  copyFloat,
  type FloatImage,
  makeRaster,
  quantise,
  type Raster,
  tileKey,
  tilesIn,
} from '../raster';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf, strokeShape } from '../testing/jobs';
import { differences, noisePhoto, texturedPhoto } from '../testing/pictures';
import { Evaluator, renderPicture } from '.';
import { rectOfTile } from './plan';
import { busyJob, evaluatorOf, noPixels, render } from './testing';

test('nothing may be drawn from what is still to go, nor from where a zone forbids it', () => {
  const photo = noisePhoto(80, 60, 3);
  const zone = (x: number) => areaOfShapes([boxShape(x, 0, 10, 60)]);
  const mend = mendOf('clone', zone(0), { dx: 30, dy: 0 }, { pending: zone(20) });
  const job = { ...jobOf(photo, [layerOf([mend])]), zones: { allow: null, avoid: zone(40) } };
  const { mayDraw, pending } = evaluatorOf(photo, job).contextOf(mend);
  const rect = { x: 0, y: 5, w: 80, h: 1 };
  const set = (list: Uint8Array | null) => Array.from(list!, (v, x) => (v ? x : -1)).filter((x) => x >= 0);
  expect(set(pending(rect))).toEqual([20, 21, 22, 23, 24, 25, 26, 27, 28, 29]);
  expect(set(mayDraw(rect)!.map((v) => 1 - v))).toEqual(
    [...Array(10).keys()].flatMap((k) => [20 + k]).concat([...Array(10).keys()].map((k) => 40 + k)),
  );
  expect(
    evaluatorOf(photo, job)
      .contextOf({ ...mend, pending: null })
      .pending(rect),
  ).toBeNull();
});

test('of a stroke under way, what it does not touch and what cannot be computed shows what lies below', () => {
  const photo = noisePhoto(520, 520, 4);
  const bounds = boundsOf(photo);
  // Round a corner: its box holds the tile at the bottom left, through which it does not run.
  const round = areaOfShapes([
    strokeShape(
      [
        [40, 40],
        [470, 40],
        [470, 470],
      ],
      20,
    ),
  ]);
  const flat = [
    [10, 10],
    [20, 20],
    [30, 30],
    [40, 40],
  ] as const;
  const cloned = mendOf('clone', round, { dx: 20, dy: 30 });
  const impossible = { ...cloned, steer: { ...cloned.steer, plane: flat } };
  for (const [mend, tile] of [
    [cloned, tileKey(0, 1)],
    [impossible, tileKey(0, 0)],
  ] as const) {
    const evaluator = new Evaluator(photo, 'photo', noPixels);
    const covered = { coverage: (_: unknown, into: Float32Array) => into.fill(1) };
    evaluator.setJob(jobOf(photo, [layerOf([mend])]), { ...covered, mendId: mend.id, revision: 1 });
    // The memory that parts lie in holds something else.
    evaluator.partOfTile(tileKey(1, 1), { x: 300, y: 300, w: 100, h: 100 }, mend.id).data.fill(7);
    const corner = rectOfTile(tile, bounds);
    const part = { x: corner.x + 30, y: corner.y + 20, w: 60, h: 50 };
    const shown = makeRaster(520, 520, 4, 8);
    quantise(evaluator.partOfTile(tile, part, mend.id), part, shown, bounds);
    for (let y = part.y; y < part.y + part.h; y++)
      for (let i = 4 * (y * 520 + part.x); i < 4 * (y * 520 + part.x + part.w); i++)
        expect(shown.data[i]).toBe(photo.data[i]);
  }
});

describe('evaluator', () => {
  test.each([8, 16] as const)('tiled equals whole, byte for byte, at %i bits', (depth) => {
    const photo = texturedPhoto(520, 400, 2, depth);
    const job = busyJob(photo);
    const tiled = render(photo, job);
    const whole = makeRaster(520, 400, 4, depth);
    quantise(evaluatorOf(photo, job).picture(boundsOf(photo)), boundsOf(photo), whole, { x: 0, y: 0 });
    expect(differences(tiled.data, whole.data).count).toBe(0);
    expect(differences(tiled.data, photo.data).count).toBeGreaterThan(1000);
  });

  test('what the cache holds, and the order of questions, change nothing', () => {
    const photo = texturedPhoto(520, 400, 3);
    const job = busyJob(photo);
    const wanted = render(photo, job);
    expect(differences(render(photo, job, 1).data, wanted.data).count).toBe(0);
    const asked = evaluatorOf(photo, job, 3 << 20);
    fc.assert(
      fc.property(
        fc.nat(480),
        fc.nat(370),
        fc.integer({ min: 1, max: 300 }),
        fc.integer({ min: 1, max: 300 }),
        (x, y, w, h) => {
          const rect = { x, y, w: Math.min(w, 520 - x), h: Math.min(h, 400 - y) };
          const part = makeRaster(rect.w, rect.h, 4, 8);
          quantise(asked.picture(rect), rect, part, rect);
          for (let v = 0; v < rect.h; v++) {
            const row = wanted.data.subarray(((y + v) * 520 + x) * 4, ((y + v) * 520 + x + rect.w) * 4);
            if (differences(part.data.subarray(v * rect.w * 4, (v + 1) * rect.w * 4), row).count > 0)
              return false;
          }
          return true;
        },
      ),
      { numRuns: 25 },
    );
  });

  test('a job that went through many changes shows the same as one opened afresh', () => {
    const photo = texturedPhoto(520, 400, 4);
    const job = busyJob(photo);
    const travelled = evaluatorOf(photo, job);
    renderPicture(travelled, photo);
    const without = { ...job, layers: [job.layers[0]] };
    travelled.setJob(without);
    renderPicture(travelled, photo);
    const hidden = { ...job, layers: [{ ...job.layers[0], visible: false }, job.layers[1]] };
    travelled.setJob(hidden);
    expect(differences(renderPicture(travelled, photo).data, render(photo, hidden).data).count).toBe(0);
    travelled.setJob(job);
    expect(differences(renderPicture(travelled, photo).data, render(photo, job).data).count).toBe(0);
  });

  const bytesOf = ({ data }: FloatImage) => Buffer.from(data.buffer, data.byteOffset, data.byteLength);

  test('while a mend is dragged, tiles show what they show when it has come to rest there, asked for in any order', () => {
    const photo = texturedPhoto(600, 500, 5);
    const job = busyJob(photo);
    const [dragged] = job.layers[0].mends;
    for (const [k, dx] of [-110, -60, 40].entries()) {
      const mends = job.layers[0].mends.map((m) => (m === dragged ? { ...m, source: { dx, dy: 30 } } : m));
      const moved = { ...job, layers: [{ ...job.layers[0], mends }, ...job.layers.slice(1)] };
      const still = evaluatorOf(photo, moved);
      const moving = evaluatorOf(photo, job);
      moving.setJob(moved, null, new Set([dragged.id]));
      const all = tilesIn(still.bounds, still.bounds);
      let parts = 0;
      for (const tile of k % 2 ? all.toReversed() : [...all, ...all]) {
        const part = moving.draggedPart(tile);
        const shown = moving.belowDragged(tile).picture();
        const picture = { rect: shown.rect, data: shown.data.slice() };
        if (part) copyFloat(moving.pictureOfDragged(tile, part), picture);
        if (part) parts++;
        expect(bytesOf(picture).equals(bytesOf(still.picture(shown.rect)))).toBe(true);
      }
      expect(parts).toBeGreaterThan(0);
    }
  });

  test('however long something is dragged, other mends are still at hand', () => {
    const photo = texturedPhoto(600, 500, 5);
    const other = mendOf('heal', areaOfShapes([boxShape(40, 40, 120, 120)]), { dx: 200, dy: 0 });
    const patch = mendOf('patch', areaOfShapes([boxShape(300, 260, 150, 150)]), { dx: -200, dy: 20 });
    const jobAt = (dx: number) => jobOf(photo, [layerOf([other, { ...patch, source: { dx, dy: 20 } }])]);
    const evaluator = evaluatorOf(photo, jobAt(-200), 1 << 20);
    const look = () => {
      for (const tile of tilesIn(evaluator.bounds, evaluator.bounds)) {
        const part = evaluator.draggedPart(tile);
        if (part) evaluator.pictureOfDragged(tile, part);
      }
    };
    const others = vi.spyOn(methods.heal, 'evaluate');
    renderPicture(evaluator, photo);
    expect(others).toHaveBeenCalledTimes(1);
    for (let dx = -199; dx < -179; dx++) {
      evaluator.setJob(jobAt(dx), null, new Set([patch.id]));
      look();
    }
    evaluator.setJob(jobAt(-180));
    renderPicture(evaluator, photo);
    expect(others).toHaveBeenCalledTimes(1);
    others.mockRestore();
  });

  test('untouched pixels are the photo’s own bytes', () => {
    const photo = noisePhoto(520, 300, 5);
    const out = render(
      photo,
      jobOf(photo, [
        layerOf([mendOf('clone', areaOfShapes([boxShape(10, 10, 40, 40)]), { dx: 100, dy: 0 })]),
      ]),
    );
    for (let y = 0; y < 300; y++)
      for (let x = 0; x < 520; x++) {
        const inside = x >= 10 && x < 50 && y >= 10 && y < 50;
        const i = (y * 520 + x) * 4;
        const from = inside ? i + 400 : i;
        if (out.data[i] !== photo.data[from] || out.data[i + 2] !== photo.data[from + 2])
          throw new Error(`differs at ${x}, ${y}`);
      }
  });

  test('what is rubbed away shows what lies below, softly where it was rubbed softly, also through a layer’s mode', () => {
    const photo = noisePhoto(300, 100, 6);
    const rubbed = areaOfShapes([boxShape(0, 0, 20, 50), strokeShape([[40, 25]], 8, 0)]);
    const mend = mendOf('heal', areaOfShapes([boxShape(0, 0, 60, 50)]), { dx: 100, dy: 0 });
    for (const blend of ['normal', 'multiply'] as const) {
      const layer = (more: object) => [layerOf([{ ...mend, ...more }], { blend, opacity: 0.9 })];
      const whole = render(photo, jobOf(photo, layer({})));
      const part = render(photo, jobOf(photo, layer({ rubbed })));
      const at = (raster: Raster, x: number, y: number) => raster.data[4 * (y * 300 + x)];
      expect(at(part, 10, 25)).toBe(at(photo, 10, 25));
      expect(at(part, 55, 40)).toBe(at(whole, 55, 40));
      const [below, above, between] = [at(photo, 43, 25), at(whole, 43, 25), at(part, 43, 25)];
      expect(between).toBeGreaterThanOrEqual(Math.min(below, above));
      expect(between).toBeLessThanOrEqual(Math.max(below, above));
    }
  });

  test('mends that read each other’s tiles, many deep, are each computed once, even with hardly any cache', () => {
    const photo = noisePhoto(520, 200, 10);
    const mends = Array.from({ length: 60 }, (_, k) =>
      k % 2
        ? mendOf('clone', areaOfShapes([boxShape(280 + k, 20, 60, 60)]), { dx: -200, dy: 1 })
        : mendOf('clone', areaOfShapes([boxShape(80 + k, 20, 60, 60)]), { dx: 200, dy: -1 }),
    );
    const evaluator = evaluatorOf(photo, jobOf(photo, [layerOf(mends)]), 1);
    let evaluated = 0;
    const { evaluate } = methods.clone;
    const spy = vi.spyOn(methods.clone, 'evaluate').mockImplementation((...args) => {
      evaluated++;
      return evaluate(...args);
    });
    renderPicture(evaluator, photo);
    spy.mockRestore();
    expect(evaluated).toBeLessThanOrEqual(2 * mends.length);
  });

  test('a mend whose source lies wholly outside the photo changes nothing and does not fail', () => {
    const photo = noisePhoto(100, 100, 9);
    for (const method of ['clone', 'heal'] as const) {
      const job = jobOf(photo, [
        layerOf([mendOf(method, areaOfShapes([boxShape(10, 10, 20, 20)]), { dx: 5000, dy: 0 })]),
      ]);
      const evaluator = evaluatorOf(photo, job);
      expect(differences(renderPicture(evaluator, photo).data, photo.data).count).toBe(0);
      expect(evaluator.failures().size).toBe(0);
    }
  });

  test('a mend that cannot be computed is told with a reason and leaves the picture as it is', () => {
    const photo = noisePhoto(100, 100, 9);
    const area = areaOfShapes([{ kind: 'mask', op: 'add', x: 0, y: 0, w: 10, h: 10, maskId: 'gone' }]);
    const broken = mendOf('clone', area, { dx: 50, dy: 0 });
    const evaluator = evaluatorOf(photo, jobOf(photo, [layerOf([broken])]));
    expect(differences(renderPicture(evaluator, photo).data, photo.data).count).toBe(0);
    expect(evaluator.failures().get(broken.id)).toMatch(/gone/);
  });
});
