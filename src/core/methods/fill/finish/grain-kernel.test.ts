import fc from 'fast-check';
import { expect, test } from 'vitest';
import { grainWasm, instantiateKernel } from '../../../kernels';
import { makeRandom } from '../../../random';
import { role } from '../frame';
import { solvedDensely } from '../testing';
import type { GrainKernel } from './follow-grain';

const k = instantiateKernel<GrainKernel>(grainWasm);
const [w, h] = [18, 14];
const [most, rings, nugget] = [0.2, 3, 0.1];
const neighbours = Array.from({ length: 25 }, (_, n) => [(n % 5) - 2, Math.floor(n / 5) - 2]).filter(
  ([x, y]) => (x !== 0 || y !== 0) && x * x + y * y <= 4,
);
const common = (x: number, y: number) => Math.exp(-Math.hypot(x, y) / 2);

test('what lies beyond a join is carried into a piece by the conditional mean of each pixel, ring by ring', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
      const random = makeRandom(seed);
      const data = Float32Array.from({ length: 4 * w * h }, () => random.next());
      const roles = Uint8Array.from({ length: w * h }, () => (random.next() < 0.9 ? role.source : role.void));
      const label = new Int32Array(w * h).fill(-1);
      const shifts = [
        [7, 1],
        [-6, 2],
        [5, -3],
      ];
      // Two pieces and a bit; some of what they would be taken from is not known.
      for (let y = 5; y < 11; y++)
        for (let x = 7; x < 12; x++) {
          roles[y * w + x] = role.target;
          label[y * w + x] = x + y < 16 ? 0 : x === 11 && y === 10 ? 2 : 1;
        }
      const field = Float32Array.from({ length: 4 * w * h }, (_, i) =>
        label[i >> 2] < 0 ? 0 : 0.1 * random.next(),
      );
      const kernelField = inKernel(data, roles, label, field, shifts);
      const isKnown = (p: number) => roles[p] === role.source || roles[p] === role.context;
      const isIn = (x: number, y: number) => x >= 0 && y >= 0 && x < w && y < h;
      const finished = new Set([...roles.keys()].filter(isKnown));
      const sizes = shifts.map((_, l) => label.filter((v) => v === l).length);
      for (const l of [0, 1, 2].sort((a, b) => sizes[b] - sizes[a] || a - b)) {
        const [dx, dy] = shifts[l];
        const carried = new Map<number, number[]>();
        let left = [...label.keys()].filter((p) => label[p] === l);
        for (let ring = 0; ring < rings; ring++) {
          const isReady = (p: number) =>
            [-1, 1, -w, w].some((d) => (ring === 0 ? finished.has(p + d) : carried.has(p + d)));
          const front = left.filter(isReady);
          left = left.filter((p) => !front.includes(p));
          const found = front.map((p) => {
            const [x, y] = [p % w, Math.floor(p / w)];
            const said = neighbours.filter(([u, v]) => {
              const q = p + v * w + u;
              if (!isIn(x + u, y + v)) return false;
              if (carried.has(q)) return true;
              return finished.has(q) && isIn(x + u + dx, y + v + dy) && isKnown(q + dy * w + dx);
            });
            const weights = solvedDensely(
              said.map(([a, b]) =>
                said.map(([u, v]) => (a === u && b === v ? 1 + nugget : common(a - u, b - v))),
              ),
              said.map(([a, b]) => common(a, b)),
            );
            return [0, 1, 2].map((c) =>
              said.reduce((sum, [u, v], n) => {
                const q = p + v * w + u;
                const known = carried.get(q);
                if (known) return sum + weights[n] * known[c];
                const from = isKnown(q) ? q : q + shifts[label[q]][1] * w + shifts[label[q]][0];
                const there = data[4 * from + c] + field[4 * q + c];
                const continued = data[4 * (q + dy * w + dx) + c] + field[4 * p + c];
                return sum + weights[n] * Math.min(most, Math.max(-most, there - continued));
              }, 0),
            );
          });
          front.forEach((p, n) => {
            carried.set(p, found[n]);
          });
        }
        for (const [p, values] of carried)
          values.forEach((v, c) => {
            field[4 * p + c] += v;
          });
        label.forEach((v, p) => {
          if (v === l) finished.add(p);
        });
      }
      field.forEach((v, i) => {
        if (label[i >> 2] >= 0) expect(kernelField[i]).toBeCloseTo(v, 5);
      });
    }),
    { numRuns: 30 },
  );
});

/** The field of the whole frame as the kernel leaves it. */
function inKernel(
  data: Float32Array,
  roles: Uint8Array,
  label: Int32Array,
  field: Float32Array,
  shifts: number[][],
): Float32Array {
  const n = w * h;
  const count = neighbours.length;
  k.release();
  const put = (values: Float32Array | Uint8Array | Int32Array | Float64Array) => {
    const at = k.claim(values.byteLength);
    new Uint8Array(k.memory.buffer, at, values.byteLength).set(new Uint8Array(values.buffer));
    return at;
  };
  k.frame(put(data), put(roles), w, h);
  const covariances = [
    ...neighbours.flatMap(([a, b]) =>
      neighbours.map(([u, v]) => (a === u && b === v ? 1 + nugget : common(a - u, b - v))),
    ),
    ...neighbours.map(([a, b]) => common(a, b)),
  ];
  k.weigh(
    put(Float64Array.from(covariances)),
    k.claim(8 * count * (count + 1) + (4 * count + 1) * 2 ** count),
  );
  const tone = put(field);
  k.box(0, 0, w, h, put(label), tone, k.claim(19 * n));
  const [starts, members, room] = [k.claim(16), k.claim(4 * n), k.claim(4 * n)];
  k.sort(3, starts, members);
  const begin = new Int32Array(k.memory.buffer, starts, 4);
  const its = put(Int32Array.from(shifts.flat()));
  const size = (l: number) => begin[l + 1] - begin[l];
  for (const l of [0, 1, 2].sort((a, b) => size(b) - size(a) || a - b))
    k.follow(l, starts, members, its, most, rings, room);
  return new Float32Array(k.memory.buffer, tone, 4 * n).slice();
}
