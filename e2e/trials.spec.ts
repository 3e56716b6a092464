import { execFile } from 'node:child_process';
import { mkdtemp, readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { encodePng } from '../src/core/formats';
import { decodePicture } from '../src/headless/node-codecs';
import { BenchPage } from './bench-page';
import { expect, test } from './journey';

const demo = join(import.meta.dirname, '..', 'demo');
const run = promisify(execFile);

for (const id of ['courtyard', 'orchard-row', 'studio-jug'])
  test(`the trial sheet for ${id} gives the same bytes in the browser as without one`, async ({ page }) => {
    const folder = await mkdtemp(join(tmpdir(), 'vine-'));
    // As PNG, since every decoder rounds a JPEG in its own way.
    const photo = await decodePicture(await readFile(join(demo, 'photos', id, 'photo.jpg')));
    await writeFile(join(folder, 'photo.png'), encodePng(photo));
    const [out, job] = [join(folder, 'out.png'), join(folder, 'job.vine.zip')];
    await run('npx', [
      'tsx',
      'src/headless/main.ts',
      'apply',
      ...['--photo', join(folder, 'photo.png'), '--sheet', join(demo, 'trials', `${id}.json`)],
      ...['--out', out, '--job', job],
    ]);
    const bench = new BenchPage(page);
    await bench.take({ name: 'job.vine.zip', mimeType: 'application/zip', buffer: await readFile(job) });
    expect(await bench.mends().count()).toBeGreaterThan(0);
    const png = await bench.exportAs('PNG');
    expect(png.equals(await readFile(out))).toBe(true);
  });
