import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import { farAcross, indicesOf, mayTake, offRuledGround, pixelBytes } from '../frame';
import { boxHole, frameOf, noisy, picture } from '../testing';
import { cutSeams, frequentShifts, nearestLabels } from './seam-cut';

describe('seam cut', () => {
  test('what the hole hides has no say in where pieces join', () => {
    const [w, h] = [60, 40];
    const hole = boxHole(w, h, 22, 12, 14, 14);
    const shifts = [
      { dx: -15, dy: 0 },
      { dx: 15, dy: 1 },
      { dx: 0, dy: -14 },
    ];
    const cutWith = (hidden: number, hasGuide: boolean) => {
      const image = noisy(w, h, 7);
      hole.forEach((v, p) => {
        if (v) image.data.fill(hidden, 4 * p, 4 * p + 3);
      });
      const frame = frameOf(image, hole);
      const guide = frame.img.slice();
      hole.forEach((v, p) => {
        if (v) guide.fill(90, pixelBytes * p, pixelBytes * p + 5);
      });
      const label = new Int32Array(w * h).fill(-1);
      const holes = Int32Array.from([...hole.keys()].filter((p) => hole[p]));
      nearestLabels(frame, guide, holes, shifts).forEach((l, k) => {
        label[holes[k]] = l;
      });
      const wish = { guide, share: 0.5, choices: 3, again: { cost: 0, nearPx: 0 }, cost: null };
      return cutSeams(frame, { shifts, label }, hasGuide ? wish : null, 3, null).label;
    };
    for (const hasGuide of [true, false]) {
      const dark = cutWith(0, hasGuide);
      expect(new Set(dark).size).toBeGreaterThan(2);
      expect(dark).toEqual(cutWith(1, hasGuide));
    }
  });

  test.each([
    ['alone', 13],
    ...[1, 2, 3, 4, 5, 6, 7, 8].map((seed) => ['beside its mirrored view', seed] as const),
  ] as const)(
    'finds the best labelling of a small hole in a picture %s, as trying all of them shows (%i)',
    (how, seed) => {
      const isMirrored = how !== 'alone';
      const [w, rows] = [40, 30];
      const image = noisy(w, isMirrored ? 2 * rows : rows, seed);
      const hole = boxHole(w, image.rect.h, 18, 14, 3, 3);
      const views = {
        x: Float32Array.from(hole, (_, p) => (p < w * rows ? p % w : w - 1 - (p % w))),
        y: Float32Array.from(hole, (_, p) => Math.floor(p / w) % rows),
        stride: rows,
        apart: 8,
      };
      const frame = { ...frameOf(image, hole), views: isMirrored ? views : null };
      const shifts = [
        { dx: -9, dy: 0 },
        { dx: isMirrored ? 5 : 8, dy: isMirrored ? rows + 3 : 3 },
      ];
      const isSeenTwice = (p: number, q: number) =>
        isMirrored &&
        p < w * rows !== q < w * rows &&
        Math.abs(views.x[p] - views.x[q]) + Math.abs(views.y[p] - views.y[q]) < views.apart;
      let [twice, once] = [0, 0];
      const holes = [...hole.keys()].filter((i) => hole[i]);
      const label = new Int32Array(hole.length).fill(-1);
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
            if (hole[q]) continue;
            sum += jump(q, shifted(q, of(p))) + slopeJump(q, q + step, step, of(p));
            if (isSeenTwice(q, shifted(q, of(p)))) sum += 400;
          }
          for (const q of [p + 1, p + 40]) {
            if (!hole[q] || of(p) === of(q)) continue;
            if (isSeenTwice(shifted(p, of(p)), shifted(p, of(q)))) {
              sum += 400;
              twice++;
            } else once++;
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
      expect(once).toBeGreaterThan(0);
      expect(twice > 0).toBe(isMirrored);
    },
  );

  test.each(['beyond the picture', 'not known'])(
    'a shift whose rim is %s is not taken for one that fits well enough',
    (what) => {
      const [w, h] = [60, 40];
      const random = makeRandom(3);
      const image = picture(w, h, () => {
        const v = 0.5 + 0.05 * (random.next() - 0.5);
        return [v, v, v];
      });
      const hole = boxHole(w, h, 20, 10, 10, 4);
      const frame = frameOf(image, hole);
      // Below and above the hole's rows, the second shift has nothing to show.
      const down = what === 'not known' ? 20 : h - 14;
      if (what === 'not known')
        frame.known.forEach((_, p) => {
          const y = Math.floor(p / w) - down;
          if (y === 9 || y === 14) frame.known[p] = 0;
        });
      const shifts = [
        { dx: 25, dy: 0 },
        { dx: 0, dy: down },
      ];
      const label = Int32Array.from(hole, (v) => (v ? 0 : -1));
      const cut = cutSeams(frame, { shifts, label }, null, 3, null);
      const rows = (l: number, y: number) =>
        cut.label.reduce((n, v, p) => n + (v === l && Math.floor(p / w) === y ? 1 : 0), 0);
      expect(rows(1, 13)).toBe(0);
      if (what === 'not known') expect(rows(1, 10)).toBe(0);
    },
  );

  test('a label goes no farther than its reach from where it began, and never where it is not allowed', () => {
    const [w, h, reach] = [60, 40, 3];
    const image = noisy(w, h, 14);
    const hole = boxHole(w, h, 20, 12, 14, 12);
    const shifts = [
      { dx: -16, dy: 0 },
      { dx: 18, dy: 0 },
      { dx: 0, dy: 13 },
      { dx: 3, dy: -14 },
    ];
    const random = makeRandom(4);
    const moved = { near: 0, any: 0 };
    for (let run = 0; run < 6; run++) {
      const frame = frameOf(image, hole);
      // Some sources are missing, and the last label is nobody's.
      for (let k = 0; k < 60; k++) frame.source[random.below(w * h)] = 0;
      const takes = (p: number, l: number) => mayTake(frame, p, shifts[l].dx, shifts[l].dy);
      const label = new Int32Array(w * h).fill(-1);
      hole.forEach((v, p) => {
        if (v) label[p] = [(p % w) + Math.floor(p / w) < 44 ? 0 : 1, 2, 0, 1].find((l) => takes(p, l)) ?? -1;
      });
      for (const [within, key] of [
        [reach, 'near'],
        [null, 'any'],
      ] as const) {
        const cut = cutSeams(frame, { shifts, label }, null, 2, within);
        cut.label.forEach((l, p) => {
          expect(l < 0).toBe(label[p] < 0);
          if (l < 0 || l === label[p]) return;
          moved[key]++;
          expect(takes(p, l)).toBe(true);
          if (within === null) return;
          const [x, y] = [p % w, Math.floor(p / w)];
          const began = label.some(
            (own, q) =>
              own === l && Math.abs((q % w) - x) <= reach && Math.abs(Math.floor(q / w) - y) <= reach,
          );
          expect(began, `label ${l} at ${x}, ${y}`).toBe(true);
        });
      }
    }
    expect(moved.near).toBeGreaterThan(50);
    expect(moved.any).toBeGreaterThan(moved.near);
  });

  test.each(['free', 'under a rule', 'in views', 'on ruled ground'] as const)(
    'each pixel begins with the allowed label nearest to the guide, %s',
    (how) => {
      const [w, h] = [50, 40];
      const hole = boxHole(w, h, 18, 14, 12, 10);
      const random = makeRandom(6);
      const index = hole.map((v, p) => (v && p % 3 > 0 ? 1 + (p % 2) : 0));
      const isRuled = how === 'on ruled ground';
      const slanted = { nx: 0.6, ny: 0.8, slack: 4, period: isRuled ? 9.3 : null };
      const home = {
        x: Float32Array.from({ length: w * h }, (_, p) => (p % w) + random.next()),
        y: Float32Array.from({ length: w * h }, (_, p) => Math.floor(p / w) - 3 * random.next()),
      };
      // Ruled ground on the left; some of it has a place of its own.
      const across = isRuled
        ? home.x.map((x, p) => (p % w > 38 ? offRuledGround : x + (p % 11 === 0 ? 3 * farAcross : 0)))
        : null;
      const list = [slanted, { nx: 0, ny: 1, slack: 2.5, period: isRuled ? 0 : null }];
      const rules = how === 'free' ? null : { index, list, across };
      const views = how === 'in views' ? { ...home, stride: h, apart: 0 } : null;
      const frame = { ...frameOf(noisy(w, h, 3), hole), rules, views };
      const guide = frame.img.map((v, k) => (v + 31 * (k % 7)) & 255);
      const shifts = Array.from({ length: 30 }, () => ({
        dx: random.below(41) - 20,
        dy: random.below(31) - 15,
      }));
      const pixels = indicesOf(hole);
      const got = nearestLabels(frame, guide, pixels, shifts);
      let none = 0;
      pixels.forEach((p, k) => {
        let best = -1;
        let least = Infinity;
        shifts.forEach(({ dx, dy }, l) => {
          if (!mayTake(frame, p, dx, dy)) return;
          const q = p + dy * w + dx;
          let d = 0;
          for (let c = 0; c < 3; c++) d += (guide[p * pixelBytes + c] - frame.img[q * pixelBytes + c]) ** 2;
          if (d < least) [best, least] = [l, d];
        });
        if (best < 0) none++;
        expect(got[k]).toBe(best);
      });
      expect(none).toBeLessThan(pixels.length / 2);
    },
  );

  test.each([
    ['not counted', 0, 100, 108],
    ['near', 5, 100, 0],
    ['farther off than is minded', 5, 8, 108],
  ] as const)('what is taken twice goes to a label that takes it once: %s', (_, cost, nearPx, left) => {
    const [w, h] = [60, 40];
    const image = picture(w, h, () => [0.5, 0.5, 0.5]);
    const hole = boxHole(w, h, 30, 10, 18, 6);
    const frame = frameOf(image, hole);
    // Both halves take the same, nine pixels apart; nobody takes what lies below.
    const shifts = [
      { dx: -16, dy: 0 },
      { dx: -25, dy: 0 },
      { dx: 0, dy: 15 },
    ];
    const label = Int32Array.from(hole, (v, p) => (v ? (p % w < 39 ? 0 : 1) : -1));
    const taken = (map: { label: Int32Array }) => {
      const takers = new Map<number, number>();
      const sources = [...map.label.keys()].flatMap((p) =>
        map.label[p] < 0 ? [] : [p + shifts[map.label[p]].dy * w + shifts[map.label[p]].dx],
      );
      for (const q of sources) takers.set(q, (takers.get(q) ?? 0) + 1);
      return sources.filter((q) => takers.get(q)! > 1).length;
    };
    expect(taken({ label })).toBe(108);
    const wish = { guide: frame.img, share: 0.5, choices: 12, again: { cost, nearPx }, cost: null };
    expect(taken(cutSeams(frame, { shifts, label }, wish, 2, null))).toBe(left);
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
  const cut = cutSeams(
    frame,
    { shifts, label },
    { guide, share: 0.5, choices: 12, again: { cost: 0, nearPx: 0 }, cost: null },
    2,
    null,
  );
  for (const p of lone) {
    const costs = shifts.map((shift) => cost(p, shift));
    expect(costs[cut.label[p]]).toBeLessThanOrEqual(Math.min(...costs) + 1.01);
  }
});
