import { strFromU8, strToU8, type Unzipped, unzipSync, type Zippable, zipSync } from 'fflate';
import { array, number, object, string } from 'yup';
import { boundsOfArea, type Mask, type MaskLookup, rasteriseArea } from '../area';
import { InputError, messageOf } from '../errors';
import { allMends, checkJob, checkWith, type Job, maskIdsOf, type TryPixels } from '../job';
import { boundsOf, type Depth, intersect, isEmpty, type Raster } from '../raster';
import { decodeMask, decodePng, encodeMask, encodePng } from './png';

/** The whole job in one open file: docs/job-file.md tells what is where. */
export interface JobBundle {
  readonly job: Job;
  /** The original file, byte for byte. */
  readonly original: Uint8Array;
  readonly masks: ReadonlyMap<string, Mask>;
  readonly tries: ReadonlyMap<string, TryPixels>;
}

const formatName = 'vine-needle-job';
const formatVersion = 1;
export const jobFileSuffix = '.vine.zip';

interface Manifest {
  format: string;
  version: number;
  job: unknown;
  original: string;
  masks: { id: string; file: string }[];
  tries: { id: string; file: string; x: number; y: number; w: number; h: number; inputKey: string }[];
}

const name = () => string().required().max(1200);
const whole = () => number().required().integer();
const manifestSchema = object({
  format: string().oneOf([formatName]).required(),
  version: number().oneOf([formatVersion]).required(),
  job: object().required(),
  original: name(),
  masks: array(object({ id: name(), file: name() })).required(),
  tries: array(
    object({
      id: name(),
      file: name(),
      x: whole(),
      y: whole(),
      w: whole().min(1),
      h: whole().min(1),
      inputKey: name(),
    }),
  ).required(),
});

/** Writes a job file, in the thread that asks for it: other threads for packing would be made from code that no file of the
 *  application holds, which its content security policy forbids. Areas are also written as pictures, for programs that do not know
 *  our shapes; reading ignores them. */
export function writeJobFile(bundle: JobBundle): Uint8Array {
  const { job } = bundle;
  const files: Zippable = {};
  const original = `original/${safeName(job.photo.name)}`;
  const manifest: Manifest = {
    format: formatName,
    version: formatVersion,
    job,
    original,
    masks: [],
    tries: [],
  };
  files[original] = [bundle.original, { level: 0 }];
  for (const [id, mask] of bundle.masks) {
    manifest.masks.push({ id, file: `masks/${id}.png` });
    files[`masks/${id}.png`] = [encodeMask(mask), { level: 0 }];
  }
  for (const [id, t] of bundle.tries) {
    const file = `tries/${id}.png`;
    manifest.tries.push({ id, file, x: t.x, y: t.y, w: t.w, h: t.h, inputKey: t.inputKey });
    files[file] = [encodePng(tryRaster(t, job.photo.depth)), { level: 0 }];
  }
  const masks: MaskLookup = (id) => bundle.masks.get(id);
  const areas: { mend: string; file: string; x: number; y: number }[] = [];
  for (const mend of allMends(job)) {
    const rect = intersect(boundsOfArea(mend.area), boundsOf(job.photo));
    if (isEmpty(rect) || rect.w * rect.h > 8_000_000) continue;
    const coverage = rasteriseArea(mend.area, rect, masks);
    const data = Uint8Array.from(coverage, (v) => Math.round(v * 255));
    const file = `areas/${mend.id}.png`;
    areas.push({ mend: mend.id, file, x: rect.x, y: rect.y });
    files[file] = [encodeMask({ w: rect.w, h: rect.h, data }), { level: 0 }];
  }
  files['manifest.json'] = strToU8(JSON.stringify({ ...manifest, areas }, null, 1));
  // One fixed time stamp (the earliest that ZIP knows), so that the same job gives the same bytes.
  return zipSync(files, { mtime: new Date(1980, 0, 1, 12) });
}

/** Reads a job file. @throws InputError `job-file` that says what is missing or wrong; nothing is half read. */
export function readJobFile(bytes: Uint8Array): JobBundle {
  const files = unpack(bytes);
  const text = files['manifest.json'];
  if (!text)
    throw new InputError('job-file', 'This file is not a Vine Needle job: it holds no manifest.json.');
  let parsed: unknown;
  try {
    parsed = JSON.parse(strFromU8(text));
  } catch (error) {
    throw new InputError('job-file', `The manifest of this job file cannot be read: ${messageOf(error)}`);
  }
  const manifest = checkWith<Manifest>(manifestSchema as never, parsed, 'The manifest of this job file');
  const job = checkJob(manifest.job);
  const part = (file: string): Uint8Array => {
    const found = files[file];
    if (!found) throw new InputError('job-file', `This job file is incomplete: ${file} is missing.`);
    return found;
  };
  const masks = new Map<string, Mask>();
  for (const { id, file } of manifest.masks) masks.set(id, decodeMask(part(file)));
  const tries = new Map<string, TryPixels>();
  for (const { id, file, x, y, w, h, inputKey } of manifest.tries) {
    const raster = decodePng(part(file));
    if (raster.width !== w || raster.height !== h || raster.depth !== job.photo.depth)
      throw new InputError(
        'job-file',
        `This job file contradicts itself: ${file} has another size than it says.`,
      );
    tries.set(id, { tryId: id, x, y, w, h, data: raster.data, inputKey });
  }
  for (const id of maskIdsOf(job))
    if (!masks.has(id))
      throw new InputError('job-file', `This job file is incomplete: mask ${id} is missing.`);
  return { job, original: part(manifest.original), masks, tries };
}

/** No more than this is unpacked, whatever a file claims. */
const maxUnpackedBytes = 2 ** 31;

function unpack(bytes: Uint8Array): Unzipped {
  let total = 0;
  let files: Unzipped;
  try {
    files = unzipSync(bytes, {
      filter: (file) => {
        total += file.originalSize;
        return total <= maxUnpackedBytes && !file.name.startsWith('areas/');
      },
    });
  } catch (error) {
    throw new InputError('job-file', `This file is not a complete ZIP archive: ${messageOf(error)}.`);
  }
  if (total > maxUnpackedBytes) throw new InputError('job-file', 'This job file unpacks to more than 2 GB.');
  return files;
}

const tryRaster = (t: TryPixels, depth: Depth): Raster => ({
  width: t.w,
  height: t.h,
  channels: 4,
  depth,
  data: t.data,
});

const safeName = (given: string): string => given.replace(/[^\w.() -]+/g, '_').slice(-120) || 'photo';
