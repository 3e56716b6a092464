import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { boundsOf } from '../../raster';
import { grainyPhotos, paintPhoto } from '../../testing/pictures';
import { seenOf } from '../seen';
import { faultsAt } from './fault';
import { sweep } from './sweep';

const grainy = grainyPhotos(5);

describe('sweep', () => {
  const specks = [
    [60, 50, 3, 0.9],
    [150, 80, 2, 0.9],
    [240, 150, 4, 0.05],
    [20, 20, 2.5, 0.9],
    [298, 60, 3, 0.9],
  ] as const;
  const photo = grainy(300, 200, (x, y) => {
    const edge = x > 190 && x < 230 ? 0.25 : 0.5;
    const at = specks.find(([sx, sy, r]) => (x - sx) ** 2 + (y - sy) ** 2 < r * r);
    const hair = Math.abs(y - 170 - 6 * Math.sin(x / 25)) < 1.2 && x > 40 && x < 160;
    const v = at ? at[3] : hair ? 0.95 : edge;
    return [v, v, v];
  });
  const seen = seenOf(photo);
  const all = { mostPx: 10, light: true, dark: true };
  const whole = { x: 0, y: 0, w: 300, h: 200 };

  test('finds each speck and the hair, and neither edges nor grain', () => {
    const faults = faultsAt(sweep(seen, all, whole, null), 45);
    for (const [x, y, , v] of specks) {
      const hit = faults.filter(
        (f) => x >= f.x - 2 && y >= f.y - 2 && x <= f.x + f.w + 2 && y <= f.y + f.h + 2,
      );
      expect(hit.length, `${x}, ${y}`).toBeGreaterThan(0);
      expect(hit[0].isDark).toBe(v < 0.5);
    }
    const hair = faults.reduce((a, b) => (b.w > a.w ? b : a));
    expect(hair.kind).toBe('line');
    expect(hair.w).toBeGreaterThan(80);
    const far = faults.filter(
      (f) =>
        f !== hair &&
        !specks.some(([x, y, r]) => Math.hypot(f.x + f.w / 2 - x, f.y + f.h / 2 - y) < r + 6) &&
        Math.abs(f.y + f.h / 2 - 170) > 14,
    );
    expect(far).toEqual([]);
  });

  test.each([
    [3, 3],
    [6, 3],
    [6, 8],
  ])('the corners of what is found go with the whole of it: slope %i, half height %i', (slope, half) => {
    const grain = makeRandom(3);
    const soft = (inside: number) => Math.min(1, Math.max(0, inside / 0.9 + 0.5));
    const strip = paintPhoto(200, 120, 8, (x, y) => {
      const low = Math.max(0, y - 60);
      const along = Math.min(x - 60 - slope * low, 130 - 2 * slope * low - x);
      const cover = soft(along) * soft(half - Math.abs(y - 60));
      const v = 0.5 + 0.45 * cover + 0.02 * (grain.next() - 0.5);
      return [v, v, v];
    });
    const options = { ...all, mostPx: 12, dark: false };
    const found = faultsAt(sweep(seenOf(strip), options, boundsOf(strip), null), 50);
    expect(found.map(({ w }) => w > 60)).toEqual([true]);
  });

  test('looks only for what is asked, and only where', () => {
    const dark = sweep(seen, { ...all, light: false }, whole, null);
    expect(dark.length).toBeGreaterThan(0);
    expect(dark.every((f) => f.isDark)).toBe(true);
    const part = { x: 120, y: 60, w: 60, h: 40 };
    const within = faultsAt(
      sweep(seen, all, part, (x) => x > 100),
      45,
    );
    expect(within.map((f) => Math.round((f.x + f.w / 2) / 10))).toEqual([15]);
  });

  test('finds more the more sensitive it is, and nothing on what is plain', () => {
    const found = sweep(seen, all, whole, null);
    const counts = [0, 50, 90].map((sensitivity) => faultsAt(found, sensitivity).length);
    expect(faultsAt(found, 100)).toEqual(found);
    expect(faultsAt([], 50)).toEqual([]);
    expect(counts[0]).toBeLessThanOrEqual(counts[1]);
    expect(counts[1]).toBeLessThanOrEqual(counts[2]);
    const plain = seenOf(paintPhoto(200, 150, 8, () => [0.5, 0.5, 0.5]));
    expect(sweep(plain, all, { x: 0, y: 0, w: 200, h: 150 }, null)).toEqual([]);
  });
});
