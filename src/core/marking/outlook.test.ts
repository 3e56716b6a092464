import { describe, expect, test } from 'vitest';
import type { Raster } from '../raster';
import { boxShape } from '../testing/jobs';
import { texturedPhoto } from '../testing/pictures';
import { outlookOf, seenOf } from '.';
import { grainy, markedOf, pixelsOf } from './testing';

describe('the outlook', () => {
  test('tells size, grounds and lines; small things are for tap', () => {
    const photo = grainy(400, 300, (x, y) =>
      y < 150 ? [0.6, 0.7, 0.9] : x % 2 ? [0.3, 0.4, 0.2] : [0.34, 0.44, 0.24],
    );
    const seen = seenOf(photo);
    const wide = outlookOf(seen, markedOf([boxShape(150, 110, 80, 80)]), null)!;
    expect(wide.textures).toBe(2);
    expect(wide.lines).toBeGreaterThan(0);
    expect(Math.abs(wide.longPx - 80)).toBeLessThan(6);
    expect(wide.suggestions[0].what).toBe('fill');
    // One edge, or edges that run side by side, need no plane.
    expect(wide.converging).toBe(false);
    expect(wide.suggestions.map((s) => s.what)).not.toContain('plane');
    const speck = outlookOf(seen, markedOf([boxShape(60, 60, 14, 14)]), null)!;
    expect(speck.suggestions[0].what).toBe('tap');
  });

  test('lines that run together behind it ask for a plane', () => {
    // Boards that meet at a point far up.
    const boards = grainy(400, 300, (x, y) => {
      const across = Math.floor((x - 200) / (20 + 0.25 * y) + 100);
      return across % 2 ? [0.3, 0.25, 0.2] : [0.6, 0.5, 0.4];
    });
    const outlook = outlookOf(seenOf(boards), markedOf([boxShape(120, 120, 160, 70)]), null)!;
    expect(outlook.lines).toBeGreaterThanOrEqual(2);
    expect(outlook.converging).toBe(true);
    expect(outlook.suggestions.map((s) => s.what)).toContain('plane');
  });

  describe('what touches it', () => {
    const within = (x: number, y: number, [x0, y0, w, h]: readonly number[]) =>
      x >= x0 && x < x0 + w && y >= y0 && y < y0 + h;
    const marked = [140, 90, 50, 120] as const;
    /** A reddish thing on a meadow under a sky, and whatever else stands there. */
    const scene = (more: (x: number, y: number) => readonly number[] | null) =>
      grainy(420, 300, (x, y) => {
        if (within(x, y, marked)) return [0.8, 0.3, 0.4];
        return (more(x, y) ?? (y < 120 ? [0.75, 0.8, 0.9] : [0.45, 0.55, 0.25])) as never;
      });
    const besideIn = (photo: Raster) => outlookOf(seenOf(photo), markedOf([boxShape(...marked)]), null)!;

    test('is another thing that ends nearby, and is told with where it is', () => {
      const other = [190, 100, 45, 110] as const;
      const photo = scene((x, y) => (within(x, y, other) ? [0.1, 0.4, 0.4] : null));
      const { beside, suggestions } = besideIn(photo);
      const found = pixelsOf(beside!, 420, 300);
      let [hit, stray] = [0, 0];
      found.forEach((v, i) => {
        const [x, y] = [i % 420, Math.floor(i / 420)];
        if (v && within(x, y, other)) hit++;
        else if (v && !within(x, y, [178, 88, 69, 134])) stray++;
      });
      expect(hit).toBeGreaterThan(0.95 * 45 * 110);
      expect(stray).toBe(0);
      expect(suggestions.map((s) => s.what)).toContain('beside');
      const elsewhere = (x: number, y: number) => !within(x, y, other);
      expect(outlookOf(seenOf(photo), markedOf([boxShape(...marked)]), elsewhere)!.beside).toBeNull();
    });

    test('stands next to it when it is nearly as large and ends there, not when it is small, or goes on within', () => {
      const next = scene((x, y) => (within(x, y, [190, 100, 45, 110]) ? [0.1, 0.4, 0.4] : null));
      expect(besideIn(next).beside!.standsNext).toBe(true);
      const small = scene((x, y) => (within(x, y, [190, 150, 20, 30]) ? [0.1, 0.4, 0.4] : null));
      expect(besideIn(small).beside!.standsNext).toBe(false);
      const across = grainy(420, 300, (x, y) =>
        within(x, y, [150, 110, 85, 80]) ? [0.1, 0.4, 0.4] : y < 120 ? [0.75, 0.8, 0.9] : [0.45, 0.55, 0.25],
      );
      expect(besideIn(across).beside!.standsNext).toBe(false);
    });

    test('somebody’s trousers are found with the jumper, though they stand out less', () => {
      const photo = scene((x, y) => {
        if (within(x, y, [190, 100, 45, 60])) return [0.1, 0.4, 0.4];
        return within(x, y, [190, 160, 45, 60]) ? [0.486, 0.54, 0.324] : null;
      });
      const trousersOnly = scene((x, y) => (within(x, y, [190, 160, 45, 60]) ? [0.486, 0.54, 0.324] : null));
      const { beside } = besideIn(photo);
      expect(beside!.y + beside!.h).toBeGreaterThan(215);
      expect(besideIn(trousersOnly).beside).toBeNull();
    });

    test('is neither a ground that goes on, nor its own shadow, nor what stands elsewhere', () => {
      const goesOn = scene((x, y) => (x >= 190 && y >= 120 ? [0.3, 0.25, 0.2] : null));
      const shadow = scene((x, y) => (within(x, y, [190, 185, 90, 25]) ? [0.25, 0.31, 0.14] : null));
      const apart = scene((x, y) => (within(x, y, [260, 100, 45, 110]) ? [0.1, 0.4, 0.4] : null));
      const often = scene((x, y) => (y >= 120 && x % 60 < 30 ? [0.1, 0.4, 0.4] : null));
      for (const photo of [goesOn, shadow, apart, often, scene(() => null)]) {
        const { beside, suggestions } = besideIn(photo);
        expect(beside).toBeNull();
        expect(suggestions.map((s) => s.what)).not.toContain('beside');
      }
    });
  });

  test('is honest where there is nothing to draw from', () => {
    const seen = seenOf(texturedPhoto(300, 200, 4));
    const most = outlookOf(seen, markedOf([boxShape(5, 5, 290, 190)]), null)!;
    expect(most.room).toBeLessThan(0.4);
    expect(most.suggestions[0].what).toBe('no');
    const fenced = outlookOf(seen, markedOf([boxShape(100, 80, 60, 40)]), (x) => x < 90 && x > 80)!;
    expect(fenced.room).toBeLessThan(1.2);
    // An allow zone is drawn from wherever it lies.
    const isIn = (x: number, y: number) => x >= 20 && x < 60 && y >= 130 && y < 190;
    const marked = markedOf([boxShape(220, 20, 30, 40)]);
    expect(outlookOf(seen, marked, isIn)!.suggestions[0].what).toBe('no');
    const zoned = outlookOf(seen, marked, isIn, { x: 20, y: 130, w: 80, h: 60 })!;
    expect(zoned.room).toBeCloseTo(2, 1);
    expect(zoned.suggestions.map(({ what }) => what)).not.toContain('no');
    expect(outlookOf(seen, markedOf([boxShape(500, 500, 10, 10)]), null)).toBeNull();
  });
});
