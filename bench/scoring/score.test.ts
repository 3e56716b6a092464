import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../src/core/random';
import type { Raster } from '../../src/core/raster';
import { paintPhoto } from '../../src/core/testing/pictures';
import { labOf } from './lab';
import { laplacianBands } from './pyramid';
import { score } from './score';

const w = 160;
const h = 120;
const random = makeRandom(3);
/** A texture that is the same kind everywhere. */
const truth = paintPhoto(w, h, 8, (x, y) => {
  const v = 0.5 + 0.15 * Math.sin(x / 2.3 + Math.sin(y / 4)) + 0.1 * (random.next() - 0.5);
  return [v, v * 0.9, 0.3 + 0.3 * v];
});
const inside = new Uint8Array(w * h);
for (let y = 40; y < 80; y++) inside.fill(1, y * w + 50, y * w + 100);

const changed = (change: (data: Uint8Array, i: number, x: number, y: number) => void): Raster => {
  const data = Uint8Array.from(truth.data);
  inside.forEach((v, i) => {
    if (v) change(data, 4 * i, i % w, Math.floor(i / w));
  });
  return { ...truth, data };
};

describe('score', () => {
  test('the truth itself is perfect', () => {
    const s = score(truth, truth, inside);
    expect(s).toEqual({ psnr: Number.POSITIVE_INFINITY, ssim: 1, tex: 0, sharp: 0, seam: 0 });
  });

  test('a flat patch is far off in texture, soft, and low in similarity', () => {
    const s = score(
      changed((d, i) => d.fill(128, i, i + 3)),
      truth,
      inside,
    );
    expect(s.tex).toBeGreaterThan(0.3);
    expect(s.sharp).toBeLessThan(-0.5);
    expect(s.ssim).toBeLessThan(0.6);
  });

  test('added grain is sharper than the truth, by about the right octaves', () => {
    const s = score(
      changed((d, i) => d.fill(Math.max(0, Math.min(255, d[i] + 60 * (random.next() - 0.5))), i, i + 3)),
      truth,
      inside,
    );
    expect(s.sharp).toBeGreaterThan(0.5);
  });

  test('the same texture elsewhere has a small texture distance but a poor PSNR', () => {
    const s = score(
      changed((d, i, x, y) =>
        d.set(truth.data.subarray(4 * ((y - 37) * w + x - 41), 4 * ((y - 37) * w + x - 41) + 3), i),
      ),
      truth,
      inside,
    );
    const flat = score(
      changed((d, i) => d.set([140, 130, 110], i)),
      truth,
      inside,
    );
    expect(s.tex).toBeLessThan(flat.tex / 2);
    expect(Math.abs(s.sharp)).toBeLessThan(0.25);
  });

  test('a tone step shows as a seam', () => {
    expect(
      score(
        changed((d, i) => d.set([d[i] + 60, d[i + 1] + 60, d[i + 2] + 60], i)),
        truth,
        inside,
      ).seam,
    ).toBeGreaterThan(0.2);
  });
});

test('lightness of white, black and mid grey are as CIE says', () => {
  const photo = paintPhoto(3, 1, 8, (x) =>
    x === 0 ? [1, 1, 1] : x === 1 ? [0, 0, 0] : [119 / 255, 119 / 255, 119 / 255],
  );
  const { planes } = labOf(photo, 0, 0, 3, 1);
  expect(planes[0][0]).toBeCloseTo(100, 2);
  expect(planes[0][1]).toBeCloseTo(0, 5);
  expect(planes[0][2]).toBeCloseTo(50.03, 1);
  expect(Math.abs(planes[1][2])).toBeLessThan(0.02);
});

test('a constant has no bands but its residual; bands of an impulse are fine first', () => {
  const flat = laplacianBands(new Float32Array(400).fill(7), new Uint8Array(400).fill(1), 20, 20, 3);
  expect(flat.slice(0, 3).every((b) => b.data.every((v) => Math.abs(v) < 1e-5))).toBe(true);
  expect(flat[3].data[0]).toBeCloseTo(7);
  const impulse = new Float32Array(400);
  impulse[210] = 1;
  const energy = laplacianBands(impulse, new Uint8Array(400).fill(1), 20, 20, 3).map((b) =>
    b.data.reduce((n, v) => n + v * v, 0),
  );
  expect(energy[0]).toBeGreaterThan(energy[1]);
});
