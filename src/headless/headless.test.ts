import { execFile } from 'node:child_process';
import { mkdtemp, readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { beforeAll, describe, expect, test } from 'vitest';
import { decodePng, encodeMask, encodePng } from '../core/formats';
import { boxShape } from '../core/testing/jobs';
import { differences, texturedPhoto } from '../core/testing/pictures';

const photo = texturedPhoto(200, 150, 4);
let folder = '';
const path = (name: string) => join(folder, name);

interface Ended {
  code: number;
  out: string;
  err: string;
}

const headless = (...args: string[]): Promise<Ended> =>
  new Promise((resolve) => {
    execFile('node', ['--import', 'tsx', 'src/headless/main.ts', ...args], (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, out, err }),
    );
  });

const sheet = (...mends: unknown[]) => JSON.stringify({ format: 'vine-needle-sheet', version: 1, mends });

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'vine-headless-'));
  await writeFile(path('in.png'), encodePng(photo));
  const data = new Uint8Array(200 * 150);
  for (let y = 60; y < 84; y++) data.fill(255, y * 200 + 80, y * 200 + 110);
  await writeFile(path('mask.png'), encodeMask({ w: 200, h: 150, data }));
  await writeFile(
    path('sheet.json'),
    sheet(
      { method: 'clone', area: { shapes: [boxShape(10, 10, 20, 20)] }, source: { dx: 60, dy: 40 } },
      { method: 'fill', area: { shapes: [{ kind: 'mask', file: 'mask.png' }], marginPx: 1 }, seed: 4 },
    ),
  );
});

describe('headless', () => {
  test('applies a sheet, with a mask file beside it, and writes a job that renders to the same picture', async () => {
    const applied = await headless(
      'apply',
      '--photo',
      path('in.png'),
      '--sheet',
      path('sheet.json'),
      '--out',
      path('a.png'),
      '--job',
      path('a.vine.zip'),
    );
    expect(applied).toMatchObject({ code: 0, err: '' });
    const out = decodePng(new Uint8Array(await readFile(path('a.png'))));
    expect(out.data[(15 * 200 + 15) * 4]).toBe(photo.data[(55 * 200 + 75) * 4]);
    expect(differences(out.data, photo.data).count).toBeGreaterThan(1000);
    const rendered = await headless('render', path('a.vine.zip'), '--out', path('b.png'));
    expect(rendered).toMatchObject({ code: 0, err: '' });
    expect((await readFile(path('b.png'))).equals(await readFile(path('a.png')))).toBe(true);
  });

  test.each<[string, string[], RegExp]>([
    ['no command', [], /Usage/],
    ['an unknown option', ['apply', '--speed', '3'], /--speed/],
    ['no sheet named', ['apply', '--photo', 'IN', '--out', 'x.png'], /--sheet is missing/],
    [
      'a photo that is not there',
      ['apply', '--photo', 'nowhere.png', '--sheet', 'SHEET', '--out', 'x.png'],
      /nowhere\.png cannot be read/,
    ],
    [
      'an ending that is no picture',
      ['apply', '--photo', 'IN', '--sheet', 'SHEET', '--out', 'x.gif'],
      /\.png, \.jpg or \.webp/,
    ],
    ['a job file that is none', ['render', 'IN', '--out', 'x.png'], /not a complete ZIP/],
    ['a sheet that is no JSON', ['apply', '--photo', 'IN', '--sheet', 'IN', '--out', 'x.png'], /is not JSON/],
  ])('%s: exit code 2 and a sentence', async (_name, args, message) => {
    const ended = await headless(
      ...args.map((a) => (a === 'IN' ? path('in.png') : a === 'SHEET' ? path('sheet.json') : a)),
    );
    expect(ended.code).toBe(2);
    expect(ended.err).toMatch(message);
  });

  test('a sheet with a wrong value names the place; nothing is written', async () => {
    await writeFile(
      path('wrong.json'),
      sheet({
        method: 'clone',
        area: { shapes: [boxShape(1, 1, 2, 2)] },
        source: { dx: 1, dy: 2 },
        opacity: 7,
      }),
    );
    const ended = await headless(
      'apply',
      '--photo',
      path('in.png'),
      '--sheet',
      path('wrong.json'),
      '--out',
      path('never.png'),
    );
    expect(ended.code).toBe(2);
    expect(ended.err).toMatch(/mends\[0\]\.opacity/);
    await expect(readFile(path('never.png'))).rejects.toThrow();
  });

  test('an output that cannot be written is a failure: exit code 1', async () => {
    const ended = await headless(
      'apply',
      '--photo',
      path('in.png'),
      '--sheet',
      path('sheet.json'),
      '--out',
      path('no/such/folder/x.png'),
    );
    expect(ended.code).toBe(1);
    expect(ended.err).toMatch(/This failed/);
  });
});
