import fc from 'fast-check';
import { expect, test } from 'vitest';
import { select } from './select';

test('gives what sorting gives, at every place, and keeps all numbers', () => {
  const numbers = fc.array(fc.integer({ min: -9, max: 9 }), { minLength: 1, maxLength: 60 });
  fc.assert(
    fc.property(numbers, fc.nat(59), fc.nat(20), (list, place, beyond) => {
      const k = place % list.length;
      // What lies behind the count is not touched.
      const values = Float32Array.from([...list, ...Array.from({ length: beyond }, () => 99)]);
      const sorted = [...list].sort((a, b) => a - b);
      expect(select(values, list.length, k)).toBe(sorted[k]);
      expect([...values.subarray(0, list.length)].sort((a, b) => a - b)).toEqual(sorted);
      expect(values.subarray(list.length).every((v) => v === 99)).toBe(true);
    }),
  );
});
