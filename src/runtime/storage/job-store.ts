import { gunzipSync, gzipSync } from 'fflate';
import type { Area, Mask } from '../../core/area';
import { InputError } from '../../core/errors';
import { type JobBundle, sha256 } from '../../core/formats';
import {
  checkJob,
  type History,
  type Job,
  mapAreas,
  mapZones,
  type Transaction,
  type TryPixels,
  undo,
} from '../../core/job';
import type { Depth } from '../../core/raster';
import { Database, type JobRow, type MaskRow, type TryRow } from './database';

export interface OpenedJob {
  readonly job: Job;
  readonly history: History;
  readonly original: Blob;
  readonly tries: TryPixels[];
  readonly masks: { id: string; mask: Mask }[];
  /** How many of the last steps could not be read, and were undone. */
  readonly unread: number;
}

/** Keeps jobs in the browser as work goes on. Every change is one database transaction: a killed tab, a full disk or a
 *  failed write leaves the job as it was before the gesture, never half of it. */
export class JobStore {
  constructor(readonly db = new Database()) {}

  async preferences(): Promise<ReadonlyMap<string, string>> {
    return new Map((await this.db.preferences.toArray()).map(({ key, value }) => [key, value]));
  }

  async prefer(values: Readonly<Record<string, string>>): Promise<void> {
    await this.db.preferences.bulkPut(Object.entries(values).map(([key, value]) => ({ key, value })));
  }

  /** All rows that are not deleted, newest first. */
  async shelf(): Promise<JobRow[]> {
    const rows = await this.db.jobs.orderBy('updatedAt').reverse().toArray();
    return rows.filter((row) => row.deletedAt === null);
  }

  /** Takes in a new job with its original. @throws the database's error, with nothing written */
  async add(
    bundle: Omit<JobBundle, 'original'> & { original: Blob },
    nowMs: number,
    history?: History,
  ): Promise<void> {
    const { job, original, masks, tries } = bundle;
    const tryRows = [...tries.values()].map((t) => packTry(job.id, t));
    const maskRows = [...masks].map(([maskId, m]) => packMask(job.id, maskId, m));
    const extraBytes = [...tryRows, ...maskRows].reduce((n, row) => n + row.pixels.size, 0);
    await this.write(async () => {
      await this.db.originals.put({ jobId: job.id, file: original, sha256: job.photo.sha256 });
      await this.db.tries.bulkPut(tryRows);
      await this.db.masks.bulkPut(maskRows);
      const entries = history?.entries ?? [];
      await this.db.history.bulkPut(
        entries.map((transaction, index) => ({ jobId: job.id, index, transaction })),
      );
      await this.db.jobs.put({
        id: job.id,
        job,
        cursor: history?.cursor ?? 0,
        createdAt: nowMs,
        updatedAt: nowMs,
        deletedAt: null,
        before: null,
        after: null,
        originalBytes: original.size,
        extraBytes,
      });
    });
  }

  /** Reads a job with all that belongs to it, and checks that the original is still the file that was taken in. If the job is not as
   *  it should be, it is read as it was the last time that it was.
   *  @throws InputError `no-job`, `damaged`, `schema` */
  async open(jobId: string): Promise<OpenedJob> {
    const row = await this.db.jobs.get(jobId);
    if (!row || row.deletedAt !== null)
      throw new InputError('no-job', 'There is no such job on this shelf. It may have been deleted.');
    const original = await this.db.originals.get(jobId);
    const bytes = original ? new Uint8Array(await original.file.arrayBuffer()) : null;
    if (!original || !bytes || (await sha256(bytes)) !== original.sha256)
      throw new InputError('damaged', 'The original photo of this job is damaged in the browser’s store.');
    const entries = await this.db.history.where('jobId').equals(jobId).sortBy('index');
    const tries = await this.db.tries.where('jobId').equals(jobId).toArray();
    const masks = await this.db.masks.where('jobId').equals(jobId).toArray();
    const { job, history } = lastReadable(row.job, {
      entries: entries.map((e) => e.transaction),
      cursor: row.cursor,
    });
    return {
      job: withoutLostZones(job, new Set(masks.map((m) => m.maskId))),
      history,
      unread: row.cursor - history.cursor,
      original: original.file,
      tries: await Promise.all(tries.map(unpackTry)),
      masks: await Promise.all(
        masks.map(async (m) => ({ id: m.maskId, mask: { w: m.w, h: m.h, data: await unpack(m.pixels) } })),
      ),
    };
  }

  /** Keeps the outcome of a gesture: the job after it and its entry in the history. */
  async commit(job: Job, transaction: Transaction, cursor: number, nowMs: number): Promise<void> {
    await this.write(async () => {
      await this.db.history
        .where('[jobId+index]')
        .between([job.id, cursor - 1], [job.id, Infinity])
        .delete();
      await this.db.history.put({ jobId: job.id, index: cursor - 1, transaction });
      await this.db.jobs.update(job.id, { job, cursor, updatedAt: nowMs });
    });
  }

  /** Keeps where undo or redo has gone. */
  async moveCursor(job: Job, cursor: number, nowMs: number): Promise<void> {
    await this.write(() => this.db.jobs.update(job.id, { job, cursor, updatedAt: nowMs }));
  }

  async putTry(jobId: string, pixels: TryPixels): Promise<void> {
    const row = packTry(jobId, pixels);
    await this.write(async () => {
      await this.db.tries.put(row);
      await this.grow(jobId, row.pixels.size);
    });
  }

  async putMask(jobId: string, maskId: string, mask: Mask): Promise<void> {
    const row = packMask(jobId, maskId, mask);
    await this.write(async () => {
      await this.db.masks.put(row);
      await this.grow(jobId, row.pixels.size);
    });
  }

  async setThumbs(jobId: string, before: Blob, after: Blob): Promise<void> {
    await this.db.jobs.update(jobId, { before, after });
  }

  async rename(jobId: string, title: string): Promise<void> {
    await this.write(async () => {
      const row = await this.db.jobs.get(jobId);
      if (row) await this.db.jobs.update(jobId, { job: { ...row.job, title } });
    });
  }

  /** A full copy with new ids, whose history begins anew. */
  async duplicate(jobId: string, newId: () => string, nowMs: number): Promise<string> {
    const opened = await this.open(jobId);
    const copy = withNewIds(opened, newId);
    await this.add(copy.bundle, nowMs);
    const row = await this.db.jobs.get(jobId);
    if (row?.before && row.after) await this.setThumbs(copy.bundle.job.id, row.before, row.after);
    return copy.bundle.job.id;
  }

  async setDeleted(jobId: string, deletedAt: number | null): Promise<void> {
    await this.db.jobs.update(jobId, { deletedAt });
  }

  async deleted(): Promise<JobRow[]> {
    return (await this.db.jobs.toArray()).filter((row) => row.deletedAt !== null);
  }

  /** Clears away for good what was deleted before a moment. */
  async clearDeleted(beforeMs: number): Promise<void> {
    const old = (await this.deleted()).filter((row) => row.deletedAt! < beforeMs).map((row) => row.id);
    await this.write(async () => {
      for (const id of old) {
        await this.db.history.where('jobId').equals(id).delete();
        await this.db.tries.where('jobId').equals(id).delete();
        await this.db.masks.where('jobId').equals(id).delete();
        await this.db.originals.delete(id);
        await this.db.jobs.delete(id);
      }
    });
  }

  private async grow(jobId: string, by: number): Promise<void> {
    await this.db.jobs
      .where('id')
      .equals(jobId)
      .modify((row) => {
        row.extraBytes += by;
      });
  }

  private async write(work: () => PromiseLike<unknown>): Promise<void> {
    const { db } = this;
    try {
      await db.transaction('rw', [db.jobs, db.originals, db.history, db.tries, db.masks], async () => {
        await work();
      });
    } catch (error) {
      const name =
        (error as { name?: string; inner?: { name?: string } }).inner?.name ?? (error as Error).name;
      if (name === 'QuotaExceededError')
        throw new InputError(
          'disk-full',
          'The browser’s store is full, so this could not be kept. Free some space.',
        );
      throw error;
    }
  }
}

/** A job as it is, or else after the last of its steps with which it can be read. */
function lastReadable(job: Job, history: History): { job: Job; history: History } {
  try {
    return { job: checkJob(job), history };
  } catch (error) {
    for (let back = stepBack(job, history); back; back = stepBack(back.job, back.history))
      try {
        return { job: checkJob(back.job), history: back.history };
      } catch {
        // One more step back, then.
      }
    throw error;
  }
}

/** Null as well where a step is not there, or does not fit. */
function stepBack(job: Job, history: History): { job: Job; history: History } | null {
  try {
    return undo(job, history);
  } catch {
    return null;
  }
}

/** Zones without what they are made of where its pixels are not there: of zones these were not kept once. Such a job opens, and its
 *  fills are out of date. */
function withoutLostZones(job: Job, held: ReadonlySet<string>): Job {
  return mapZones(job, (zone) => {
    const shapes = zone.shapes.filter((shape) => shape.kind !== 'mask' || held.has(shape.maskId));
    return shapes.length === 0 ? null : shapes.length < zone.shapes.length ? { ...zone, shapes } : zone;
  });
}

/** The same job under new ids throughout. */
export function withNewIds(
  opened: Pick<OpenedJob, 'job' | 'original' | 'tries' | 'masks'>,
  newId: () => string,
): { bundle: Omit<JobBundle, 'original'> & { original: Blob } } {
  const ids = new Map<string, string>();
  const fresh = (id: string): string => {
    const known = ids.get(id) ?? newId();
    ids.set(id, known);
    return known;
  };
  const freshMasks = (area: Area): Area => ({
    ...area,
    shapes: area.shapes.map((s) => (s.kind === 'mask' ? { ...s, maskId: fresh(s.maskId) } : s)),
  });
  const job = mapAreas(opened.job, freshMasks);
  const layers = job.layers.map((layer) => ({
    ...layer,
    id: fresh(layer.id),
    mends: layer.mends.map((mend) => ({
      ...mend,
      id: fresh(mend.id),
      readLayers: mend.readLayers.map(fresh),
      tries: mend.tries.map((t) => ({ ...t, id: fresh(t.id) })),
      chosenTry: mend.chosenTry ? fresh(mend.chosenTry) : null,
    })),
  }));
  const areas = job.areas.map((named) => ({ ...named, id: fresh(named.id) }));
  const tries = new Map(opened.tries.map((t) => [fresh(t.tryId), { ...t, tryId: fresh(t.tryId) }]));
  const masks = new Map(opened.masks.map(({ id, mask }) => [fresh(id), mask]));
  return {
    bundle: {
      job: { ...job, id: newId(), title: `${job.title.slice(0, 194)}, copy`, layers, areas },
      original: opened.original,
      tries,
      masks,
    },
  };
}

const pack = (data: Uint8Array): Blob => new Blob([gzipSync(data, { level: 1 }) as Uint8Array<ArrayBuffer>]);
const unpack = async (blob: Blob): Promise<Uint8Array> =>
  gunzipSync(new Uint8Array(await blob.arrayBuffer()));

const packMask = (jobId: string, maskId: string, { w, h, data }: Mask): MaskRow => ({
  maskId,
  jobId,
  w,
  h,
  pixels: pack(data),
});

function packTry(jobId: string, t: TryPixels): TryRow {
  const depth: Depth = t.data instanceof Uint16Array ? 16 : 8;
  const bytes = new Uint8Array(t.data.buffer, t.data.byteOffset, t.data.byteLength);
  return {
    tryId: t.tryId,
    jobId,
    x: t.x,
    y: t.y,
    w: t.w,
    h: t.h,
    depth,
    inputKey: t.inputKey,
    pixels: pack(bytes),
  };
}

async function unpackTry(row: TryRow): Promise<TryPixels> {
  const bytes = await unpack(row.pixels);
  const data = row.depth === 16 ? new Uint16Array(bytes.slice().buffer) : bytes;
  return { tryId: row.tryId, x: row.x, y: row.y, w: row.w, h: row.h, data, inputKey: row.inputKey };
}
