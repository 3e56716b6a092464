import { expect, test } from 'vitest';
import { pixelBytes } from '../frame';
import { boxHole, frameOf, grainy, picture } from '../testing';
import { rimShifts } from './rim-shifts';

test('on a pattern that repeats, the shifts are whole periods', () => {
  const [w, h] = [150, 110];
  const { data } = grainy(24, 18, 7);
  const image = picture(w, h, (x, y) => {
    const i = 4 * ((y % 18) * 24 + (x % 24));
    return [data[i], data[i + 1], data[i + 2]];
  });
  const shifts = rimShifts(frameOf(image, boxHole(w, h, 50, 40, 40, 30)), 6);
  expect(shifts.length).toBe(6);
  for (const { dx, dy } of shifts) expect([dx % 24, dy % 18].map(Math.abs)).toEqual([0, 0]);
});

test('the first one is the best there is, as looking at every rim pixel at every shift shows', () => {
  const [w, h] = [60, 44];
  const frame = frameOf(grainy(w, h, 3), boxHole(w, h, 24, 18, 12, 8));
  const rim: number[] = [];
  for (let y = 15; y < 29; y++)
    for (let x = 21; x < 39; x++) {
      const [across, down] = [Math.max(24 - x, x - 35, 0), Math.max(18 - y, y - 25, 0)];
      if (!frame.hole[y * w + x] && across ** 2 + down ** 2 <= 9) rim.push(y * w + x);
    }
  const cost = (dx: number, dy: number) => {
    let [sum, seen] = [0, 0];
    for (const p of rim) {
      const [x, y] = [(p % w) + dx, Math.floor(p / w) + dy];
      if (x < 0 || y < 0 || x >= w || y >= h || frame.hole[y * w + x]) continue;
      seen++;
      let d = 0;
      for (let c = 0; c < 5; c++)
        d += (frame.img[p * pixelBytes + c] - frame.img[(y * w + x) * pixelBytes + c]) ** 2;
      sum += Math.min(d, 3000);
    }
    return seen >= rim.length / 2 ? sum / seen : Number.POSITIVE_INFINITY;
  };
  const served = (dx: number, dy: number) => {
    let n = 0;
    for (let y = 18; y < 26; y++)
      for (let x = 24; x < 36; x++) {
        const [u, v] = [x + dx, y + dy];
        if (u >= 0 && v >= 0 && u < w && v < h && frame.source[v * w + u]) n++;
      }
    return n / 96;
  };
  let least = Number.POSITIVE_INFINITY;
  for (let dy = -h; dy <= h; dy++)
    for (let dx = -w; dx <= w; dx++) if (served(dx, dy) > 0.6) least = Math.min(least, cost(dx, dy));
  const shifts = rimShifts(frame, 10);
  expect(cost(shifts[0].dx, shifts[0].dy)).toBeLessThanOrEqual(least * 1.0001);
  for (const { dx, dy } of shifts) expect(served(dx, dy)).toBeGreaterThan(0.4);
});

test('where nothing may be drawn from there are none', () => {
  const frame = frameOf(grainy(40, 30, 3), boxHole(40, 30, 10, 10, 12, 8));
  expect(rimShifts({ ...frame, source: new Uint8Array(1200) }, 10)).toEqual([]);
  expect(rimShifts({ ...frame, hole: new Uint8Array(1200) }, 10)).toEqual([]);
});

test('along a rule, all keep to it', () => {
  const frame = frameOf(grainy(120, 90, 5), boxHole(120, 90, 50, 35, 20, 16));
  const [nx, ny] = [-Math.sin(0.4), Math.cos(0.4)];
  const index = new Uint8Array(120 * 90).fill(1);
  const rules = { index, list: [{ nx, ny, slack: 0.75, period: null }], across: null };
  const shifts = rimShifts({ ...frame, rules }, 12, 1);
  expect(shifts.length).toBeGreaterThan(4);
  for (const { dx, dy } of shifts) expect(Math.abs(nx * dx + ny * dy)).toBeLessThanOrEqual(0.75);
});

test('on ruled ground, all lie whole periods across its lines, to several of them', () => {
  const [w, h, period] = [150, 90, 11.5];
  const hole = boxHole(w, h, 50, 35, 40, 20);
  const frame = frameOf(grainy(w, h, 5), hole);
  const across = Float32Array.from({ length: w * h }, (_, p) => p % w);
  const index = hole.map((v, p) => (v && p % w < 70 ? 2 : 0));
  const free = { nx: 0, ny: 1, slack: 1, period: null };
  const list = [free, { nx: 1, ny: 0, slack: 0.75, period }];
  const rules = { index, list, across };
  const shifts = rimShifts({ ...frame, rules }, 12, 2);
  expect(shifts.length).toBeGreaterThan(4);
  for (const { dx } of shifts)
    expect(Math.abs(dx - period * Math.round(dx / period))).toBeLessThanOrEqual(0.75);
  expect(new Set(shifts.map(({ dx }) => Math.round(dx / period))).size).toBeGreaterThan(1);
});
