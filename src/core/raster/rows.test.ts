import fc from 'fast-check';
import { expect, test } from 'vitest';
import { makeRandom } from '../random';
import { LentImages, makeFloatImage, makeRaster, mostAtOnce, quantise, readRaster, rows, rowsOf } from '.';

const depths = [8, 16] as const;
const places = fc.record({
  seed: fc.integer({ min: 1, max: 1e6 }),
  x: fc.integer({ min: 0, max: 9 }),
  y: fc.integer({ min: 0, max: 4 }),
  w: fc.integer({ min: 1, max: 40 }),
  h: fc.integer({ min: 1, max: 9 }),
});

test.each(depths)('%i-bit pixels are read as plain code reads them, of any part', (depth) => {
  const most = depth === 8 ? 255 : 65535;
  fc.assert(
    fc.property(places, ({ seed, x, y, w, h }) => {
      const random = makeRandom(seed);
      const photo = makeRaster(50, 14, 4, depth);
      for (let i = 0; i < photo.data.length; i++)
        photo.data[i] = i % 4 === 3 && random.below(2) ? most : random.below(most + 1);
      const image = makeFloatImage({ x, y, w, h });
      readRaster(photo, image.rect, image);
      for (let i = 0; i < w * h; i++) {
        const p = 4 * ((y + Math.floor(i / w)) * 50 + x + (i % w));
        const a = photo.data[p + 3] / most;
        const expected = [0, 1, 2].map((c) => Math.fround((photo.data[p + c] / most) * a));
        expect([...image.data.subarray(4 * i, 4 * i + 4)]).toEqual([...expected, Math.fround(a)]);
      }
    }),
    { numRuns: 40 },
  );
});

test.each(depths)('%i-bit pixels are written as plain code writes them, whatever the floats are', (depth) => {
  const most = depth === 8 ? 255 : 65535;
  const rounded = (v: number) => (v + 0.5 >= most ? most : v + 0.5 > 0 ? Math.floor(v + 0.5) : 0);
  fc.assert(
    fc.property(places, ({ seed, x, y, w, h }) => {
      const random = makeRandom(seed);
      const image = makeFloatImage({ x: 0, y: 0, w: 50, h: 14 });
      for (let p = 0; p < image.data.length; p += 4) {
        const a = [1, random.next(), 0, 1.5][random.below(4)];
        image.data.set([...Array.from({ length: 3 }, () => 1.2 * random.next() - 0.1), a], p);
        // Halves between two values, which floats hold exactly.
        if (random.below(3) === 0) image.data.set([0.5 / most, 2.5 / most, 0.5, 1], p);
      }
      image.data[4 * random.below(700)] = Number.NaN;
      const into = makeRaster(60, 20, 4, depth);
      quantise(image, { x, y, w, h }, into, { x: -3, y: -2 });
      let written = 0;
      for (let i = 0; i < w * h; i++) {
        const [u, v] = [x + (i % w), y + Math.floor(i / w)];
        const from = 4 * (v * 50 + u);
        const to = 4 * ((v + 2) * 60 + u + 3);
        const a = image.data[from + 3];
        const k = a >= 1 ? most : a > 0 ? most / a : 0;
        for (let c = 0; c < 3; c++) expect(into.data[to + c]).toBe(rounded(image.data[from + c] * k));
        expect(into.data[to + 3]).toBe(rounded(a * most));
        written++;
      }
      const others = makeRaster(60, 20, 4, depth);
      quantise(image, { x: 0, y: 0, w: 0, h: 0 }, others, { x: 0, y: 0 });
      expect(others.data.every((v) => v === 0)).toBe(true);
      expect(written).toBe(w * h);
    }),
    { numRuns: 40 },
  );
});

test('opaque floats nearest to a half between two bytes are written as plain code writes them', () => {
  const halves = Array.from({ length: 256 }, (_, k) => Math.fround((k - 0.5) / 255));
  const spacing = 2 ** -24;
  const floats = halves.flatMap((v) =>
    [-2, -1, 0, 1, 2].map((n) => Math.fround(v + n * spacing * Math.max(v, 0.002))),
  );
  const w = floats.length;
  const image = makeFloatImage({ x: 0, y: 0, w, h: 1 });
  floats.forEach((v, k) => {
    image.data.set([v, floats[w - 1 - k], 0.25, 1], 4 * k);
  });
  const into = makeRaster(w, 1, 4, 8);
  quantise(image, image.rect, into, { x: 0, y: 0 });
  floats.forEach((v, k) => {
    const byte = Math.max(0, Math.min(255, Math.floor(255 * v + 0.5)));
    expect([into.data[4 * k], into.data[4 * (w - 1 - k) + 1], into.data[4 * k + 3]]).toEqual([
      byte,
      byte,
      255,
    ]);
  });
});

test('rows that are longer than what is handed over at once come out whole', () => {
  const w = 2 * mostAtOnce + 37;
  const random = makeRandom(5);
  const photo = makeRaster(w, 3, 4, 8);
  for (let i = 0; i < photo.data.length; i++) photo.data[i] = i % 4 === 3 ? 255 : random.below(256);
  const image = makeFloatImage({ x: 0, y: 0, w, h: 3 });
  readRaster(photo, image.rect, image);
  const back = makeRaster(w, 3, 4, 8);
  quantise(image, image.rect, back, { x: 0, y: 0 });
  expect(back.data).toEqual(photo.data);
});

test('the parts of a rectangle are its pixels, once each, and together only what lies together in memory', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 3 * mostAtOnce }),
      fc.integer({ min: 1, max: 12 }),
      fc.integer({ min: 0, max: 1 }),
      (w, h, beyond) => {
        const rect = { x: 3, y: 2, w, h };
        const image = { x: 3, y: 0, w: w + beyond, h: h + 5 };
        const parts = [...rowsOf(rect, image)];
        expect(parts.reduce((sum, p) => sum + p.w * p.h, 0)).toBe(w * h);
        let [x, y] = [rect.x, rect.y];
        for (const part of parts) {
          expect([part.x, part.y]).toEqual([x, y]);
          expect(part.w * part.h).toBeLessThanOrEqual(mostAtOnce);
          if (part.h > 1) expect([beyond, part.w]).toEqual([0, w]);
          x += part.w;
          if (x === rect.x + w) [x, y] = [rect.x, y + part.h];
        }
        if (beyond === 0 && w * h <= mostAtOnce) expect(parts).toEqual([rect]);
      },
    ),
    { numRuns: 60 },
  );
});

test('lent images keep what is in them until all are given back, however much is lent', () => {
  const lent = new LentImages();
  for (let round = 0; round < 3; round++) {
    const images = Array.from({ length: 20 }, (_, k) => lent.lend({ x: 0, y: 0, w: 5 + k, h: 4 }));
    images.forEach(({ data }, k) => {
      data.fill(k);
    });
    images.forEach(({ data, rect }, k) => {
      expect(data.length).toBe(4 * rect.w * rect.h);
      expect(data.every((v) => v === k)).toBe(true);
    });
    lent.giveBack();
  }
  // From then on all have room in the same memory.
  const again = [lent.lend({ x: 0, y: 0, w: 9, h: 9 }), lent.lend({ x: 0, y: 0, w: 9, h: 9 })];
  expect(again[0].data.buffer).toBe(again[1].data.buffer);
});

test.each([1, 15, 16, 100, mostAtOnce])(
  '%i points are free where they are covered, however little, else fixed',
  (n) => {
    const random = makeRandom(n);
    const r = rows();
    const coverage = Float32Array.from(
      { length: n },
      () => [0, -0.1, 1e-30, random.next(), 1][random.below(5)],
    );
    r.coverage.set(coverage);
    r.kernel.covered(r.coverage.byteOffset, n, r.valid.byteOffset);
    expect([...r.valid.subarray(0, n)]).toEqual([...coverage].map((v) => (v > 0 ? 1 : 2)));
  },
);

test('a field is added where pixels are free, as plain code adds it, and colours stay between black and their alpha', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 1e6 }),
      fc.double({ min: 0, max: 1, noNaN: true }),
      (seed, share) => {
        const random = makeRandom(seed);
        const n = 1 + random.below(60);
        const numbers = (least: number, most: number) =>
          Float32Array.from({ length: 4 * n }, () => least + (most - least) * random.next());
        const [pixels, field] = [numbers(0, 1), numbers(-1, 1)];
        const kind = Uint8Array.from({ length: n }, () => random.below(3));
        const expected = pixels.map((own, i) => {
          if (kind[i >> 2] !== 1 || i % 4 === 3) return own;
          return Math.max(0, Math.min(pixels[i | 3], own + share * field[i]));
        });
        const r = rows();
        r.pixels.set(pixels);
        r.others.set(field);
        r.valid.set(kind);
        r.kernel.add(r.pixels.byteOffset, r.others.byteOffset, r.valid.byteOffset, n, share);
        expect([...r.pixels.subarray(0, 4 * n)]).toEqual([...expected]);
      },
    ),
    { numRuns: 60 },
  );
});
