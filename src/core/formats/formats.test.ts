import { encode } from 'fast-png';
import { zipSync } from 'fflate';
import { describe, expect, test } from 'vitest';
import type { TryPixels } from '../job';
import type { Depth } from '../raster';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf } from '../testing/jobs';
import { differences, noisePhoto, paintPhoto } from '../testing/pictures';
import {
  decodeMask,
  decodePng,
  encodeMask,
  encodePng,
  type JobBundle,
  orient,
  pngHeader,
  readJobFile,
  sha256,
  writeJobFile,
} from '.';

describe('PNG', () => {
  test.each<[Depth, boolean]>([
    [8, false],
    [8, true],
    [16, false],
    [16, true],
  ])('%i bits, transparent: %s, comes back exactly', (depth, transparent) => {
    const photo = noisePhoto(33, 21, 1, depth);
    if (transparent) photo.data[7] = 12;
    const back = decodePng(encodePng(photo));
    expect(back.depth).toBe(depth);
    expect(differences(back.data, photo.data).count).toBe(0);
  });

  test('grey, grey with alpha, palette and one-bit pictures are read', () => {
    const grey = encode({ width: 3, height: 1, channels: 1, depth: 8, data: Uint8Array.of(0, 100, 255) });
    expect([...decodePng(grey).data]).toEqual([0, 0, 0, 255, 100, 100, 100, 255, 255, 255, 255, 255]);
    const alpha = encode({ width: 1, height: 1, channels: 2, depth: 8, data: Uint8Array.of(90, 40) });
    expect([...decodePng(alpha).data]).toEqual([90, 90, 90, 40]);
  });

  test('what is no PNG, or a broken one, is refused with a sentence', () => {
    expect(() => decodePng(new Uint8Array(100))).toThrow(/not a PNG/);
    const cut = encodePng(noisePhoto(40, 40)).subarray(0, 400);
    expect(() => decodePng(cut)).toThrow(/damaged/);
    expect(pngHeader(encodePng(noisePhoto(7, 5)))).toMatchObject({ width: 7, height: 5, depth: 8 });
  });

  test('a mask comes back exactly', () => {
    const mask = { w: 5, h: 3, data: Uint8Array.from({ length: 15 }, (_, i) => i * 17) };
    expect(decodeMask(encodeMask(mask))).toEqual(mask);
  });
});

describe('orientation', () => {
  const arrow = paintPhoto(3, 2, 8, (x, y) => [x / 10, y / 10, 0]);
  const corner = (r: ReturnType<typeof orient>) => [
    r.width,
    r.height,
    Math.round(r.data[0] / 25.5),
    Math.round(r.data[1] / 25.5),
  ];

  test.each([
    [1, [3, 2, 0, 0]],
    [2, [3, 2, 2, 0]],
    [3, [3, 2, 2, 1]],
    [4, [3, 2, 0, 1]],
    [5, [2, 3, 0, 0]],
    [6, [2, 3, 0, 1]],
    [7, [2, 3, 2, 1]],
    [8, [2, 3, 2, 0]],
  ])('%i brings the right pixel to the top left', (orientation, wanted) => {
    expect(corner(orient(arrow, orientation))).toEqual(wanted);
  });
});

describe('job file', () => {
  const photo = noisePhoto(60, 40, 3);
  const bundle = async (): Promise<JobBundle> => {
    const original = encodePng(photo);
    const fill = mendOf(
      'fill',
      areaOfShapes([{ kind: 'mask', op: 'add', x: 2, y: 2, w: 4, h: 4, maskId: 'm1' }]),
      null,
      {
        tries: [{ id: 't1', seed: 3 }],
        chosenTry: 't1',
      },
    );
    const job = jobOf(photo, [
      layerOf([fill, mendOf('heal', areaOfShapes([boxShape(9, 9, 8, 8)]), { dx: 20, dy: 3 })]),
    ]);
    const pixels: TryPixels = {
      tryId: 't1',
      x: 2,
      y: 2,
      w: 4,
      h: 4,
      data: noisePhoto(4, 4).data,
      inputKey: 'k',
    };
    return {
      job: { ...job, photo: { ...job.photo, name: 'a/b: photo.png', sha256: await sha256(original) } },
      original,
      masks: new Map([['m1', { w: 4, h: 4, data: new Uint8Array(16).fill(255) }]]),
      tries: new Map([['t1', pixels]]),
    };
  };

  test('comes back complete: job, original byte for byte, masks, tries; the same job gives the same bytes', async () => {
    const made = await bundle();
    const bytes = writeJobFile(made);
    expect(writeJobFile(made)).toEqual(bytes);
    const back = readJobFile(bytes);
    expect(back.job).toEqual(made.job);
    expect(Buffer.from(back.original).equals(Buffer.from(made.original))).toBe(true);
    expect(back.masks).toEqual(made.masks);
    expect([...back.tries.get('t1')!.data]).toEqual([...made.tries.get('t1')!.data]);
    expect(back.tries.get('t1')!.inputKey).toBe('k');
  });

  test('says what is wrong with what is no job file', async () => {
    const bytes = writeJobFile(await bundle());
    expect(() => readJobFile(bytes.subarray(0, 200))).toThrow(/not a complete ZIP/);
    expect(() => readJobFile(zipSync({ 'a.txt': Uint8Array.of(1) }))).toThrow(/holds no manifest/);
    expect(() => readJobFile(zipSync({ 'manifest.json': Buffer.from('{') }))).toThrow(/cannot be read/);
    expect(() => readJobFile(zipSync({ 'manifest.json': Buffer.from('{"format":"other"}') }))).toThrow(
      /manifest/,
    );
  });

  test('a missing part is named', async () => {
    const { unzipSync } = await import('fflate');
    const files = unzipSync(writeJobFile(await bundle()));
    for (const name of [
      'masks/m1.png',
      'tries/t1.png',
      Object.keys(files).find((f) => f.startsWith('original/'))!,
    ]) {
      const { [name]: _gone, ...rest } = files;
      expect(() => readJobFile(zipSync(rest))).toThrow(name);
    }
  });
});

test('SHA-256 agrees with the published example, shared memory too', async () => {
  const abc = Uint8Array.from([97, 98, 99]);
  const wanted = 'ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad';
  expect(await sha256(abc)).toBe(wanted);
  const shared = new Uint8Array(new SharedArrayBuffer(3));
  shared.set(abc);
  expect(await sha256(shared)).toBe(wanted);
});
