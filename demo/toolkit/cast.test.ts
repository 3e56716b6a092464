import { describe, expect, test } from 'vitest';
import { castBy } from './cast';
import { type Grid, makeGrid } from './grid';

const [w, h] = [300, 120];
const box = (x0: number, y0: number, x1: number, y1: number) => (x: number, y: number) =>
  x >= x0 && x < x1 && y >= y0 && y < y1;
const gridOf = (...boxes: ReturnType<typeof box>[]): Grid =>
  makeGrid(w, h, (x, y) => (boxes.some((isIn) => isIn(x, y)) ? 1 : 0));
const at = ({ data }: Grid, x: number, y: number) => data[y * w + x];

describe('what a thing casts', () => {
  const crates = box(20, 40, 60, 80);
  const cart = box(200, 20, 240, 70);

  test('a long shadow is all of one thing, also where its end comes near to another', () => {
    const shadow = box(60, 70, 199, 80);
    const [ofCrates, ofCart] = castBy(gridOf(shadow, crates, cart), [gridOf(crates), gridOf(cart)]);
    for (const x of [60, 120, 190]) expect([at(ofCrates, x, 75), at(ofCart, x, 75)]).toEqual([1, 0]);
    expect(at(ofCrates, 40, 60)).toBe(0);
  });

  test('a shadow that two things share is parted between them', () => {
    const shadow = box(60, 60, 200, 70);
    const [ofCrates, ofCart] = castBy(gridOf(shadow, crates, cart), [gridOf(crates), gridOf(cart)]);
    expect([at(ofCrates, 70, 65), at(ofCart, 190, 65)]).toEqual([1, 1]);
    for (let x = 60; x < 200; x++) expect(at(ofCrates, x, 65) + at(ofCart, x, 65)).toBe(1);
  });

  test('what lies apart goes to the nearest; crumbs and thin lines to none', () => {
    const [reflection, crumb, line] = [box(210, 90, 230, 110), box(100, 20, 103, 23), box(0, 118, 300, 119)];
    const casts = castBy(gridOf(reflection, crumb, line, crates, cart), [gridOf(crates), gridOf(cart)]);
    expect(casts.map((cast) => at(cast, 220, 100))).toEqual([0, 1]);
    for (const cast of casts) expect([at(cast, 101, 21), at(cast, 150, 118)]).toEqual([0, 0]);
  });
});
