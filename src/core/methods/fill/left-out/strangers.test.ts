import { expect, test } from 'vitest';
import { instantiateKernel, patchSearchWasm } from '../../../kernels';
import { makeRandom } from '../../../random';
import type { FloatImage } from '../../../raster';
import { pixelBytes, role } from '../frame';
import { makeFrame, shrink } from '../levels';
import { boxHole, checkSources, fillPicture, grainy, noisy } from '../testing';
import { type PatchKernel, withoutStrangers } from './strangers';

const [w, h] = [160, 120];
const hole = boxHole(w, h, 40, 50, 24, 20);
/** A striped thing that stands on the ground, away from the hole. */
const thing = boxHole(w, h, 108, 30, 26, 40);

const bright = [
  [0.95, 0.1, 0.1, 1],
  [0.05, 0.1, 0.9, 1],
];

/** Near to the ground's own light and colour. */
const faint = [
  [0.62, 0.5, 0.5, 1],
  [0.38, 0.46, 0.54, 1],
];

function withThing(ground: FloatImage, stripes = bright): FloatImage {
  const data = ground.data.slice();
  thing.forEach((v, p) => {
    if (v) data.set(stripes[p % 10 < 5 ? 0 : 1], 4 * p);
  });
  return { rect: ground.rect, data };
}

const levelsOf = (image: FloatImage) => {
  const fine = makeFrame(
    image,
    hole.map((v) => (v ? role.target : role.source)),
    4,
  );
  return [fine, shrink(fine)];
};

test('a thing that is like nothing at the rim is not drawn from, and all else is', () => {
  const levels = levelsOf(withThing(grainy(w, h, 4)));
  const kept = withoutStrangers(levels, 4, 'clearly');
  let [ofThing, ofGround, groundLost] = [0, 0, 0];
  kept[0].source.forEach((v, p) => {
    const [x, y] = [p % w, Math.floor(p / w)];
    const isInside = x >= 112 && x < 130 && y >= 34 && y < 66;
    const isFar = x < 90;
    if (isInside && v) ofThing++;
    if (isFar && levels[0].source[p]) {
      ofGround++;
      if (!v) groundLost++;
    }
  });
  expect(ofThing).toBe(0);
  expect(groundLost).toBeLessThan(0.01 * ofGround);
});

test('where all is of one kind, nothing is left out', () => {
  const levels = levelsOf(noisy(w, h, 5));
  expect(withoutStrangers(levels, 4, 'clearly')).toBe(levels);
  expect(withoutStrangers(levels, 4, 'somewhat')).toBe(levels);
});

const fromThing = (origin: Float32Array) => {
  let count = 0;
  hole.forEach((v, p) => {
    const [x, y] = origin.subarray(2 * p, 2 * p + 2);
    if (v && x >= 112 && x < 130 && y >= 34 && y < 66) count++;
  });
  return count;
};

test('a fill takes nothing from what clearly is another thing', () => {
  const filled = fillPicture({ image: withThing(grainy(w, h, 6)), hole, reach: 4 });
  checkSources(filled, w, h, hole);
  expect(fromThing(filled.origin)).toBe(0);
});

test('told to leave neighbours out, it takes nothing from what differs less either', () => {
  const image = withThing(grainy(w, h, 6), faint);
  const levels = levelsOf(image);
  expect(withoutStrangers(levels, 4, 'clearly')).toBe(levels);
  const [plain, filled] = (['clearly', 'somewhat'] as const).map((leavesOut) =>
    fillPicture({ image, hole, reach: 4, steering: { leavesOut } }),
  );
  // Told so, it chooses among other sources.
  expect(filled.origin).not.toEqual(plain.origin);
  checkSources(filled, w, h, hole);
  expect(fromThing(filled.origin)).toBe(0);
});

test('patches are compared as plain loops compare them', () => {
  const { img } = levelsOf(withThing(grainy(w, h, 8)))[0];
  const k = instantiateKernel<PatchKernel>(patchSearchWasm);
  k.favour(0);
  const random = makeRandom(3);
  const radius = 2;
  const place = () => random.below(w - 2 * radius) + radius + w * (random.below(h - 2 * radius) + radius);
  const list = Array.from({ length: 60 }, place);
  const [imgAt, listAt] = [k.claim(img.length + 64), k.claim(list.length * 4)];
  new Uint8Array(k.memory.buffer, imgAt, img.length).set(img);
  new Int32Array(k.memory.buffer, listAt, list.length).set(list);
  const distance = (p: number, q: number) => {
    let sum = 0;
    for (let y = -radius; y <= radius; y++)
      for (let x = -radius; x <= radius; x++)
        for (let c = 0; c < pixelBytes; c++)
          sum += (img[(p + y * w + x) * pixelBytes + c] - img[(q + y * w + x) * pixelBytes + c]) ** 2;
    return sum;
  };
  for (let trial = 0; trial < 50; trial++) {
    const p = place();
    const apart = random.below(12);
    const far = list.filter(
      (q) =>
        apart === 0 ||
        Math.max(Math.abs((q % w) - (p % w)), Math.abs(Math.floor(q / w) - Math.floor(p / w))) > apart,
    );
    const distances = far.map((q) => distance(p, q)).sort((a, b) => a - b);
    expect(k.nearestPatch(imgAt, w, p, listAt, list.length, apart, radius)).toBe(distances[0]);
    const wanted = 1 + random.below(4);
    for (const limit of [distances[wanted - 1] - 1, distances[wanted - 1]])
      expect(k.isAmong(imgAt, w, p, listAt, list.length, apart, radius, limit, wanted)).toBe(
        distances.filter((d) => d <= limit).length >= wanted ? 1 : 0,
      );
  }
});
