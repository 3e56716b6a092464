import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { pixelBytes } from './frame';
import { cutSeams, frequentShifts, LabelSets } from './seam-cut';
import { boxHole, frameOf, noisy } from './testing';

describe('seam cut', () => {
  test('finds the best labelling of a small hole, as trying all of them shows', () => {
    const image = noisy(40, 30, 13);
    const hole = boxHole(40, 30, 18, 14, 3, 3);
    const frame = frameOf(image, hole);
    const shifts = [
      { dx: -9, dy: 0 },
      { dx: 8, dy: 3 },
    ];
    const holes = [...hole.keys()].filter((i) => hole[i]);
    const label = new Int32Array(1200).fill(-1);
    for (const p of holes) label[p] = 0;
    const cut = cutSeams(frame, { shifts, label }, null, 3, null);
    const at = (p: number, c: number) => frame.img[p * pixelBytes + c];
    const shifted = (p: number, l: number) => p + shifts[l].dy * 40 + shifts[l].dx;
    const jump = (p: number, q: number) => [0, 1, 2].reduce((n, c) => n + Math.abs(at(p, c) - at(q, c)), 0);
    const slopeJump = (p: number, q: number, step: number, l: number) =>
      [0, 1, 2].reduce(
        (n, c) => n + Math.abs(at(p, c) - at(shifted(p, l), c) - at(q, c) + at(shifted(p, l) + step, c)),
        0,
      );
    const texture = (p: number) => at(p, 3) + at(p, 4);
    const energy = (of: (p: number) => number) => {
      let sum = 0;
      for (const p of holes) {
        for (const step of [-1, 1, -40, 40]) {
          const q = p + step;
          if (!hole[q]) sum += jump(q, shifted(q, of(p))) + slopeJump(q, q + step, step, of(p));
        }
        for (const q of [p + 1, p + 40]) {
          if (!hole[q] || of(p) === of(q)) continue;
          const [pp, pq, qp, qq] = [
            shifted(p, of(p)),
            shifted(p, of(q)),
            shifted(q, of(p)),
            shifted(q, of(q)),
          ];
          sum += Math.trunc(
            ((jump(pp, pq) + jump(qp, qq)) * 260) /
              (120 + texture(pp) + texture(pq) + texture(qp) + texture(qq)),
          );
        }
      }
      return sum;
    };
    let least = Infinity;
    for (let k = 0; k < 512; k++)
      least = Math.min(
        least,
        energy((p) => (k >> holes.indexOf(p)) & 1),
      );
    expect(energy((p) => cut.label[p])).toBeLessThanOrEqual(least * 1.001);
  });

  test('labels that are not allowed are never taken', () => {
    const image = noisy(60, 40, 14);
    const hole = boxHole(60, 40, 20, 12, 14, 12);
    const frame = frameOf(image, hole);
    const shifts = [
      { dx: -16, dy: 0 },
      { dx: 18, dy: 0 },
      { dx: 0, dy: 13 },
    ];
    const label = Int32Array.from(hole, (v) => (v ? 0 : -1));
    const choice = new LabelSets({ w: 14, h: 12 }, 3);
    for (let y = 0; y < 12; y++)
      for (let x = 0; x < 14; x++) for (let l = 0; l <= (x > 6 ? 1 : 0); l++) choice.add(x, y, l);
    const cut = cutSeams(frame, { shifts, label }, null, 2, choice);
    cut.label.forEach((l, p) => {
      if (l === 2 || (l === 1 && p % 60 <= 26)) throw new Error(`label ${l} at ${p}`);
    });
  });

  test('sets of labels spread to all pixels within reach, rows and columns alike', () => {
    const [w, h, labels, reach] = [13, 9, 70, 2];
    const random = makeRandom(8);
    const sets = new LabelSets({ w, h }, labels);
    const plain = Array.from({ length: w * h }, () => new Set<number>());
    for (let k = 0; k < 60; k++) {
      const [p, l] = [random.below(w * h), random.below(labels)];
      sets.add(p % w, Math.floor(p / w), l);
      plain[p].add(l);
    }
    sets.spread(reach);
    for (let p = 0; p < w * h; p++) {
      const [x, y] = [p % w, Math.floor(p / w)];
      const wanted = new Set<number>();
      plain.forEach((own, q) => {
        if (Math.abs((q % w) - x) <= reach && Math.abs(Math.floor(q / w) - y) <= reach)
          for (const l of own) wanted.add(l);
      });
      const got: number[] = [];
      sets.each(x, y, (l) => got.push(l));
      expect(got).toEqual([...wanted].sort((a, b) => a - b));
    }
  });

  test('frequent shifts come most frequent first, near twins left out', () => {
    const frame = frameOf(noisy(50, 40, 15), boxHole(50, 40, 10, 10, 10, 10));
    const sources = new Int32Array(2000).fill(-1);
    for (let y = 10; y < 20; y++)
      for (let x = 10; x < 20; x++) sources[y * 50 + x] = y * 50 + x + (y < 16 ? 20 : y < 19 ? 21 : 15);
    expect(frequentShifts(frame, sources, 5)).toEqual([
      { dx: 20, dy: 0 },
      { dx: 15, dy: 0 },
    ]);
  });
});

test('with a guide, each pixel’s cost is that of means, pattern and texture over 7×7, as plain loops have it', () => {
  const [w, h] = [60, 44];
  const frame = frameOf(noisy(w, h, 23), boxHole(w, h, 24, 18, 5, 4));
  const guide = frame.img.slice();
  for (let i = 0; i < guide.length; i += pixelBytes)
    for (let c = 0; c < 5; c++) guide[i + c] = (guide[i + c] * 7 + 40 * c) >> 3;
  const shifts = [
    { dx: -15, dy: 3 },
    { dx: 14, dy: -6 },
    { dx: 2, dy: 12 },
  ];
  const clamp = (v: number, n: number) => Math.max(0, Math.min(n - 1, v));
  const cost = (p: number, { dx, dy }: { dx: number; dy: number }) => {
    const [sums, squares] = [new Float64Array(10), [0, 0, 0]];
    for (let v = -3; v <= 3; v++)
      for (let u = -3; u <= 3; u++) {
        const [gx, gy] = [clamp((p % w) + u, w), clamp(Math.floor(p / w) + v, h)];
        const g = (gy * w + gx) * pixelBytes;
        const s = (clamp(gy + dy, h) * w + clamp(gx + dx, w)) * pixelBytes;
        for (let c = 0; c < 5; c++) {
          sums[c] += guide[g + c] / 49;
          sums[5 + c] += frame.img[s + c] / 49;
          if (c > 2) continue;
          squares[0] += guide[g + c] ** 2 / 49;
          squares[1] += frame.img[s + c] ** 2 / 49;
          squares[2] += (guide[g + c] * frame.img[s + c]) / 49;
        }
      }
    let [means, texture] = [0, 0];
    for (let c = 0; c < 3; c++) {
      means += (sums[c] - sums[5 + c]) ** 2;
      squares[0] -= sums[c] ** 2;
      squares[1] -= sums[5 + c] ** 2;
      squares[2] -= sums[c] * sums[5 + c];
    }
    for (let c = 3; c < 5; c++) texture += (sums[c] - sums[5 + c]) ** 2;
    const like = squares[2] / (Math.sqrt(Math.max(0, squares[0]) * Math.max(0, squares[1])) + 4);
    return 0.5 * Math.sqrt(means + 2 * squares[0] * (1 - Math.max(-1, Math.min(1, like))) + 0.5 * texture);
  };
  const holes = [...frame.hole.keys()].filter((i) => frame.hole[i]);
  // Pixels that stand alone have no joins: the cut is then the cheapest label of each.
  const lone = holes.filter((p) => p % w === 26 && Math.floor(p / w) === 19);
  const label = new Int32Array(w * h).fill(-1);
  for (const p of lone) label[p] = 0;
  const cut = cutSeams(frame, { shifts, label }, guide, 2, null);
  for (const p of lone) {
    const costs = shifts.map((shift) => cost(p, shift));
    expect(costs[cut.label[p]]).toBeLessThanOrEqual(Math.min(...costs) + 1.01);
  }
});
