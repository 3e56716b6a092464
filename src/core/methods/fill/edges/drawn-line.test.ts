import { expect, test } from 'vitest';
import { edgeOnLine } from './drawn-line';
import { edgeScene, h, w } from './testing';

const level = { x: 0, y: 99.5, ux: 1, uy: 0 };
const isShownOn = (
  isLight: (x: number, y: number) => boolean,
  isHole?: (x: number, y: number) => boolean,
) => {
  const { image, roles } = edgeScene(isLight, 3, isHole);
  return (line: typeof level) => edgeOnLine(image, roles, w, h, line, 1);
};

test('tells where on a line the edge is seen that goes on in the hole', () => {
  const isShown = isShownOn((x, y) => y < 100 && x < 200)(level)!;
  expect([20, 60, 160, 185].map(isShown)).toEqual([true, true, true, true]);
  // Not in the hole, nor where both sides are alike, nor beyond the photo.
  expect([120, 220, -30, 300].map(isShown)).toEqual([false, false, false, false]);
});

test('a line beside the edge shows none, nor does one through plain ground', () => {
  const isShownAt = isShownOn((_, y) => y < 100);
  expect(isShownAt(level)).not.toBeNull();
  expect(isShownAt({ ...level, y: 60 })).toBeNull();
  expect(isShownAt({ ...level, y: 112 })).toBeNull();
});

test('an edge the other way round is another one: the nearer and longer is meant', () => {
  const isShown = isShownOn((x, y) => (x < 180 ? y < 100 : y >= 100))(level)!;
  expect([60, 170].map(isShown)).toEqual([true, true]);
  expect([200, 220].map(isShown)).toEqual([false, false]);
});

test('too little of an edge, for so wide a hole, is none', () => {
  const isLight = (x: number, y: number) => y < 100 && x < 30;
  const wide = (x: number, y: number) => x >= 60 && x < 235 && y >= 70 && y < 130;
  expect(isShownOn(isLight)(level)).not.toBeNull();
  expect(isShownOn(isLight, wide)(level)).toBeNull();
});
