import 'fake-indexeddb/auto';
import { describe, expect, test } from 'vitest';
import { sha256 } from '../../core/formats';
import { type Job, maskIdsOf, record, renameJob, type TryPixels, transact, undo } from '../../core/job';
import { emptyHistory } from '../../core/job/history';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf } from '../../core/testing/jobs';
import { noisePhoto } from '../../core/testing/pictures';
import { Database } from './database';
import { JobStore } from './job-store';

let count = 0;
const original = new Blob([Uint8Array.of(1, 2, 3, 4)]);

async function filled(): Promise<{ store: JobStore; job: Job; pixels: TryPixels }> {
  const store = new JobStore(new Database(`test-${++count}`));
  const photo = noisePhoto(40, 30);
  const fill = mendOf(
    'fill',
    areaOfShapes([{ kind: 'mask', op: 'add', x: 0, y: 0, w: 3, h: 3, maskId: 'mask' }, boxShape(2, 2, 5, 5)]),
    null,
    {
      tries: [{ id: 'try', seed: 1 }],
      chosenTry: 'try',
    },
  );
  const made = jobOf(photo, [layerOf([fill])]);
  const job = {
    ...made,
    photo: { ...made.photo, sha256: await sha256(new Uint8Array(await original.arrayBuffer())) },
  };
  const pixels: TryPixels = {
    tryId: 'try',
    x: 2,
    y: 2,
    w: 5,
    h: 5,
    data: noisePhoto(5, 5).data,
    inputKey: 'key',
  };
  const masks = new Map([['mask', { w: 3, h: 3, data: new Uint8Array(9).fill(200) }]]);
  await store.add({ job, original, masks, tries: new Map([['try', pixels]]) }, 1000);
  return { store, job, pixels };
}

describe('job store', () => {
  test('a job comes back whole: original, tries, masks, and verified', async () => {
    const { store, job, pixels } = await filled();
    const opened = await store.open(job.id);
    expect(opened.job).toEqual(job);
    expect(new Uint8Array(await opened.original.arrayBuffer())).toEqual(Uint8Array.of(1, 2, 3, 4));
    expect([...opened.tries[0].data]).toEqual([...pixels.data]);
    expect(opened.masks[0].mask.data[4]).toBe(200);
    const [row] = await store.shelf();
    expect(row.originalBytes).toBe(4);
    expect(row.extraBytes).toBeGreaterThan(0);
  });

  test('preferences are kept, the last choice of each', async () => {
    const { store } = await filled();
    expect((await store.preferences()).size).toBe(0);
    await store.prefer({ markHue: 'violet', surround: 'dark' });
    await store.prefer({ markHue: 'yellow' });
    expect([...(await store.preferences())].sort()).toEqual([
      ['markHue', 'yellow'],
      ['surround', 'dark'],
    ]);
  });

  test('16-bit tries keep their depth', async () => {
    const { store, job } = await filled();
    const data = Uint16Array.from({ length: 16 }, (_, i) => i * 4000);
    await store.putTry(job.id, { tryId: 'deep', x: 0, y: 0, w: 2, h: 2, data, inputKey: 'k' });
    const opened = await store.open(job.id);
    expect(opened.tries.find((t) => t.tryId === 'deep')!.data).toEqual(data);
  });

  test('history is kept entry by entry; a change after undo takes away what was undone', async () => {
    const { store, job } = await filled();
    let now = job;
    let history = emptyHistory;
    for (const title of ['a', 'b', 'c']) {
      const done = transact(now, renameJob(title))!;
      history = record(history, done.transaction);
      now = done.job;
      await store.commit(now, done.transaction, history.cursor, 2000);
    }
    const back = undo(now, history)!;
    await store.moveCursor(back.job, back.history.cursor, 3000);
    const done = transact(back.job, renameJob('d'))!;
    history = record(back.history, done.transaction);
    await store.commit(done.job, done.transaction, history.cursor, 4000);
    const opened = await store.open(job.id);
    expect(opened.job.title).toBe('d');
    expect(opened.history).toEqual(JSON.parse(JSON.stringify(history)));
  });

  test('a changed original is found out', async () => {
    const { store, job } = await filled();
    await store.db.originals.update(job.id, { file: new Blob([Uint8Array.of(1, 2, 3, 5)]) });
    await expect(store.open(job.id)).rejects.toThrow(/damaged/);
  });

  test('a write that fails leaves the job as it was', async () => {
    const { store, job } = await filled();
    const done = transact(job, renameJob('new'))!;
    const { update } = store.db.jobs;
    store.db.jobs.update = (() => {
      throw Object.assign(new Error('full'), { name: 'QuotaExceededError' });
    }) as never;
    await expect(store.commit(done.job, done.transaction, 1, 2000)).rejects.toThrow(/full/);
    store.db.jobs.update = update;
    const opened = await store.open(job.id);
    expect(opened.job.title).toBe(job.title);
    expect(opened.history.entries).toHaveLength(0);
  });

  test('a copy is a job of its own: changing one leaves the other', async () => {
    const { store, job } = await filled();
    let n = 0;
    const id = await store.duplicate(job.id, () => `new-${++n}`, 5000);
    await store.rename(id, 'Copy');
    const [copy, first] = [await store.open(id), await store.open(job.id)];
    expect(copy.job.title).toBe('Copy');
    expect(first.job.title).toBe(job.title);
    expect(copy.tries[0].tryId).toBe(copy.job.layers[0].mends[0].chosenTry);
    expect(copy.masks[0].id).toBe((copy.job.layers[0].mends[0].area.shapes[0] as { maskId: string }).maskId);
  });

  const zoneOf = (maskId: string) =>
    areaOfShapes([{ kind: 'mask', op: 'add', x: 0, y: 0, w: 3, h: 3, maskId }, boxShape(20, 20, 5, 5)]);

  test('a copy’s zones, and what is still to go of its mends, are made of its own masks', async () => {
    const { store, job } = await filled();
    const [fill] = job.layers[0].mends;
    const mends = [{ ...fill, pending: zoneOf('mask'), steer: { ...fill.steer, avoid: zoneOf('mask') } }];
    const zoned = {
      ...job,
      zones: { allow: zoneOf('mask'), avoid: null },
      layers: [{ ...job.layers[0], mends }],
    };
    await store.moveCursor(zoned, 0, 2000);
    expect((await store.open(job.id)).job).toEqual(zoned);
    const copy = await store.open(await store.duplicate(job.id, () => `other-${++count}`, 5000));
    expect([...maskIdsOf(copy.job)]).toEqual([copy.masks[0].id]);
    expect(copy.masks[0].id).not.toBe('mask');
  });

  test('a job whose last steps cannot be read opens as it was before them; without a history it is refused', async () => {
    const { store, job } = await filled();
    let [now, history] = [job, emptyHistory];
    for (const title of ['good', 'x'.repeat(300), 'y'.repeat(300)]) {
      const done = transact(now, renameJob(title))!;
      history = record(history, done.transaction);
      now = done.job;
      await store.commit(now, done.transaction, history.cursor, 2000);
    }
    const opened = await store.open(job.id);
    expect([opened.job.title, opened.unread, opened.history.cursor]).toEqual(['good', 2, 1]);
    expect(opened.history.entries).toHaveLength(3);
    await store.db.jobs.update(job.id, { job: { ...job, title: 'x'.repeat(300) }, cursor: 0 });
    await expect(store.open(job.id)).rejects.toThrow(/title/);
  });

  test('copies of copies keep to the length of titles', async () => {
    const { store, job } = await filled();
    await store.rename(job.id, 't'.repeat(200));
    const copy = await store.duplicate(job.id, () => `again-${++count}`, 5000);
    expect((await store.open(copy)).job.title).toHaveLength(200);
  });

  test('a zone whose pixels were never kept is left out, and the job opens', async () => {
    const { store, job } = await filled();
    const only = areaOfShapes([{ kind: 'mask', op: 'add', x: 0, y: 0, w: 3, h: 3, maskId: 'gone' }]);
    await store.moveCursor({ ...job, zones: { allow: only, avoid: zoneOf('gone') } }, 0, 2000);
    const opened = await store.open(job.id);
    expect(opened.job.zones).toEqual({ allow: null, avoid: areaOfShapes([boxShape(20, 20, 5, 5)]) });
    expect(opened.job.layers).toEqual(job.layers);
  });

  test('deleting can be taken back until it is cleared away for good', async () => {
    const { store, job } = await filled();
    await store.setDeleted(job.id, 10);
    expect(await store.shelf()).toHaveLength(0);
    await expect(store.open(job.id)).rejects.toThrow(/no such job/);
    await store.setDeleted(job.id, null);
    expect(await store.shelf()).toHaveLength(1);
    await store.setDeleted(job.id, 10);
    await store.clearDeleted(5);
    expect(await store.deleted()).toHaveLength(1);
    await store.clearDeleted(20);
    expect(await store.db.originals.count()).toBe(0);
    expect(await store.db.tries.count()).toBe(0);
    expect(await store.db.masks.count()).toBe(0);
  });
});
