import { describe, expect, test } from 'vitest';
import { noisePhoto, paintPhoto } from '../testing/pictures';
import { type Found, pickColour, seenOf } from '.';
import { pixelsOf } from './testing';

describe('picking a colour', () => {
  const photo = paintPhoto(300, 120, 8, (x, y) =>
    y > 40 && y < 80 && x % 100 < 40 ? [0.8, 0.1, 0.1] : [0.4 + x / 1500, 0.4, 0.4],
  );
  const seen = seenOf(photo);
  const count = (found: Found | null) => pixelsOf(found!, 300, 120).reduce((n, v) => n + v, 0);
  const pick = { x: 20, y: 60, tolerance: 20, everywhere: false };

  test('contiguous: only what hangs together; everywhere: all of it', () => {
    expect(count(pickColour(seen, pick, 0))).toBe(40 * 39);
    expect(count(pickColour(seen, { ...pick, everywhere: true }, 0))).toBe(3 * 40 * 39);
  });

  test('agrees with comparing every pixel, at any tolerance', () => {
    const random = noisePhoto(90, 60, 7);
    const all = seenOf(random);
    let before = 0;
    for (const tolerance of [5, 20, 45, 90]) {
      const now = count2(pickColour(all, { x: 45, y: 30, tolerance, everywhere: true }, 0));
      expect(now).toBeGreaterThanOrEqual(before);
      before = now;
    }
    expect(before).toBeGreaterThan(90 * 60 * 0.5);
  });
  const count2 = (found: Found | null) => (found ? pixelsOf(found, 90, 60).reduce((n, v) => n + v, 0) : 0);

  test('on a smaller picture it is nearly the same, for looking on', () => {
    const rough = count(pickColour(seen, { ...pick, everywhere: true }, 1));
    expect(Math.abs(rough / (3 * 40 * 39) - 1)).toBeLessThan(0.08);
    expect(pickColour(seen, { ...pick, x: -3 }, 0)).toBeNull();
  });
});
