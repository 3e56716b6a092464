import { expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import { role } from '../frame';
import { fillPicture } from '../testing';
import { straightEdges } from './straight-edges';
import { edgeScene, h, w } from './testing';

test('an edge that enters on one side and leaves on the other is found to within half a pixel', () => {
  const at = (x: number) => 100 + 0.31 * (x - 120);
  const { image, roles } = edgeScene((x, y) => y < at(x));
  const [{ line, ends }, ...others] = straightEdges(image, roles, w, h);
  expect(others).toEqual([]);
  expect(ends).toBe(false);
  for (const [x, y] of [
    [line[0], line[1]],
    [line[2], line[3]],
  ])
    expect(Math.abs(y + 0.5 - at(x + 0.5))).toBeLessThan(0.5);
});

test('an edge that ends at the hole, or turns behind it, is none that runs on', () => {
  const ends = edgeScene((x, y) => y < 100 && x < 120);
  expect(straightEdges(ends.image, ends.roles, w, h)).toEqual([]);
  // Light above on the left, below on the right: the same line, but not the same edge.
  const swaps = edgeScene((x, y) => y < 100 === x < 120);
  expect(straightEdges(swaps.image, swaps.roles, w, h)).toEqual([]);
});

test('an edge that comes to its end not far behind the hole runs on all the same; what does not reach the hole does not', () => {
  const at = (y: number) => 120 + 0.2 * (y - 100);
  const roof = (ridge: number) => edgeScene((x, y) => y > ridge && x < at(y));
  const { image, roles } = roof(56);
  const found = straightEdges(image, roles, w, h).filter(({ ends }) => !ends);
  expect(found).toHaveLength(1);
  const [{ line }] = found;
  for (const [x, y] of [
    [line[0], line[1]],
    [line[2], line[3]],
  ])
    expect(Math.abs(x + 0.5 - at(y + 0.5))).toBeLessThan(0.6);
  const short = roof(64);
  expect(straightEdges(short.image, short.roles, w, h)).toEqual([]);
});

/** Dark ground below, and a light door beside a middling wall above it; a hole over the foot of the door's edge. */
function door(ground: boolean) {
  const random = makeRandom(8);
  const { image, roles } = edgeScene(() => false);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const v = (ground && y >= 112 ? 0.15 : x < 118 ? 0.75 : 0.45) + 0.04 * (random.next() - 0.5);
      image.data.set([v, v, v], 4 * (y * w + x));
    }
  return { image, roles };
}

test('an edge that enters and meets one that runs through ends there', () => {
  const { image, roles } = door(true);
  const seen = straightEdges(image, roles, w, h);
  expect(seen.map(({ ends }) => ends)).toEqual([false, true]);
  const [x0, y0, x1, y1] = seen[1].line;
  for (const x of [x0, x1]) expect(Math.abs(x + 0.5 - 118)).toBeLessThan(0.7);
  expect(y0).toBeLessThan(75);
  expect(Math.abs(y1 + 0.5 - 112)).toBeLessThan(1.5);
  // Filled, the door is light down to the ground, and the wall as it is.
  const hole = roles.map((r) => (r === role.target ? 1 : 0));
  const { image: filled } = fillPicture({ image, hole });
  let wrong = 0;
  hole.forEach((v, p) => {
    const [x, y] = [p % w, Math.floor(p / w)];
    if (!v || Math.abs(x - 118) < 2 || Math.abs(y - 112) < 2) return;
    const wanted = y >= 112 ? 0.15 : x < 118 ? 0.75 : 0.45;
    if (Math.abs(filled.data[4 * p] - wanted) > 0.12) wrong++;
  });
  expect(wrong).toBeLessThan(20);
});

test('one that is soft, as the edge of a cloud, is not told, however long and straight it is seen', () => {
  const random = makeRandom(4);
  const { image, roles } = door(true);
  const softly = (fadePx: number) => {
    for (let y = 0; y < 112; y++)
      for (let x = 0; x < w; x++) {
        const share = 1 / (1 + Math.exp((x - 117.5) / fadePx));
        image.data.fill(
          0.45 + 0.3 * share + 0.04 * (random.next() - 0.5),
          4 * (y * w + x),
          4 * (y * w + x) + 3,
        );
      }
    return straightEdges(image, roles, w, h).map(({ ends }) => ends);
  };
  expect(softly(0.5)).toEqual([false, true]);
  expect(softly(3)).toEqual([false]);
});

test('one that meets nothing is not told', () => {
  const { image, roles } = door(false);
  for (let y = 100; y < h; y++)
    for (let x = 0; x < w; x++) image.data.fill(0.45, 4 * (y * w + x), 4 * (y * w + x) + 3);
  for (const { ends } of straightEdges(image, roles, w, h)) expect(ends).toBe(false);
});

test('two edges in line between different grounds are not one', () => {
  const random = makeRandom(6);
  const { image, roles } = edgeScene(() => false);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      // A light pane beside a dark frame above, blue plastic beside stone below: the same line, the same side light.
      const above = x < 120 ? [0.2, 0.2, 0.2] : [0.8, 0.8, 0.8];
      const below = x < 120 ? [0.1, 0.2, 0.6] : [0.5, 0.45, 0.35];
      const grain = 0.03 * (random.next() - 0.5);
      image.data.set(
        (y < 100 ? above : below).map((v) => v + grain),
        4 * (y * w + x),
      );
    }
  expect(straightEdges(image, roles, w, h).filter(({ line: [x0, , x1] }) => Math.abs(x0 - x1) < 5)).toEqual(
    [],
  );
});

test('grain alone has no edges', () => {
  const { image, roles } = edgeScene(() => false, 9);
  expect(straightEdges(image, roles, w, h)).toEqual([]);
});

test('a bar behind the hole is filled straight, without any guide line', () => {
  const middle = (x: number) => 96 + 0.27 * (x - 120);
  const isBar = (x: number, y: number) => Math.abs(y - middle(x)) < 7;
  const { image, roles } = edgeScene(isBar, 5);
  const hole = roles.map((r) => (r === role.target ? 1 : 0));
  const filled = fillPicture({ image, hole });
  let wrong = 0;
  hole.forEach((v, p) => {
    if (!v) return;
    const [x, y] = [(p % w) + 0.5, Math.floor(p / w) + 0.5];
    if (Math.abs(Math.abs(y - middle(x)) - 7) < 1.6) return;
    if (filled.image.data[4 * p] > 0.5 !== isBar(x, y)) wrong++;
  });
  expect(wrong).toBeLessThan(25);
});
