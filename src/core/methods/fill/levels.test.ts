import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { squaredDistance } from '../../area';
import { makeRandom } from '../../random';
import { type FloatImage, makeFloatImage } from '../../raster';
import {
  type Frame,
  farAcross,
  mayTake,
  offRuledGround,
  pixelBytes,
  role,
  squaredDepth,
  targetCentres,
  usableCentres,
} from './frame';
import { makeFrame, shrink, withoutGuesses, withoutSources } from './levels';
import { noisy } from './testing';

/** A noisy picture whose pixels are anything, by chance. */
function scene(w: number, h: number, seed: number): { image: FloatImage; roles: Uint8Array } {
  const random = makeRandom(seed);
  const image = makeFloatImage({ x: 0, y: 0, w, h });
  for (let i = 0; i < image.data.length; i++) image.data[i] = i % 4 === 3 ? 1 : random.below(256) / 255;
  const roles = new Uint8Array(w * h).fill(role.source);
  for (let k = 0; k < 1 + (w * h) / 40; k++) roles[random.below(w * h)] = random.below(5);
  return { image, roles };
}

const sizes = fc.record({
  w: fc.integer({ min: 2, max: 30 }),
  h: fc.integer({ min: 2, max: 30 }),
  seed: fc.integer({ min: 1, max: 1e6 }),
});
const isContent = (r: number) => r === role.context || r === role.source || r === role.guessed;

/** Both features of a pixel, straight from their definition. */
function featuresOf({ rect: { w, h }, data }: FloatImage, roles: Uint8Array, radius: number, p: number) {
  const luma = (i: number) =>
    Math.fround(76.245 * data[4 * i] + 149.685 * data[4 * i + 1] + 29.07 * data[4 * i + 2]);
  const [px, py] = [p % w, Math.floor(p / w)];
  const sums = [0, 0];
  let count = 0;
  for (let y = Math.max(0, py - radius); y <= Math.min(h - 1, py + radius); y++)
    for (let x = Math.max(0, px - radius); x <= Math.min(w - 1, px + radius); x++) {
      const i = y * w + x;
      const [right, below] = [x + 1 < w ? i + 1 : i, y + 1 < h ? i + w : i];
      if (![i, right, below].every((q) => isContent(roles[q]))) continue;
      sums[0] += Math.abs(luma(right) - luma(i));
      sums[1] += Math.abs(luma(below) - luma(i));
      count++;
    }
  return count === 0 ? [0, 0] : sums.map((v) => Math.min(255, (6 * v) / count));
}

describe('levels', () => {
  test('the finest one holds rounded colours and the mean steps round each pixel', () => {
    fc.assert(
      fc.property(sizes, fc.integer({ min: 0, max: 9 }), ({ w, h, seed }, radius) => {
        const { image, roles } = scene(w, h, seed);
        const frame = makeFrame(image, roles, radius);
        for (let p = 0; p < w * h; p++) {
          const own = [...frame.img.subarray(p * pixelBytes, (p + 1) * pixelBytes)];
          expect(own.slice(0, 3)).toEqual([0, 1, 2].map((c) => Math.round(255 * image.data[4 * p + c])));
          for (const [f, wanted] of featuresOf(image, roles, radius, p).entries())
            expect(Math.abs(own[3 + f] - wanted)).toBeLessThan(0.501);
          expect([frame.hole[p], frame.known[p], frame.source[p]]).toEqual(
            [roles[p] === role.target, isContent(roles[p]), roles[p] === role.source].map(Number),
          );
        }
      }),
      { numRuns: 40 },
    );
  });

  test('a coarser one holds the 1-3-3-1 mean of what is known, hole where any child is, source where all are', () => {
    fc.assert(
      fc.property(sizes, ({ w, h, seed }) => {
        const { image, roles } = scene(w, h, seed);
        const fine = makeFrame(image, roles, 2);
        const coarse = shrink(fine);
        expect([coarse.w, coarse.h]).toEqual([w >> 1, h >> 1]);
        for (let y = 0; y < coarse.h; y++)
          for (let x = 0; x < coarse.w; x++) {
            const i = y * coarse.w + x;
            const children = [0, 1, w, w + 1].map((d) => 2 * y * w + 2 * x + d);
            expect(coarse.hole[i]).toBe(Number(children.some((q) => fine.hole[q])));
            expect(coarse.source[i]).toBe(Number(children.every((q) => fine.source[q])));
            const wanted = meanOfKnown(fine, x, y);
            expect(coarse.known[i]).toBe(Number(wanted !== null && !coarse.hole[i]));
            expect([...coarse.img.subarray(i * pixelBytes, i * pixelBytes + 5)]).toEqual(
              (wanted ?? [0, 0, 0, 0, 0]).map(Math.round),
            );
          }
      }),
      { numRuns: 60 },
    );
  });

  test('patches are whole where every pixel is a source, and are targets where any is hole', () => {
    fc.assert(
      fc.property(sizes, fc.integer({ min: 0, max: 5 }), ({ w, h, seed }, radius) => {
        const { image, roles } = scene(w, h, seed);
        const frame = makeFrame(image, roles, 2);
        const usable = usableCentres(frame, radius);
        const targets = new Set(targetCentres(frame, radius));
        for (let p = 0; p < w * h; p++) {
          const [x, y] = [p % w, Math.floor(p / w)];
          const inside = x >= radius && y >= radius && x < w - radius && y < h - radius;
          const patch: number[] = [];
          for (let v = -radius; inside && v <= radius; v++)
            for (let u = -radius; u <= radius; u++) patch.push(p + v * w + u);
          expect(usable[p]).toBe(Number(inside && patch.every((q) => frame.source[q])));
          expect(targets.has(p)).toBe(inside && patch.some((q) => frame.hole[q]));
        }
      }),
      { numRuns: 60 },
    );
  });
});

test('depth in a hole is the distance to what is known', () => {
  fc.assert(
    fc.property(sizes, ({ w, h, seed }) => {
      const random = makeRandom(seed);
      const hole = new Uint8Array(w * h);
      const [x0, y0] = [random.below(w), random.below(h)];
      for (let y = y0; y < h - random.below(3); y++)
        for (let x = x0; x < w - random.below(4); x++) hole[y * w + x] = 1;
      const known = hole.map((v) => 1 - v);
      const all = squaredDistance(known, w, h);
      expect(squaredDepth({ hole, known, w, h })).toEqual(all.map((d, i) => (hole[i] ? d : 0)));
    }),
  );
});

function meanOfKnown(fine: Frame, x: number, y: number): number[] | null {
  const kernel = [1, 3, 3, 1];
  const sums = [0, 0, 0, 0, 0];
  let total = 0;
  for (let v = 0; v < 4; v++)
    for (let u = 0; u < 4; u++) {
      const [xx, yy] = [2 * x + u - 1, 2 * y + v - 1];
      if (xx < 0 || yy < 0 || xx >= fine.w || yy >= fine.h || !fine.known[yy * fine.w + xx]) continue;
      const weight = kernel[u] * kernel[v];
      total += weight;
      for (let c = 0; c < 5; c++) sums[c] += weight * fine.img[(yy * fine.w + xx) * pixelBytes + c];
    }
  return total === 0 ? null : sums.map((s) => s / total);
}

test('what was guessed is not known to what looks at joins, on any level where a pixel shows some of it', () => {
  const [w, h] = [24, 16];
  const roles = new Uint8Array(w * h).fill(role.source);
  const guessed = [5 * w + 7, 5 * w + 8, 15 * w + 23];
  for (const p of guessed) roles[p] = role.guessed;
  const image = makeFloatImage({ x: 0, y: 0, w, h });
  const fine = makeFrame(image, roles, 2);
  expect([...fine.known].every((v) => v === 1)).toBe(true);
  const levels = [fine, shrink(fine), shrink(shrink(fine))];
  expect(withoutGuesses(levels, new Uint8Array(w * h).fill(role.source))).toBe(levels);
  for (const [halvings, frame] of withoutGuesses(levels, roles).entries()) {
    const { known } = frame;
    for (let p = 0; p < known.length; p++) {
      const shows = guessed.some(
        (q) =>
          (q % w) >> halvings === p % frame.w && Math.floor(q / w) >> halvings === Math.floor(p / frame.w),
      );
      expect(known[p]).toBe(shows ? 0 : 1);
    }
  }
});

test('ruled ground gets coarser with its lines, and what is left without a source in it is free', () => {
  const [w, h, period] = [96, 64, 16];
  const image = makeFloatImage({ x: 0, y: 0, w, h });
  const isHole = (x: number, y: number) => x >= 40 && x < 60 && y >= 24 && y < 64;
  // A strip of its own at x = 50 to 53, seen in some rows above the hole only.
  const isOwn = (x: number) => x >= 50 && x < 53;
  const across = new Float32Array(w * h);
  const index = new Uint8Array(w * h);
  for (let y = 0, p = 0; y < h; y++)
    for (let x = 0; x < w; x++, p++) {
      const isSeen = isHole(x, y) || (y >= 20 && (!isOwn(x) || y >= 22));
      across[p] = isSeen ? x + (isOwn(x) ? 64 * farAcross : 0) : offRuledGround;
      index[p] = isSeen ? (isOwn(x) ? 2 : 1) : 0;
    }
  const roles = Uint8Array.from(index, (_, p) =>
    isHole(p % w, Math.floor(p / w)) ? role.target : role.source,
  );
  const rule = { nx: 1, ny: 0, slack: 1.5 };
  const list = [
    { ...rule, period },
    { ...rule, period: 0 },
  ];
  let frame = makeFrame(image, roles, 2, { index, list, across });
  const rulesOf = () =>
    new Set([...frame.hole.keys()].filter((p) => frame.hole[p]).map((p) => frame.rules!.index[p]));
  expect(rulesOf()).toEqual(new Set([1, 2]));
  for (const wanted of [8, 4]) {
    frame = shrink(frame);
    expect(frame.rules!.list[0].period).toBe(wanted);
    for (let p = 0; p < frame.hole.length; p++) {
      const k = frame.hole[p] ? frame.rules!.index[p] : 0;
      if (k === 0) continue;
      const shifts = Array.from({ length: frame.w * frame.h }, (_, q) => [
        (q % frame.w) - (p % frame.w),
        Math.floor(q / frame.w) - Math.floor(p / frame.w),
      ]);
      expect(shifts.some(([dx, dy]) => mayTake(frame, p, dx, dy))).toBe(true);
    }
  }
  // Two rows of four pixels make none of the coarser ones whole.
  expect(rulesOf()).toEqual(new Set([0, 1]));
});

test('a coarser level’s views are half as far apart, and its places count in its own pixels', () => {
  const [w, h] = [24, 32];
  const image = noisy(w, h, 2);
  const place = (x: number, y: number) => (y < 16 ? [x, y] : [w - 1 - x, y - 16]);
  const places = Array.from({ length: w * h }, (_, p) => place(p % w, Math.floor(p / w)));
  const [x, y] = [0, 1].map((k) => Float32Array.from(places, (at) => at[k]));
  let frame = makeFrame(image, new Uint8Array(w * h).fill(role.source), 2, null, {
    x,
    y,
    stride: 16,
    apart: 8,
  });
  for (const [stride, apart] of [
    [8, 4],
    [4, 3],
  ]) {
    frame = shrink(frame);
    const { views, w: half } = frame;
    expect([views!.stride, views!.apart]).toEqual([stride, apart]);
    for (let p = 0; p < half * frame.h; p++) {
      const [u, v] = [p % half, Math.floor(p / half)];
      const by = w / half;
      const middle = (k: number) => (k + 0.5) * by - 0.5;
      const [px, py] = place(middle(u), middle(v));
      expect(views!.x[p]).toBeCloseTo(px / by, 4);
      expect(views!.y[p]).toBeCloseTo(py / by, 4);
    }
  }
});

test('what keeps to a rule is free once all that serves it is taken out of the sources', () => {
  const [w, h] = [32, 24];
  const roles = new Uint8Array(w * h).fill(role.source);
  for (let y = 8; y < 16; y++) roles.fill(role.target, y * w + 12, y * w + 20);
  const isServing = (p: number) => p % w >= 26;
  const across = Float32Array.from(roles, (is, p) =>
    is === role.target || isServing(p) ? 5 : offRuledGround,
  );
  const list = [{ nx: 0, ny: 0, slack: 1, period: 0 }];
  const rules = { index: new Uint8Array(w * h).fill(1), list, across };
  const fine = makeFrame(noisy(w, h, 2), roles, 1, rules);
  const levels = [fine, shrink(fine)];
  const held = (frame: Frame) => frame.hole.filter((v, p) => v && frame.rules!.index[p] === 1).length;
  expect(levels.map(held)).toEqual([64, 16]);
  const some = fine.source.map((_, p) => (isServing(p) && p < 12 * w ? 1 : 0));
  expect(withoutSources(levels, 0, some, 1).map(held)).toEqual([64, 16]);
  const all = fine.source.map((_, p) => (isServing(p) ? 1 : 0));
  expect(withoutSources(levels, 0, all, 1).map(held)).toEqual([0, 0]);
  // What was given stays as it is.
  expect(levels.map(held)).toEqual([64, 16]);
});
