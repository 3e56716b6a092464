import { InputError } from '../../core/errors';
import { jobFileSuffix, readJobFile, sha256, writeJobFile } from '../../core/formats';
import { type Job, type Layer, noZones } from '../../core/job';
import type { EngineProtocol, PhotoOpened } from '../../runtime/engine/protocol';
import { WorkerClient } from '../../runtime/rpc';
import { type JobStore, withNewIds } from '../../runtime/storage';
import { newId } from '../session/new-mend';

/** Files beyond this are refused before anything is read. */
const maxFileBytes = 500 << 20;

/** What the shelf's file chooser offers. */
export const acceptedFiles = {
  'image/jpeg': ['.jpg', '.jpeg'],
  'image/png': ['.png'],
  'image/webp': ['.webp'],
  'image/avif': ['.avif'],
  'application/zip': [jobFileSuffix, '.zip'],
};

/** Takes a file onto the shelf: a photo becomes a new job, a job file becomes the job it holds.
 *  @returns the new job's id
 *  @throws InputError that says what is wrong with the file; nothing is kept then */
export async function takeIn(file: File, store: JobStore): Promise<string> {
  if (file.size === 0) throw new InputError('empty', 'it is empty (0 bytes).');
  if (file.size > maxFileBytes)
    throw new InputError(
      'too-large',
      `it has ${Math.round(file.size / 1e6)} MB; up to 500 MB can be opened.`,
    );
  return (await looksLikeZip(file)) ? takeInJobFile(file, store) : takeInPhoto(file, store);
}

async function looksLikeZip(file: Blob): Promise<boolean> {
  const head = new Uint8Array(await file.slice(0, 4).arrayBuffer());
  return head[0] === 0x50 && head[1] === 0x4b && (head[2] === 3 || head[2] === 5);
}

async function takeInPhoto(file: File, store: JobStore): Promise<string> {
  const digest = await sha256(new Uint8Array(await file.arrayBuffer()));
  const layer: Layer = {
    id: newId(),
    name: 'Layer 1',
    visible: true,
    opacity: 1,
    blend: 'normal',
    mends: [],
  };
  const original = new Blob([await file.arrayBuffer()], { type: file.type });
  return withPhoto(original, async (engine, photo) => {
    const { width, height, depth, pixelsSha256 } = photo;
    const job: Job = {
      id: newId(),
      title: file.name.replace(/\.[^.]+$/, '').slice(0, 200) || 'Photo',
      photo: {
        name: file.name,
        type: file.type || 'image/unknown',
        width,
        height,
        depth,
        sha256: digest,
        pixelsSha256,
      },
      layers: [layer],
      zones: noZones,
      areas: [],
    };
    await engine.call('setJob', { job });
    await store.add({ job, original, masks: new Map(), tries: new Map() }, Date.now());
    await addThumbs(engine, job, store);
    return job.id;
  });
}

async function takeInJobFile(file: Blob, store: JobStore): Promise<string> {
  const read = readJobFile(new Uint8Array(await file.arrayBuffer()));
  if ((await sha256(read.original)) !== read.job.photo.sha256)
    throw new InputError('damaged', 'the original photo in it is not the one the job was made on.');
  const original = new Blob([read.original as Uint8Array<ArrayBuffer>], { type: read.job.photo.type });
  const { bundle } = withNewIds(
    {
      job: read.job,
      original,
      tries: [...read.tries.values()],
      masks: [...read.masks].map(([id, mask]) => ({ id, mask })),
    },
    newId,
  );
  const job: Job = { ...bundle.job, title: read.job.title };
  return withPhoto(original, async (engine, photo) => {
    if (
      photo.width !== job.photo.width ||
      photo.height !== job.photo.height ||
      photo.depth !== job.photo.depth
    )
      throw new InputError('damaged', 'its photo has another size than the job says.');
    const masks = [...bundle.masks].map(([id, mask]) => ({ id, mask }));
    await engine.call('addPixels', { tries: [...bundle.tries.values()], masks });
    await engine.call('setJob', { job });
    await store.add({ ...bundle, job }, Date.now());
    await addThumbs(engine, job, store);
    return job.id;
  });
}

/** Opens a photo in an engine of its own for as long as `work` takes. */
async function withPhoto<T>(
  file: Blob,
  work: (engine: WorkerClient<EngineProtocol>, photo: PhotoOpened) => Promise<T>,
): Promise<T> {
  const worker = new Worker(new URL('../../runtime/engine/engine.worker.ts', import.meta.url), {
    type: 'module',
  });
  const engine = new WorkerClient<EngineProtocol>(worker);
  try {
    const photo = await engine.call(
      'open',
      { file, wantHash: true },
      { onProgress: ({ preview }) => preview.close() },
    );
    return await work(engine, photo);
  } finally {
    engine.close();
  }
}

async function addThumbs(engine: WorkerClient<EngineProtocol>, job: Job, store: JobStore): Promise<void> {
  const rect = { x: 0, y: 0, w: job.photo.width, h: job.photo.height };
  const before = await engine.call('crop', { side: 'before', rect, maxSidePx: 360 });
  const after = await engine.call('crop', { side: 'after', rect, maxSidePx: 360 });
  await store.setThumbs(job.id, before, after);
}

/** The whole job as one open file. */
export async function makeJobFile(jobId: string, store: JobStore): Promise<{ name: string; file: Blob }> {
  const { job, original, tries, masks } = await store.open(jobId);
  const bytes = writeJobFile({
    job,
    original: new Uint8Array(await original.arrayBuffer()),
    tries: new Map(tries.map((t) => [t.tryId, t])),
    masks: new Map(masks.map(({ id, mask }) => [id, mask])),
  });
  return {
    name: `${fileStem(job.title)}${jobFileSuffix}`,
    file: new Blob([bytes as Uint8Array<ArrayBuffer>], { type: 'application/zip' }),
  };
}

export const fileStem = (title: string): string =>
  title
    .replace(/[^\p{L}\p{N}._ -]+/gu, '')
    .trim()
    .slice(0, 80) || 'photo';
