import { readFile } from 'node:fs/promises';
import { dirname, resolve } from 'node:path';
import { InputError, messageOf } from '../core/errors';
import { decodeMask, type JobBundle, pixelsDigest, readJobFile, sha256 } from '../core/formats';
import { allMends, checkSheet, type Job, jobOfSheet, type Mend, type TryPixels } from '../core/job';
import { methods } from '../core/methods';
import type { Raster } from '../core/raster';
import { Engine } from '../runtime/engine/engine';
import { runFill } from '../runtime/pool/fill-job';
import { decodePicture } from './node-codecs';

export interface Rendered {
  readonly picture: Raster;
  /** Sentences about what is not as one might expect. */
  readonly warnings: readonly string[];
}

/** Reads a file. @throws InputError `no-file` with its name when it cannot be read */
async function readInput(file: string, what: string): Promise<Uint8Array> {
  try {
    return new Uint8Array(await readFile(file));
  } catch (error) {
    throw new InputError('no-file', `${what} ${file} cannot be read: ${messageOf(error)}.`);
  }
}

/** The job that a sheet makes of a photo, all fills computed. */
export async function applySheet(
  photoFile: string,
  sheetFile: string,
): Promise<JobBundle & { photo: Raster }> {
  const original = await readInput(photoFile, 'The photo');
  const photo = await decodePicture(original);
  const text = new TextDecoder().decode(await readInput(sheetFile, 'The sheet'));
  let parsed: unknown;
  try {
    parsed = JSON.parse(text);
  } catch (error) {
    throw new InputError('schema', `The sheet ${sheetFile} is not JSON: ${messageOf(error)}.`);
  }
  const sheet = checkSheet(parsed);
  const maskFiles = new Map<string, Uint8Array>();
  for (const mend of sheet.mends)
    for (const shape of mend.area.shapes)
      if ('file' in shape && !maskFiles.has(shape.file))
        maskFiles.set(shape.file, await readInput(resolve(dirname(sheetFile), shape.file), 'The mask'));
  const { width, height, depth } = photo;
  const name = photoFile.replace(/^.*[\\/]/, '');
  const facts = {
    name,
    type: mediaType(name),
    width,
    height,
    depth,
    sha256: await sha256(original),
    pixelsSha256: await pixelsDigest(photo.data),
  };
  const { job, masks } = jobOfSheet(sheet, facts, (file) => decodeMask(maskFiles.get(file)!));
  const tries = new Map<string, TryPixels>();
  const engine = openEngine(photo, job, masks, tries);
  for (const mend of allMends(job)) {
    if (methods[mend.method].scope !== 'kept') continue;
    const pixels = computeTry(engine, mend, photo.depth);
    tries.set(pixels.tryId, pixels);
    engine.addPixels([pixels], []);
  }
  return { job, original, masks, tries, photo };
}

const mediaType = (name: string): string =>
  /\.png$/i.test(name) ? 'image/png' : /\.webp$/i.test(name) ? 'image/webp' : 'image/jpeg';

function openEngine(photo: Raster, job: Job, masks: JobBundle['masks'], tries: JobBundle['tries']): Engine {
  const engine = new Engine(photo, 'photo');
  engine.addPixels(
    [...tries.values()],
    [...masks].map(([id, mask]) => ({ id, mask })),
  );
  engine.setJob(job);
  return engine;
}

function computeTry(engine: Engine, mend: Mend, depth: 8 | 16): TryPixels {
  const { input, inputKey } = engine.fillInput(mend, mend.chosenTry);
  const { rect, data } = runFill({ input, depth });
  return { tryId: mend.chosenTry!, ...rect, data, inputKey };
}

/** The flat picture of a job file. Tries are taken as they were kept, never computed anew. */
export async function renderJobFile(file: string): Promise<Rendered> {
  const bundle = readJobFile(await readInput(file, 'The job file'));
  if ((await sha256(bundle.original)) !== bundle.job.photo.sha256)
    throw new InputError(
      'damaged',
      'The original photo in this job file is not the one the job was made on.',
    );
  const photo = await decodePicture(bundle.original);
  const { job } = bundle;
  if (photo.width !== job.photo.width || photo.height !== job.photo.height || photo.depth !== job.photo.depth)
    throw new InputError(
      'damaged',
      'The photo in this job file has another size or depth than the job says.',
    );
  const same = (await pixelsDigest(photo.data)) === job.photo.pixelsSha256;
  const rendered = renderBundle({ ...bundle, photo });
  if (same) return rendered;
  const note =
    'This decoder reads the photo slightly differently from the browser the job was made in (colour profile or JPEG rounding).';
  return { ...rendered, warnings: [note, ...rendered.warnings] };
}

/** @throws when a mend cannot be computed */
export function renderBundle({ photo, job, masks, tries }: JobBundle & { photo: Raster }): Rendered {
  const engine = openEngine(photo, job, masks, tries);
  const picture = engine.flatten(() => {});
  const warnings: string[] = [];
  const names = new Map(allMends(job).map((m) => [m.id, m.name]));
  for (const [id, state] of Object.entries(engine.mendStates())) {
    if (state.state === 'failed') throw new Error(`${names.get(id)} could not be computed: ${state.reason}`);
    if (state.state === 'missing')
      warnings.push(`${names.get(id)} was never computed and is missing from the picture.`);
  }
  return { picture, warnings };
}
