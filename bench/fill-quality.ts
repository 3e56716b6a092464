import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { SceneFacts } from '../demo/toolkit/facts';
import { trimMask } from '../src/core/area';
import { Evaluator, renderPicture } from '../src/core/evaluate';
import { decodeMask } from '../src/core/formats';
import { grow, intersect, type Raster, type Rect } from '../src/core/raster';
import { areaOfShapes, jobOf, layerOf, mendOf } from '../src/core/testing/jobs';
import { decodePicture } from '../src/headless/node-codecs';
import { Engine } from '../src/runtime/engine/engine';
import { runFill } from '../src/runtime/pool/fill-job';
import { ContactSheet } from './contact-sheet';
import { peerFill } from './peer';
import { outFile } from './photos';
import { headline, line, ms } from './report';
import { type Score, score } from './scoring/score';

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
      const { picture, inside, rect, tookMs, pixels } = fillOne(photo, files.map(read));
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
  for (const name of contenders) {
    const mean = (of: (s: Score) => number) => all[name].reduce((n, s) => n + of(s), 0) / all[name].length;
    const sums = {
      tex: mean((s) => s.tex),
      sharp: mean((s) => Math.abs(s.sharp)),
      seam: mean((s) => Math.abs(s.seam)),
    };
    line(
      `mean of ${all[name].length}, ${name}`,
      `tex ${sums.tex.toFixed(3)}  |sharp| ${sums.sharp.toFixed(3)}  |seam| ${sums.seam.toFixed(3)}`,
    );
  }
}

function told({ tex, sharp, seam, ssim, psnr }: Score): string {
  const f = (v: number, digits: number) => v.toFixed(digits).padStart(digits + 4);
  return `tex ${f(tex, 3)} sharp ${f(sharp, 2)} seam ${f(seam, 2)} ssim ${f(ssim, 2)} psnr ${f(psnr, 1)}`;
}

function marked(photo: Raster, inside: Uint8Array): Raster {
  const out = { ...photo, data: photo.data.slice() };
  inside.forEach((v, i) => {
    if (v) out.data.set([255, 0, 200], 4 * i);
  });
  return out;
}

function fillOne(
  photo: Raster,
  maskFiles: readonly Uint8Array[],
): { picture: Raster; inside: Uint8Array; rect: Rect; tookMs: number; pixels: number } {
  const masks = maskFiles.map((bytes, k) => ({ id: `m${k}`, ...trimMask(decodeMask(bytes)) }));
  const shapes = masks.map(
    ({ id, x, y, mask }) => ({ kind: 'mask', op: 'add', x, y, w: mask.w, h: mask.h, maskId: id }) as const,
  );
  const mend = mendOf('fill', areaOfShapes(shapes, marginPx, 0), null, {
    tries: [{ id: 't', seed: 1 }],
    chosenTry: 't',
  });
  const engine = new Engine(photo, 'photo');
  const held = masks.map(({ id, mask }) => ({ id, mask }));
  engine.addPixels([], held);
  engine.setJob(jobOf(photo, [layerOf([mend])]));
  const start = performance.now();
  const { input, inputKey } = engine.fillInput(mend, 't');
  const { rect, data } = runFill({ input, depth: 8 });
  const tookMs = performance.now() - start;
  const sources = {
    masks: (id: string) => held.find((m) => m.id === id)?.mask,
    tries: () => ({ tryId: 't', ...rect, data, inputKey }),
  };
  const evaluator = new Evaluator(photo, 'photo', sources);
  evaluator.setJob(jobOf(photo, [layerOf([mend])]));
  const inside = new Uint8Array(photo.width * photo.height);
  let pixels = 0;
  input.plan.owner.forEach((owner, i) => {
    if (owner < 0) return;
    inside[(rect.y + Math.floor(i / rect.w)) * photo.width + rect.x + (i % rect.w)] = 1;
    pixels++;
  });
  return { picture: renderPicture(evaluator, photo), inside, rect, tookMs, pixels };
}
