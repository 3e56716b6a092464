import fc from 'fast-check';
import { expect, test } from 'vitest';
import { easeOf, evenParts, spreadOwners } from './parts';

test('points that lie in heaps far apart fall into these heaps', () => {
  const heap = fc.array(fc.tuple(fc.integer({ min: 0, max: 20 }), fc.integer({ min: 0, max: 20 })), {
    minLength: 1,
    maxLength: 30,
  });
  fc.assert(
    fc.property(fc.array(heap, { minLength: 1, maxLength: 6 }), (heaps) => {
      // A row of two, and below it the next.
      const points = heaps.flatMap((list, n) =>
        list.map(([x, y]) => ({ x: x + 120 * (n % 2), y: y + 120 * Math.floor(n / 2), n })),
      );
      const { owners, at } = evenParts(
        points.map((p) => p.x),
        points.map((p) => p.y),
        heaps.length,
      );
      const partOf = new Map<number, number>();
      points.forEach(({ x, y, n }, k) => {
        partOf.set(n, partOf.get(n) ?? owners[k]);
        expect(owners[k]).toBe(partOf.get(n));
        expect(at(x, y)).toBe(owners[k]);
      });
      expect(new Set(partOf.values()).size).toBe(heaps.length);
    }),
  );
});

test('a field of points falls into parts of about one size, whichever way it is longer', () => {
  for (const [w, h] of [
    [120, 40],
    [40, 120],
  ]) {
    const xs = Array.from({ length: w * h }, (_, i) => i % w);
    const ys = Array.from({ length: w * h }, (_, i) => Math.floor(i / w));
    const { owners } = evenParts(xs, ys, 3);
    const sizes = [0, 1, 2].map((part) => owners.filter((o) => o === part).length);
    for (const size of sizes) expect(Math.abs(size - (w * h) / 3)).toBeLessThan(0.1 * w * h);
  }
});

test('what has no part yet gets one beside it, and nothing else changes', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: -1, max: 2 }), { minLength: 48, maxLength: 48 }), (seeds) => {
      const inside = new Uint8Array(48).fill(1, 0, 40);
      const owner = Int16Array.from(seeds, (v, i) => (inside[i] ? v : -1));
      const before = owner.slice();
      spreadOwners(owner, inside, 8, 6);
      owner.forEach((v, i) => {
        if (!inside[i]) expect(v).toBe(-1);
        else if (before[i] >= 0) expect(v).toBe(before[i]);
        else expect(v >= 0).toBe(before.some((b) => b >= 0));
      });
    }),
  );
});

test('the easiest part comes first: small, with known ground round it', () => {
  // One row: a corner, its neighbour in the midst, the rest.
  const owner = Int16Array.of(-1, 0, 1, 1, 1, 1, 2, -1);
  const [first, second, third] = easeOf(owner, 4, 8, 1);
  expect(first).toEqual({ part: 0, size: 1, known: 0.75 });
  expect(second.part).toBe(2);
  expect(third).toEqual({ part: 1, size: 4, known: 0.8 });
});
