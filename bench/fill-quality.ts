import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { SceneFacts } from '../demo/toolkit/facts';
import { trimMask } from '../src/core/area';
import { Evaluator, renderPicture } from '../src/core/evaluate';
import { decodeMask } from '../src/core/formats';
import type { Raster } from '../src/core/raster';
import { areaOfShapes, jobOf, layerOf, mendOf } from '../src/core/testing/jobs';
import { decodePicture } from '../src/headless/node-codecs';
import { Engine } from '../src/runtime/engine/engine';
import { runFill } from '../src/runtime/pool/fill-job';
import { headline, line, ms } from './report';
import { type Score, score } from './scoring/score';

const photos = join(import.meta.dirname, '..', 'demo', 'photos');

/** Fill on every unwanted thing of the demo photographs, with its shadow or reflection, against the known truth. */
export async function benchFillQuality(): Promise<void> {
  headline('Fill on the demo photographs against the truth, one core');
  const all: Score[] = [];
  for (const id of readdirSync(photos)) {
    const read = (file: string) => new Uint8Array(readFileSync(join(photos, id, file)));
    const facts: SceneFacts = JSON.parse(readFileSync(join(photos, id, 'scene.json'), 'utf8'));
    const [photo, truth] = [await decodePicture(read('photo.jpg')), await decodePicture(read('truth.jpg'))];
    for (const thing of facts.things) {
      const files = [thing.mask, thing.cast].filter((f) => f && existsSync(join(photos, id, f))) as string[];
      const { scores, tookMs, pixels } = fillOne(photo, truth, files.map(read));
      all.push(scores);
      const f = (v: number, n = 3) => v.toFixed(n).padStart(n + 4);
      line(
        `${id}, ${thing.id} (${(pixels / 1000).toFixed(0)}k px)`,
        `tex ${f(scores.tex)} sharp ${f(scores.sharp, 2)} seam ${f(scores.seam, 2)} ssim ${f(scores.ssim, 2)} psnr ${f(scores.psnr, 1)}  ${ms(tookMs)}`,
      );
    }
  }
  const mean = (of: (s: Score) => number) => all.reduce((n, s) => n + of(s), 0) / all.length;
  line('mean tex', mean((s) => s.tex).toFixed(3));
  line('mean |sharp|', mean((s) => Math.abs(s.sharp)).toFixed(3));
  line('mean |seam|', mean((s) => Math.abs(s.seam)).toFixed(3));
}

function fillOne(photo: Raster, truth: Raster, maskFiles: readonly Uint8Array[]) {
  const masks = maskFiles.map((bytes, k) => ({ id: `m${k}`, ...trimMask(decodeMask(bytes)) }));
  const shapes = masks.map(
    ({ id, x, y, mask }) => ({ kind: 'mask', op: 'add', x, y, w: mask.w, h: mask.h, maskId: id }) as const,
  );
  const mend = mendOf('fill', areaOfShapes(shapes, 4, 0), null, {
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
  return { scores: score(renderPicture(evaluator, photo), truth, inside), tookMs, pixels };
}
