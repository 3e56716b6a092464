import { describe, expect, test } from 'vitest';
import { noMasks, rasteriseArea, type Shape } from '../area';
import type { Raster } from '../raster';
import { areaOfShapes, boxShape, strokeShape } from '../testing/jobs';
import { grainyPhotos, noisePhoto, paintPhoto, texturedPhoto } from '../testing/pictures';
import {
  belongingsOf,
  cutIslands,
  type Found,
  findIslands,
  findSpan,
  growScribbles,
  isRing,
  type MarkedArea,
  markedArea,
  outlookOf,
  pickColour,
  seenOf,
} from '.';

const grainy = grainyPhotos(5);

function pixelsOf({ mask, x, y, w, h }: Found, width: number, height: number): Uint8Array {
  const out = new Uint8Array(width * height);
  for (let v = Math.max(0, -y); v < h && y + v < height; v++)
    for (let u = Math.max(0, -x); u < w && x + u < width; u++)
      if (mask.data[Math.floor((v * mask.h) / h) * mask.w + Math.floor((u * mask.w) / w)] > 127)
        out[(y + v) * width + x + u] = 1;
  return out;
}

const markedOf = (shapes: Shape[]): MarkedArea => markedArea(areaOfShapes(shapes), noMasks);

describe('growing a scribble', () => {
  const disc = (x: number, y: number) => (x - 200) ** 2 + (y - 150) ** 2 < 70 ** 2;
  const photo = grainy(400, 300, (x, y) =>
    disc(x, y) ? [0.7, 0.2, 0.2] : x < 120 ? [0.2, 0.3, 0.6] : [0.3, 0.5, 0.3],
  );
  const seen = seenOf(photo);
  const likeness = (got: Uint8Array) => {
    let [both, either] = [0, 0];
    got.forEach((v, i) => {
      const is = disc((i % 400) + 0.5, Math.floor(i / 400) + 0.5);
      if (v && is) both++;
      if (v || is) either++;
    });
    return both / either;
  };
  const stroke = strokeShape(
    [
      [180, 130],
      [220, 170],
    ],
    6,
  ) as never;

  test('finds the thing under it, the same every time', () => {
    const found = growScribbles(seen, { inside: [stroke], outside: [] })!;
    expect(likeness(pixelsOf(found, 400, 300))).toBeGreaterThan(0.93);
    expect(growScribbles(seen, { inside: [stroke], outside: [] })).toEqual(found);
  });

  test('finds the thing within a rough ring', () => {
    const points = Array.from({ length: 40 }, (_, k) => {
      const a = (k / 40) * 2 * Math.PI;
      const r = 92 + 8 * Math.sin(3 * a);
      return [200 + r * Math.cos(a), 150 + r * Math.sin(a)] as const;
    });
    const ring = strokeShape(points, 4) as never;
    expect(isRing(ring)).toBe(true);
    expect(isRing(stroke)).toBe(false);
    const found = growScribbles(seen, { inside: [ring], outside: [] })!;
    expect(likeness(pixelsOf(found, 400, 300))).toBeGreaterThan(0.93);
  });

  test('a hair-thin scribble on something large serves as well', () => {
    const inside = (x: number, y: number) => (x - 640) ** 2 + (y - 480) ** 2 < 260 ** 2;
    const large = seenOf(
      paintPhoto(1280, 960, 8, (x, y) => (inside(x, y) ? [0.7, 0.25, 0.2] : [0.3, 0.45, 0.35])),
    );
    const stroke = strokeShape(
      [
        [500, 420],
        [700, 555],
      ],
      0.7,
    ) as Extract<Shape, { kind: 'stroke' }>;
    const got = pixelsOf(growScribbles(large, { inside: [stroke], outside: [] })!, 1280, 960);
    let [both, either] = [0, 0];
    got.forEach((v, i) => {
      const is = inside((i % 1280) + 0.5, Math.floor(i / 1280) + 0.5);
      if (v && is) both++;
      if (v || is) either++;
    });
    expect(both / either).toBeGreaterThan(0.97);
  });

  test('a scribble outside keeps a like thing beside it out', () => {
    const twins = grainy(400, 200, (x, y) =>
      (x - 150) ** 2 + (y - 100) ** 2 < 45 ** 2 || (x - 230) ** 2 + (y - 100) ** 2 < 45 ** 2
        ? [0.7, 0.2, 0.2]
        : [0.3, 0.5, 0.3],
    );
    const inside = [strokeShape([[150, 100]], 12)] as never[];
    const outside = [strokeShape([[240, 100]], 12)] as never[];
    const at = (found: Found | null, x: number, y: number) => pixelsOf(found!, 400, 200)[y * 400 + x];
    const both = growScribbles(seenOf(twins), { inside, outside: [] });
    expect(at(both, 235, 100)).toBe(1);
    const one = growScribbles(seenOf(twins), { inside, outside });
    expect([at(one, 130, 100), at(one, 235, 100)]).toEqual([1, 0]);
  });

  test('what is scribbled is in it, whatever it looks like; beyond the photo there is nothing', () => {
    const plain = seenOf(noisePhoto(120, 90, 3));
    const scribble = strokeShape([[60, 45]], 9) as never;
    const got = pixelsOf(growScribbles(plain, { inside: [scribble], outside: [] })!, 120, 90);
    expect(got[45 * 120 + 60]).toBe(1);
    const beyond = strokeShape([[500, 45]], 9) as never;
    expect(growScribbles(plain, { inside: [beyond], outside: [] })).toBeNull();
  });
});

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

describe('span', () => {
  /** A wire that sags by 18 pixels, 5 wide, before a ground that changes. */
  const wireY = (x: number) => 60 + 18 * (1 - ((x - 300) / 300) ** 2);
  const photo = grainy(600, 200, (x, y) => {
    const ground = [0.55 + 0.2 * Math.sin(x / 90), 0.6, 0.7] as const;
    const dark = Math.min(1, Math.max(0, 3 - Math.abs(y - wireY(x))));
    const second = Math.min(1, Math.max(0, 3 - Math.abs(y - wireY(x) - 40)));
    const d = Math.max(dark, second);
    return ground.map((v) => v * (1 - 0.7 * d)) as unknown as [number, number, number];
  });
  const seen = seenOf(photo);
  const clicks = [
    [20, wireY(20) + 4],
    [580, wireY(580) - 3],
  ] as const;

  test('finds middle and width under rough clicks, with the sag', () => {
    const [stroke] = findSpan(seen, clicks, { lines: 1, bends: true });
    for (const [x, y] of stroke.points) expect(Math.abs(y - wireY(x))).toBeLessThan(1.2);
    expect(stroke.radiusPx).toBeGreaterThan(2.2);
    expect(stroke.radiusPx).toBeLessThan(5.5);
    expect(Math.min(...stroke.points.map((p) => p[0]))).toBeLessThan(30);
  });

  test('finds the one beside it too; told that it is straight, it is', () => {
    const both = findSpan(seen, clicks, { lines: 2, bends: true });
    expect(both).toHaveLength(2);
    for (const [x, y] of both[1].points) expect(Math.abs(y - wireY(x) - 40)).toBeLessThan(1.5);
    const [straight] = findSpan(
      seen,
      [
        [250, wireY(250)],
        [350, wireY(350)],
      ],
      { lines: 1, bends: false },
    );
    const [a, b] = [straight.points[0], straight.points[straight.points.length - 1]];
    for (const [x, y] of straight.points)
      expect(Math.abs(y - (a[1] + ((x - a[0]) / (b[0] - a[0])) * (b[1] - a[1])))).toBeLessThan(0.6);
  });

  test('three clicks lead round a corner; where there is no line there is none', () => {
    const bent = grainy(300, 300, (x, y) => {
      const on = (x < 150 && Math.abs(y - 50) < 3) || (x >= 147 && x < 153 && y >= 50);
      return on ? [0.1, 0.1, 0.1] : [0.6, 0.6, 0.6];
    });
    const [stroke] = findSpan(
      seenOf(bent),
      [
        [10, 50],
        [150, 50],
        [150, 290],
      ],
      { lines: 1, bends: true },
    );
    const covered = rasteriseArea(areaOfShapes([stroke], 2), { x: 0, y: 0, w: 300, h: 300 }, noMasks);
    for (const [x, y] of [
      [40, 50],
      [140, 50],
      [150, 80],
      [150, 270],
    ])
      expect(covered[y * 300 + x]).toBe(1);
    const empty = seenOf(grainy(300, 100, () => [0.5, 0.5, 0.5]));
    expect(
      findSpan(
        empty,
        [
          [20, 50],
          [280, 50],
        ],
        { lines: 1, bends: true },
      ),
    ).toEqual([]);
  });
});

describe('islands', () => {
  const rect = { x: 0, y: 0, w: 200, h: 100 };
  const cover = (shapes: Shape[]) => rasteriseArea(areaOfShapes(shapes), rect, noMasks);
  const whole = (islands: readonly Found[]) => {
    const sum = new Uint8Array(200 * 100);
    for (const island of islands)
      pixelsOf(island, 200, 100).forEach((v, i) => {
        sum[i] += v;
      });
    return sum;
  };

  test('a cut right across parts it in two, which together are all of it', () => {
    const area = cover([boxShape(20, 20, 160, 60)]);
    const islands = cutIslands(
      area,
      cover([
        strokeShape(
          [
            [100, 0],
            [100, 99],
          ],
          2,
        ),
      ]),
      rect,
    );
    expect(islands).toHaveLength(2);
    expect([...whole(islands)]).toEqual(Array.from(area, (v) => (v > 0.5 ? 1 : 0)));
  });

  test('a cut that ends within it parts nothing', () => {
    const area = cover([boxShape(20, 20, 160, 60)]);
    expect(
      cutIslands(
        area,
        cover([
          strokeShape(
            [
              [100, 0],
              [100, 50],
            ],
            2,
          ),
        ]),
        rect,
      ),
    ).toHaveLength(1);
  });

  test('by itself a long area falls into pieces, and a change of ground parts it; none is lost', () => {
    const seen = seenOf(grainy(200, 100, (x) => (x < 90 ? [0.2, 0.5, 0.2] : [0.6, 0.6, 0.8])));
    const shapes = [boxShape(20, 40, 160, 20)];
    const islands = findIslands(seen, markedOf(shapes), cover(shapes), rect);
    expect(islands.length).toBeGreaterThan(2);
    expect([...whole(islands)]).toEqual(Array.from(cover(shapes), (v) => (v > 0.5 ? 1 : 0)));
    const across = islands.filter((i) => i.x < 80 && i.x + i.w > 100);
    expect(across).toEqual([]);
  });
});

describe('islands where focus falls off', () => {
  /** Detail gets three octaves softer from top to bottom. */
  const falling = grainy(240, 240, (x, y) => {
    const strength = 0.5 * 2 ** (-y / 60);
    const v = 0.45 + strength * (((x * 7 + y * 13) % 5) / 5 - 0.4);
    return [v, v, v];
  });
  const even = grainy(240, 240, (x, y) => {
    const v = 0.45 + 0.2 * (((x * 7 + y * 13) % 5) / 5 - 0.4);
    return [v, v, v];
  });
  const shapes = [boxShape(70, 40, 100, 160)];
  const rect = { x: 0, y: 0, w: 240, h: 240 };
  const covered = rasteriseArea(areaOfShapes(shapes), rect, noMasks);
  const heights = (photo: Raster) =>
    findIslands(seenOf(photo), markedOf(shapes), covered, rect).map((i) => i.h);

  test('bands lie across the way in which it falls; without, the area stays whole', () => {
    expect(heights(even)).toHaveLength(1);
    const bands = heights(falling);
    expect(bands.length).toBeGreaterThanOrEqual(2);
    for (const h of bands) expect(h).toBeLessThan(110);
    expect(bands.reduce((s, h) => s + h, 0)).toBeGreaterThanOrEqual(158);
  });
});

describe('what belongs to it, and its outlook', () => {
  test('a shadow at its foot and a bit left out are offered, the ground is not', () => {
    const photo = grainy(400, 300, (x, y) => {
      if (x > 150 && x < 210 && y > 60 && y < 180) return [0.8, 0.3, 0.1];
      if (x > 150 && x < 300 && y >= 178 && y < 205) return [0.25, 0.27, 0.22];
      return [0.5, 0.54, 0.45];
    });
    // The marked part lacks the top of the thing.
    const offers = belongingsOf(seenOf(photo), markedOf([boxShape(149, 90, 62, 91)]));
    const kinds = offers.map((o) => o.kind);
    expect(kinds).toContain('shadow');
    expect(kinds).toContain('bit');
    const shadow = offers.find((o) => o.kind === 'shadow')!;
    const covered = pixelsOf(shadow, 400, 300);
    expect(covered[195 * 400 + 260]).toBe(1);
    expect(covered[100 * 400 + 320]).toBe(0);
    const bit = pixelsOf(offers.find((o) => o.kind === 'bit')!, 400, 300);
    expect(bit[75 * 400 + 180]).toBe(1);
  });

  test('a reflection in water is offered where it looks like the thing, and not on plain ground', () => {
    const scene = (mirrored: boolean) =>
      grainy(300, 300, (x, y) => {
        const inThing = (v: number) => x > 110 && x < 190 && v > 90 && v < 150;
        if (inThing(y)) return x < 150 ? [0.9, 0.5, 0.1] : [0.5, 0.2, 0.1];
        if (mirrored && inThing(300 - y)) return x < 150 ? [0.6, 0.35, 0.15] : [0.35, 0.2, 0.12];
        return [0.2, 0.25, 0.25];
      });
    const marked = markedOf([boxShape(110, 90, 81, 61)]);
    expect(belongingsOf(seenOf(scene(true)), marked).some((o) => o.kind === 'reflection')).toBe(true);
    expect(belongingsOf(seenOf(scene(false)), marked).some((o) => o.kind === 'reflection')).toBe(false);
  });

  test('what is like the margin, and not like the thing, is no bit left out', () => {
    // A post before a dark patch that goes on to the right, all on light ground.
    const photo = grainy(400, 300, (x, y) => {
      if (x > 190 && x < 210 && y > 90 && y < 200) return [0.8, 0.3, 0.1];
      if (x > 170 && x < 252 && y > 80 && y < 150) return [0.3, 0.34, 0.36];
      return [0.7, 0.74, 0.65];
    });
    const marked = markedOf([boxShape(172, 82, 56, 120)]);
    const post = markedOf([boxShape(191, 91, 18, 108)]);
    const bits = (offers: readonly { kind: string }[]) => offers.filter((o) => o.kind === 'bit').length;
    expect(bits(belongingsOf(seenOf(photo), marked))).toBeGreaterThan(0);
    expect(bits(belongingsOf(seenOf(photo), marked, post))).toBe(0);
  });

  test('bright cloud below wires between trees is no reflection of theirs', () => {
    const photo = grainy(400, 240, (x, y) => {
      if (x < 60 || x > 340) return [0.2, 0.3, 0.12];
      const onWire = [50, 70, 90].some((at) => Math.abs(y - at) < 3);
      if (onWire) return [0.3, 0.3, 0.32];
      return y < 100 ? [0.6, 0.72, 0.9] : [0.9, 0.92, 0.95];
    });
    const wires = [50, 70, 90].map((at) => boxShape(62, at - 8, 276, 16));
    const offers = belongingsOf(seenOf(photo), markedOf(wires));
    expect(offers.map((o) => o.kind)).not.toContain('reflection');
  });

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
    expect(outlookOf(seen, markedOf([boxShape(500, 500, 10, 10)]), null)).toBeNull();
  });
});
