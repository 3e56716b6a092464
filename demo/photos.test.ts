import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { squaredDistance } from '../src/core/area';
import { decodeMask } from '../src/core/formats';
import { decodePicture } from '../src/headless/node-codecs';
import type { SceneFacts } from './toolkit/facts';

const folder = import.meta.dirname;
const bytes = (id: string, file: string) => new Uint8Array(readFileSync(join(folder, id, file)));
const all = ['photos', 'large'].flatMap((kind) =>
  readdirSync(join(folder, kind)).map((id) => `${kind}/${id}`),
);

describe.each(all)('%s', (id) => {
  const facts: SceneFacts = JSON.parse(readFileSync(join(folder, id, 'scene.json'), 'utf8'));

  test('outside the masks, grown by 6 px, photo and truth are the same to within sensor noise', async () => {
    const [photo, truth] = [
      await decodePicture(bytes(id, 'photo.jpg')),
      await decodePicture(bytes(id, 'truth.jpg')),
    ];
    const { width: w, height: h } = photo;
    expect([w, h, truth.width, truth.height]).toEqual([facts.width, facts.height, facts.width, facts.height]);
    const marked = new Uint8Array(w * h);
    for (const { mask, cast } of facts.things)
      for (const file of [mask, cast]) {
        if (!file) continue;
        const { data } = decodeMask(bytes(id, file));
        data.forEach((v, i) => {
          if (v > 0) marked[i] = 1;
        });
      }
    const far = squaredDistance(marked, w, h);
    let [outside, sum, large, within] = [0, 0, 0, 0];
    for (let i = 0; i < w * h; i++) {
      const d = Math.abs(photo.data[4 * i + 1] - truth.data[4 * i + 1]);
      if (far[i] > 36) {
        outside++;
        sum += d;
        if (d > 12) large++;
      } else if (marked[i]) within += d;
    }
    expect(sum / outside).toBeLessThan(0.6);
    expect(large / outside).toBeLessThan(0.0005);
    const count = marked.reduce((n, v) => n + v, 0);
    expect(count).toBeGreaterThan(200);
    expect(within / count).toBeGreaterThan(2);
  });

  test('its facts name files that are there, and points near the picture', () => {
    expect(facts.things.length).toBeGreaterThan(0);
    for (const { mask, cast, says } of facts.things) {
      expect(existsSync(join(folder, id, mask))).toBe(true);
      if (cast) expect(existsSync(join(folder, id, cast))).toBe(true);
      expect(says.length).toBeGreaterThan(3);
    }
    for (const { corners } of facts.planes)
      for (const [x, y] of corners)
        expect(Math.abs(x) < 4 * facts.width && Math.abs(y) < 4 * facts.height).toBe(true);
  });
});
