import fc from 'fast-check';
import { expect, test } from 'vitest';
import { edgesWasm, instantiateKernel } from '../../../kernels';
import { makeRandom } from '../../../random';
import type { EdgeKernel } from './points';

const k = instantiateKernel<EdgeKernel>(edgesWasm);
const floats = (at: number, n: number) => new Float32Array(k.memory.buffer, at, n);
const bytes = (at: number, n: number) => new Uint8Array(k.memory.buffer, at, n);

const [context, source, target] = [1, 2, 3];
const sizes = fc.record({
  seed: fc.integer({ min: 1, max: 1e6 }),
  w: fc.integer({ min: 5, max: 23 }),
  h: fc.integer({ min: 5, max: 19 }),
});

test('a smaller picture has the mean luma of what is known, and tells where any is to be filled', () => {
  fc.assert(
    fc.property(sizes, fc.integer({ min: 1, max: 4 }), ({ seed, w, h }, scale) => {
      k.release();
      const random = makeRandom(seed);
      // A last row and column that make no whole square are left out.
      const [pw, ph] = [w * scale + (scale - 1), h * scale + (scale - 1)];
      const picture = Float32Array.from({ length: 4 * pw * ph }, () => random.next());
      const roles = Uint8Array.from(
        { length: pw * ph },
        () => [source, source, source, context, target, 0][random.below(6)],
      );
      const [pictureAt, rolesAt] = [k.claim(picture.byteLength), k.claim(pw * ph)];
      const [lumaAt, knownAt, holeAt] = [k.claim(4 * w * h), k.claim(w * h), k.claim(w * h)];
      floats(pictureAt, picture.length).set(picture);
      bytes(rolesAt, roles.length).set(roles);
      k.reduce(pictureAt, rolesAt, pw, scale, w, h, lumaAt, knownAt, holeAt);
      for (let y = 0; y < h; y++)
        for (let x = 0; x < w; x++) {
          const own = Array.from(
            { length: scale * scale },
            (_, i) => (y * scale + Math.floor(i / scale)) * pw + x * scale + (i % scale),
          );
          const isKnown = own.every((p) => roles[p] === source || roles[p] === context);
          const mean =
            own.reduce(
              (sum, p) =>
                sum + 76.2 * picture[4 * p] + 149.7 * picture[4 * p + 1] + 29.1 * picture[4 * p + 2],
              0,
            ) / own.length;
          const i = y * w + x;
          expect(bytes(knownAt, w * h)[i]).toBe(isKnown ? 1 : 0);
          expect(bytes(holeAt, w * h)[i]).toBe(own.some((p) => roles[p] === target) ? 1 : 0);
          expect(floats(lumaAt, w * h)[i]).toBeCloseTo(isKnown ? mean : 0, 3);
        }
    }),
    { numRuns: 40 },
  );
});

test('gradients are those of Sobel’s weights, where all nine pixels are known and the hole is near', () => {
  fc.assert(
    fc.property(sizes, fc.integer({ min: 1, max: 3 }), ({ seed, w, h }, every) => {
      k.release();
      const random = makeRandom(seed);
      const n = w * h;
      const luma = Float32Array.from({ length: n }, () => 255 * random.next());
      const known = Uint8Array.from({ length: n }, () => (random.below(12) === 0 ? 0 : 1));
      const distance = Float32Array.from({ length: n }, () => 100 * random.next());
      const farthest = 70;
      const [lumaAt, knownAt, distanceAt] = [k.claim(4 * n), k.claim(n), k.claim(4 * n)];
      const [gxAt, gyAt, sizeAt, someAt] = [1, 2, 3, 4].map(() => k.claim(4 * n));
      floats(lumaAt, n).set(luma);
      bytes(knownAt, n).set(known);
      floats(distanceAt, n).set(distance);
      const taken = k.gradients(
        lumaAt,
        knownAt,
        distanceAt,
        w,
        h,
        farthest,
        every,
        gxAt,
        gyAt,
        sizeAt,
        someAt,
      );
      const found: number[] = [];
      for (let y = 0; y < h; y++)
        for (let x = 0; x < w; x++) {
          const p = y * w + x;
          const isInner = x > 0 && y > 0 && x < w - 1 && y < h - 1;
          const steps = [-1, 0, 1].flatMap((v) => [-1, 0, 1].map((u) => [u, v] as const));
          const isFound =
            isInner && distance[p] <= farthest && steps.every(([u, v]) => known[p + v * w + u] === 1);
          if (!isFound) {
            expect(floats(sizeAt, n)[p]).toBe(0);
            continue;
          }
          const sum = (weigh: (u: number, v: number) => number) =>
            steps.reduce((s, [u, v]) => s + weigh(u, v) * luma[p + v * w + u], 0) / 8;
          const across = sum((u, v) => u * (2 - Math.abs(v)));
          const down = sum((u, v) => v * (2 - Math.abs(u)));
          expect(floats(gxAt, n)[p]).toBeCloseTo(across, 3);
          expect(floats(gyAt, n)[p]).toBeCloseTo(down, 3);
          expect(floats(sizeAt, n)[p]).toBeCloseTo(Math.hypot(across, down), 3);
          found.push(floats(sizeAt, n)[p]);
        }
      const wanted = found.filter((_, i) => i % every === 0);
      expect(taken).toBe(wanted.length);
      expect([...floats(someAt, taken)]).toEqual(wanted);
    }),
    { numRuns: 40 },
  );
});

test('a ridge is found between pixels where a soft edge lies, whatever its direction', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 359 }),
      fc.integer({ min: -40, max: 40 }),
      (degrees, hundredths) => {
        k.release();
        const [w, h] = [31, 29];
        const n = w * h;
        const [nx, ny] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
        const off = (x: number, y: number) => nx * (x - 15) + ny * (y - 14) - hundredths / 100;
        // The gradient of an edge as a lens leaves it: largest on the edge.
        const [gxAt, gyAt, sizeAt, outAt] = [k.claim(4 * n), k.claim(4 * n), k.claim(4 * n), k.claim(32 * n)];
        for (let y = 0, p = 0; y < h; y++)
          for (let x = 0; x < w; x++, p++) {
            const size = 30 * Math.exp(-(off(x, y) ** 2) / 4);
            floats(gxAt, n)[p] = size * nx;
            floats(gyAt, n)[p] = size * ny;
            floats(sizeAt, n)[p] = size;
          }
        const count = k.ridges(w, h, 20, gxAt, gyAt, sizeAt, outAt);
        expect(count).toBeGreaterThan(15);
        const points = new Float64Array(k.memory.buffer, outAt, 4 * count);
        for (let i = 0; i < count; i++) {
          expect(Math.abs(off(points[4 * i], points[4 * i + 1]))).toBeLessThan(0.35);
          expect(Math.atan2(points[4 * i + 3], points[4 * i + 2])).toBeCloseTo(Math.atan2(ny, nx), 5);
        }
        expect(k.ridges(w, h, 31, gxAt, gyAt, sizeAt, outAt)).toBe(0);
      },
    ),
    { numRuns: 60 },
  );
});
