import { describe, expect, test } from 'vitest';
import { linksOf, partedLabels } from './links';

const size = { w: 4, h: 3 };
const cost = (p: number, q: number) => 1 + Math.min(p, q) + Math.max(p, q) / 100;

describe('links of pixels', () => {
  test('join each to its eight neighbours, alike both ways, less at corners', () => {
    const { nodes, neighbours, links } = linksOf(size, null, cost);
    expect(nodes).toEqual(Array.from({ length: 12 }, (_, i) => i));
    for (let i = 0; i < 12; i++) {
      const seen: number[] = [];
      for (let k = 0; k < 8; k++) {
        const j = neighbours[8 * i + k];
        if (j < 0) continue;
        seen.push(j);
        expect(neighbours[8 * j + 7 - k]).toBe(i);
        const corner = i % 4 !== j % 4 && Math.floor(i / 4) !== Math.floor(j / 4);
        expect(links[8 * i + k]).toBeCloseTo(cost(i, j) / (corner ? Math.SQRT2 : 1), 5);
        expect(links[8 * j + 7 - k]).toBe(links[8 * i + k]);
      }
      const near = nodes.filter(
        (j) =>
          j !== i && Math.abs((j % 4) - (i % 4)) <= 1 && Math.abs(Math.floor(j / 4) - Math.floor(i / 4)) <= 1,
      );
      expect(seen.sort((a, b) => a - b)).toEqual(near);
    }
  });

  test('what is not free in a band pulls its free neighbours to its own side', () => {
    const labels = Uint8Array.of(1, 1, 1, 1, 0, 0, 0, 0, 0, 0, 0, 0);
    const free = Uint8Array.of(0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0);
    const links = linksOf(size, { labels, free }, () => 2);
    expect(links.nodes).toEqual([5]);
    // Above: one side and two corners inside; below and beside: three sides and two corners outside.
    expect(links.fromBand[0]).toBeCloseTo(2 + 4 / Math.SQRT2 - 6 - 4 / Math.SQRT2, 5);
    expect(partedLabels(links, Uint8Array.of(1), labels)).toEqual(labels.map((v, i) => (i === 5 ? 1 : v)));
  });
});
