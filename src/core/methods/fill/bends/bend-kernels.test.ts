import fc from 'fast-check';
import { expect, test } from 'vitest';
import { bendsWasm, instantiateKernel, lineFitWasm } from '../../../kernels';
import { makeRandom } from '../../../random';
import { role } from '../frame';
import { solvedDensely } from '../testing';
import type { BendKernel } from './bend-net';
import type { LineKernel } from './line-fit';

const seeds = fc.integer({ min: 1, max: 1e6 });

test('bends are those that solve the whole system', () => {
  const k = instantiateKernel<BendKernel>(bendsWasm);
  fc.assert(
    fc.property(seeds, fc.integer({ min: 1, max: 9 }), (seed, nodes) => {
      const random = makeRandom(seed);
      const rows = Array.from({ length: 2 * nodes }, () => new Array<number>(2 * nodes).fill(0));
      const right = new Array<number>(2 * nodes).fill(0);
      const links: { to: number; stiff: number }[][] = Array.from({ length: nodes }, () => []);
      const held: { to: number; fit: number[] }[][] = Array.from({ length: nodes }, () => []);
      const weights = new Float64Array(nodes).fill(0.1);
      for (let a = 0; a < nodes; a++)
        for (let b = a + 1; b < nodes; b++) {
          if (random.next() < 0.5) continue;
          const stiff = 1 + 20 * random.next();
          links[a].push({ to: b, stiff });
          links[b].push({ to: a, stiff });
          weights[a] += stiff;
          weights[b] += stiff;
        }
      for (let n = 0; n < nodes; n++) {
        const own = random.below(nodes);
        const to = random.next() < 0.3 ? -1 : random.below(nodes);
        if (own === to) continue;
        const angle = random.next() * Math.PI;
        const [c, s, firm] = [Math.cos(angle), Math.sin(angle), 6 * random.next()];
        const [xx, xy, yy] = [firm * (c * c + 0.15), firm * c * s, firm * (s * s + 0.15)];
        const asked = [random.next() - 0.5, random.next() - 0.5];
        held[own].push({ to, fit: [xx, xy, yy, ...asked] });
        if (to >= 0) held[to].push({ to: own, fit: [xx, xy, yy, -asked[0], -asked[1]] });
      }
      for (let a = 0; a < nodes; a++)
        for (const c of [0, 1]) {
          rows[2 * a + c][2 * a + c] += weights[a];
          for (const { to, stiff } of links[a]) rows[2 * a + c][2 * to + c] -= stiff;
          for (const { to, fit } of held[a]) {
            for (const e of [0, 1]) {
              rows[2 * a + c][2 * a + e] += fit[c + e];
              if (to >= 0) rows[2 * a + c][2 * to + e] -= fit[c + e];
            }
            right[2 * a + c] += fit[3 + c];
          }
        }
      const starts = (of: readonly unknown[][]) =>
        Int32Array.from([0, ...of.map((_, n) => of.slice(0, n + 1).flat().length)]);
      k.release();
      const put = (values: Int32Array | Float64Array) => {
        const at = k.claim(values.byteLength + 8);
        new Uint8Array(k.memory.buffer, at, values.byteLength).set(new Uint8Array(values.buffer));
        return at;
      };
      const given = [
        weights,
        starts(links),
        Int32Array.from(links.flat(), ({ to }) => to),
        Float64Array.from(links.flat(), ({ stiff }) => stiff),
        starts(held),
        Int32Array.from(held.flat(), ({ to }) => to),
        Float64Array.from(held.flat().flatMap(({ fit }) => fit)),
      ].map(put);
      const [room, out] = [k.claim(88 * nodes), k.claim(16 * nodes)];
      new Float64Array(k.memory.buffer, out, 2 * nodes).fill(0);
      const [a, b, c, d, e, f, g] = given;
      k.solve(nodes, a, b, c, d, e, f, g, 200, 1e-20, room, out);
      const found = new Float64Array(k.memory.buffer, out, 2 * nodes);
      solvedDensely(rows, right).forEach((v, n) => {
        expect(found[n]).toBeCloseTo(v, 6);
      });
    }),
    { numRuns: 60 },
  );
});

test('two places are compared by what both know: sums and variances as plain loops have them', () => {
  const k = instantiateKernel<LineKernel>(lineFitWasm);
  const [w, h, reach] = [23, 19, 4];
  fc.assert(
    fc.property(seeds, (seed) => {
      const random = makeRandom(seed);
      const roles = Uint8Array.from(
        { length: w * h },
        () => [role.source, role.source, role.context, role.target, role.void][random.below(5)],
      );
      const picture = Float32Array.from({ length: 4 * w * h }, () => random.next());
      const lumaAt = (x: number, y: number) => {
        const p = y * w + x;
        if (x < 0 || y < 0 || x >= w || y >= h) return Number.NaN;
        if (roles[p] !== role.source && roles[p] !== role.context) return Number.NaN;
        return 63.75 * (picture[4 * p] + 2 * picture[4 * p + 1] + picture[4 * p + 2]);
      };
      const side = 2 * reach + 3;
      k.release();
      const [pictureAt, rolesAt, luma, square, disc, theirs, sums] = [
        picture.byteLength,
        w * h,
        8 * w * h,
        4 * side ** 2,
        8 * side ** 2,
        4 * side ** 2,
        48,
      ].map(k.claim);
      new Float32Array(k.memory.buffer, pictureAt, picture.length).set(picture);
      new Uint8Array(k.memory.buffer, rolesAt, w * h).set(roles);
      k.brightness(pictureAt, rolesAt, w * h, luma);
      k.begin(luma, w, h, reach, square, disc, theirs);
      const chance = () => random.below(15) - 7;
      const [x, y, dx, dy, ex, ey] = [
        random.below(w),
        random.below(h),
        chance(),
        chance(),
        chance(),
        chance(),
      ];
      const n = k.take(x, y, dx, dy, sums);
      const found = new Float64Array(k.memory.buffer, sums, 6);
      const wanted = [0, 0, 0, 0, 0, 0];
      const differences: number[] = [];
      let known = 0;
      for (let v = -reach; v <= reach; v++)
        for (let u = -reach; u <= reach; u++) {
          const there = lumaAt(x + u + dx, y + v + dy);
          if (u * u + v * v > reach * reach || Number.isNaN(there)) continue;
          known++;
          wanted[0] += there;
          wanted[1] += there ** 2;
          const across = (lumaAt(x + u + 1 + dx, y + v + dy) - lumaAt(x + u - 1 + dx, y + v + dy)) / 2;
          const down = (lumaAt(x + u + dx, y + v + 1 + dy) - lumaAt(x + u + dx, y + v - 1 + dy)) / 2;
          if (!Number.isNaN(across + down)) {
            wanted[2] += across ** 2;
            wanted[3] += across * down;
            wanted[4] += down ** 2;
            wanted[5]++;
          }
          const mine = lumaAt(x + u + ex, y + v + ey);
          if (!Number.isNaN(mine)) differences.push(there - mine);
        }
      expect(n).toBe(known);
      // Of the products much takes itself away: they are as exact as the squares.
      const sizes = wanted.map((v, c) => (c === 3 ? Math.sqrt(wanted[2] * wanted[4]) : Math.abs(v)));
      sizes.forEach((size, c) => {
        expect(Math.abs(found[c] - wanted[c])).toBeLessThan(1e-4 * (1 + size));
      });
      const unlike = k.unlike(ex, ey, 0.3);
      if (differences.length < 0.3 * known) expect(unlike).toBe(Number.POSITIVE_INFINITY);
      else if (differences.length > 0) {
        const mean = differences.reduce((sum, v) => sum + v, 0) / differences.length;
        const variance = differences.reduce((sum, v) => sum + (v - mean) ** 2, 0) / differences.length;
        expect(Math.abs(unlike - variance)).toBeLessThan(1e-3 * (1 + variance));
      }
    }),
    { numRuns: 80 },
  );
});
