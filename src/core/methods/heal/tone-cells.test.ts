import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { Rect } from '../../raster';
import { point } from '../../solve';
import { ToneCells } from './tone-cells';

const rect = fc.record({
  x: fc.integer({ min: -150, max: 150 }),
  y: fc.integer({ min: -150, max: 150 }),
  w: fc.integer({ min: 1, max: 140 }),
  h: fc.integer({ min: 1, max: 140 }),
});

test('what is written in one rectangle is read in another, and all else is away', () => {
  fc.assert(
    fc.property(rect, rect, (written: Rect, wanted: Rect) => {
      const cells = new ToneCells();
      cells.keep(written);
      const valueAt = (x: number, y: number) => 1000 * y + x;
      cells.each(written, ({ kind, values }, at, from, count) => {
        for (let k = 0; k < count; k++) {
          const [x, y] = [
            written.x + ((from + k) % written.w),
            written.y + Math.floor((from + k) / written.w),
          ];
          kind[at + k] = point.free;
          values[4 * (at + k)] = valueAt(x, y);
        }
      });
      const { kind, values } = cells.read(wanted);
      const off = kind.findIndex((is, i) => {
        const [x, y] = [wanted.x + (i % wanted.w), wanted.y + Math.floor(i / wanted.w)];
        const isIn =
          x >= written.x && y >= written.y && x < written.x + written.w && y < written.y + written.h;
        return is !== (isIn ? point.free : point.away) || values[4 * i] !== (isIn ? valueAt(x, y) : 0);
      });
      expect(off).toBe(-1);
    }),
    { numRuns: 60 },
  );
});

test('along a line only the squares that it runs through are kept', () => {
  const cells = new ToneCells();
  for (let k = 0; k < 4000; k++) cells.keep({ x: k, y: k, w: 3, h: 3 });
  expect(cells.kept().length).toBeLessThan(200);
  const { kind } = cells.read({ x: 3000, y: 0, w: 10, h: 10 });
  expect(kind.every((is) => is === point.away)).toBe(true);
  expect(cells.kept().length).toBeLessThan(200);
});
