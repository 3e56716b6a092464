import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { score } from '../bench/scoring/score';
import { rasteriseArea } from '../src/core/area';
import { allMends } from '../src/core/job';
import { applySheet, renderBundle } from '../src/headless/apply';
import { decodePicture } from '../src/headless/node-codecs';

const here = import.meta.dirname;

/** How near a mend's texture comes to the truth's: what a retoucher gets with these sources, and a little room. */
const limits: Record<string, { tex: number; sharp: number }> = {
  courtyard: { tex: 0.16, sharp: 0.2 },
  'orchard-row': { tex: 0.1, sharp: 0.2 },
  'studio-jug': { tex: 0.17, sharp: 0.35 },
};

describe.each(readdirSync(join(here, 'trials')).map((f) => f.replace('.json', '')))('by hand, %s', (id) => {
  test('every mend comes near to the truth, and nearer than the unwanted thing was', async () => {
    const photoFile = join(here, 'photos', id, 'photo.jpg');
    const bundle = await applySheet(photoFile, join(here, 'trials', `${id}.json`));
    const { picture, warnings } = renderBundle(bundle);
    expect(warnings).toEqual([]);
    const truth = await decodePicture(new Uint8Array(readFileSync(join(here, 'photos', id, 'truth.jpg'))));
    const { photo } = bundle;
    const whole = { x: 0, y: 0, w: photo.width, h: photo.height };
    const scores: { tex: number; sharp: number }[] = [];
    for (const mend of allMends(bundle.job)) {
      const inside = Uint8Array.from(
        rasteriseArea(mend.area, whole, (m) => bundle.masks.get(m)),
        (v) => (v > 0.5 ? 1 : 0),
      );
      const told = `${mend.name}: `;
      const { tex, sharp } = score(picture, truth, inside);
      scores.push({ tex, sharp: Math.abs(sharp) });
      expect(tex, told).toBeLessThan(1.6 * limits[id].tex);
      if (mend.method !== 'tap') expect(tex, told).toBeLessThan(score(photo, truth, inside).tex);
    }
    const mean = (of: (s: { tex: number; sharp: number }) => number) =>
      scores.reduce((n, s) => n + of(s), 0) / scores.length;
    if (process.env.TELL) console.log(id, scores);
    expect(mean((s) => s.tex)).toBeLessThan(limits[id].tex);
    expect(mean((s) => s.sharp)).toBeLessThan(limits[id].sharp);
  });
});
