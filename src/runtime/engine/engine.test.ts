import { describe, expect, test } from 'vitest';
import { type Area, boundsOfArea } from '../../core/area';
import { addMend, changeMend, noSteer, transact } from '../../core/job';
import { halve, makeRaster, type Raster, tileKey } from '../../core/raster';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf, strokeShape } from '../../core/testing/jobs';
import { differences, texturedPhoto } from '../../core/testing/pictures';
import { runFill } from '../pool/fill-job';
import { Engine } from './engine';
import type { TilePixels } from './protocol';

const photo = texturedPhoto(700, 500, 21);

function open(raster: Raster = photo) {
  const engine = new Engine(raster, 'photo');
  const job = jobOf(raster, [
    layerOf([mendOf('heal', areaOfShapes([boxShape(300, 200, 60, 60)]), { dx: 90, dy: 20 })]),
  ]);
  engine.setJob(job);
  return { engine, job };
}

/** Puts parts on top of whole tiles, as the screen does. */
function patchTile(base: TilePixels, parts: readonly TilePixels[]): Uint8ClampedArray {
  const out = base.data!.slice();
  for (const part of parts) {
    if (part.tile !== base.tile || part.level !== base.level) continue;
    for (let y = 0; y < part.rect.h; y++) {
      const s = y * part.rect.w * 4;
      const d = ((part.rect.y - base.rect.y + y) * base.rect.w + part.rect.x - base.rect.x) * 4;
      out.set(part.data!.subarray(s, s + part.rect.w * 4), d);
    }
  }
  return out;
}

describe('display', () => {
  test('what is shown while a mend is dragged may be near; once it is let go it is exact', () => {
    const photo = texturedPhoto(700, 500, 3);
    const engine = new Engine(photo, 'photo');
    const mend = mendOf('heal', areaOfShapes([boxShape(40, 40, 300, 300)]), { dx: 300, dy: 90 });
    const layer = layerOf([mend]);
    const job = jobOf(photo, [layer]);
    engine.setJob(job);
    const moved = changeMend(mend.id, 'move source', { source: { dx: 280, dy: 70 } });
    const { job: after, transaction } = transact(job, moved)!;
    engine.previewJob(transaction.forward);
    const near = engine.flatten(() => {}).data.slice();
    engine.patchJob(transaction.forward);
    const exact = engine.flatten(() => {}).data.slice();
    const afresh = new Engine(photo, 'photo');
    afresh.setJob(after);
    expect(exact).toEqual(afresh.flatten(() => {}).data);
    let [sum, count] = [0, 0];
    for (let y = 40; y < 340; y++)
      for (let x = 40; x < 340; x++, count++)
        sum += Math.abs(near[4 * (y * 700 + x)] - exact[4 * (y * 700 + x)]);
    expect(sum).toBeGreaterThan(0);
    expect(sum / count).toBeLessThan(4);
  });

  test('coarser tiles are the halves of the finished picture', () => {
    const { engine } = open();
    const flat = engine.flatten(() => {});
    const half = halve(flat);
    const [tile] = engine.tiles([{ side: 'after', level: 1, tile: tileKey(0, 0), have: null }]);
    for (let y = 0; y < tile.rect.h; y++) {
      const row = half.data.subarray(y * half.width * 4, (y * half.width + tile.rect.w) * 4);
      expect(
        differences(tile.data!.subarray(y * tile.rect.w * 4, (y + 1) * tile.rect.w * 4), row).count,
      ).toBe(0);
    }
  });

  test('a tile that the asker already has is not sent again; an untouched one shows the photo', () => {
    const { engine } = open();
    const [first] = engine.tiles([{ side: 'after', level: 0, tile: tileKey(1, 0), have: null }]);
    const [again] = engine.tiles([{ side: 'after', level: 0, tile: tileKey(1, 0), have: first.key }]);
    expect(again.data).toBe(null);
    const [plain] = engine.tiles([{ side: 'after', level: 0, tile: tileKey(0, 1), have: null }]);
    const [before] = engine.tiles([{ side: 'before', level: 0, tile: tileKey(0, 1), have: null }]);
    expect(plain.key).toBe(before.key);
  });

  test('before shows the photo whatever was mended', () => {
    const { engine } = open();
    const [before] = engine.tiles([{ side: 'before', level: 0, tile: tileKey(1, 0), have: null }]);
    const [after] = engine.tiles([{ side: 'after', level: 0, tile: tileKey(1, 0), have: null }]);
    expect(differences(before.data!, after.data!).count).toBeGreaterThan(100);
    expect(before.data![0]).toBe(photo.data[256 * 4]);
  });
});

describe('strokes', () => {
  test.each([
    ['clone', 'clone', {}],
    ['heal', 'heal', {}],
    ['heal that is computed whole', 'heal', { params: { texture: 60 } }],
  ] as const)(
    'a %s painted in steps shows, at every level, what the finished mend shows',
    (_, method, more) => {
      for (const level of [0, 1]) {
        const { engine, job } = open();
        const wanted = [
          { side: 'after' as const, level, tile: tileKey(0, 0), have: null },
          { side: 'after' as const, level, tile: tileKey(1, 0), have: null },
        ];
        const base = engine.tiles(wanted);
        const path = [
          [230, 120],
          [260, 130],
          [290, 160],
          [285, 230],
          [310, 240],
        ] as const;
        const first = areaOfShapes([strokeShape([path[0]], 22, 0.5)]);
        const mend = mendOf(method, first, { dx: 140, dy: 60 }, more);
        engine.beginStroke(mend, job.layers[0].id);
        const parts: TilePixels[] = [];
        for (const [x, y] of path.slice(1)) parts.push(...engine.extendStroke([[x, y, 1]], level));
        // While a heal is painted, near is enough; clone is what it is.
        const underBrush = base.map((tile) => patchTile(tile, parts));
        parts.push(...engine.settleStroke(level));
        const most = method === 'heal' ? 2 : 0;
        const painted = base.map((tile) => patchTile(tile, parts));
        engine.endStroke();
        const whole = { ...mend, area: areaOfShapes([strokeShape(path, 22, 0.5)]) };
        engine.patchJob(transact(job, addMend(job.layers[0].id, whole))!.transaction.forward);
        let changed = 0;
        engine.tiles(wanted).forEach((tile, i) => {
          expect(differences(painted[i], tile.data!).most).toBeLessThanOrEqual(most);
          expect(differences(underBrush[i], tile.data!).most).toBeLessThanOrEqual(4 * most);
          changed += differences(tile.data!, base[i].data!).count;
        });
        expect(changed).toBeGreaterThan(500);
      }
    },
  );

  test('a step of a large brush tells its rim, not all that it covers; the same place again tells nothing', () => {
    const { engine, job } = open();
    const mend = mendOf('clone', areaOfShapes([strokeShape([[200, 200]], 90, 1)]), { dx: 200, dy: 20 });
    engine.beginStroke(mend, job.layers[0].id);
    const told = (x: number) =>
      engine.extendStroke([[x, 200, 1]], 0).reduce((n, { rect }) => n + rect.w * rect.h, 0);
    expect(told(200)).toBeGreaterThan(Math.PI * 90 ** 2);
    expect(told(204)).toBeLessThan(0.4 * 180 ** 2);
    expect(told(204)).toBe(0);
    engine.endStroke();
  });

  test('a heal is painted and kept across a photo that is too large to be healed in one piece', () => {
    const large = makeRaster(4200, 2400, 4, 8);
    for (let i = 0; i < large.data.length; i++)
      large.data[i] = i % 4 === 3 ? 255 : 90 + ((i >> 2) % 4200) / 40 + ((i * 7) % 11);
    const { engine, job } = open(large);
    const path = Array.from({ length: 70 }, (_, k) => [60 + 59 * k, 40 + 33 * k] as const);
    const mend = mendOf('heal', areaOfShapes([strokeShape([path[0]], 15, 0.6)]), { dx: 80, dy: -35 });
    engine.beginStroke(mend, job.layers[0].id);
    const told = (parts: readonly TilePixels[]) => parts.reduce((n, { rect }) => n + rect.w * rect.h, 0);
    const steps = path.slice(1).map(([x, y]) => told(engine.extendStroke([[x, y, 1]], 0)));
    // The last step tells as much as the first ones, and all of them little more than the stroke itself.
    expect(Math.max(...steps)).toBeLessThan(4 * steps[0]);
    expect(told(engine.settleStroke(0))).toBeLessThan(0.06 * 4200 * 2400);
    engine.endStroke();
    const whole = { ...mend, area: areaOfShapes([strokeShape(path, 15, 0.6)]) };
    engine.patchJob(transact(job, addMend(job.layers[0].id, whole))!.transaction.forward);
    const [x, y] = path[35];
    const ask = {
      side: 'after' as const,
      level: 0,
      tile: tileKey(Math.floor(x / 256), Math.floor(y / 256)),
      have: null,
    };
    const [after] = engine.tiles([ask]);
    const [before] = engine.tiles([{ ...ask, side: 'before' }]);
    expect(differences(after.data!, before.data!).count).toBeGreaterThan(500);
    expect(engine.mendStates()).toEqual({});
    expect(engine.likelyStops(whole, true)).toEqual([]);
  });

  test('a stroke that is given up leaves nothing behind', () => {
    const { engine, job } = open();
    const ask = { side: 'after' as const, level: 0, tile: tileKey(0, 0), have: null };
    const [before] = engine.tiles([ask]);
    engine.beginStroke(
      mendOf('clone', areaOfShapes([strokeShape([[100, 100]], 20)]), { dx: 90, dy: 0 }),
      job.layers[0].id,
    );
    engine.extendStroke([[150, 120, 1]], 0);
    engine.endStroke();
    expect(differences(engine.tiles([ask])[0].data!, before.data!).count).toBe(0);
  });
});

describe('fills', () => {
  const fill = mendOf('fill', areaOfShapes([boxShape(320, 220, 40, 36)], 2, 3), null, {
    tries: [{ id: 't', seed: 5 }],
    chosenTry: 't',
  });

  test('go from missing to ready, and to stale when what they were drawn from changes; the picture stays', () => {
    const { engine, job } = open();
    const withFill = { ...job, layers: [...job.layers, layerOf([fill])] };
    engine.setJob(withFill);
    expect(engine.mendStates()).toEqual({ [fill.id]: { state: 'missing' } });
    const { input, inputKey } = engine.fillInput(fill, fill.chosenTry);
    const { rect: output, data } = runFill({ input, depth: 8 });
    engine.addPixels([{ tryId: 't', ...output, data, inputKey }], []);
    expect(engine.mendStates()).toEqual({});
    expect(engine.staleTries(fill)).toEqual([]);
    const before = engine.flatten(() => {});
    const healed = job.layers[0].mends[0];
    engine.setJob({
      ...withFill,
      layers: [layerOf([{ ...healed, source: { dx: 95, dy: 11 } }]), withFill.layers[1]],
    });
    expect(engine.mendStates()).toEqual({ [fill.id]: { state: 'stale' } });
    const tried = { ...fill, tries: [...fill.tries, { id: 'not yet', seed: 6 }] };
    expect(engine.staleTries(tried)).toEqual(['t']);
    const after = engine.flatten(() => {});
    const at = (r: Raster) => [...r.data.subarray((238 * 700 + 340) * 4, (238 * 700 + 340) * 4 + 3)];
    expect(at(after)).toEqual(at(before));
  });

  test('16 bits are kept, and outside the area nothing is filled', () => {
    const photo = texturedPhoto(300, 220, 4, 16);
    const engine = new Engine(photo, 'photo');
    const mend = { ...fill, area: areaOfShapes([boxShape(120, 90, 34, 30)]) };
    engine.setJob(jobOf(photo, [layerOf([mend])]));
    const { input, inputKey } = engine.fillInput(mend, 't');
    const { rect, data } = runFill({ input, depth: 16 });
    expect([...data].filter((v, i) => i % 4 < 3 && v % 257 !== 0).length).toBeGreaterThan(1000);
    engine.addPixels([{ tryId: 't', ...rect, data, inputKey }], []);
    const { data: flat } = engine.flatten(() => {});
    const changed = differences(flat, photo.data).count;
    expect(changed).toBeGreaterThan(1000);
    expect(changed).toBeLessThanOrEqual(34 * 30 * 3);
  });

  test('until a further try is there, the last one before it shows', () => {
    const { engine, job } = open();
    const withTry = (tries: typeof fill.tries, chosenTry: string) => {
      const mend = { ...fill, tries, chosenTry };
      engine.setJob({ ...job, layers: [...job.layers, layerOf([mend])] });
      return mend;
    };
    const compute = (mend: typeof fill, tryId: string) => {
      const { input, inputKey } = engine.fillInput(mend, tryId);
      const { rect, data } = runFill({ input, depth: 8 });
      engine.addPixels([{ tryId, ...rect, data, inputKey }], []);
      return engine.flatten(() => {}).data.slice();
    };
    const bare = engine.flatten(() => {}).data.slice();
    const first = compute(withTry(fill.tries, 't'), 't');
    expect(first).not.toEqual(bare);
    const two = withTry([...fill.tries, { id: 'u', seed: 6 }], 'u');
    expect(engine.mendStates()).toEqual({ [fill.id]: { state: 'missing' } });
    expect(engine.flatten(() => {}).data).toEqual(first);
    const second = compute(two, 'u');
    expect(second).not.toEqual(first);
    // A later try has no say.
    withTry(two.tries, 't');
    expect(engine.flatten(() => {}).data).toEqual(first);
    withTry([{ id: 'v', seed: 7 }, ...fill.tries], 'v');
    expect(engine.flatten(() => {}).data).toEqual(bare);
  });

  test('a fill leaves out what clearly is another thing, more when its switch is on, nothing when an allow zone rules', () => {
    const { engine } = open();
    const plain = engine.fillInput(fill, 't');
    const apart = engine.fillInput({ ...fill, params: { ...fill.params, apart: 1 } }, 't');
    expect([plain, apart].map(({ input }) => input.steering.leavesOut)).toEqual(['clearly', 'somewhat']);
    expect(apart.inputKey).not.toBe(plain.inputKey);
    const zoned = { ...fill, steer: { ...noSteer, allow: areaOfShapes([boxShape(400, 150, 80, 200)]) } };
    expect(engine.fillInput(zoned, 't').input.steering.leavesOut).toBeNull();
    const plane = [
      [250, 150],
      [420, 160],
      [430, 320],
      [240, 310],
    ] as const;
    const flat = { ...fill, steer: { ...noSteer, plane } };
    expect(engine.fillInput(flat, 't').input.steering.leavesOut).toBe('somewhat');
  });

  test('zones of the mend and of the job decide what may be drawn from, and make a fill out of date', () => {
    const { engine, job } = open();
    const zone = (x: number) => areaOfShapes([boxShape(x, 150, 80, 200)]);
    const steered = { ...fill, steer: { ...noSteer, allow: zone(400) } };
    const withZones = { ...job, zones: { allow: zone(0), avoid: zone(440) }, layers: [layerOf([steered])] };
    engine.setJob(withZones);
    const { input, inputKey } = engine.fillInput(steered, 't');
    const [{ image, allowed }] = input.windows;
    allowed!.forEach((v, i) => {
      const x = image.rect.x + (i % image.rect.w);
      const y = image.rect.y + Math.floor(i / image.rect.w);
      expect(v === 1).toBe(x >= 400 && x < 440 && y >= 150 && y < 350);
    });
    const { rect, data } = runFill({ input, depth: 8 });
    engine.addPixels([{ tryId: 't', ...rect, data, inputKey }], []);
    expect(engine.mendStates()).toEqual({});
    engine.setJob({ ...withZones, zones: { allow: null, avoid: null } });
    expect(engine.mendStates()).toEqual({ [fill.id]: { state: 'stale' } });
  });

  test('every part of a large fill sees the allow zone, also those at its far end', () => {
    const photo = texturedPhoto(4400, 2400, 4);
    const large = {
      ...fill,
      area: areaOfShapes([boxShape(1760, 500, 1900, 1400)]),
      steer: { ...noSteer, allow: areaOfShapes([boxShape(240, 340, 1040, 1760)]) },
    };
    const engine = new Engine(photo, 'photo');
    engine.setJob(jobOf(photo, [layerOf([large])]));
    const { windows } = engine.fillInput(large, 't').input;
    expect(windows.length).toBeGreaterThan(1);
    const sum = (mask: Uint8Array | null | undefined) => mask?.reduce((n, v) => n + v, 0) ?? 0;
    for (const { allowed, beside } of windows)
      expect(sum(allowed) + sum(beside?.allowed)).toBeGreaterThan(50_000);
  });

  test('an allow zone is drawn from however far it lies, and what changes there makes the fill out of date', () => {
    const photo = texturedPhoto(1400, 900, 6);
    const far = boxShape(1200, 700, 120, 120);
    const small = {
      ...fill,
      area: areaOfShapes([boxShape(60, 80, 40, 30)]),
      steer: { ...noSteer, allow: areaOfShapes([far]) },
    };
    const engine = new Engine(photo, 'photo');
    const painted = mendOf('heal', areaOfShapes([boxShape(1230, 730, 40, 40)]), { dx: -300, dy: -200 });
    engine.setJob(jobOf(photo, [layerOf([small])]));
    const { input, inputKey } = engine.fillInput(small, 't');
    const { rect, data } = runFill({ input, depth: 8 });
    engine.addPixels([{ tryId: 't', ...rect, data, inputKey }], []);
    expect(engine.mendStates()).toEqual({});
    engine.setJob(jobOf(photo, [layerOf([painted]), layerOf([small])]));
    expect(engine.mendStates()).toEqual({ [small.id]: { state: 'stale' } });
  });

  test('what is in an avoid zone that the area touches is not continued, unless that is nearly all round it', () => {
    const { engine, job } = open();
    const area = boundsOfArea(fill.area);
    const beside = areaOfShapes([boxShape(area.x + area.w, area.y - 10, 60, area.h + 20)]);
    const round = areaOfShapes([boxShape(area.x - 9, area.y - 9, area.w + 18, area.h + 18)]);
    const pendingOf = (zone: Area, ofJob: boolean) => {
      const steered = ofJob ? fill : { ...fill, steer: { ...noSteer, avoid: zone } };
      const zones = { allow: null, avoid: ofJob ? zone : null };
      engine.setJob({ ...job, zones, layers: [layerOf([steered])] });
      return engine.fillInput(steered, 't').input.windows[0];
    };
    for (const ofJob of [true, false]) {
      const { image, pending, allowed } = pendingOf(beside, ofJob);
      pending!.forEach((is, i) => {
        const x = image.rect.x + (i % image.rect.w);
        const y = image.rect.y + Math.floor(i / image.rect.w);
        const isZone =
          x >= area.x + area.w && x < area.x + area.w + 60 && y >= area.y - 10 && y < area.y + area.h + 10;
        expect(is === 1).toBe(isZone);
        if (isZone) expect(allowed![i]).toBe(0);
      });
      expect(pendingOf(round, ofJob).pending).toBeNull();
    }
  });

  test('a try with settings of its own is computed with them, and is not out of date for that', () => {
    const { engine, job } = open();
    const own = { ...fill, tries: [{ id: 't', seed: 5, params: { reach: 3 } }] };
    engine.setJob({ ...job, layers: [layerOf([own])] });
    const { input, inputKey } = engine.fillInput(own, 't');
    expect(input.windows[0].image.rect.w).toBeGreaterThan(
      engine.fillInput(fill, 't').input.windows[0].image.rect.w,
    );
    const { rect, data } = runFill({ input, depth: 8 });
    engine.addPixels([{ tryId: 't', ...rect, data, inputKey }], []);
    expect(engine.mendStates()).toEqual({});
  });

  test('an area outside the photo says so', () => {
    const { engine } = open();
    expect(() => engine.fillInput({ ...fill, area: areaOfShapes([boxShape(900, 900, 5, 5)]) }, null)).toThrow(
      /outside the photo/,
    );
  });
});
