import { expect, test } from 'vitest';
import { instantiateKernel, patchSearchWasm } from '../../kernels';
import { makeRandom } from '../../random';
import type { FloatImage } from '../../raster';
import { type Frame, pixelBytes } from './frame';
import { withLayout } from './layout';
import { shrink } from './levels';
import { PatchSearch } from './search/patch-search';
import { radiusAt } from './solve';
import { boxHole, fillPicture, frameOf, grainy, picture } from './testing';

const [w, h] = [400, 360];
const tall = boxHole(w, h, 130, 60, 130, 240);
const skyEnds = 130;
const groundBegins = 230;
const layerAt = (y: number) => (y < skyEnds ? 0 : y < groundBegins ? 1 : 2);

/** Sky, trees and ground, each with grain of its own. */
const layered = (() => {
  const { data } = grainy(w, h, 5);
  const tints = [
    [0.75, 0.85, 0.95],
    [0.25, 0.35, 0.15],
    [0.6, 0.5, 0.35],
  ];
  return picture(w, h, (x, y) => {
    const grain = 0.3 * (data[4 * (y * w + x)] - 0.5);
    const [r, g, b] = tints[layerAt(y)];
    return [r + grain, g + grain, b + grain];
  });
})();

const levelsOf = (image: FloatImage, hole: Uint8Array) => {
  const fine = frameOf(image, hole, 4);
  return [fine, shrink(fine), shrink(shrink(fine))];
};

test('a kind of ground costs nothing in the rows where it is seen, and more the less it is like what is', () => {
  const [, , coarse] = withLayout(levelsOf(layered, tall), 4);
  const { kind, count, table } = coarse.layout!;
  const kindAt = (y: number) => kind[Math.floor(y / 4) * coarse.w + 12];
  const cost = (row: number, of: number) => table[Math.floor(row / 4) * count + kindAt(of)];
  const [sky, trees, ground] = [90, 180, 280];
  for (const row of [sky, trees, ground]) expect(cost(row, row)).toBe(0);
  expect(cost(sky, trees)).toBeGreaterThan(cost(sky, ground));
  expect(cost(trees, sky)).toBeGreaterThan(cost(trees, ground));
  expect(cost(ground, sky)).toBeGreaterThan(100);
});

test('where all is of one kind, next to no source costs anything', () => {
  for (const { layout } of withLayout(levelsOf(grainy(w, h, 9), tall), 4)) {
    const { kind, count, table } = layout!;
    const perKind = new Array(count).fill(0);
    for (const a of kind) perKind[a]++;
    let sum = 0;
    table.forEach((cost, k) => {
      sum += cost * perKind[k % count];
    });
    expect(sum / (kind.length * (table.length / count))).toBeLessThan(2);
  }
});

/** Leaves above a wall above a lawn that looks just like the leaves. */
const leavesOverLawn = (() => {
  const { data } = grainy(w, h, 11);
  const isWall = (y: number) => y >= 150 && y < 230;
  return picture(w, h, (x, y) => {
    const grain = 0.5 * (data[4 * (y * w + x)] - 0.5);
    return isWall(y) ? [0.7 + grain, 0.66 + grain, 0.6 + grain] : [0.3 + grain, 0.4 + grain, 0.2 + grain];
  });
})();

test('where a picture lies in layers, the same kind is dearer from another height, and nothing else is', () => {
  const hole = boxHole(w, h, 140, 30, 120, 300);
  const [, , coarse] = withLayout(levelsOf(leavesOverLawn, hole), 4);
  const { kind, count, table } = coarse.layout!;
  const kindAt = (x: number, y: number) => kind[Math.floor(y / 4) * coarse.w + Math.floor(x / 4)];
  const cost = (row: number, x: number, y: number) => table[Math.floor(row / 4) * count + kindAt(x, y)];
  const [leaves, lawn] = [90, 300];
  for (const x of [60, 330]) {
    expect(cost(leaves, x, leaves)).toBe(0);
    expect(cost(lawn, x, lawn)).toBe(0);
    expect(cost(leaves, x, lawn)).toBeGreaterThan(20);
    expect(cost(lawn, x, leaves)).toBeGreaterThan(20);
    expect(cost(leaves, x, 190)).toBeGreaterThan(cost(leaves, x, lawn));
  }
});

test('leaves come from among the leaves, though the lawn below looks just like them', () => {
  const hole = boxHole(w, h, 110, 60, 180, 240);
  const fromBelow = [1, 2, 3].map((seed) => {
    const { origin } = fillPicture({ image: leavesOverLawn, hole, seed });
    let [below, all] = [0, 0];
    for (let y = 60; y < 150; y++)
      for (let x = 110; x < 290; x++) {
        all++;
        if (origin[2 * (y * w + x) + 1] > 190) below++;
      }
    return below / all;
  });
  // With no heed to the height it is 0.16.
  expect((fromBelow[0] + fromBelow[1] + fromBelow[2]) / 3).toBeLessThan(0.05);
});

test('each level says the same of the same place', () => {
  const levels = withLayout(levelsOf(layered, tall), 4);
  const [fine, , coarse] = levels;
  for (const [x, y] of [
    [40, 60],
    [320, 200],
    [80, 300],
  ])
    expect(fine.layout!.kind[y * w + x]).toBe(
      coarse.layout!.kind[Math.floor(y / 4) * coarse.w + Math.floor(x / 4)],
    );
});

test('among equal sources, a search takes those that belong to the row', () => {
  const [side, radius] = [80, 2];
  const hole = boxHole(side, side, 25, 10, 30, 60);
  const flat = frameOf(
    picture(side, side, () => [0.5, 0.4, 0.3]),
    hole,
    radius,
  );
  const isLow = (p: number) => (Math.floor(p / side) < side / 2 ? 0 : 1);
  const layout = {
    kind: Uint8Array.from({ length: side * side }, (_, p) => isLow(p)),
    count: 2,
    table: Float32Array.from({ length: 2 * side }, (_, k) => (isLow((k >> 1) * side) === k % 2 ? 0 : 40)),
  };
  const strays = (frame: Frame) => {
    const search = new PatchSearch(frame, radius, makeRandom(3));
    search.peel();
    for (let round = 0; round < 3; round++) search.improve(4, side);
    const sources = search.sources();
    return search.targets.filter((p) => isLow(p) !== isLow(sources[p])).length / search.targets.length;
  };
  expect(strays({ ...flat, layout })).toBe(0);
  expect(strays(flat)).toBeGreaterThan(0.1);
});

test('what is large keeps to layers that hardly differ', () => {
  const [wide, high] = [600, 420];
  const ends = [150, 270];
  const layerOf = (y: number) => ends.filter((end) => y >= end).length;
  const { data } = grainy(wide, high, 5);
  const image = picture(wide, high, (x, y) => {
    const v = [0.5, 0.45, 0.53][layerOf(y)] + 0.6 * (data[4 * (y * wide + x)] - 0.5);
    return [v, v, v];
  });
  const hole = boxHole(wide, high, 180, 40, 240, 330);
  const strays = [1, 2, 3].map((seed) => {
    const { origin } = fillPicture({ image, hole, seed });
    let [astray, all] = [0, 0];
    hole.forEach((inside, p) => {
      const y = Math.floor(p / wide);
      if (!inside || ends.some((end) => Math.abs(y - end) <= 12)) return;
      all++;
      if (layerOf(origin[2 * p + 1]) !== layerOf(y)) astray++;
    });
    return astray / all;
  });
  // Without the layout it is more than 0.15.
  expect((strays[0] + strays[1] + strays[2]) / 3).toBeLessThan(0.12);
});

test('the kernel adds what a kind costs in the row, in whole patches', () => {
  interface Kernel {
    claim(bytes: number): number;
    favour(table: number): void;
    keepRules(index: number, x: number, y: number, table: number): void;
    keepLayout(kinds: number, table: number, count: number): void;
    score(img: number, w: number, targets: number, n: number, nnf: number, cost: number, r: number): void;
  }
  const [side, radius, count] = [40, 2, 3];
  const { img } = frameOf(grainy(side, side, 4), new Uint8Array(side * side));
  const random = makeRandom(7);
  const inner = () => random.below(side - 2 * radius) + radius;
  const place = () => inner() + side * inner();
  const targets = Int32Array.from({ length: 50 }, place);
  const nnf = new Int32Array(side * side);
  for (const p of targets) nnf[p] = place();
  const kinds = Uint8Array.from({ length: side * side }, () => random.below(count));
  const table = Int32Array.from({ length: side * count }, () => random.below(90_000));
  const k = instantiateKernel<Kernel>(patchSearchWasm);
  const put = (values: Uint8Array | Int32Array) => {
    const at = k.claim(values.byteLength + 64);
    new Uint8Array(k.memory.buffer, at, values.byteLength).set(
      new Uint8Array(values.buffer, values.byteOffset, values.byteLength),
    );
    return at;
  };
  const [imgAt, targetsAt, nnfAt, kindsAt, tableAt] = [img, targets, nnf, kinds, table].map(put);
  const costAt = k.claim(4 * side * side);
  k.favour(0);
  k.keepRules(0, 0, 0, 0);
  k.keepLayout(kindsAt, tableAt, count);
  k.score(imgAt, side, targetsAt, targets.length, nnfAt, costAt, radius);
  const costs = new Int32Array(k.memory.buffer, costAt, side * side);
  for (const p of targets) {
    let wanted = table[Math.floor(p / side) * count + kinds[nnf[p]]];
    for (let y = -radius; y <= radius; y++)
      for (let x = -radius; x <= radius; x++)
        for (let c = 0; c < pixelBytes; c++) {
          const step = y * side + x;
          wanted += (img[(p + step) * pixelBytes + c] - img[(nnf[p] + step) * pixelBytes + c]) ** 2;
        }
    expect(costs[p]).toBe(wanted);
  }
});

test('patches are small where little lies beside a hole, and of full size where much does', () => {
  const known = boxHole(100, 60, 0, 0, 100, 60);
  const frame = (strip: number) => {
    const hole = boxHole(100, 60, 40, 20, 30, 30);
    const base = frameOf(grainy(100, 60, 2), hole);
    // Beside it, only strips may be drawn from.
    const source = known.map((v, p) => {
      const [x, y] = [p % 100, Math.floor(p / 100)];
      const isBeside = y >= 20 && y < 50;
      return hole[p] || (isBeside && x % 13 >= strip) ? 0 : v;
    });
    return { ...base, source };
  };
  expect(radiusAt(frame(13), 4)).toBe(4);
  expect(radiusAt(frame(8), 4)).toBe(2);
  expect(radiusAt(frame(8), 1)).toBe(1);
  // With nothing beside it, as in a mark from edge to edge, small ones would find no more.
  expect(radiusAt(frame(0), 4)).toBe(4);
});

test('what is looked at one level higher says what it says of that level', () => {
  const levels = levelsOf(layered, tall);
  levels.push(shrink(levels[2]));
  const higher = withLayout(levels, 4, 0, 1);
  withLayout(levels.slice(1), 4).forEach(({ layout }, level) => {
    expect(higher[level + 1].layout).toEqual(layout);
  });
  expect(higher[1].layout).not.toEqual(withLayout(levels, 4)[1].layout);
});

test('a part of something large keeps to its layers as the whole does: what is still to go beside it counts', () => {
  // A door, a wall of bricks beside it, and flags below both.
  const random = makeRandom(3);
  const yard = picture(420, 420, (x, y) => {
    const n = 0.12 * (random.next() - 0.5);
    if (y >= 260) return [0.62 + n, 0.58 + n, 0.5 + n];
    if (x < 130) return [0.4 + n / 2, 0.55 + n / 2, 0.5 + n / 2];
    const isJoint = y % 16 < 3 || (x + 16 * (Math.floor(y / 16) % 2)) % 32 < 3;
    return isJoint ? [0.25 + n, 0.22 + n, 0.2 + n] : [0.55 + n, 0.25 + n, 0.17 + n];
  });
  const hole = boxHole(420, 420, 210, 130, 120, 128);
  const pending = boxHole(420, 420, 110, 60, 100, 198);
  /** By how many rows sources lie away from what they fill, in the mean. */
  const awayWith = (keepsLayers: boolean): number => {
    const { origin } = fillPicture({ image: yard, hole, pending, reach: 1, steering: { keepsLayers } });
    let [sum, count] = [0, 0];
    hole.forEach((v, p) => {
      if (!v) return;
      count++;
      sum += Math.abs(origin[2 * p + 1] - Math.floor(p / 420));
    });
    return sum / count;
  };
  const [kept, free] = [awayWith(true), awayWith(false)];
  expect(kept).toBeLessThan(0.8 * free);
});
