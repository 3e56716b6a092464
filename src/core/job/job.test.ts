import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf } from '../testing/jobs';
import { noisePhoto } from '../testing/pictures';
import {
  addLayer,
  addMend,
  addTries,
  addTry,
  allMends,
  asTried,
  type Command,
  changeLayer,
  changeMend,
  changeZones,
  checkJob,
  checkSheet,
  findMend,
  gainedUnseen,
  type Job,
  jobOfSheet,
  mapAreas,
  maskIdsOf,
  noSteer,
  noZones,
  placeLayer,
  placeMend,
  record,
  redo,
  removeLayer,
  removeMend,
  renameJob,
  transact,
  undo,
} from '.';
import { undoOn } from './commands';
import { emptyHistory } from './history';

const photo = noisePhoto(100, 80);
const start = (): Job =>
  jobOf(photo, [
    layerOf([
      mendOf('clone', areaOfShapes([boxShape(1, 1, 5, 5)]), { dx: 20, dy: 0 }),
      mendOf('fill', areaOfShapes([boxShape(30, 30, 9, 9)]), null, {
        tries: [{ id: 't1', seed: 1 }],
        chosenTry: 't1',
      }),
    ]),
    layerOf([mendOf('heal', areaOfShapes([boxShape(50, 9, 6, 6)], 2, 3), { dx: -9, dy: 12 })]),
  ]);

test('masks of what is still to go, of zones and of kept areas belong to the job as those of its areas do', () => {
  const mask = (maskId: string) =>
    areaOfShapes([{ kind: 'mask', op: 'add', x: 1, y: 1, w: 4, h: 4, maskId }]);
  const mend = mendOf('fill', mask('own'), null, {
    pending: mask('later'),
    steer: { ...noSteer, allow: mask('from'), avoid: mask('beside') },
  });
  const job = {
    ...jobOf(photo, [layerOf([mend])]),
    zones: { allow: mask('all-from'), avoid: mask('never') },
    areas: [{ id: 'kept', name: 'Kept', area: mask('kept') }],
  };
  const all = ['all-from', 'beside', 'from', 'kept', 'later', 'never', 'own'];
  expect([...maskIdsOf(job)].sort()).toEqual(all);
  expect(checkJob(JSON.parse(JSON.stringify(job)))).toEqual(job);
  const renamed = mapAreas(job, () => mask('new'));
  expect([...maskIdsOf(renamed)]).toEqual(['new']);
  expect([...maskIdsOf(job)].sort()).toEqual(all);
  const wrong = { ...job, layers: [{ ...job.layers[0], mends: [{ ...mend, pending: 0 }] }] };
  expect(() => checkJob(wrong)).toThrow(/pending/);
  const { pending: _, ...older } = JSON.parse(JSON.stringify(mend));
  expect(
    checkJob({ ...job, layers: [{ ...job.layers[0], mends: [older] }] }).layers[0].mends[0].pending,
  ).toBeNull();
});

/** Any command that makes sense for the job as it is; numbers choose which. */
function commandOf(job: Job, kind: number, a: number, b: number): Command {
  const mends = allMends(job);
  const layer = job.layers[a % job.layers.length];
  const mend = mends.length > 0 ? mends[b % mends.length] : null;
  switch (kind % 9) {
    case 0:
      return addMend(
        layer.id,
        mendOf('tap', areaOfShapes([boxShape(a, b, 4, 4)]), { dx: a, dy: b }),
        a % (layer.mends.length + 1),
      );
    case 1:
      return mend ? removeMend(mend.id) : renameJob(`j${a}`);
    case 2:
      return mend
        ? changeMend(mend.id, 'opacity', { opacity: (b % 11) / 10, name: `n${a}` })
        : renameJob(`j${a}`);
    case 3:
      return mend ? placeMend(mend.id, layer.id, b % 4) : renameJob(`j${b}`);
    case 4:
      return addLayer(layerOf([]), a % (job.layers.length + 1));
    case 5:
      return removeLayer(layer.id);
    case 6:
      return placeLayer(layer.id, b % job.layers.length);
    case 7:
      return changeLayer(layer.id, 'layer', {
        opacity: (a % 11) / 10,
        visible: b % 2 === 0,
        blend: 'screen',
      });
    default:
      return mend ? addTry(mend.id, { id: `t${a}${b}`, seed: a }) : renameJob(`j${a}`);
  }
}

const steps = fc.array(fc.tuple(fc.nat(8), fc.nat(50), fc.nat(50)), { minLength: 1, maxLength: 25 });

test('a mend that is new on a hidden layer is told of; one that was there, or that shows, is not', () => {
  const base = start();
  const [layer] = base.layers;
  const area = areaOfShapes([boxShape(2, 2, 6, 6)]);
  const added = (job: Job) => transact(job, addMend(layer.id, mendOf('tap', area, { dx: 9, dy: 9 })))!.job;
  expect(gainedUnseen(base, added(base))).toBeNull();
  const hidden = transact(base, changeLayer(layer.id, 'hide layer', { visible: false }))!.job;
  expect(gainedUnseen(base, hidden)).toBeNull();
  expect(gainedUnseen(hidden, added(hidden))?.id).toBe(layer.id);
  const later = added(hidden);
  expect(gainedUnseen(later, later)).toBeNull();
});

describe('history', () => {
  test('undo after do is as it was; redo after undo is as it became; any number of times', () => {
    fc.assert(
      fc.property(steps, (list) => {
        let job = start();
        let history = emptyHistory;
        const states = [job];
        for (const [kind, a, b] of list) {
          const done = transact(job, commandOf(job, kind, a, b));
          if (!done) continue;
          job = done.job;
          history = record(history, done.transaction);
          states.push(job);
        }
        for (let k = states.length - 2; k >= 0; k--) {
          const back = undo(job, history)!;
          expect(back.job).toEqual(states[k]);
          ({ job, history } = back);
        }
        expect(undo(job, history)).toBe(null);
        for (let k = 1; k < states.length; k++) {
          const again = redo(job, history)!;
          expect(again.job).toEqual(states[k]);
          ({ job, history } = again);
        }
        expect(redo(job, history)).toBe(null);
      }),
      { numRuns: 60 },
    );
  });

  test('a transaction that went through JSON still undoes and redoes', () => {
    fc.assert(
      fc.property(fc.nat(8), fc.nat(50), fc.nat(50), (kind, a, b) => {
        const job = start();
        const done = transact(job, commandOf(job, kind, a, b));
        if (!done) return;
        const kept = record(emptyHistory, JSON.parse(JSON.stringify(done.transaction)));
        expect(undo(done.job, kept)!.job).toEqual(job);
      }),
    );
  });

  test('a new change after undo takes away what was undone', () => {
    let job = start();
    let history = emptyHistory;
    for (const title of ['a', 'b']) {
      const done = transact(job, renameJob(title))!;
      job = done.job;
      history = record(history, done.transaction);
    }
    const back = undo(job, history)!;
    const done = transact(back.job, renameJob('c'))!;
    history = record(back.history, done.transaction);
    expect(history.entries).toHaveLength(2);
    expect(redo(done.job, history)).toBe(null);
  });

  test('a command that changes nothing makes no entry, and the last layer stays', () => {
    const job = start();
    const [mend] = job.layers[0].mends;
    expect(transact(job, changeMend(mend.id, 'opacity', { opacity: 1 }))).toBe(null);
    expect(transact(job, placeMend(mend.id, job.layers[0].id, 0))).toBe(null);
    const one = { ...job, layers: [job.layers[0]] };
    expect(transact(one, removeLayer(one.layers[0].id))).toBe(null);
  });

  test('jobs are frozen: nothing changes them by the way', () => {
    const done = transact(start(), renameJob('x'))!;
    expect(() => {
      (done.job as { title: string }).title = 'y';
    }).toThrow();
  });
});

describe('schema', () => {
  test('a job that went through JSON is accepted unchanged', () => {
    const job = start();
    expect(checkJob(JSON.parse(JSON.stringify(job)))).toEqual(job);
    expect(findMend(job, job.layers[1].mends[0].id)?.layerIndex).toBe(1);
  });

  const bent = (change: (job: never) => void) => {
    const job = JSON.parse(JSON.stringify(start()));
    change(job as never);
    return () => checkJob(job);
  };
  type Loose = { layers: { id: string; mends: Record<string, unknown>[] }[]; photo: Record<string, unknown> };

  test.each<[string, (job: Loose) => void, RegExp]>([
    ['an opacity of 2', (j) => (j.layers[0].mends[0].opacity = 2), /layers\[0\]\.mends\[0\]\.opacity/],
    ['an unknown method', (j) => (j.layers[0].mends[0].method = 'magic'), /method.*tap, fill, clone, heal/],
    ['half a pixel in a source', (j) => (j.layers[0].mends[0].source = { dx: 0.5, dy: 0 }), /dx.*integer/],
    ['a parameter that the method has not', (j) => (j.layers[0].mends[0].params = { reach: 2 }), /params/],
    [
      'a shape of an unknown kind',
      (j) => (j.layers[0].mends[0].area = { shapes: [{ kind: 'star' }], marginPx: 0, featherPx: 0 }),
      /kind/,
    ],
    [
      'a point that is no number',
      (j) =>
        (j.layers[0].mends[0].area = {
          shapes: [{ kind: 'stroke', op: 'add', radiusPx: 3, hardness: 1, points: [['a', 1]] }],
          marginPx: 0,
          featherPx: 0,
        }),
      /points/,
    ],
    ['no layers', (j) => (j.layers = []), /layers/],
    ['an id used twice', (j) => (j.layers[1].id = j.layers[0].id), /used twice/],
    ['a digest that is none', (j) => (j.photo.sha256 = 'abc'), /sha256/],
    ['a photo of no width', (j) => (j.photo.width = 0), /width/],
  ])('%s is refused, and the message names the place', (_what, change, message) => {
    expect(bent(change as never)).toThrow(message);
  });

  test('what is no object at all is refused', () => {
    for (const value of [null, 3, 'job', []]) expect(() => checkJob(value)).toThrow(/This job/);
  });
});

describe('steering in a job', () => {
  const steer = {
    allow: areaOfShapes([boxShape(0, 0, 50, 40)]),
    avoid: areaOfShapes([{ kind: 'stroke', op: 'add', points: [[4, 5, 1]], radiusPx: 6, hardness: 1 }]),
    rail: { angleDeg: -12.5, slackPx: 8 },
    plane: [
      [0, 0],
      [90, 5],
      [100, 80],
      [-10, 70],
    ],
    lines: [[1, 2, 60, 50]],
  } as const;
  const job = (over: object = {}, zones: object = noZones) => ({
    ...jobOf(photo, [layerOf([{ ...mendOf('fill', areaOfShapes([boxShape(9, 9, 5, 5)])), ...over }])]),
    zones,
  });

  test('survives being written and read', () => {
    const whole = job({ steer }, { allow: null, avoid: steer.avoid });
    expect(checkJob(JSON.parse(JSON.stringify(whole)))).toEqual(whole);
  });

  test('jobs from before there was any are read as having none', () => {
    const { zones: _, ...old } = JSON.parse(JSON.stringify(job()));
    delete old.layers[0].mends[0].steer;
    expect(checkJob(old)).toMatchObject({ zones: noZones });
    expect(allMends(checkJob(old))[0].steer).toEqual(noSteer);
  });

  test.each([
    ['a plane of three corners', { steer: { ...steer, plane: steer.plane.slice(1) } }, /plane/],
    ['an angle beyond a right one', { steer: { ...steer, rail: { angleDeg: 91, slackPx: 1 } } }, /angleDeg/],
    ['a line of three numbers', { steer: { ...steer, lines: [[1, 2, 3]] } }, /lines\[0\]/],
    [
      'a corner that is no number',
      { steer: { ...steer, plane: [...steer.plane.slice(1), ['x', 0]] } },
      /plane\[3\]/,
    ],
    ['an empty zone', { steer: { ...steer, allow: { shapes: [] } } }, /allow/],
    [
      'a rubbing from a mask',
      { rubbed: areaOfShapes([{ kind: 'mask', op: 'add', x: 0, y: 0, w: 1, h: 1, maskId: 'm' }]) },
      /rubbed/,
    ],
    [
      'a try with a setting that fill does not have',
      { tries: [{ id: 't', seed: 1, params: { toneFit: 1 } }] },
      /toneFit/,
    ],
  ])('%s is refused with its place', (_name, over, said) => {
    expect(() => checkJob(JSON.parse(JSON.stringify(job(over))))).toThrow(said);
  });

  test('a try’s own settings go before the mend’s', () => {
    const mend = mendOf('fill', areaOfShapes([boxShape(1, 1, 2, 2)]), null, {
      params: { reach: 1, turn: 5 },
      tries: [
        { id: 'a', seed: 3 },
        { id: 'b', seed: 4, params: { reach: 2 } },
      ],
    });
    expect(asTried(mend, 'a')).toEqual({ mend, seed: 3 });
    expect(asTried(mend, 'b')).toEqual({ mend: { ...mend, params: { reach: 2, turn: 5 } }, seed: 4 });
    expect(asTried(mend, null).seed).toBe(1);
  });

  test('zones and further tries are changed by commands that undo exactly; what changes nothing leaves no entry', () => {
    const before = job() as Job;
    const zoned = transact(before, changeZones('draw avoid zone', { avoid: steer.avoid }))!;
    expect(zoned.job.zones.avoid).toEqual(steer.avoid);
    expect(undoOn(zoned.job, zoned.transaction)).toEqual(before);
    expect(transact(zoned.job, changeZones('again', { avoid: steer.avoid }))).toBeNull();
    const [mend] = allMends(before);
    const tried = transact(before, addTries(mend.id, [{ id: 'x', seed: 7 }]))!;
    expect(allMends(tried.job)[0]).toEqual({ ...mend, tries: [...mend.tries, { id: 'x', seed: 7 }] });
    expect(undoOn(tried.job, tried.transaction)).toEqual(before);
  });
});

describe('sheet', () => {
  const sheet = {
    format: 'vine-needle-sheet',
    version: 1,
    mends: [
      {
        method: 'clone',
        area: { shapes: [boxShape(10, 10, 8, 8)] },
        source: { dx: 30, dy: 2 },
        opacity: 0.5,
      },
      {
        method: 'fill',
        area: { shapes: [{ kind: 'mask', file: 'gate.png', x: 4 }], marginPx: 3 },
        pending: { shapes: [{ kind: 'mask', file: 'gate.png', x: 40 }] },
        seed: 9,
      },
      { method: 'tap', area: { shapes: [{ kind: 'stroke', points: [[5, 5]], radiusPx: 4 }] }, name: 'speck' },
    ],
  };
  const facts = jobOf(photo, []).photo;
  // One empty row above and one empty column to the left are trimmed away.
  const mask = {
    w: 7,
    h: 6,
    data: Uint8Array.from({ length: 42 }, (_, i) => (i % 7 === 0 || i < 7 ? 0 : 255)),
  };

  test('becomes a job with defaults filled in, masks by file, and the seed as its try', () => {
    const { job, masks } = jobOfSheet(checkSheet(sheet), facts, (file) => {
      expect(file).toBe('gate.png');
      return mask;
    });
    const [clone, fill, tap] = allMends(job);
    expect(clone).toMatchObject({
      name: 'Clone 1',
      opacity: 0.5,
      blend: 'normal',
      reads: 'below',
      readLayers: [],
      visible: true,
    });
    expect(fill.tries).toEqual([{ id: 'try-2', seed: 9 }]);
    expect(fill.area.shapes[0]).toEqual({
      kind: 'mask',
      op: 'add',
      x: 5,
      y: 1,
      w: 6,
      h: 5,
      maskId: 'mask-1',
    });
    expect(fill.pending?.shapes[0]).toMatchObject({ kind: 'mask', x: 41, y: 1, maskId: 'mask-1' });
    expect(tap.pending).toBeNull();
    expect(masks.get('mask-1')).toEqual({ w: 6, h: 5, data: new Uint8Array(30).fill(255) });
    expect(tap.area.shapes[0]).toMatchObject({ op: 'add', hardness: 1, points: [[5, 5, 1]] });
    expect(checkJob(JSON.parse(JSON.stringify(job)))).toEqual(job);
  });

  test('says what is wrong: format, place, missing source', () => {
    expect(() => checkSheet({ ...sheet, format: 'x' })).toThrow(/vine-needle-sheet/);
    expect(() => checkSheet({ ...sheet, mends: [{ method: 'tap' }] })).toThrow(/mends\[0\]\.area/);
    expect(() => checkSheet({ ...sheet, mends: [{ ...sheet.mends[0], strength: 3 }] })).toThrow(
      /mends\[0\].*strength/,
    );
    const sourceless = checkSheet({
      ...sheet,
      mends: [{ method: 'heal', area: { shapes: [boxShape(1, 1, 2, 2)] } }],
    });
    expect(() => jobOfSheet(sourceless, facts, () => mask)).toThrow(/mends\[0\] needs a source/);
  });
});
