import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { squaredDistance } from '.';

describe('distance', () => {
  test('agrees with trying every pixel', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 17 }),
        fc.integer({ min: 1, max: 17 }),
        fc.infiniteStream(fc.nat(9)),
        (w, h, bits) => {
          const set = Uint8Array.from({ length: w * h }, () => (bits.next().value! === 0 ? 1 : 0));
          const got = squaredDistance(set, w, h);
          for (let i = 0; i < w * h; i++) {
            let best = 1e12;
            for (let j = 0; j < w * h; j++) {
              if (!set[j]) continue;
              best = Math.min(best, ((i % w) - (j % w)) ** 2 + (Math.floor(i / w) - Math.floor(j / w)) ** 2);
            }
            expect(got[i]).toBe(Math.fround(best));
          }
        },
      ),
      { numRuns: 60 },
    );
  });
});
