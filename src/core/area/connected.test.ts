import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { connected, joinedTo } from './connected';

describe('what hangs together', () => {
  it('is the same taken run by run as taken pixel by pixel', () => {
    const bits = (n: number) => fc.array(fc.boolean(), { minLength: n, maxLength: n });
    const grids = fc.tuple(fc.integer({ min: 1, max: 9 }), fc.integer({ min: 1, max: 9 })).chain(([w, h]) =>
      fc.record({
        w: fc.constant(w),
        h: fc.constant(h),
        set: bits(w * h),
        given: bits(w * h),
      }),
    );
    fc.assert(
      fc.property(grids, ({ w, h, set, given }) => {
        const pixels = Uint8Array.from(set, Number);
        const expected = new Uint8Array(w * h);
        for (const part of connected(pixels, w, h))
          if (part.some((i) => given[i])) for (const i of part) expected[i] = 1;
        expect(joinedTo((i) => given[i], pixels, w, h)).toEqual(expected);
      }),
      { numRuns: 400 },
    );
  });

  it('over a corner only, but not from one row’s end to the next row’s beginning', () => {
    const set = Uint8Array.of(1, 0, 0, 1, 0, 1, 0, 0, 0, 0, 0, 0);
    expect(connected(set, 4, 3)).toEqual([[0, 5], [3]]);
    expect([...joinedTo((i) => i === 0, set, 4, 3)]).toEqual([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0]);
  });
});
