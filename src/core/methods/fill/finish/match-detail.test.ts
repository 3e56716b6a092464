import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import { gaussianBlur, makeFloatImage } from '../../../raster';
import { role } from '../frame';
import { matchDetail } from './match-detail';

const rect = { x: 100, y: 50, w: 180, h: 160 };
const hole = { x: 150, y: 90, w: 70, h: 60 };

/** Grey with grain, and what was filled into it with grain of another strength. */
function scene(grainAround: number, grainInside: number, unknown = Number.NaN) {
  const random = makeRandom(9);
  const window = makeFloatImage(rect);
  const roles = new Uint8Array(rect.w * rect.h);
  const part = makeFloatImage(hole);
  for (let y = 0; y < rect.h; y++)
    for (let x = 0; x < rect.w; x++) {
      const i = y * rect.w + x;
      const [u, v] = [x + rect.x - hole.x, y + rect.y - hole.y];
      const inside = u >= 0 && v >= 0 && u < hole.w && v < hole.h;
      const value =
        0.4 + 0.1 * Math.sin(x / 40) + (inside ? grainInside : grainAround) * (random.next() - 0.5);
      window.data.set(inside ? [unknown, unknown, unknown, unknown] : [value, value, value, 1], 4 * i);
      roles[i] = inside ? role.target : role.source;
      if (inside) part.data.set([value, value, value, 1], 4 * (v * hole.w + u));
    }
  return { window, roles, part, filled: new Uint8Array(hole.w * hole.h).fill(1) };
}

/** Mean square of what differs from the four neighbours, away from the rim. */
function grain({ data }: { data: Float32Array }): number {
  let sum = 0;
  let count = 0;
  for (let y = 6; y < hole.h - 6; y++)
    for (let x = 6; x < hole.w - 6; x++) {
      const at = (u: number, v: number) => data[4 * ((y + v) * hole.w + x + u)];
      sum += (4 * at(0, 0) - at(1, 0) - at(-1, 0) - at(0, 1) - at(0, -1)) ** 2;
      count++;
    }
  return Math.sqrt(sum / count);
}

describe('matching detail', () => {
  test('too little grain becomes more, too much becomes less, neither beyond the surroundings', () => {
    const right = grain(scene(0.1, 0.1).part);
    for (const strength of [0.07, 0.085, 0.12, 0.14]) {
      const { window, roles, part, filled } = scene(0.1, strength);
      const before = grain(part);
      matchDetail(window, roles, part, filled);
      const after = grain(part);
      expect(after > before).toBe(strength < 0.1);
      expect(Math.abs(Math.log2(after / right))).toBeLessThan(Math.abs(Math.log2(before / right)));
      expect(after < right).toBe(strength < 0.1);
    }
    const faint = scene(0.4, 0.05);
    const before = grain(faint.part);
    matchDetail(faint.window, faint.roles, faint.part, faint.filled);
    // What is not there cannot be made up.
    expect(grain(faint.part) / before).toBeGreaterThan(1.4);
    expect(grain(faint.part) / before).toBeLessThan(1.51);
  });

  test('leaves before a sky: however few of them there are inside, each has the detail that its like has', () => {
    const [leaves, sky] = [
      { value: 0.2, around: 0.3, inside: 0.22 },
      { value: 0.8, around: 0.04, inside: 0.04 },
    ];
    const { window, roles, part, filled } = scene(0, 0);
    const random = makeRandom(4);
    const grainOf = (of: typeof sky, strength: number) => of.value + strength * (random.next() - 0.5);
    const horizon = hole.y - rect.y + 24;
    for (let i = 0; i < rect.w * rect.h; i++) {
      if (roles[i] !== role.source) continue;
      const of = Math.floor(i / rect.w) < horizon ? sky : leaves;
      const v = grainOf(of, of.around);
      window.data.set([v, v, v, 1], 4 * i);
    }
    // Inside, a third is leaves, too soft; the sky is as it should be.
    const isLeaves = (i: number) => Math.floor(i / hole.w) >= 40;
    for (let i = 0; i < hole.w * hole.h; i++) {
      const v = isLeaves(i) ? grainOf(leaves, leaves.inside) : grainOf(sky, sky.inside);
      part.data.set([v, v, v, 1], 4 * i);
    }
    const before = part.data.slice();
    matchDetail(window, roles, part, filled);
    const strength = (data: Float32Array, y0: number, y1: number) => {
      let sum = 0;
      for (let y = y0; y < y1; y++)
        for (let x = 8; x < hole.w - 8; x++)
          sum += (data[4 * (y * hole.w + x)] - data[4 * (y * hole.w + x + 1)]) ** 2;
      return Math.sqrt(sum);
    };
    const kept = strength(part.data, 5, 20) / strength(before, 5, 20);
    expect(kept).toBeGreaterThan(0.9);
    expect(kept).toBeLessThan(1.05);
    const raised = strength(part.data, 46, 56) / strength(before, 46, 56);
    expect(raised).toBeGreaterThan(1.25);
    expect(raised).toBeLessThan(1.45);
  });

  test('a colour that nothing round about has is left as it is', () => {
    const { window, roles, part, filled } = scene(0.2, 0.15);
    // A smooth red thing in the midst of restless grey.
    const isRed = (i: number) =>
      Math.abs((i % hole.w) - 35) < 15 && Math.abs(Math.floor(i / hole.w) - 30) < 15;
    const random = makeRandom(2);
    for (let i = 0; i < hole.w * hole.h; i++) {
      if (!isRed(i)) continue;
      const v = 0.02 * (random.next() - 0.5);
      part.data.set([0.8 + v, 0.1 + v, 0.1 + v, 1], 4 * i);
    }
    const before = part.data.slice();
    matchDetail(window, roles, part, filled);
    const at = (x: number, y: number) => 4 * (y * hole.w + x);
    for (let y = 24; y < 37; y++)
      for (let x = 29; x < 42; x++) expect(part.data[at(x, y)]).toBeCloseTo(before[at(x, y)], 4);
    expect(part.data[at(8, 8)]).not.toBe(before[at(8, 8)]);
  });

  test('what lacks blotches and has all the grain gets blotches, and hardly any more grain', () => {
    const { window, roles, part, filled } = scene(0.1, 0.1);
    const random = makeRandom(6);
    const blotches = new Float32Array(4 * rect.w * rect.h).map(() => 2 * (random.next() - 0.5));
    gaussianBlur(blotches, rect.w, rect.h, 1.6);
    const blotchAt = (x: number, y: number) => blotches[4 * (y * rect.w + x)];
    const add = (to: Float32Array, at: number, v: number) => {
      for (let c = at; c < at + 3; c++) to[c] += v;
    };
    for (let y = 0; y < rect.h; y++)
      for (let x = 0; x < rect.w; x++) {
        const [u, v] = [x + rect.x - hole.x, y + rect.y - hole.y];
        if (roles[y * rect.w + x] === role.source) add(window.data, 4 * (y * rect.w + x), blotchAt(x, y));
        else add(part.data, 4 * (v * hole.w + u), 0.5 * blotchAt(x, y));
      }
    /** How much of the blotches there is inside, and how strong what is finer is. */
    const measured = () => {
      let [along, all] = [0, 0];
      for (let v = 8; v < hole.h - 8; v++)
        for (let u = 8; u < hole.w - 8; u++) {
          const blotch = blotchAt(u + hole.x - rect.x, v + hole.y - rect.y);
          along += blotch * (part.data[4 * (v * hole.w + u)] - 0.4);
          all += blotch * blotch;
        }
      return { blotches: along / all, grain: grain(part) };
    };
    const before = measured();
    matchDetail(window, roles, part, filled);
    const after = measured();
    expect(before.blotches).toBeLessThan(0.6);
    expect(after.blotches - before.blotches).toBeGreaterThan(0.08);
    expect(after.blotches).toBeLessThan(1.1);
    expect(after.grain / before.grain).toBeLessThan(1.2);
  });

  test('where it is as it should be, nothing changes at all; unknown pixels are not read', () => {
    const { window, roles, part, filled } = scene(0.1, 0.1);
    const before = part.data.slice();
    matchDetail(window, roles, part, filled);
    expect(part.data).toEqual(before);
    const weak = scene(0.1, 0.06);
    matchDetail(weak.window, weak.roles, weak.part, weak.filled);
    expect(weak.part.data.every(Number.isFinite)).toBe(true);
  });

  test('the rim keeps its pixels, and what was not filled stays', () => {
    const { window, roles, part, filled } = scene(0.1, 0.06);
    for (let y = 20; y < 30; y++) filled.fill(0, y * hole.w + 20, y * hole.w + 40);
    const before = part.data.slice();
    matchDetail(window, roles, part, filled);
    for (let x = 0; x < hole.w; x++) {
      expect(part.data[4 * x]).toBe(before[4 * x]);
      expect(part.data[4 * (25 * hole.w + 30)]).toBe(before[4 * (25 * hole.w + 30)]);
    }
    expect(part.data[4 * (45 * hole.w + 30)]).not.toBe(before[4 * (45 * hole.w + 30)]);
  });

  test('a few pixels, or little around them, are left alone; values stay within 0 and alpha', () => {
    const { window, roles, part, filled } = scene(0.1, 0.05);
    filled.fill(0);
    filled.fill(1, 0, 150);
    const few = part.data.slice();
    matchDetail(window, roles, part, filled);
    expect(part.data).toEqual(few);
    const alone = scene(0.1, 0.05);
    const unchanged = alone.part.data.slice();
    matchDetail(alone.window, alone.roles.fill(role.context), alone.part, alone.filled);
    expect(alone.part.data).toEqual(unchanged);
    const bright = scene(1.6, 1);
    matchDetail(bright.window, bright.roles, bright.part, bright.filled);
    for (let i = 0; i < bright.part.data.length; i += 4) {
      const inner = i / 4 / hole.w > 8 && i / 4 / hole.w < hole.h - 8 && (i / 4) % hole.w > 8;
      if (!inner || (i / 4) % hole.w > hole.w - 8) continue;
      expect(bright.part.data[i]).toBeGreaterThanOrEqual(0);
      expect(bright.part.data[i]).toBeLessThanOrEqual(1);
    }
  });
});
