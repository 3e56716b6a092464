import fc from 'fast-check';
import { expect, test } from 'vitest';
import { intersect, isEmpty } from '../../core/raster';
import { apart } from './changes';

const view = { x: 0, y: 0, w: 90, h: 70 };

test('covers whatever changed of the view, on whole pixels, and draws nothing twice', () => {
  const side = fc.double({ min: 0, max: 25, noNaN: true });
  const part = fc.record({
    x: fc.double({ min: -20, max: 95, noNaN: true }),
    y: fc.double({ min: -20, max: 75, noNaN: true }),
    w: side,
    h: side,
  });
  fc.assert(
    fc.property(fc.array(part, { maxLength: 12 }), (parts) => {
      const drawn = apart(parts, view);
      if (!drawn) return;
      for (const d of drawn) {
        expect(Object.values(d).every(Number.isInteger)).toBe(true);
        expect(intersect(d, view)).toEqual(d);
      }
      for (const [k, a] of drawn.entries())
        for (const b of drawn.slice(k + 1)) expect(isEmpty(intersect(a, b))).toBe(true);
      for (const p of parts) {
        const wanted = intersect(p, view);
        if (isEmpty(wanted)) continue;
        const holds = drawn.some((d) => {
          const common = intersect(wanted, d);
          return common.w === wanted.w && common.h === wanted.h;
        });
        expect(holds).toBe(true);
      }
    }),
  );
});

test('what is far apart stays so, and most of the view is all of it', () => {
  const [brush, source] = [
    { x: 5.4, y: 5.4, w: 10, h: 10 },
    { x: 60, y: 40, w: 8, h: 8 },
  ];
  expect(apart([brush, source], view)).toEqual([{ x: 5, y: 5, w: 11, h: 11 }, source]);
  expect(apart([], view)).toEqual([]);
  expect(apart([{ x: -3, y: -3, w: 80, h: 70 }], view)).toBeNull();
});
