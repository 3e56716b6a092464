import fc from 'fast-check';
import { expect, test } from 'vitest';
import { invertSymmetric } from './invert-symmetric';

test('times the matrix it gives one, and the determinant of two by two is the known one', () => {
  const rows = fc.integer({ min: 1, max: 5 }).chain((n) =>
    fc.array(fc.array(fc.double({ min: -3, max: 3, noNaN: true }), { minLength: n, maxLength: n }), {
      minLength: n,
      maxLength: n,
    }),
  );
  fc.assert(
    fc.property(rows, (b) => {
      // Made of any numbers, and positive definite.
      const a = b.map((row, r) =>
        b.map((other, c) => row.reduce((sum, v, k) => sum + v * other[k], 0) + (r === c ? 0.5 : 0)),
      );
      const { inverse, logDet } = invertSymmetric(a);
      a.forEach((row, r) => {
        a.forEach((_, c) => {
          const product = row.reduce((sum, v, k) => sum + v * inverse[k][c], 0);
          expect(product).toBeCloseTo(r === c ? 1 : 0, 6);
        });
      });
      if (a.length === 2) expect(Math.exp(logDet)).toBeCloseTo(a[0][0] * a[1][1] - a[0][1] ** 2, 6);
    }),
  );
});
