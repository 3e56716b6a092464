/** Makes the demo jobs that the shelf offers, from the finished photographs and the worked examples in `sheets/`:
 *  `npm run demo:jobs [-- scene …]`. Needs no renderer and no browser. */
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { writeJobFile } from '../src/core/formats';
import { allMends, type Job } from '../src/core/job';
import { halve, type Raster } from '../src/core/raster';
import { applySheet, renderBundle } from '../src/headless/apply';
import { nodeCodecs } from '../src/headless/node-codecs';
import type { SceneFacts } from './toolkit/facts';

const here = import.meta.dirname;
const emptySheet = join(here, 'sheets', 'untouched.json');

const wanted = process.argv.slice(2);
for (const id of readdirSync(join(here, 'photos')).sort()) {
  if (wanted.length > 0 && !wanted.includes(id)) continue;
  const facts: SceneFacts = JSON.parse(readFileSync(join(here, 'photos', id, 'scene.json'), 'utf8'));
  const sheet = join(here, 'sheets', `${id}.json`);
  const bundle = await applySheet(
    join(here, 'photos', id, 'photo.jpg'),
    existsSync(sheet) ? sheet : emptySheet,
  );
  const { picture, warnings } = renderBundle(bundle);
  for (const warning of warnings) console.error(`${id}: ${warning}`);
  const out = join(here, 'jobs', id);
  rmSync(out, { recursive: true, force: true });
  mkdirSync(out, { recursive: true });
  const job: Job = { ...bundle.job, title: facts.title, photo: { ...bundle.job.photo, name: `${id}.jpg` } };
  writeFileSync(join(out, 'job.vine.zip'), writeJobFile({ ...bundle, job }));
  writeFileSync(join(out, 'before.jpg'), await thumbnail(bundle.photo));
  writeFileSync(join(out, 'after.jpg'), await thumbnail(picture));
  const { order, title, caption, asked } = facts;
  const mends = allMends(job).length;
  const { width, height } = picture;
  writeFileSync(
    join(out, 'card.json'),
    `${JSON.stringify({ order, title, caption, asked, mends, width, height }, null, 1)}\n`,
  );
  console.log(`${id}: ${mends} mends`);
}

async function thumbnail(picture: Raster): Promise<Uint8Array> {
  let small = picture;
  while (small.width > 760) small = halve(small);
  const { width, height } = small;
  const data = new Uint8ClampedArray(small.data);
  return new Uint8Array(await nodeCodecs.jpeg({ width, height, data, colorSpace: 'srgb' } as ImageData, 82));
}
