import { expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { makeFloatImage } from '../../raster';
import { role } from './frame';
import { reduced } from './reduced';

test.each([2, 3])(
  'made smaller by %i, each pixel is the mean of what it stands for and keeps to the strictest of it',
  (by) => {
    const random = makeRandom(4);
    const [w, h] = [64, 49];
    const image = makeFloatImage({ x: 70, y: 30, w, h });
    for (let i = 0; i < image.data.length; i++) image.data[i] = random.next();
    // Squares of one kind, of which single pixels differ.
    const kinds = Uint8Array.from({ length: w * h }, () => Math.floor(5 * random.next()));
    const kindAt = (i: number) =>
      kinds[random.next() < 0.1 ? i : Math.floor(i / w / 8) * w + Math.floor((i % w) / 8)];
    const roles = Uint8Array.from({ length: w * h }, (_, i) => kindAt(i));
    const seen = new Set<number>();
    const { image: small, roles: their } = reduced({ image, roles }, by);
    expect(small.rect).toEqual({ x: 0, y: 0, w: Math.floor(w / by), h: Math.floor(h / by) });
    for (let y = 0, p = 0; y < small.rect.h; y++)
      for (let x = 0; x < small.rect.w; x++, p++) {
        const own = Array.from(
          { length: by ** 2 },
          (_, k) => (y * by + Math.floor(k / by)) * w + x * by + (k % by),
        );
        const are = (wanted: number) => own.filter((i) => roles[i] === wanted).length;
        const wanted =
          are(role.target) > 0
            ? role.target
            : are(role.guessed) > 0
              ? role.guessed
              : are(role.source) === own.length
                ? role.source
                : are(role.void) === own.length
                  ? role.void
                  : role.context;
        seen.add(wanted);
        expect(their[p]).toBe(wanted);
        for (let c = 0; c < 4; c++) {
          const mean = own.reduce((sum, i) => sum + image.data[4 * i + c], 0) / own.length;
          expect(small.data[4 * p + c]).toBeCloseTo(mean, 5);
        }
      }
    expect(seen.size).toBe(5);
  },
);
