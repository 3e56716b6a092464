import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { makeRandom } from '../random';
import { areaOfShapes, boxShape, strokeShape } from '../testing/jobs';
import {
  bakeArea,
  boundsOfArea,
  invertArea,
  moveArea,
  noMasks,
  rasteriseArea,
  type Shape,
  type ShapeOp,
} from '.';
import { distanceRound, dropCrumbs, fillHoles, smoothed } from './refine';

const at = (coverage: Float32Array, w: number, x: number, y: number) => coverage[y * w + x];
const frame = { x: 0, y: 0, w: 60, h: 60 };

/** Pixels of random pictures, and every pixel's part by joining neighbours until nothing changes. */
const bitmap = fc.tuple(
  fc.integer({ min: 1, max: 12 }),
  fc.integer({ min: 1, max: 12 }),
  fc.array(fc.boolean(), { minLength: 144, maxLength: 144 }),
);

function partsOf(set: readonly boolean[], w: number, h: number): number[] {
  const label = set.map((v, i) => (v ? i : -1));
  for (let changed = true; changed; ) {
    changed = false;
    for (let i = 0; i < w * h; i++)
      for (let j = 0; j < w * h; j++) {
        const near = Math.abs((i % w) - (j % w)) <= 1 && Math.abs(Math.floor(i / w) - Math.floor(j / w)) <= 1;
        if (!near || label[i] < 0 || label[j] < 0 || label[i] === label[j]) continue;
        label[i] = label[j] = Math.min(label[i], label[j]);
        changed = true;
      }
  }
  return label;
}

describe('holes and crumbs', () => {
  test('what cannot reach the edge over sides and corners is filled, nothing else', () => {
    fc.assert(
      fc.property(bitmap, ([w, h, bits]) => {
        const marked = bits.slice(0, w * h);
        const parts = partsOf(
          marked.map((v) => !v),
          w,
          h,
        );
        const open = new Set(
          parts.filter((_, i) => i % w === 0 || i % w === w - 1 || i < w || i >= (h - 1) * w),
        );
        const coverage = Float32Array.from(marked, (v) => (v ? 1 : 0));
        fillHoles(coverage, w, h);
        marked.forEach((v, i) => {
          expect(coverage[i] === 1).toBe(v || !open.has(parts[i]));
        });
      }),
      { numRuns: 150 },
    );
  });

  test('parts smaller than asked for go, larger ones stay whole', () => {
    fc.assert(
      fc.property(bitmap, fc.integer({ min: 1, max: 9 }), ([w, h, bits], least) => {
        const marked = bits.slice(0, w * h);
        const parts = partsOf(marked, w, h);
        const coverage = Float32Array.from(marked, (v) => (v ? 1 : 0));
        dropCrumbs(coverage, w, h, least);
        marked.forEach((v, i) => {
          const size = parts.filter((p) => p === parts[i]).length;
          expect(coverage[i] === 1).toBe(v && size >= least);
        });
      }),
      { numRuns: 150 },
    );
  });

  test('a crumb goes with its soft edge; an area of nothing but crumbs is empty', () => {
    const area = { ...areaOfShapes([boxShape(5, 5, 20, 20), strokeShape([[45, 45]], 3, 0.2)]), crumbPx: 10 };
    const coverage = rasteriseArea(area, frame, noMasks);
    expect(coverage.reduce((n, v) => n + v, 0)).toBe(400);
    const none = { ...areaOfShapes([boxShape(5, 5, 3, 3)], 4, 3), crumbPx: 10 };
    expect(rasteriseArea(none, frame, noMasks).every((v) => v === 0)).toBe(true);
  });

  test('a ring is filled with its margin on the outside only', () => {
    const ring = areaOfShapes([boxShape(20, 20, 20, 20), { ...boxShape(25, 25, 10, 10), op: 'subtract' }], 3);
    const plain = rasteriseArea(ring, frame, noMasks);
    expect(at(plain, 60, 30, 30)).toBe(0);
    const filled = rasteriseArea({ ...ring, fillHoles: true }, frame, noMasks);
    const box = rasteriseArea(areaOfShapes([boxShape(20, 20, 20, 20)], 3), frame, noMasks);
    expect(filled).toEqual(box);
  });
});

describe('smoothing', () => {
  test('agrees with a sum over every neighbour, three times over', () => {
    const [w, h, r] = [23, 17, 2];
    const coverage = Float32Array.from({ length: w * h }, (_, i) => ((i * 7919) % 5 < 2 ? 1 : 0));
    let slow = Array.from(coverage, Number);
    for (let pass = 0; pass < 3; pass++)
      slow = slow.map((_, i) => {
        let sum = 0;
        for (let dy = -r; dy <= r; dy++)
          for (let dx = -r; dx <= r; dx++) {
            const [x, y] = [(i % w) + dx, Math.floor(i / w) + dy];
            if (x >= 0 && y >= 0 && x < w && y < h) sum += slow[y * w + x];
          }
        return sum / (2 * r + 1) ** 2;
      });
    const steep = Math.sqrt((r * r + r) * 2 * Math.PI);
    smoothed(coverage, w, h, 2).forEach((v, i) => {
      expect(v).toBeCloseTo(Math.min(1, Math.max(0, 0.5 + (slow[i] - 0.5) * steep)), 3);
    });
  });

  test('a straight edge stays where it is, a spike and a notch go', () => {
    const shapes = [
      boxShape(0, 30, 60, 30),
      boxShape(20, 20, 2, 10),
      { ...boxShape(40, 30, 2, 8), op: 'subtract' as const },
    ];
    const coverage = rasteriseArea({ ...areaOfShapes(shapes), smoothPx: 4 }, frame, noMasks);
    expect(at(coverage, 60, 8, 26)).toBe(0);
    expect(at(coverage, 60, 8, 33)).toBe(1);
    expect(at(coverage, 60, 20, 24)).toBe(0);
    expect(at(coverage, 60, 41, 35)).toBeGreaterThan(0.9);
  });
});

/** Always goes on from the nearest pixel that is not done. */
function wayRound(inside: Uint8Array, guard: Float32Array, w: number, h: number): number[] {
  const far = Array.from(inside, (v) => (v ? 0 : Infinity));
  const done = new Set<number>();
  const isFree = (x: number, y: number) => inside[y * w + x] > 0 || guard[y * w + x] < 0.5;
  for (;;) {
    let best = -1;
    far.forEach((v, i) => {
      if (!done.has(i) && v < (best < 0 ? Infinity : far[best])) best = i;
    });
    if (best < 0) return far;
    done.add(best);
    const [x, y] = [best % w, Math.floor(best / w)];
    for (let dy = -1; dy <= 1; dy++)
      for (let dx = -1; dx <= 1; dx++) {
        const [u, v] = [x + dx, y + dy];
        if (u < 0 || v < 0 || u >= w || v >= h || !isFree(u, v)) continue;
        if (dx && dy && !isFree(u, y) && !isFree(x, v)) continue;
        far[v * w + u] = Math.min(far[v * w + u], far[best] + Math.hypot(dx, dy));
      }
  }
}

describe('the guard', () => {
  const wall = boxShape(34, 0, 2, 60);

  test('margin and feather stop at it, and do not come out behind it', () => {
    const area = { ...areaOfShapes([boxShape(20, 20, 10, 10)], 12, 6), guard: [wall] };
    const coverage = rasteriseArea(area, frame, noMasks);
    const free = rasteriseArea(areaOfShapes([boxShape(20, 20, 10, 10)], 12, 6), frame, noMasks);
    expect(at(free, 60, 38, 25)).toBeGreaterThan(0);
    coverage.forEach((v, i) => {
      expect(v).toBe(i % 60 < 34 ? free[i] : 0);
    });
  });

  test('a line one pixel thin at any angle holds', () => {
    const line = strokeShape(
      [
        [10, 55],
        [58, 5],
      ],
      0.8,
    );
    const area = { ...areaOfShapes([boxShape(10, 10, 12, 12)], 30), guard: [line] };
    const coverage = rasteriseArea(area, frame, noMasks);
    expect(at(coverage, 60, 26, 26)).toBe(1);
    for (const [x, y] of [
      [40, 40],
      [50, 30],
      [36, 36],
    ])
      expect(at(coverage, 60, x, y)).toBe(0);
  });

  test('the margin is measured round the end of one that is shorter than what is marked', () => {
    const marks = [boxShape(20, 10, 10, 40)];
    const short = boxShape(32, 16, 2, 28);
    const [margin, feather] = [7, 3];
    const free = rasteriseArea(areaOfShapes(marks, margin, feather), frame, noMasks);
    const coverage = rasteriseArea(
      { ...areaOfShapes(marks, margin, feather), guard: [short] },
      frame,
      noMasks,
    );
    // Behind its middle nothing is left, though one gets there round its ends; beside and beyond the ends all is as without it.
    for (let y = 24; y < 36; y++) for (let x = 32; x < 60; x++) expect(at(coverage, 60, x, y)).toBe(0);
    expect(at(free, 60, 35, 30)).toBe(1);
    for (let y = 0; y < 60; y++)
      for (let x = 0; x < 60; x++)
        if (x < 32 || y < 12 || y > 47) expect(at(coverage, 60, x, y)).toBe(at(free, 60, x, y));
    // Round an end it falls off softly, and nowhere is there more than without a guard.
    const behind = [16, 18, 20, 22].map((y) => at(coverage, 60, 34, y));
    expect([...behind].sort((a, b) => b - a)).toEqual(behind);
    expect(new Set(behind).size).toBeGreaterThan(2);
    coverage.forEach((v, i) => {
      expect(v).toBeLessThanOrEqual(free[i]);
    });
  });

  test('the way round it, against Dijkstra’s over the same steps', () => {
    const [w, h] = [31, 23];
    const random = makeRandom(8);
    for (let round = 0; round < 8; round++) {
      const guard = Float32Array.from({ length: w * h }, () => (random.next() < 0.35 ? 1 : 0));
      const inside = Uint8Array.from({ length: w * h }, () => (random.next() < 0.004 ? 1 : 0));
      const got = distanceRound(inside, guard, w, h);
      const slow = wayRound(inside, guard, w, h);
      got.forEach((v, i) => {
        if (slow[i] === Infinity) expect(v).toBe(Infinity);
        else expect(Math.abs(v * 1.0824 - slow[i])).toBeLessThan(0.05);
      });
    }
  });

  test('what is marked itself stays', () => {
    const area = { ...areaOfShapes([boxShape(20, 20, 30, 10)]), guard: [wall] };
    expect(rasteriseArea(area, frame, noMasks)).toEqual(
      rasteriseArea(areaOfShapes([boxShape(20, 20, 30, 10)]), frame, noMasks),
    );
  });
});

describe('the side that is soft', () => {
  const row = (featherSide: 'outside' | 'inside' | 'both') =>
    rasteriseArea({ ...areaOfShapes([boxShape(20, 0, 20, 60)], 0, 8), featherSide }, frame, noMasks).subarray(
      30 * 60,
      31 * 60,
    );

  test('outside, inside or half and half', () => {
    expect([row('outside')[39], row('outside')[46] > 0, row('outside')[48]]).toEqual([1, true, 0]);
    expect([row('inside')[31], row('inside')[38] < 1, row('inside')[40]]).toEqual([1, true, 0]);
    expect([row('both')[35], row('both')[43] > 0, row('both')[44]]).toEqual([1, true, 0]);
  });

  test('the bounds follow', () => {
    const width = (featherSide: 'outside' | 'inside' | 'both') =>
      boundsOfArea({ ...areaOfShapes([boxShape(20, 20, 20, 20)], 0, 8), featherSide }).w;
    expect(width('outside')).toBeGreaterThan(width('both'));
    expect(width('both')).toBeGreaterThan(width('inside'));
  });
});

const anyShapes = fc.array(
  fc.oneof(
    fc.record({
      kind: fc.constantFrom('box' as const, 'ellipse' as const),
      op: fc.constantFrom<ShapeOp>('add', 'subtract', 'intersect'),
      x: fc.integer({ min: -5, max: 50 }),
      y: fc.integer({ min: -5, max: 50 }),
      w: fc.integer({ min: 0, max: 40 }),
      h: fc.integer({ min: 0, max: 40 }),
    }),
    fc.record({
      kind: fc.constant('stroke' as const),
      op: fc.constantFrom<ShapeOp>('add', 'subtract', 'intersect'),
      radiusPx: fc.integer({ min: 1, max: 15 }),
      hardness: fc.constantFrom(0, 0.5, 1),
      points: fc.array(fc.tuple(fc.nat(60), fc.nat(60), fc.constant(1)), { minLength: 1, maxLength: 3 }),
    }),
  ),
  { minLength: 1, maxLength: 4 },
);
const alone = (shape: Shape) => rasteriseArea(areaOfShapes([{ ...shape, op: 'add' }]), frame, noMasks);

describe('laws', () => {
  test('add is the greater, intersect the lesser, subtract the lesser with the rest', () => {
    fc.assert(
      fc.property(anyShapes, (shapes) => {
        const got = rasteriseArea(areaOfShapes(shapes), frame, noMasks);
        const want = new Float32Array(got.length);
        for (const shape of shapes)
          alone(shape).forEach((v, i) => {
            if (shape.op === 'add') want[i] = Math.max(want[i], v);
            else want[i] = Math.min(want[i], shape.op === 'intersect' ? v : 1 - v);
          });
        expect(got.every((v, i) => Math.abs(v - want[i]) < 1e-5)).toBe(true);
      }),
      { numRuns: 80 },
    );
  });

  test('what is inverted is the rest, and inverted twice what it was', () => {
    fc.assert(
      fc.property(
        anyShapes,
        fc.integer({ min: -5, max: 8 }),
        fc.integer({ min: 0, max: 6 }),
        (shapes, m, f) => {
          const plain = shapes.filter((s) => s.op !== 'intersect');
          const area = areaOfShapes(plain, m, f);
          const rest = invertArea(area, frame)!;
          const a = rasteriseArea(area, frame, noMasks);
          const b = rasteriseArea(rest, frame, noMasks);
          const again = rasteriseArea(invertArea(rest, frame)!, frame, noMasks);
          // At the frame itself the rest ends, which its own margin sees; soft brushes are cut at one half on both sides.
          const inner = (i: number) =>
            Math.min(i % 60, Math.floor(i / 60), 59 - (i % 60), 59 - Math.floor(i / 60)) > 15;
          expect(a.every((v, i) => Math.abs(again[i] - v) < 1e-4)).toBe(true);
          const sharp = plain.every((s) => s.kind === 'box');
          expect(a.every((v, i) => !sharp || !inner(i) || Math.abs(1 - v - b[i]) < 1e-4)).toBe(true);
        },
      ),
      { numRuns: 80 },
    );
    expect(invertArea(areaOfShapes([{ ...boxShape(0, 0, 5, 5), op: 'intersect' }]), frame)).toBeNull();
  });

  test('whatever is set, a pixel is the same in any rectangle, 0 outside the bounds, and moves with the area', () => {
    const anyArea = fc.record({
      shapes: anyShapes,
      marginPx: fc.integer({ min: -4, max: 8 }),
      featherPx: fc.integer({ min: 0, max: 6 }),
      featherSide: fc.constantFrom('outside' as const, 'inside' as const, 'both' as const),
      smoothPx: fc.integer({ min: 0, max: 3 }),
      fillHoles: fc.boolean(),
      crumbPx: fc.integer({ min: 0, max: 5 }),
      guard: fc.constantFrom([], [boxShape(20, -40, 3, 150)]),
    });
    fc.assert(
      fc.property(
        anyArea,
        fc.integer({ min: -20, max: 60 }),
        fc.integer({ min: -20, max: 60 }),
        (area, x, y) => {
          const wide = { x: -40, y: -40, w: 150, h: 150 };
          const all = rasteriseArea(area, wide, noMasks);
          const some = rasteriseArea(area, { x, y, w: 11, h: 8 }, noMasks);
          const same = (v: number, i: number) =>
            v === all[(y + Math.floor(i / 11) + 40) * 150 + x + (i % 11) + 40];
          expect(some.every(same)).toBe(true);
          const b = boundsOfArea(area);
          const outside = (i: number) => {
            const [px, py] = [(i % 150) - 40, Math.floor(i / 150) - 40];
            return px < b.x || py < b.y || px >= b.x + b.w || py >= b.y + b.h;
          };
          expect(all.every((v, i) => v === 0 || !outside(i))).toBe(true);
          const moved = rasteriseArea(moveArea(area, 9, -4), { ...wide, x: -31, y: -44 }, noMasks);
          expect(moved.every((v, i) => Math.abs(v - all[i]) < 1e-4)).toBe(true);
        },
      ),
      { numRuns: 30 },
    );
  });

  test('the soft edge that smoothing alone leaves lies within the bounds', () => {
    const area = { ...areaOfShapes([boxShape(10, 10, 3, 7)]), smoothPx: 1 };
    const { x, y, w, h } = boundsOfArea(area);
    const covered = rasteriseArea(area, frame, noMasks);
    expect(covered[13 * frame.w + 13]).toBeGreaterThan(0);
    covered.forEach((v, i) => {
      const [px, py] = [frame.x + (i % frame.w), frame.y + Math.floor(i / frame.w)];
      if (v > 0) expect(px >= x && py >= y && px < x + w && py < y + h).toBe(true);
    });
  });

  test('an ellipse agrees with testing 16×16 points a pixel', () => {
    const coverage = alone({ kind: 'ellipse', op: 'add', x: 10.5, y: 20, w: 31, h: 17 });
    coverage.forEach((v, i) => {
      let hits = 0;
      for (let k = 0; k < 256; k++) {
        const px = (i % 60) + ((k % 16) + 0.5) / 16;
        const py = Math.floor(i / 60) + (Math.floor(k / 16) + 0.5) / 16;
        if (((px - 26) / 15.5) ** 2 + ((py - 28.5) / 8.5) ** 2 < 1) hits++;
      }
      expect(Math.abs(v - hits / 256)).toBeLessThan(0.13);
    });
  });

  test('baked, an area is its pixels within the photo, trimmed', () => {
    const area = areaOfShapes([boxShape(-5, 10, 20, 6)], 2, 3);
    const { mask, x, y } = bakeArea(area, frame, noMasks);
    const again = rasteriseArea(
      areaOfShapes([{ kind: 'mask', op: 'add', x, y, w: mask.w, h: mask.h, maskId: 'm' }]),
      frame,
      () => mask,
    );
    rasteriseArea(area, frame, noMasks).forEach((v, i) => {
      expect(Math.abs(again[i] - v)).toBeLessThan(0.5 / 255 + 1e-6);
    });
    const nothing = bakeArea(areaOfShapes([boxShape(80, 80, 5, 5)]), frame, noMasks);
    expect([nothing.mask.w, nothing.mask.data[0]]).toEqual([1, 0]);
  });
});
