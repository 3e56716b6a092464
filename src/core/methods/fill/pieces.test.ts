import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { contains, intersect, type Rect, rowsOf } from '../../raster';
import { planPieces } from './pieces';
import { boxHole, checkSources, fillPicture, mostError, picture } from './testing';

/** So that pictures of some megapixels do. */
const early = { largePx: 500_000, mostPartPx: 260_000 };

describe('what is filled in one go', () => {
  const bounds = { x: 0, y: 0, w: 900, h: 700 };
  const planOf = (mask: Uint8Array) => planPieces(mask, bounds, bounds, 1);

  test('every marked pixel belongs to one piece, whose box holds it and whose window holds the box', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.integer({ min: 0, max: 860 }),
            fc.integer({ min: 0, max: 660 }),
            fc.integer({ min: 1, max: 400 }),
            fc.integer({ min: 1, max: 40 }),
          ),
          { minLength: 1, maxLength: 4 },
        ),
        (boxes) => {
          const mask = new Uint8Array(900 * 700);
          for (const [x, y, bw, bh] of boxes)
            for (let v = y; v < Math.min(700, y + bh); v++)
              mask.fill(1, v * 900 + x, v * 900 + Math.min(900, x + bw));
          const { owner, pieces } = planOf(mask);
          for (const { box, window } of pieces)
            expect(contains(window, box) && contains(bounds, window)).toBe(true);
          for (let p = 0; p < mask.length; p++) {
            if (owner[p] >= 0 !== (mask[p] === 1)) throw new Error(`pixel ${p}`);
            if (owner[p] < 0) continue;
            const { box } = pieces[owner[p]];
            const [x, y] = [p % 900, Math.floor(p / 900)];
            if (!contains(box, { x, y, w: 1, h: 1 })) throw new Error(`pixel ${p} lies outside its piece`);
          }
        },
      ),
      { numRuns: 25 },
    );
  });

  test('what is compact and large is filled in parts of about one size, unless it is to stay whole', () => {
    const bounds = { x: 0, y: 0, w: 3000, h: 1600 };
    const mask = boxHole(3000, 1600, 900, 300, 1200, 1000);
    const { owner, pieces } = planPieces(mask, bounds, bounds, 1, 'in parts', null, early);
    expect(pieces).toHaveLength(5);
    const sizes = new Array(pieces.length).fill(0);
    for (const k of owner) if (k >= 0) sizes[k]++;
    for (const size of sizes) expect(size).toBeGreaterThan(120_000);
    for (const { window } of pieces) expect(window.w * window.h).toBeLessThan(3000 * 1600);
    // However little ground a part sees, it looks no farther than the area may.
    const near = planPieces(mask, bounds, bounds, 0.1, 'in parts', null, early);
    for (const { window } of near.pieces)
      expect(contains({ x: 780, y: 180, w: 1440, h: 1240 }, window)).toBe(true);
    expect(planPieces(mask, bounds, bounds, 1, 'whole', null, early).pieces).toHaveLength(1);
    expect(
      planPieces(boxHole(3000, 1600, 300, 300, 690, 690), bounds, bounds, 1, 'in parts', null, early).pieces,
    ).toHaveLength(1);
    expect(planPieces(mask, bounds, bounds, 1).pieces).toHaveLength(1);
  });

  test('a part looks sideways until it sees enough of its own rows, before it looks farther up and down', () => {
    const wide = { x: 0, y: 0, w: 3200, h: 1400 };
    const mask = boxHole(3200, 1400, 800, 400, 1600, 500);
    const { owner, pieces } = planPieces(mask, wide, wide, 1, 'in parts', null, early);
    expect(pieces.length).toBeGreaterThan(2);
    pieces.forEach(({ box, window }, k) => {
      let [beside, own] = [0, 0];
      for (let y = box.y; y < box.y + box.h; y++)
        for (let x = window.x; x < window.x + window.w; x++) if (!mask[y * 3200 + x]) beside++;
      for (const piece of owner) if (piece === k) own++;
      expect(beside).toBeGreaterThanOrEqual(own);
      expect(window.w - box.w).toBeGreaterThanOrEqual(window.h - box.h);
    });
  });

  test('told what may be drawn from, every part and chunk sees enough of it, wherever it lies within reach', () => {
    const bounds = { x: 0, y: 0, w: 3000, h: 1400 };
    const strip = { from: 620, to: 860 };
    const mayDraw = ({ x, w, h }: Rect) =>
      Uint8Array.from({ length: w * h }, (_, i) =>
        x + (i % w) >= strip.from && x + (i % w) < strip.to ? 1 : 0,
      );
    const allowedIn = (window: Rect) => mayDraw(window).reduce((n, v) => n + v, 0);
    const large = boxHole(3000, 1400, 1500, 300, 900, 840);
    const wire = boxHole(3000, 1400, 900, 600, 1400, 6);
    for (const mask of [large, wire]) {
      const within = { x: strip.from, y: 0, w: strip.to - strip.from, h: 1400 };
      const zone = { within, mayDraw, mayBeMoved: false };
      const { pieces } = planPieces(mask, bounds, bounds, 1, 'in parts', zone, early);
      expect(pieces.length).toBeGreaterThan(2);
      for (const { window } of pieces) expect(allowedIn(window)).toBeGreaterThan(2000);
      // Untold, those at the far end do not look there.
      expect(
        Math.min(
          ...planPieces(mask, bounds, bounds, 1, 'in parts', null, early).pieces.map(({ window }) =>
            allowedIn(window),
          ),
        ),
      ).toBe(0);
    }
  });

  test('what lies in an allow zone beyond an area’s reach is put beside its window, as much as it takes', () => {
    const bounds = { x: 0, y: 0, w: 9000, h: 6000 };
    const area = { x: 100, y: 100, w: 80, h: 80 };
    const pieceOf = (within: Rect) => {
      const mayDraw = (rect: Rect) => {
        const out = new Uint8Array(rect.w * rect.h);
        for (const { x, y, w } of rowsOf(intersect(rect, within)))
          out.fill(1, (y - rect.y) * rect.w + x - rect.x, (y - rect.y) * rect.w + x - rect.x + w);
        return out;
      };
      const zone = { within, mayDraw, mayBeMoved: true };
      const plan = planPieces(new Uint8Array(80 * 80).fill(1), area, bounds, 1, 'in parts', zone);
      expect(plan.pieces).toHaveLength(1);
      expect(plan.pieces[0].window).toEqual({ x: 20, y: 20, w: 240, h: 240 });
      return plan.pieces[0].beside;
    };
    const far = { x: 8800, y: 5800, w: 120, h: 130 };
    expect(pieceOf(far)).toEqual(far);
    expect(pieceOf({ x: 20, y: 20, w: 100, h: 240 })).toBeNull();
    const large = pieceOf({ x: 1000, y: 0, w: 4000, h: 6000 })!;
    expect(large.x).toBe(1000);
    expect(large.w * large.h).toBeGreaterThan(2 * 80 * 80);
    expect(large.w * large.h).toBeLessThan(800_000);
  });

  test('parts far apart are filled apart, near ones together, and a wire in chunks', () => {
    const two = boxHole(900, 700, 100, 100, 40, 40);
    boxHole(900, 700, 600, 400, 40, 40).forEach((v, i) => {
      two[i] |= v;
    });
    expect(planOf(two).pieces).toHaveLength(2);
    const near = boxHole(900, 700, 100, 100, 40, 40);
    boxHole(900, 700, 143, 100, 40, 40).forEach((v, i) => {
      near[i] |= v;
    });
    expect(planOf(near).pieces).toHaveLength(1);
    const { pieces } = planOf(boxHole(900, 700, 20, 300, 860, 7));
    expect(pieces.length).toBeGreaterThan(4);
    const read = pieces.reduce((n, { window }) => n + window.w * window.h, 0);
    expect(read).toBeLessThan(900 * 700);
  });

  test('a wire is filled without a seam between its chunks, and only from known pixels', () => {
    const [w, h] = [420, 120];
    const image = picture(w, h, (_x, y) => [0.3 + y / 300, 0.5, 0.7 - y / 400]);
    const hole = boxHole(w, h, 10, 58, 400, 5);
    const filled = fillPicture({ image, hole });
    checkSources(filled, w, h, hole);
    expect(mostError(filled.image, image, hole)).toBeLessThan(3);
  });
});
