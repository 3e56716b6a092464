import fc from 'fast-check';
import { expect, test } from 'vitest';
import { makeFloatImage } from '../../raster';
import { role } from './frame';
import { guess } from './guess';

const [w, h] = [9, 7];

/** Fronts found by looking at every pixel again and again. */
function plainly(values: Float32Array, roles: Uint8Array, wanted: ReadonlySet<number>) {
  const out = { values: values.slice(), roles: roles.slice() };
  const known = Array.from(roles, (r, i) => r !== role.target && !wanted.has(i));
  for (;;) {
    const front = new Map<number, number[]>();
    for (const i of wanted) {
      if (known[i]) continue;
      const [x, y] = [i % w, Math.floor(i / w)];
      const beside = [
        [x - 1, y],
        [x + 1, y],
        [x, y - 1],
        [x, y + 1],
      ]
        .filter(([u, v]) => u >= 0 && v >= 0 && u < w && v < h && known[v * w + u])
        .map(([u, v]) => v * w + u);
      if (beside.length === 0) continue;
      front.set(
        i,
        [0, 1, 2, 3].map((c) => beside.reduce((n, q) => n + out.values[4 * q + c], 0) / beside.length),
      );
    }
    if (front.size === 0) break;
    for (const [i, value] of front) {
      out.values.set(value, 4 * i);
      known[i] = true;
    }
  }
  for (const i of wanted) out.roles[i] = known[i] ? role.guessed : role.void;
  return out;
}

test('pixels are guessed front by front, as plain loops guess them', () => {
  fc.assert(
    fc.property(
      fc.array(fc.constantFrom<number | 'guessed'>(role.source, role.context, role.target, 'guessed'), {
        minLength: w * h,
        maxLength: w * h,
      }),
      fc.infiniteStream(fc.float({ min: 0, max: 1, noNaN: true })),
      (kinds, numbers) => {
        const image = makeFloatImage({ x: 0, y: 0, w, h });
        for (let i = 0; i < image.data.length; i++) image.data[i] = numbers.next().value;
        const pixels = kinds.flatMap((kind, i) => (kind === 'guessed' ? [i] : []));
        const roles = Uint8Array.from(kinds.map((kind) => (kind === 'guessed' ? role.context : kind)));
        const want = plainly(image.data, roles, new Set(pixels));
        guess(image, roles, pixels);
        expect(roles).toEqual(want.roles);
        image.data.forEach((v, k) => {
          // Of pixels that nothing leads to, nothing is asked.
          if (roles[k >> 2] !== role.void) expect(v).toBeCloseTo(want.values[k], 5);
        });
      },
    ),
  );
});

test('shut off from all that is known, a pixel is not there', () => {
  const roles = new Uint8Array(w * h).fill(role.target);
  roles[0] = role.context;
  guess(makeFloatImage({ x: 0, y: 0, w, h }), roles, [0]);
  expect(roles[0]).toBe(role.void);
});
