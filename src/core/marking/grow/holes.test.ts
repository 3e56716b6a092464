import { expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { fillHoles } from './holes';

const [w, h] = [120, 90];
type Colour = readonly [number, number, number];
const [thing, round, glint]: Colour[] = [
  [40, 50, 20],
  [60, -5, -10],
  [95, 0, 0],
];
const disc = (cx: number, cy: number, r: number) => (x: number, y: number) => Math.hypot(x - cx, y - cy) < r;
const isThing = disc(60, 45, 35);
const inHole = disc(70, 40, 8);

/** A disc with something in it, that was left out. */
function sceneOf(colour: (x: number, y: number) => Colour) {
  const random = makeRandom(7);
  const values = new Float32Array(3 * w * h);
  const labels = new Uint8Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const own = inHole(x, y) ? colour(x, y) : isThing(x, y) ? thing : round;
      for (let c = 0; c < 3; c++) values[3 * i + c] = own[c] + 3 * random.next() - 1.5;
      labels[i] = isThing(x, y) && !inHole(x, y) ? 1 : 0;
    }
  return { ground: { w, h, values }, labels };
}
const nothingSaid = () => false;
const whole = Uint8Array.from({ length: w * h }, (_, i) => (isThing(i % w, Math.floor(i / w)) ? 1 : 0));

test('a highlight in a thing belongs to it', () => {
  const { ground, labels } = sceneOf(() => glint);
  expect(fillHoles(ground, labels, nothingSaid)).toEqual(whole);
});

test('what is seen through a thing does not', () => {
  const { ground, labels } = sceneOf(() => round);
  expect(fillHoles(ground, labels, nothingSaid)).toEqual(labels);
});

test('a shade without an edge belongs to it, even of a colour that is seen round it', () => {
  const { ground, labels } = sceneOf((x, y) => {
    const share = 1 - Math.hypot(x - 70, y - 40) / 8;
    const [l, a, b] = thing.map((v, c) => v + Math.min(1, 1.6 * share) * (round[c] - v));
    return [l, a, b];
  });
  expect(fillHoles(ground, labels, nothingSaid)).toEqual(whole);
});

test('what has the thing’s colours belongs to it, even where its like stands beside it', () => {
  const { ground, labels } = sceneOf(() => glint);
  // Half of the thing is of the colour of its glint, and so is what touches the picture's corner.
  for (let i = 0; i < w * h; i++) {
    const [x, y] = [i % w, Math.floor(i / w)];
    if ((labels[i] && y > 45) || x + y < 20) ground.values.set(glint, 3 * i);
  }
  expect(fillHoles(ground, labels, nothingSaid)).toEqual(whole);
});

test('what was said to be outside stays out', () => {
  const { ground, labels } = sceneOf(() => glint);
  expect(fillHoles(ground, labels, (i) => i === 40 * w + 70)).toEqual(labels);
});

test('nothing and everything come back as they are', () => {
  const { ground } = sceneOf(() => glint);
  for (const labels of [new Uint8Array(w * h), new Uint8Array(w * h).fill(1)])
    expect(fillHoles(ground, labels, nothingSaid)).toBe(labels);
});
