import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { type FloatImage, makeFloatImage } from '../../raster';
import { computeFill, type FillResult } from './compute';
import { makeFrame, pixelBytes, shrink, targetCentres, usableCentres } from './frame';
import { cutSeams, frequentShifts } from './seam-cut';
import { PatchSearch } from './search';

function picture(
  w: number,
  h: number,
  at: (x: number, y: number) => readonly [number, number, number],
): FloatImage {
  const image = makeFloatImage({ x: 0, y: 0, w, h });
  for (let y = 0, i = 0; y < h; y++) for (let x = 0; x < w; x++, i += 4) image.data.set([...at(x, y), 1], i);
  return image;
}

function boxHole(w: number, h: number, x0: number, y0: number, bw: number, bh: number): Uint8Array {
  const hole = new Uint8Array(w * h);
  for (let y = y0; y < y0 + bh; y++) hole.fill(1, y * w + x0, y * w + x0 + bw);
  return hole;
}

const noisy = (w: number, h: number, seed: number) => {
  const random = makeRandom(seed);
  return picture(w, h, (x, y) => {
    const v = 0.5 + 0.15 * Math.sin(x / 7) + 0.1 * Math.cos(y / 5) + 0.1 * (random.next() - 0.5);
    return [v, v * 0.9, 0.3 + 0.2 * v];
  });
};

/** Checks every filled pixel's source. */
function checkSources(
  { map }: FillResult,
  w: number,
  h: number,
  hole: Uint8Array,
  allowed: Uint8Array | null,
): void {
  map.label.forEach((label, p) => {
    expect(label >= 0).toBe(hole[p] === 1);
    if (label < 0) return;
    const { dx, dy } = map.shifts[label];
    const x = (p % w) + dx;
    const y = Math.floor(p / w) + dy;
    const q = y * w + x;
    if (x < 0 || y < 0 || x >= w || y >= h || hole[q] || (allowed && !allowed[q]))
      throw new Error(`pixel ${p} comes from ${x}, ${y}`);
  });
}

const mostError = (image: FloatImage, wanted: FloatImage, hole: Uint8Array) => {
  let most = 0;
  hole.forEach((v, i) => {
    if (v)
      for (let c = 0; c < 3; c++)
        most = Math.max(most, Math.abs(image.data[4 * i + c] - wanted.data[4 * i + c]));
  });
  return most * 255;
};

describe('fill', () => {
  test('a constant picture is completed exactly', () => {
    const image = picture(120, 100, () => [0.25, 0.5, 0.75]);
    const hole = boxHole(120, 100, 45, 40, 30, 22);
    expect(mostError(computeFill({ image, hole, allowed: null, seed: 1 }).image, image, hole)).toBeLessThan(
      0.01,
    );
  });

  test('stripes run on in phase', () => {
    const image = picture(160, 120, (x) => (x % 16 < 8 ? [0.9, 0.8, 0.7] : [0.2, 0.25, 0.3]));
    const hole = boxHole(160, 120, 60, 40, 40, 36);
    expect(mostError(computeFill({ image, hole, allowed: null, seed: 3 }).image, image, hole)).toBeLessThan(
      1,
    );
  });

  test('a gentle gradient is completed to within a few grey levels', () => {
    const image = picture(140, 120, (x, y) => [0.3 + x / 500, 0.6 - y / 600, 0.5]);
    const hole = boxHole(140, 120, 50, 45, 32, 28);
    expect(mostError(computeFill({ image, hole, allowed: null, seed: 2 }).image, image, hole)).toBeLessThan(
      6,
    );
  });

  test('two halves keep their border straight', () => {
    const image = picture(160, 120, (_x, y) => (y < 60 ? [0.8, 0.85, 0.9] : [0.25, 0.3, 0.15]));
    const hole = boxHole(160, 120, 60, 42, 40, 36);
    const { image: out } = computeFill({ image, hole, allowed: null, seed: 4 });
    let wrong = 0;
    hole.forEach((v, i) => {
      if (v && Math.abs(out.data[4 * i] - image.data[4 * i]) > 0.2) wrong++;
    });
    expect(wrong).toBeLessThanOrEqual(40);
  });

  test('every pixel comes from an allowed place outside the hole, and nothing outside the hole is filled', () => {
    const w = 130;
    const h = 110;
    const image = noisy(w, h, 5);
    const hole = boxHole(w, h, 50, 40, 30, 30);
    const allowed = new Uint8Array(w * h);
    for (let y = 0; y < h; y++) allowed.fill(1, y * w, y * w + 48);
    const result = computeFill({ image, hole, allowed, seed: 1 });
    checkSources(result, w, h, hole, allowed);
    result.image.data.forEach((v, i) => {
      if (!hole[i >> 2] && v !== 0) throw new Error(`pixel ${i >> 2} outside the hole was written`);
    });
  });

  test('the same seed gives the same bytes, another seed another candidate', () => {
    const image = noisy(130, 110, 6);
    const hole = boxHole(130, 110, 50, 40, 34, 30);
    const a = computeFill({ image, hole, allowed: null, seed: 7 });
    computeFill({ image: noisy(90, 90, 1), hole: boxHole(90, 90, 30, 30, 20, 20), allowed: null, seed: 1 });
    const b = computeFill({ image, hole, allowed: null, seed: 7 });
    const c = computeFill({ image, hole, allowed: null, seed: 8 });
    expect(b.image.data).toEqual(a.image.data);
    expect(c.image.data).not.toEqual(a.image.data);
  });

  test.each([
    ['at the corner', boxHole(100, 90, 0, 0, 22, 18)],
    ['at the edge', boxHole(100, 90, 40, 72, 20, 18)],
    ['of one pixel', boxHole(100, 90, 50, 50, 1, 1)],
    ['in two parts', boxHole(100, 90, 10, 10, 12, 12).map((v, i) => v | boxHole(100, 90, 60, 50, 14, 9)[i])],
    ['one pixel wide', boxHole(100, 90, 10, 45, 80, 1)],
  ])('a hole %s works', (_name, hole) => {
    const image = noisy(100, 90, 8);
    const result = computeFill({ image, hole, allowed: null, seed: 1 });
    checkSources(result, 100, 90, hole, null);
    hole.forEach((v, i) => {
      if (v && result.image.data[4 * i + 3] !== 1) throw new Error(`pixel ${i} was left empty`);
    });
  });

  test('with nothing to draw from it says so and what would help', () => {
    const image = noisy(60, 60, 9);
    expect(() => computeFill({ image, hole: new Uint8Array(3600).fill(1), allowed: null, seed: 1 })).toThrow(
      /not enough/,
    );
    expect(() => computeFill({ image, hole: new Uint8Array(3600), allowed: null, seed: 1 })).toThrow(/empty/);
  });

  test('progress names the stages in order and ends whole', () => {
    const seen: string[] = [];
    let last = -1;
    computeFill(
      { image: noisy(100, 90, 8), hole: boxHole(100, 90, 30, 30, 30, 30), allowed: null, seed: 1 },
      (stage, share) => {
        if (seen[seen.length - 1] !== stage) seen.push(stage);
        last = share;
        expect(share >= 0 && share <= 1.0001).toBe(true);
      },
    );
    expect(seen).toEqual(['reading', 'searching', 'joining', 'blending']);
    expect(last).toBe(1);
  });
});

describe('patch search kernel', () => {
  const image = noisy(60, 50, 11);
  const hole = boxHole(60, 50, 22, 18, 14, 12);
  const frame = makeFrame(image, hole, null, 2);
  const radius = 4;
  const distance = (img: Uint8Array, p: number, q: number) => {
    let sum = 0;
    for (let y = -radius; y <= radius; y++)
      for (let x = -radius; x <= radius; x++)
        for (let c = 0; c < pixelBytes; c++)
          sum += (img[(p + y * 60 + x) * pixelBytes + c] - img[(q + y * 60 + x) * pixelBytes + c]) ** 2;
    return sum;
  };

  test('after some passes every source is usable and all in all nearly as good as the best of all', () => {
    const search = new PatchSearch(frame, radius, makeRandom(1));
    search.peel();
    search.improve(8, 60);
    const sources = search.sources();
    const usable = [...usableCentres(frame, radius).entries()].filter(([, v]) => v).map(([i]) => i);
    const img = search.picture();
    let got = 0;
    let least = 0;
    const targets = targetCentres(frame, radius);
    targets.forEach((p, k) => {
      expect(search.usable[sources[p]]).toBe(1);
      if (k % 12) return;
      got += Math.sqrt(distance(img, p, sources[p]));
      least += Math.sqrt(usable.reduce((n, q) => Math.min(n, distance(img, p, q)), Infinity));
    });
    expect(got).toBeLessThan(least * 1.03);
  });

  test('votes are the weighted mean of what the patches say', () => {
    const search = new PatchSearch(frame, radius, makeRandom(2));
    search.peel();
    const sources = search.sources();
    const before = search.picture();
    search.vote(true);
    const after = search.picture();
    const [q] = [frame.hole.indexOf(1)];
    const depthOf = (p: number) => {
      let d = Infinity;
      frame.hole.forEach((v, i) => {
        if (!v) d = Math.min(d, ((p % 60) - (i % 60)) ** 2 + (Math.floor(p / 60) - Math.floor(i / 60)) ** 2);
      });
      return Math.sqrt(d);
    };
    let sum = 0;
    let total = 0;
    for (let y = -radius; y <= radius; y++)
      for (let x = -radius; x <= radius; x++) {
        const t = q + y * 60 + x;
        if (sources[t] < 0) continue;
        const weight = 1.3 ** -Math.min(60, depthOf(t));
        sum += weight * before[(sources[t] - y * 60 - x) * pixelBytes];
        total += weight;
      }
    expect(Math.abs(after[q * pixelBytes] - sum / total)).toBeLessThanOrEqual(0.51);
  });
});

describe('seam cut', () => {
  test('finds the best labelling of a small hole, as trying all of them shows', () => {
    const image = noisy(40, 30, 13);
    const hole = boxHole(40, 30, 18, 14, 3, 3);
    const frame = makeFrame(image, hole, null, 2);
    const shifts = [
      { dx: -9, dy: 0 },
      { dx: 8, dy: 3 },
    ];
    const holes = [...hole.keys()].filter((i) => hole[i]);
    const label = new Int32Array(1200).fill(-1);
    for (const p of holes) label[p] = 0;
    const cut = cutSeams(frame, { shifts, label }, null, 3, () => true);
    const colour = (p: number, l: number) =>
      frame.img.subarray(
        (p + shifts[l].dy * 40 + shifts[l].dx) * pixelBytes,
        (p + shifts[l].dy * 40 + shifts[l].dx) * pixelBytes + 3,
      );
    const jump = (a: Uint8Array, b: Uint8Array) =>
      Math.abs(a[0] - b[0]) + Math.abs(a[1] - b[1]) + Math.abs(a[2] - b[2]);
    const energy = (of: (p: number) => number) => {
      let sum = 0;
      for (const p of holes) {
        for (const q of [p - 1, p + 1, p - 40, p + 40])
          if (!hole[q]) sum += jump(frame.img.subarray(q * pixelBytes, q * pixelBytes + 3), colour(q, of(p)));
        for (const q of [p + 1, p + 40])
          if (hole[q] && of(p) !== of(q))
            sum += jump(colour(p, of(p)), colour(p, of(q))) + jump(colour(q, of(p)), colour(q, of(q)));
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
    const frame = makeFrame(image, hole, null, 2);
    const shifts = [
      { dx: -16, dy: 0 },
      { dx: 18, dy: 0 },
      { dx: 0, dy: 13 },
    ];
    const label = Int32Array.from(hole, (v) => (v ? 0 : -1));
    const cut = cutSeams(frame, { shifts, label }, null, 2, (p, l) => l === 0 || (l === 1 && p % 60 > 26));
    cut.label.forEach((l, p) => {
      if (l === 2 || (l === 1 && p % 60 <= 26)) throw new Error(`label ${l} at ${p}`);
    });
  });

  test('frequent shifts come most frequent first, near twins left out', () => {
    const frame = makeFrame(noisy(50, 40, 15), boxHole(50, 40, 10, 10, 10, 10), null, 2);
    const sources = new Int32Array(2000).fill(-1);
    for (let y = 10; y < 20; y++)
      for (let x = 10; x < 20; x++) sources[y * 50 + x] = y * 50 + x + (y < 16 ? 20 : y < 19 ? 21 : 15);
    expect(frequentShifts(frame, sources, 5)).toEqual([
      { dx: 20, dy: 0 },
      { dx: 15, dy: 0 },
    ]);
  });
});

test('a coarser level knows only known pixels: the hole’s colours do not leak', () => {
  const image = picture(32, 32, (x) => (x < 16 ? [0.5, 0.5, 0.5] : [1, 0, 0]));
  const hole = boxHole(32, 32, 16, 0, 16, 32);
  const coarse = shrink(makeFrame(image, hole, null, 2));
  for (let y = 0; y < 16; y++)
    for (let x = 0; x < 8; x++) expect(coarse.img[(y * 16 + x) * pixelBytes]).toBe(128);
});
