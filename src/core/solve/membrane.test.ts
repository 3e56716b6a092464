import { describe, expect, test } from 'vitest';
import { makeRandom } from '../random';
import { maxMembranePoints, openMembrane, point, rimPoints, solveMembrane } from './membrane';

/** The same equations by Gaussian elimination in float64: slow and plain. */
function solveDense(
  w: number,
  h: number,
  kind: Uint8Array,
  values: Float32Array,
  source?: Float32Array,
): Float64Array {
  const free = [...kind.keys()].filter((i) => kind[i] === point.free);
  const index = new Map(free.map((p, k) => [p, k]));
  const out = Float64Array.from(values);
  for (let c = 0; c < 4; c++) {
    const rows = free.map((p) => {
      const row = new Float64Array(free.length + 1);
      if (source) row[free.length] = source[4 * p + c];
      const x = p % w;
      for (const q of [x > 0 ? p - 1 : -1, x < w - 1 ? p + 1 : -1, p - w, p + w]) {
        if (q < 0 || q >= w * h || kind[q] === point.away) continue;
        row[index.get(p)!]++;
        if (kind[q] === point.fixed) row[free.length] += values[4 * q + c];
        else row[index.get(q)!]--;
      }
      return row;
    });
    for (let k = 0; k < rows.length; k++) {
      let pivot = k;
      for (let r = k + 1; r < rows.length; r++)
        if (Math.abs(rows[r][k]) > Math.abs(rows[pivot][k])) pivot = r;
      [rows[k], rows[pivot]] = [rows[pivot], rows[k]];
      for (let r = 0; r < rows.length; r++) {
        if (r === k || rows[r][k] === 0) continue;
        const f = rows[r][k] / rows[k][k];
        for (let j = k; j <= rows.length; j++) rows[r][j] -= f * rows[k][j];
      }
    }
    free.forEach((p, k) => {
      out[4 * p + c] = rows[k][rows.length] / rows[k][k];
    });
  }
  return out;
}

function puzzle(w: number, h: number, seed: number, holes: number) {
  const random = makeRandom(seed);
  const kind = new Uint8Array(w * h).fill(point.free);
  for (let x = 0; x < w; x++) kind[x] = kind[(h - 1) * w + x] = point.fixed;
  for (let y = 0; y < h; y++) kind[y * w] = kind[y * w + w - 1] = point.fixed;
  for (let i = 0; i < holes; i++) kind[random.below(w * h)] = random.next() < 0.5 ? point.fixed : point.away;
  const values = new Float32Array(w * h * 4);
  for (let i = 0; i < kind.length; i++)
    if (kind[i] === point.fixed) for (let c = 0; c < 4; c++) values[4 * i + c] = random.next() * 2 - 1;
  return { kind, values, random };
}

/** A tenth of an 8-bit grey level. */
const tenth = 0.1 / 255;

describe('membrane', () => {
  test.each([
    [9, 7, 0],
    [23, 17, 0],
    [23, 17, 40],
    [16, 31, 80],
    [5, 30, 12],
  ])('%i×%i with %i odd points agrees with a dense solver to a tenth of a grey level', (w, h, holes) => {
    const { kind, values } = puzzle(w, h, w * h + holes, holes);
    const wanted = solveDense(w, h, kind, values);
    const { converged } = solveMembrane(w, h, kind, values);
    expect(converged).toBe(true);
    kind.forEach((k, i) => {
      if (k !== point.away)
        for (let c = 0; c < 4; c++)
          expect(Math.abs(values[4 * i + c] - wanted[4 * i + c])).toBeLessThan(tenth);
    });
  });

  test('Poisson’s equation with a source term agrees with the dense solver', () => {
    const { kind, values, random } = puzzle(21, 19, 5, 25);
    const source = Float32Array.from(values, () => 0.1 * (random.next() - 0.5));
    const wanted = solveDense(21, 19, kind, values, source);
    solveMembrane(21, 19, kind, values, { source, tolerance: 2e-5 });
    kind.forEach((k, i) => {
      if (k === point.free)
        for (let c = 0; c < 4; c++)
          expect(Math.abs(values[4 * i + c] - wanted[4 * i + c])).toBeLessThan(tenth);
    });
  });

  test('a constant rim gives the constant, and values stay between those of the rim', () => {
    const { kind, values } = puzzle(40, 40, 9, 0);
    const rim = values.slice();
    solveMembrane(40, 40, kind, values);
    const low = Math.min(...rim);
    const high = Math.max(...rim);
    expect(values.every((v) => v >= low - 1e-4 && v <= high + 1e-4)).toBe(true);
    const flat = new Float32Array(40 * 40 * 4);
    kind.forEach((k, i) => {
      if (k === point.fixed) flat.fill(0.3, 4 * i, 4 * i + 4);
    });
    solveMembrane(40, 40, kind, flat);
    expect(flat.every((v) => Math.abs(v - 0.3) < 1e-4)).toBe(true);
  });

  test('no tone crosses points that are away: two sides keep their own constants', () => {
    const w = 21;
    const kind = new Uint8Array(w * w);
    const values = new Float32Array(w * w * 4);
    for (let y = 0; y < w; y++)
      for (let x = 0; x < w; x++) {
        const i = y * w + x;
        const edge = x === 0 || y === 0 || x === w - 1 || y === w - 1;
        kind[i] = x === 10 ? point.away : edge ? point.fixed : point.free;
        if (kind[i] === point.fixed) values.fill(x < 10 ? 0.25 : -0.5, 4 * i, 4 * i + 4);
      }
    solveMembrane(w, w, kind, values);
    kind.forEach((k, i) => {
      if (k === point.free) expect(values[4 * i]).toBeCloseTo(i % w < 10 ? 0.25 : -0.5, 3);
    });
  });

  test('the same input gives the same bits', () => {
    const a = puzzle(50, 33, 3, 60);
    const b = puzzle(50, 33, 3, 60);
    solveMembrane(50, 33, a.kind, a.values);
    solveMembrane(200, 200, puzzle(200, 200, 1, 0).kind, puzzle(200, 200, 1, 0).values);
    solveMembrane(50, 33, b.kind, b.values);
    expect(a.values).toEqual(b.values);
  });

  test('nothing free changes nothing; an empty grid is no error; too much is refused', () => {
    const values = Float32Array.from({ length: 36 }, (_, i) => i);
    solveMembrane(3, 3, new Uint8Array(9).fill(point.fixed), values);
    expect(values[35]).toBe(35);
    expect(solveMembrane(0, 0, new Uint8Array(0), new Float32Array(0)).converged).toBe(true);
    expect(() => solveMembrane(maxMembranePoints, 2, new Uint8Array(0), new Float32Array(0))).toThrow(
      /too large/,
    );
  });
});

test('a large grid with fixed points strewn all over, and steps to take up, is solved all the same', () => {
  const [w, h] = [220, 190];
  const { kind, values, random } = puzzle(w, h, 31, 900);
  // A comb of fixed lines one pixel wide, which coarse grids cannot see.
  for (let x = 20; x < 200; x += 6) for (let y = 30 + (x % 7); y < 150; y++) kind[y * w + x] = point.fixed;
  const source = new Float32Array(w * h * 4);
  for (let i = 0; i < source.length; i++) source[i] = random.next() < 0.05 ? 0.3 * (random.next() - 0.5) : 0;
  const { converged } = solveMembrane(w, h, kind, values, { source, tolerance: 4e-4 });
  expect(converged).toBe(true);
  let worst = 0;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const p = y * w + x;
      if (kind[p] !== point.free) continue;
      let sum = source[4 * p];
      for (const q of [x > 0 ? p - 1 : -1, x < w - 1 ? p + 1 : -1, p - w, p + w])
        if (q >= 0 && q < w * h && kind[q] !== point.away) sum += values[4 * q] - values[4 * p];
      worst = Math.max(worst, Math.abs(sum));
    }
  expect(worst).toBeLessThan(4e-3);
});

describe('a large area, where fine grids work near the rim only', () => {
  /** A few large discs run together, with a fixed island, a slit of points that are away, and a restless rim. */
  function blobs(seed: number) {
    const [w, h] = [330, 290];
    const random = makeRandom(seed);
    const discs = Array.from({ length: 3 }, () => [
      90 + random.below(150),
      90 + random.below(110),
      50 + random.below(36),
    ]);
    const island = [discs[0][0] + 8, discs[0][1] - 5];
    const kind = new Uint8Array(w * h).fill(point.fixed);
    const values = new Float32Array(w * h * 4);
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const i = y * w + x;
        if (discs.some(([cx, cy, r]) => Math.hypot(x - cx, y - cy) < r)) kind[i] = point.free;
        if (Math.hypot(x - island[0], y - island[1]) < 6) kind[i] = point.fixed;
        if (x === discs[1][0] && Math.abs(y - discs[1][1]) < 30) kind[i] = point.away;
        if (kind[i] === point.fixed)
          for (let c = 0; c < 4; c++)
            values[4 * i + c] =
              0.2 * Math.sin(x / 30 + c) + (y > 140 ? 0.1 : 0) + 0.06 * (random.next() - 0.5);
      }
    return { w, h, kind, values };
  }

  test.each([1, 2, 3, 4])(
    'differs by less than a grey level’s tenth from one where they work everywhere (%i)',
    (seed) => {
      const { w, h, kind, values } = blobs(seed);
      const everywhere = values.slice();
      // A source term, even of nothing, is worked on everywhere.
      solveMembrane(w, h, kind, everywhere, { source: new Float32Array(w * h * 4), tolerance: 1e-5 });
      const { converged } = solveMembrane(w, h, kind, values, { tolerance: 1e-4 });
      expect(converged).toBe(true);
      let [worst, sum, count] = [0, 0, 0];
      kind.forEach((k, i) => {
        if (k !== point.free) return;
        for (let c = 4 * i; c < 4 * i + 4; c++) {
          const d = Math.abs(values[c] - everywhere[c]);
          worst = Math.max(worst, d);
          sum += d;
          count++;
        }
      });
      expect(worst).toBeLessThan(tenth);
      expect(sum / count).toBeLessThan(tenth / 10);
    },
  );

  test.each([
    ['a disc with a steep, smooth rim', 0, 0],
    ['a star with a restless rim', 80, 0.25],
  ])('%s is found to a grey level’s tenth with the tolerance that is usual', (_, lobes, noise) => {
    const side = 760;
    const random = makeRandom(6);
    const kind = new Uint8Array(side * side);
    const values = new Float32Array(side * side * 4);
    for (let y = 0, i = 0; y < side; y++)
      for (let x = 0; x < side; x++, i++) {
        const angle = Math.atan2(y - 380, x - 380);
        const reach = lobes ? 250 + lobes * Math.sin(7 * angle) + 15 * Math.sin(23 * angle) : 350;
        kind[i] = Math.hypot(x - 380, y - 380) < reach ? point.free : point.fixed;
        if (kind[i] === point.fixed)
          for (let c = 0; c < 3; c++)
            values[4 * i + c] =
              0.3 * Math.sin(x / 90 + c) + 0.2 * Math.cos(y / 40) + noise * (random.next() - 0.5);
      }
    const everywhere = values.slice();
    solveMembrane(side, side, kind, everywhere, {
      source: new Float32Array(values.length),
      tolerance: 1e-6,
    });
    const { cycles } = solveMembrane(side, side, kind, values);
    expect(cycles).toBeLessThanOrEqual(6);
    let worst = 0;
    for (let i = 0; i < values.length; i++)
      if (kind[i >> 2] === point.free) worst = Math.max(worst, Math.abs(values[i] - everywhere[i]));
    expect(worst).toBeLessThan(tenth);
  });

  test.each([402, 702])(
    'a strip on the slant, %i pixels wide, on which cycles settle slowly, as well',
    (side) => {
      const random = makeRandom(5);
      const kind = new Uint8Array(side * side).fill(point.fixed);
      const values = new Float32Array(side * side * 4);
      for (let i = 0; i < kind.length; i++) {
        const [x, y] = [i % side, Math.floor(i / side)];
        if (Math.abs(y - x) < 30 && x > 2 && x < side - 3) kind[i] = point.free;
        else
          for (let c = 0; c < 3; c++)
            values[4 * i + c] = 0.15 * Math.sin(1 + c + x / 60) + 0.12 * (random.next() - 0.5);
      }
      const settled = values.slice();
      solveMembrane(side, side, kind, settled, { tolerance: 1e-7 });
      solveMembrane(side, side, kind, values);
      let worst = 0;
      values.forEach((v, i) => {
        worst = Math.max(worst, Math.abs(v - settled[i]));
      });
      expect(worst).toBeLessThan(tenth);
    },
  );

  test('a single point that lies deep, in each of many chambers, is found too', () => {
    // Thirteen free points between walls: six from each side, and one in the midst, which a coarser grid has too.
    const [side, period] = [14 * 17 + 2, 14];
    const hasWall = (k: number) => k === 0 || k % period === 1;
    const kind = new Uint8Array(side * side);
    const values = new Float32Array(side * side * 4);
    const slope = (i: number) => 0.002 * (i % side) - 0.001 * Math.floor(i / side);
    for (let i = 0; i < kind.length; i++) {
      const isWall = hasWall(i % side) || hasWall(Math.floor(i / side));
      kind[i] = isWall ? point.fixed : point.free;
      if (isWall) values.fill(slope(i), 4 * i, 4 * i + 4);
    }
    expect(solveMembrane(side, side, kind, values).converged).toBe(true);
    let worst = 0;
    kind.forEach((_, i) => {
      worst = Math.max(worst, Math.abs(values[4 * i] - slope(i)));
    });
    expect(worst).toBeLessThan(tenth / 2);
  });

  test.each([1, 0.35])('added to pixels, %d of it, it is what plain code adds of its values', (share) => {
    const { w, h, kind, values } = blobs(5);
    const random = makeRandom(2);
    const pixels = Float32Array.from(values, (_, c) => (c % 4 === 3 ? 0.9 : 0.9 * random.next()));
    const fill = () => {
      const grid = openMembrane(w, h);
      grid.kind.set(kind);
      grid.values.set(values);
      grid.solve();
      return grid;
    };
    const added = pixels.slice();
    fill().add(added, share);
    const field = fill().values;
    let most = 0;
    added.forEach((v, c) => {
      const isFree = kind[c >> 2] === point.free && c % 4 < 3;
      const sum = isFree ? Math.min(pixels[c | 3], Math.max(0, pixels[c] + share * field[c])) : pixels[c];
      most = Math.max(most, Math.abs(v - Math.fround(sum)));
    });
    expect(most).toBeLessThan(1e-6);
    expect(added).not.toEqual(pixels);
  });

  test('a part that reaches no rim gets the mean of all rims', () => {
    const [w, h] = [260, 240];
    const kind = new Uint8Array(w * h).fill(point.free);
    const values = new Float32Array(w * h * 4);
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const edge = x === 0 || y === 0 || x === w - 1 || y === h - 1;
        const wall = Math.max(Math.abs(x - 130), Math.abs(y - 120)) === 60;
        if (wall) kind[y * w + x] = point.away;
        if (edge) {
          kind[y * w + x] = point.fixed;
          values.fill(0.4, 4 * (y * w + x), 4 * (y * w + x) + 4);
        }
      }
    expect(solveMembrane(w, h, kind, values).converged).toBe(true);
    for (const [x, y] of [
      [130, 120],
      [75, 65],
      [20, 120],
    ])
      expect(values[4 * (y * w + x)]).toBeCloseTo(0.4, 3);
  });

  test('single points that lie between those of coarser grids hold, whatever memory held before', () => {
    const [w, h] = [430, 390];
    const slope = (i: number) => 0.3 + 0.001 * (i % w) - 0.0005 * Math.floor(i / w);
    const random = makeRandom(3);
    for (const strewn of [1, 4, 40]) {
      // Such an area leaves numbers without end where the next one begins.
      const dirty = new Uint8Array(w * h).fill(point.free);
      dirty.fill(point.fixed, 0, 2 * w);
      solveMembrane(w, h, dirty, new Float32Array(4 * w * h).fill(Number.NaN), { maxCycles: 1 });
      const kind = new Uint8Array(w * h);
      for (let i = 0; i < kind.length; i++)
        kind[i] = Math.hypot((i % w) - 215, Math.floor(i / w) - 195) < 190 ? point.free : point.fixed;
      for (let k = 0; k < strewn; k++)
        kind[(101 + 2 * random.below(95)) * w + 121 + 2 * random.below(95)] = point.fixed;
      const values = new Float32Array(4 * w * h);
      kind.forEach((k, i) => {
        if (k === point.fixed) values.fill(slope(i), 4 * i, 4 * i + 4);
      });
      expect(solveMembrane(w, h, kind, values).converged).toBe(true);
      let worst = 0;
      kind.forEach((_, i) => {
        worst = Math.max(worst, Math.abs(values[4 * i] - slope(i)));
      });
      expect(worst).toBeLessThan(tenth);
    }
  });

  test('what free points held before does not matter, and the same input gives the same bits', () => {
    const { w, h, kind, values } = blobs(9);
    const other = values.map((v, c) => (kind[c >> 2] === point.free ? 0.7 : v));
    solveMembrane(w, h, kind, values);
    solveMembrane(w, h, kind, other);
    expect(other).toEqual(values);
  });
});

test.each([
  [1, 1],
  [16, 3],
  [37, 20],
  [64, 41],
  [200, 7],
])('the rim of %i × %i points is what is fixed beside what is free', (w, h) => {
  const random = makeRandom(w + h);
  for (let round = 0; round < 20; round++) {
    const shares = [0.02, 0.5, 0.98][round % 3];
    const kind = Uint8Array.from({ length: w * h }, () =>
      random.next() < shares ? point.free : random.next() < 0.8 ? point.fixed : point.away,
    );
    const wanted: number[] = [];
    for (let y = 0, i = 0; y < h; y++)
      for (let x = 0; x < w; x++, i++) {
        const beside = [x > 0 && i - 1, x < w - 1 && i + 1, y > 0 && i - w, y < h - 1 && i + w];
        if (kind[i] === point.fixed && beside.some((q) => q !== false && kind[q] === point.free))
          wanted.push(i);
      }
    expect([...rimPoints(w, h, kind)]).toEqual(wanted);
  }
});
