import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { steps } from './links';
import { type CutGraph, minCut, noFlow } from './min-cut';

/** A grid's graph from the costs between neighbours. */
function gridGraph(
  w: number,
  h: number,
  pull: readonly number[],
  cost: (i: number, k: number) => number,
): CutGraph {
  const n = w * h;
  const neighbours = new Int32Array(8 * n).fill(-1);
  const links = new Float32Array(8 * n);
  for (let i = 0; i < n; i++)
    for (let k = 4; k < 8; k++) {
      const [x, y] = [(i % w) + steps[k][0], Math.floor(i / w) + steps[k][1]];
      if (x < 0 || x >= w || y >= h) continue;
      const j = y * w + x;
      neighbours[8 * i + k] = j;
      neighbours[8 * j + 7 - k] = i;
      links[8 * i + k] = links[8 * j + 7 - k] = cost(i, k);
    }
  return { neighbours, links, pull: Float32Array.from(pull) };
}

/** What a parting costs: links between the sides, and pulls that are not followed. */
function costOf({ neighbours, links, pull }: CutGraph, inside: ArrayLike<number>): number {
  let cost = 0;
  for (let i = 0; i < pull.length; i++) {
    if (inside[i] ? pull[i] < 0 : pull[i] > 0) cost += Math.abs(pull[i]);
    for (let k = 4; k < 8; k++) {
      const j = neighbours[8 * i + k];
      if (j >= 0 && inside[i] !== inside[j]) cost += links[8 * i + k];
    }
  }
  return cost;
}

describe('minimum cut', () => {
  test('costs as little as the best of all partings', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 4 }),
        fc.integer({ min: 1, max: 3 }),
        fc.array(fc.integer({ min: -9, max: 9 }), { minLength: 12, maxLength: 12 }),
        fc.array(fc.integer({ min: 0, max: 6 }), { minLength: 96, maxLength: 96 }),
        (w, h, pulls, costs) => {
          const graph = gridGraph(w, h, pulls.slice(0, w * h), (i, k) => costs[8 * i + k]);
          let least = Infinity;
          for (let bits = 0; bits < 1 << (w * h); bits++)
            least = Math.min(
              least,
              costOf(
                graph,
                Array.from({ length: w * h }, (_, i) => (bits >> i) & 1),
              ),
            );
          expect(costOf(graph, minCut(graph))).toBe(least);
        },
      ),
      { numRuns: 200 },
    );
  });

  test('a graph that is cut again with other pulls is parted as if it never was before', () => {
    const pulls = fc.array(fc.integer({ min: -9, max: 9 }), { minLength: 30, maxLength: 30 });
    fc.assert(
      fc.property(
        fc.array(pulls, { minLength: 2, maxLength: 4 }),
        fc.array(fc.integer({ min: 0, max: 6 }), { minLength: 240, maxLength: 240 }),
        (rounds, costs) => {
          const graph = gridGraph(6, 5, rounds[0], (i, k) => costs[8 * i + k]);
          const flow = noFlow(graph);
          for (const round of rounds) {
            const again = { ...graph, pull: Float32Array.from(round) };
            expect(minCut(again, flow)).toEqual(minCut(again));
          }
        },
      ),
      { numRuns: 300 },
    );
  });

  test('a large grid is parted along its cheap seam', () => {
    const [w, h] = [60, 40];
    const pull = Array.from({ length: w * h }, (_, i) => (i % w === 0 ? 100 : i % w === w - 1 ? -100 : 0));
    const seam = (y: number) => 25 + Math.round(6 * Math.sin(y / 6));
    const graph = gridGraph(w, h, pull, (i, k) => {
      const [x, y] = [i % w, Math.floor(i / w)];
      const left = Math.min(x, x + steps[k][0]);
      const crosses = steps[k][0] !== 0 && left === seam(y);
      return crosses ? 0.01 : 5;
    });
    const inside = minCut(graph);
    const cut = Array.from({ length: h }, (_, y) => inside.subarray(y * w, (y + 1) * w).lastIndexOf(1));
    cut.forEach((x, y) => {
      expect(Math.abs(x - seam(y))).toBeLessThanOrEqual(2);
    });
  });

  test('nothing to part, and sides that nothing reaches', () => {
    expect(minCut(gridGraph(0, 0, [], () => 1))).toHaveLength(0);
    expect([...minCut(gridGraph(3, 1, [0, 0, 0], () => 1))]).toEqual([0, 0, 0]);
  });
});
