import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import { keepsRule, offRuledGround, pixelBytes, targetCentres, usableCentres } from '../frame';
import { shrink } from '../levels';
import { boxHole, frameOf, grainy, noisy, picture } from '../testing';
import { PatchSearch } from './patch-search';

describe('patch search kernel', () => {
  const image = noisy(60, 50, 11);
  const hole = boxHole(60, 50, 22, 18, 14, 12);
  const frame = frameOf(image, hole);
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

  test('between a smooth source and a textured one that are equally far, the textured one is taken', () => {
    // Left of the hole even grey, right of it stripes about the same grey; in the hole fainter stripes, half-way.
    const [w, h] = [80, 40];
    const stripes = (x: number, y: number) => (((x >> 1) + y) & 1 ? 1 : -1);
    const halves = picture(w, h, (x, y) => {
      const v = 0.5 + (x > 44 ? 0.12 * stripes(x, y) : 0);
      return [v, v, v];
    });
    const middle = boxHole(w, h, 36, 16, 8, 8);
    const of = frameOf(halves, middle);
    const search = new PatchSearch(of, radius, makeRandom(1));
    const img = search.picture();
    for (let p = 0; p < w * h; p++) {
      const faint = Math.round(255 * (0.5 + 0.06 * stripes(p % w, Math.floor(p / w))));
      if (middle[p]) img.set([faint, faint, faint, 0, 0], p * pixelBytes);
      else img.fill(0, p * pixelBytes + 3, (p + 1) * pixelBytes);
    }
    search.setPicture(img);
    const sources = new Int32Array(w * h).fill(-1);
    for (const p of search.targets) sources[p] = 20 * w + 20;
    search.setSources(sources);
    search.improve(12, 80);
    const found = search.sources();
    const inner = 20 * w + 40;
    expect(found[inner] % w).toBeGreaterThan(44);
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

test('a coarser level knows only known pixels: the hole’s colours do not leak', () => {
  const image = picture(32, 32, (x) => (x < 16 ? [0.5, 0.5, 0.5] : [1, 0, 0]));
  const hole = boxHole(32, 32, 16, 0, 16, 32);
  const coarse = shrink(frameOf(image, hole));
  for (let y = 0; y < 16; y++)
    for (let x = 0; x < 8; x++) expect(coarse.img[(y * 16 + x) * pixelBytes]).toBe(128);
});

test('on ruled ground every source lies whole periods across its lines, and in it', () => {
  const [w, h, period] = [120, 80, 14.5];
  const hole = boxHole(w, h, 45, 25, 30, 30);
  const across = Float32Array.from({ length: w * h }, (_, p) =>
    Math.floor(p / w) < 60 ? (p % w) + 0.3 * Math.floor(p / w) : offRuledGround,
  );
  const index = hole.map((v, p) => (v || across[p] < offRuledGround ? 1 : 0));
  const rules = { index, list: [{ nx: 0.96, ny: 0.29, slack: 1, period }], across };
  const frame = { ...frameOf(grainy(w, h, 8), hole), rules };
  const search = new PatchSearch(frame, 3, makeRandom(2));
  search.peel();
  search.improve(6, 60);
  const sources = search.sources();
  const periods = new Set<number>();
  for (const p of search.targets) {
    const q = sources[p];
    if (q < 0 || index[p] === 0) continue;
    expect(keepsRule(frame, p, q)).toBe(true);
    expect(Math.floor(q / w)).toBeLessThan(60);
    periods.add(Math.round((across[q] - across[p]) / period));
  }
  expect(periods.size).toBeGreaterThan(2);
});
