import { spawnSync } from 'node:child_process';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Mask } from '../src/core/area';
import { encodeMask, encodePng } from '../src/core/formats';
import { makeRandom } from '../src/core/random';
import { halve, makeRaster, type Raster } from '../src/core/raster';
import { decodePicture } from '../src/headless/node-codecs';
import { ContactSheet } from './contact-sheet';
import { type FilledOnce, fillOnce } from './fill-once';
import { peerFill } from './peer';
import { outFile } from './photos';
import { headline, line, spreadOf, told as toldSpread } from './report';
import { type Score, score, told, toldMean } from './scoring/score';

/** Pictures are so large, holes take so much of them: what a photo seen on a screen has. */
const size = { w: 1200, h: 800 };
const share = 0.015;
const holesEach = 4;

const demo = join(import.meta.dirname, '..', 'demo');
/** Parts of clean pictures as they come from the camera, beside all of them at half size. */
const parts = [
  { file: 'photos/mill-pond', x: 200, y: 500 },
  { file: 'photos/harvest-day', x: 900, y: 700 },
  { file: 'large/press-house', x: 2200, y: 1600 },
];

/** Fill of holes of chance shape and place in clean pictures, where the truth is the picture itself: nothing is known that
 *  a hole in any photograph would not tell. `--native` also runs what python3-opencv has, slow ones too. */
export async function benchFillHoles(): Promise<void> {
  headline(`Fill of ${share * 100} % of ${size.w} × ${size.h} pixels, against the picture itself, one core`);
  const withNative = process.argv.includes('--native');
  const scores: Record<string, Score[]> = {};
  const times: Record<string, number[]> = {};
  const note = (name: string, label: string, s: Score, tookMs: number) => {
    scores[name] = [...(scores[name] ?? []), s];
    times[name] = [...(times[name] ?? []), tookMs];
    line(`  ${label}`, `${told(s)}  ${tookMs.toFixed(0)} ms`);
  };
  const whole = { x: 0, y: 0, ...size };
  for (const [p, { name, picture }] of (await pictures()).entries()) {
    const sheet = new ContactSheet();
    for (let k = 0; k < holesEach; k++) {
      const hole = holeAt(100 * p + k + 1);
      const ours: FilledOnce = fillOnce(picture, [hole], 0);
      line(`${name}, hole ${k + 1}`, `${ours.pixels} px`);
      note('ours', 'ours', score(ours.picture, picture, hole.data), ours.tookMs);
      const peer = await peerFill('telea', picture, hole.data, whole);
      note('telea', 'telea', score(peer.picture, picture, hole.data), peer.tookMs);
      if (withNative && k === 0)
        for (const [method, found] of Object.entries(native(picture, hole)))
          note(method, method, score(found.picture, picture, hole.data), found.tookMs);
      sheet.add(whole, [blackened(picture, hole), picture, ours.picture]);
    }
    sheet.write(outFile(`holes-${name}.png`));
  }
  for (const name of Object.keys(scores))
    line(
      `mean of ${scores[name].length}, ${name}`,
      `${toldMean(scores[name])}  ${toldSpread(spreadOf(times[name]))}`,
    );
}

async function pictures(): Promise<{ name: string; picture: Raster }[]> {
  const read = (folder: string) =>
    decodePicture(new Uint8Array(readFileSync(join(demo, folder, 'truth.jpg'))));
  const out: { name: string; picture: Raster }[] = [];
  for (const id of readdirSync(join(demo, 'photos')))
    out.push({ name: id, picture: cut(halve(await read(`photos/${id}`)), 0, 0) });
  for (const { file, x, y } of parts)
    out.push({ name: `${file.split('/')[1]}-part`, picture: cut(await read(file), x, y) });
  return out;
}

export function cut(from: Raster, x0: number, y0: number): Raster {
  const out = makeRaster(size.w, size.h, 4, 8);
  for (let y = 0; y < size.h; y++) {
    const row = 4 * ((y0 + y) * from.width + x0);
    out.data.set(from.data.subarray(row, row + 4 * size.w), 4 * y * size.w);
  }
  return out;
}

/** A few discs run together: round, long or branched, as chance has it. */
export function holeAt(seed: number): Mask {
  const random = makeRandom(seed);
  const wanted = share * size.w * size.h;
  const data = new Uint8Array(size.w * size.h);
  const radius = 14 + 34 * random.next();
  let [x, y] = [150 + random.next() * (size.w - 300), 150 + random.next() * (size.h - 300)];
  let way = random.next() * 2 * Math.PI;
  for (let count = 0; count < wanted; ) {
    way += (random.next() - 0.5) * 1.6;
    const [nx, ny] = [x + Math.cos(way) * radius * 0.5, y + Math.sin(way) * radius * 0.5];
    if (nx < 100 || ny < 100 || nx > size.w - 100 || ny > size.h - 100) way += Math.PI / 2;
    else [x, y] = [nx, ny];
    for (let v = Math.ceil(y - radius); v <= y + radius; v++)
      for (let u = Math.ceil(x - radius); u <= x + radius; u++) {
        const i = v * size.w + u;
        if (data[i] || (u - x) ** 2 + (v - y) ** 2 > radius ** 2) continue;
        data[i] = 255;
        count++;
      }
  }
  return { w: size.w, h: size.h, data };
}

export function blackened(picture: Raster, { data }: Mask): Raster {
  const out = { ...picture, data: picture.data.slice() };
  data.forEach((v, i) => {
    if (v) out.data.set([0, 0, 0, 255], 4 * i);
  });
  return out;
}

/** What the native library's slower methods make of a hole. */
function native(picture: Raster, hole: Mask): Record<string, { picture: Raster; tookMs: number }> {
  writeFileSync(outFile('native.png'), encodePng(picture));
  writeFileSync(outFile('native-mask.png'), encodeMask(hole));
  const script = `
import cv2, json, sys, time, numpy as np
cv2.setNumThreads(1)
im = cv2.imread(sys.argv[1]); hole = cv2.imread(sys.argv[2], 0); out = {}
for name in ('SHIFTMAP',):
    code = getattr(cv2.xphoto, 'INPAINT_' + name)
    src = cv2.cvtColor(im, cv2.COLOR_BGR2Lab) if name == 'SHIFTMAP' else im
    t = time.perf_counter(); got = np.zeros_like(src); cv2.xphoto.inpaint(src, np.where(hole > 0, 0, 255).astype(np.uint8), got, code)
    out[name] = (time.perf_counter() - t) * 1000
    if name == 'SHIFTMAP': got = cv2.cvtColor(got, cv2.COLOR_Lab2BGR)
    got[hole == 0] = im[hole == 0]
    cv2.cvtColor(got, cv2.COLOR_BGR2RGBA).tofile(sys.argv[1] + '.' + name)
print(json.dumps(out))`;
  const files = ['native.png', 'native-mask.png'].map(outFile);
  const done = spawnSync('/usr/bin/python3', ['-c', script, ...files], { encoding: 'utf8' });
  if (done.status !== 0) {
    line('  native', 'absent: it needs python3-opencv.');
    return {};
  }
  const times = JSON.parse(done.stdout) as Record<string, number>;
  return Object.fromEntries(
    Object.entries(times).map(([name, tookMs]) => [
      name.toLowerCase().replace('_', ' '),
      {
        picture: { ...picture, data: new Uint8Array(readFileSync(`${files[0]}.${name}`)) },
        tookMs,
      },
    ]),
  );
}
