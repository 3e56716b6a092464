import fc from 'fast-check';
import { expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import { type FloatImage, makeFloatImage, sampleSharp } from '../../../raster';
import type { ShiftMap } from '../cut/seam-cut';
import { role, sides, sourcesOf } from '../frame';
import { solvedDensely } from '../testing';
import { BendNet, type Join } from './bend-net';
import type { LineFit } from './line-fit';

const seeds = fc.integer({ min: 1, max: 1e6 });
const [w, h] = [34, 26];
/** Points of the net lie so far apart in an area of this size. */
const cell = 4;

interface Scene {
  readonly image: FloatImage;
  readonly roles: Uint8Array;
  readonly map: ShiftMap;
  readonly net: BendNet;
}

/** A hole, ragged at its edge, that is taken from the rows above and below it by three shifts, in blots. */
function sceneOf(seed: number): Scene & { random: ReturnType<typeof makeRandom> } {
  const random = makeRandom(seed);
  const image = makeFloatImage({ x: 0, y: 0, w, h });
  for (let i = 0; i < image.data.length; i++) image.data[i] = i % 4 === 3 ? 1 : random.next();
  const shifts = [
    { dx: 3, dy: -8 },
    { dx: -2, dy: 9 },
    { dx: 5, dy: 8 },
  ];
  const roles = new Uint8Array(w * h).fill(role.source);
  const label = new Int32Array(w * h).fill(-1);
  const blots = Array.from({ length: 6 }, (_, k) => ({
    x: 8 + 18 * random.next(),
    y: 9 + 8 * random.next(),
    l: k % 3,
  }));
  const far = (x: number, y: number, b: { x: number; y: number }) => (x - b.x) ** 2 + (y - b.y) ** 2;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const p = y * w + x;
      const chance = random.next();
      if (y >= 9 && y < 17 && x >= 6 && x < 28 && chance > 0.04) {
        roles[p] = role.target;
        label[p] = blots.reduce((a, b) => (far(x, y, b) < far(x, y, a) ? b : a)).l;
      } else if (chance < 0.1) roles[p] = chance < 0.05 ? role.context : role.void;
    }
  const map = { shifts, label };
  return { image, roles, map, net: new BendNet(image, roles, map), random };
}

const isKnown = (r: number) => r === role.source || r === role.context;
const frameAt = ({ box }: BendNet, i: number): [number, number] => [
  box.x + (i % box.w),
  box.y + Math.floor(i / box.w),
];

test('parts are what is connected and has one label, in reading order', () => {
  fc.assert(
    fc.property(seeds, (seed) => {
      const { roles, map, net } = sceneOf(seed);
      const isMet = new Uint8Array(w * h);
      const own: { l: number; part: number[] }[] = [];
      roles.forEach((r, first) => {
        if (r !== role.target || isMet[first]) return;
        const part = [first];
        isMet[first] = 1;
        for (const p of part)
          for (const [u, v] of sides) {
            const q = p + v * w + u;
            if (isMet[q] || roles[q] !== role.target || map.label[q] !== map.label[p]) continue;
            isMet[q] = 1;
            part.push(q);
          }
        own.push({ l: map.label[first], part });
      });
      expect([...net.labels]).toEqual(own.map(({ l }) => l));
      const wanted = new Int32Array(net.number.length).fill(-1);
      own.forEach(({ part }, k) => {
        for (const p of part) wanted[(Math.floor(p / w) - net.box.y) * net.box.w + (p % w) - net.box.x] = k;
      });
      expect(net.number).toEqual(wanted);
    }),
    { numRuns: 40 },
  );
});

const partAt = ({ box, number }: BendNet, x: number, y: number): number =>
  x < box.x || y < box.y || x >= box.x + box.w || y >= box.y + box.h
    ? -1
    : number[(y - box.y) * box.w + x - box.x];

test('joins are every other pixel with something beyond its part, once for each of those', () => {
  fc.assert(
    fc.property(seeds, (seed) => {
      const { roles, net } = sceneOf(seed);
      const wanted: Join[] = [];
      net.number.forEach((part, i) => {
        const [x, y] = frameAt(net, i);
        if (part < 0 || (x - net.box.x + y - net.box.y) % 2 !== 0) return;
        const beyond = sides.flatMap(([u, v]) => {
          const there = partAt(net, x + u, y + v);
          if (there === part) return [];
          return there >= 0 ? [there] : isKnown(roles[(y + v) * w + x + u]) ? [null] : [];
        });
        for (const other of new Set(beyond)) wanted.push({ x, y, part, other });
      });
      expect(net.joins).toEqual(wanted);
    }),
    { numRuns: 40 },
  );
});

const fitOf = (random: ReturnType<typeof makeRandom>): LineFit => {
  const angle = random.next() * Math.PI;
  const [c, s, firm] = [Math.cos(angle), Math.sin(angle), 1 + 5 * random.next()];
  return {
    isOff: true,
    x: 3 * (random.next() - 0.5),
    y: 3 * (random.next() - 0.5),
    xx: firm * (c * c + 0.15),
    xy: firm * c * s,
    yy: firm * (s * s + 0.15),
  };
};

/** Bends as the whole system written out has them. */
function densely({ image, map, net }: Scene, holds: readonly (Join & { fit: LineFit })[]): number[] {
  const luma = (x: number, y: number) => {
    const at = 4 * (y * w + x);
    return 63.75 * (image.data[at] + 2 * image.data[at + 1] + image.data[at + 2]);
  };
  const { box, number, labels } = net;
  const nodes = new Map<string, { id: number; across: number[]; down: number[] }>();
  const keyOf = (u: number, v: number, part: number) => `${part}:${u},${v}`;
  number.forEach((part, i) => {
    if (part < 0) return;
    const [x, y] = frameAt(net, i);
    const [sx, sy] = [x + map.shifts[labels[part]].dx, y + map.shifts[labels[part]].dy];
    const across = sx > 0 && sx < w - 1 ? ((luma(sx + 1, sy) - luma(sx - 1, sy)) / 2) ** 2 : 0;
    const down = sy > 0 && sy < h - 1 ? ((luma(sx, sy + 1) - luma(sx, sy - 1)) / 2) ** 2 : 0;
    const [u, v] = [Math.floor((x - box.x) / cell), Math.floor((y - box.y) / cell)];
    for (let k = 0; k < 4; k++) {
      const key = keyOf(u + (k & 1), v + (k >> 1), part);
      const node = nodes.get(key) ?? { id: nodes.size, across: [], down: [] };
      nodes.set(key, node);
      node.across.push(across);
      node.down.push(down);
    }
  });
  const size = 2 * nodes.size;
  const rows = Array.from({ length: size }, () => new Array<number>(size).fill(0));
  const right = new Array<number>(size).fill(0);
  const mean = (values: readonly number[]) => values.reduce((a, b) => a + b, 0) / values.length;
  /** Adds firmness times the squared difference of two nodes, or of one from where it is, less what is asked. */
  const add = (a: number, b: number, [xx, xy, yy]: readonly number[], asked: readonly number[]) => {
    const firm = [
      [xx, xy],
      [xy, yy],
    ];
    for (const c of [0, 1])
      for (const d of [0, 1]) {
        rows[2 * a + c][2 * a + d] += firm[c][d];
        right[2 * a + c] += firm[c][d] * asked[d];
        if (b < 0) continue;
        rows[2 * b + c][2 * b + d] += firm[c][d];
        rows[2 * a + c][2 * b + d] -= firm[c][d];
        rows[2 * b + c][2 * a + d] -= firm[c][d];
        right[2 * b + c] -= firm[c][d] * asked[d];
      }
  };
  for (const [key, node] of nodes) {
    const still = (cell / 60) ** 2;
    add(node.id, -1, [still, 0, still], [0, 0]);
    const [part, u, v] = key.split(/[:,]/).map(Number);
    for (const [du, dv] of [
      [1, 0],
      [0, 1],
    ]) {
      const to = nodes.get(keyOf(u + du, v + dv, part));
      if (!to) continue;
      const steps = du ? (mean(node.down) + mean(to.down)) / 2 : (mean(node.across) + mean(to.across)) / 2;
      const stiff = 1 + 29 * Math.min(1, steps / 100);
      add(node.id, to.id, [stiff, 0, stiff], [0, 0]);
    }
  }
  const nearest = (x: number, y: number, part: number): number => {
    const [fx, fy] = [(x - box.x) / cell, (y - box.y) / cell];
    const near = nodes.get(keyOf(Math.round(fx), Math.round(fy), part));
    return near!.id;
  };
  for (const { x, y, part, other, fit } of holds) {
    const to = other === null ? -1 : nearest(x, y, other);
    add(nearest(x, y, part), to, [fit.xx, fit.xy, fit.yy], [fit.x, fit.y]);
  }
  const solved = solvedDensely(rows, right);
  return [...number].flatMap((part, i) => {
    if (part < 0) return [0, 0];
    const [fx, fy] = [(i % box.w) / cell, Math.floor(i / box.w) / cell];
    const [u, v] = [Math.floor(fx), Math.floor(fy)];
    return [0, 1].map((c) => {
      const at = (a: number, b: number) => solved[2 * nodes.get(keyOf(u + a, v + b, part))!.id + c];
      const [s, t] = [fx - u, fy - v];
      return (1 - t) * ((1 - s) * at(0, 0) + s * at(1, 0)) + t * ((1 - s) * at(0, 1) + s * at(1, 1));
    });
  });
}

/** Holds some joins of a scene whose nearest points have nodes of both parts, and tells which. */
function holdSome({ net, random }: ReturnType<typeof sceneOf>) {
  const { box } = net;
  const hasNode = (x: number, y: number, part: number): boolean => {
    const [u, v] = [Math.round((x - box.x) / cell), Math.round((y - box.y) / cell)];
    return [...net.number].some((p, i) => {
      const [cu, cv] = [Math.floor((i % box.w) / cell), Math.floor(Math.floor(i / box.w) / cell)];
      return p === part && (cu === u || cu + 1 === u) && (cv === v || cv + 1 === v);
    });
  };
  const holds = net.joins
    .filter(() => random.next() < 0.3)
    .filter(({ x, y, part, other }) => hasNode(x, y, part) && (other === null || hasNode(x, y, other)))
    .map((join) => ({ ...join, fit: fitOf(random) }));
  for (const { x, y, part, other, fit } of holds) net.hold(x, y, part, other, fit);
  return holds;
}

test('parts are bent as the whole system written out has it, and what was let go of no longer counts', () => {
  fc.assert(
    fc.property(seeds, (seed) => {
      const scene = sceneOf(seed);
      holdSome(scene);
      scene.net.letGo();
      const holds = holdSome(scene);
      const found = scene.net.settle({ leaving: 1e-20, mostSteps: 5000 });
      densely(scene, holds).forEach((v, i) => {
        expect(found[i]).toBeCloseTo(v, 4);
      });
    }),
    { numRuns: 25 },
  );
});

test('worse is where sides that went together no longer do when bent', () => {
  let worse = 0;
  fc.assert(
    fc.property(seeds, (seed) => {
      const scene = sceneOf(seed);
      const { image, roles, map, net } = scene;
      // Plain, with some dark pixels that bends may bring in.
      for (let p = 0; p < w * h; p++) image.data.fill(scene.random.next() < 0.12 ? 0 : 0.6, 4 * p, 4 * p + 3);
      const again = new BendNet(image, roles, map);
      holdSome({ ...scene, net: again });
      const bends = again.settle();
      const takenAt = (x: number, y: number, part: number, isBent: boolean): number => {
        const { dx, dy } = part < 0 ? { dx: 0, dy: 0 } : map.shifts[net.labels[part]];
        const i = (y - net.box.y) * net.box.w + x - net.box.x;
        const [u, v] = isBent && part >= 0 ? [bends[2 * i], bends[2 * i + 1]].map(Math.round) : [0, 0];
        const [sx, sy] = [x + dx + u, y + dy + v];
        const isIn = sx >= 0 && sy >= 0 && sx < w && sy < h && isKnown(roles[sy * w + sx]);
        return isIn ? 255 * image.data[4 * (sy * w + sx)] : Number.NaN;
      };
      const stretches = new Map<string, { before: number; more: number; count: number }>();
      const keys = again.joins.map(({ x, y, part, other }) => {
        const key = [part, other, Math.floor(x / 8), Math.floor(y / 8)].join();
        const stretch = stretches.get(key) ?? { before: 0, more: 0, count: 0 };
        stretches.set(key, stretch);
        for (const [u, v] of sides) {
          const [qx, qy] = [x + u, y + v];
          if (partAt(again, qx, qy) !== (other ?? -1)) continue;
          // What the part would bring there is bent as it is where it ends.
          const mine = (isBent: boolean) => {
            const { dx, dy } = map.shifts[again.labels[part]];
            const i = (y - again.box.y) * again.box.w + x - again.box.x;
            const [bx, by] = isBent ? [bends[2 * i], bends[2 * i + 1]].map(Math.round) : [0, 0];
            const [sx, sy] = [qx + dx + bx, qy + dy + by];
            const isIn = sx >= 0 && sy >= 0 && sx < w && sy < h && isKnown(roles[sy * w + sx]);
            return isIn ? 255 * image.data[4 * (sy * w + sx)] : Number.NaN;
          };
          const before = (mine(false) - takenAt(qx, qy, other ?? -1, false)) ** 2;
          const after = (mine(true) - takenAt(qx, qy, other ?? -1, true)) ** 2;
          if (Number.isNaN(before + after)) continue;
          stretch.before += before;
          stretch.more += after - before;
          stretch.count++;
        }
        return key;
      });
      const wanted = keys.flatMap((key, k) => {
        const { before, more, count } = stretches.get(key)!;
        return before <= 400 * count && more > 1600 * count ? [k] : [];
      });
      worse += wanted.length;
      expect([...again.worseJoins()]).toEqual(wanted);
    }),
    { numRuns: 40 },
  );
  expect(worse).toBeGreaterThan(20);
});

test('copies show what lies between pixels of what may be drawn from, and go on round their part', () => {
  fc.assert(
    fc.property(seeds, (seed) => {
      const scene = sceneOf(seed);
      const { image, roles, map, net } = scene;
      holdSome(scene);
      const bends = net.settle();
      const usable = sourcesOf(roles);
      const roomPx = 2;
      net.extents().forEach(({ rect, isBent }, part) => {
        const pixels = [...net.number.keys()].filter((i) => net.number[i] === part);
        const at = pixels.map((i) => frameAt(net, i));
        const [xs, ys] = [at.map(([x]) => x), at.map(([, y]) => y)];
        expect(rect).toEqual({
          x: Math.min(...xs),
          y: Math.min(...ys),
          w: Math.max(...xs) - Math.min(...xs) + 1,
          h: Math.max(...ys) - Math.min(...ys) + 1,
        });
        const far = (i: number) => Math.max(Math.abs(bends[2 * i]), Math.abs(bends[2 * i + 1])) >= 0.15;
        expect(isBent).toBe(pixels.some(far));
      });
      const { rect } = net.extents()[0];
      const wide = {
        x: rect.x - roomPx,
        y: rect.y - roomPx,
        w: rect.w + 2 * roomPx,
        h: rect.h + 2 * roomPx,
      };
      const copies = net.copies([{ part: 0, wide, left: 3, top: 1 }], wide.h + 1, roomPx);
      const { dx, dy } = map.shifts[net.labels[0]];
      const one = new Float32Array(4);
      let drawn = 0;
      for (let y = 0; y < wide.h; y++)
        for (let x = 0; x < wide.w; x++) {
          const q = (1 + y) * w + 3 + x;
          const [px, py] = [wide.x + x, wide.y + y];
          if (partAt(net, px, py) !== 0) {
            const near = [...net.number.keys()].some((i) => {
              const [ox, oy] = frameAt(net, i);
              return net.number[i] === 0 && Math.abs(ox - px) + Math.abs(oy - py) <= roomPx;
            });
            if (!near) expect(copies.roles[q]).toBe(0);
            if (copies.roles[q]) drawn++;
            continue;
          }
          const i = (py - net.box.y) * net.box.w + px - net.box.x;
          const isFar = Math.max(Math.abs(bends[2 * i]), Math.abs(bends[2 * i + 1])) >= 0.15;
          const [bx, by] = isFar ? [bends[2 * i], bends[2 * i + 1]] : [0, 0];
          let [sx, sy] = [px + dx + bx, py + dy + by];
          // A bend that leads off what may be drawn from is left out.
          const isOff = Math.round(sx) >= w || !usable[Math.round(sy) * w + Math.round(sx)];
          if (isOff) [sx, sy] = [px + dx, py + dy];
          sampleSharp(image, sx, sy, usable, one, 0);
          expect(copies.roles[q]).toBe(role.source);
          expect([...copies.data.subarray(4 * q, 4 * q + 4)]).toEqual([...one]);
          expect([copies.origin[2 * q], copies.origin[2 * q + 1]]).toEqual([
            Math.round(sx) + 0,
            Math.round(sy) + 0,
          ]);
        }
      expect(drawn).toBeGreaterThan(0);
    }),
    { numRuns: 30 },
  );
});
