import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { SceneFacts } from '../demo/toolkit/facts';
import { decodeMask } from '../src/core/formats';
import { grow, intersect, type Raster } from '../src/core/raster';
import { decodePicture } from '../src/headless/node-codecs';
import { ContactSheet } from './contact-sheet';
import { fillOnce } from './fill-once';
import { peerFill } from './peer';
import { outFile } from './photos';
import { headline, line, ms } from './report';
import { type Score, score, told, toldMean } from './scoring/score';

/** The lens spreads a thing's edge beyond its mask; a retoucher leaves room for that. */
const marginPx = 7;

const photos = join(import.meta.dirname, '..', 'demo', 'photos');
const contenders = ['ours', 'telea', 'navier-stokes'] as const;
type Contender = (typeof contenders)[number];

/** Fill on every unwanted thing of the demo photographs, with its shadow or reflection, against the known truth, beside
 *  a general-purpose library. Leaves a contact sheet for each photograph. */
export async function benchFillQuality(): Promise<void> {
  headline('Fill on the demo photographs against the truth, one core');
  const all: Record<Contender, Score[]> = { ours: [], telea: [], 'navier-stokes': [] };
  for (const id of readdirSync(photos)) {
    const read = (file: string) => new Uint8Array(readFileSync(join(photos, id, file)));
    const facts: SceneFacts = JSON.parse(readFileSync(join(photos, id, 'scene.json'), 'utf8'));
    const [photo, truth] = [await decodePicture(read('photo.jpg')), await decodePicture(read('truth.jpg'))];
    const sheet = new ContactSheet();
    for (const thing of facts.things) {
      const files = [thing.mask, thing.cast].filter((f) => f && existsSync(join(photos, id, f))) as string[];
      const { picture, inside, rect, tookMs, pixels } = fillOnce(
        photo,
        files.map((file) => decodeMask(read(file))),
        marginPx,
      );
      const bounds = { x: 0, y: 0, w: photo.width, h: photo.height };
      const near = intersect(grow(rect, 40), bounds);
      const results: Record<Contender, { picture: Raster; tookMs: number }> = {
        ours: { picture, tookMs },
        telea: await peerFill('telea', photo, inside, near),
        'navier-stokes': await peerFill('navier-stokes', photo, inside, near),
      };
      line(`${id}, ${thing.id}`, `${(pixels / 1000).toFixed(0)} k px`);
      for (const name of contenders) {
        const scores = score(results[name].picture, truth, inside);
        all[name].push(scores);
        line(`  ${name}`, `${told(scores)}  ${ms(results[name].tookMs)}`);
      }
      sheet.add(near, [photo, marked(photo, inside), truth, results.telea.picture, picture]);
    }
    const file = outFile(`fill-${id}.png`);
    sheet.write(file);
    line(`  photo, mask, truth, peer, ours: ${file}`, '');
  }
  for (const name of contenders) line(`mean of ${all[name].length}, ${name}`, toldMean(all[name]));
}

function marked(photo: Raster, inside: Uint8Array): Raster {
  const out = { ...photo, data: photo.data.slice() };
  inside.forEach((v, i) => {
    if (v) out.data.set([255, 0, 200], 4 * i);
  });
  return out;
}
