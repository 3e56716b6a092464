import { expect, test } from 'vitest';
import type { FloatImage } from '../../../raster';
import { role } from '../frame';
import { boxHole, picture } from '../testing';
import { correctionField } from './correction';

const [w, h] = [40, 30];
const hole = boxHole(w, h, 15, 10, 10, 10);
/** Everything is taken from 12 px to the right, where it is darker by a step. */
const image = picture(w, h, (x) => (x < 26 ? [0.6, 0.6, 0.6] : [0.5, 0.5, 0.5]));
const label = Int32Array.from(hole, (v) => (v ? 0 : -1));
const map = { shifts: [{ dx: 12, dy: 0 }], label };
/** What is to be added to a pixel's red, green and blue. */
const toneAt = ({ rect, data }: FloatImage, p: number): Float32Array => {
  const at = 4 * ((Math.floor(p / w) - rect.y) * rect.w + (p % w) - rect.x);
  return data.subarray(at, at + 3);
};
const fieldWith = (roles: Uint8Array) => {
  const field = correctionField(image, roles, map);
  return [...hole.keys()].filter((p) => hole[p]).map((p) => toneAt(field, p)[0]);
};

test('a tone step at the rim is taken up all over the hole', () => {
  for (const v of fieldWith(hole.map((v) => (v ? role.target : role.source)))) expect(v).toBeCloseTo(0.1, 2);
});

test('a hole does not take the tone of what was only guessed', () => {
  const roles = hole.map((v) => (v ? role.target : role.source));
  const isGuessed = (p: number) => !hole[p] && p % w >= 10 && p % w < 20;
  roles.forEach((_, p) => {
    if (isGuessed(p)) roles[p] = role.guessed;
  });
  const before = fieldWith(roles);
  roles.forEach((_, p) => {
    if (isGuessed(p)) image.data.set([0.1, 0.3, 0.1], 4 * p);
  });
  expect(fieldWith(roles)).toEqual(before);
  for (const v of before) expect(v).toBeCloseTo(0.1, 2);
});

test('where two grounds of different colour meet, neither tints the other, but light is made up for in both', () => {
  // A green door beside a red wall, both lighter where they are taken from.
  const door = [0.28, 0.44, 0.36];
  const wall = [0.44, 0.28, 0.24];
  const image = picture(w, h, (x, y) => {
    const [r, g, b] = (x < 20 ? door : wall).map((v) => (y > 18 ? v + 0.08 : v));
    return [r, g, b];
  });
  const hole = boxHole(w, h, 15, 5, 10, 8);
  const map = {
    shifts: [
      { dx: -8, dy: 16 },
      { dx: 8, dy: 16 },
    ],
    label: Int32Array.from(hole, (v, p) => (v ? (p % w < 20 ? 0 : 1) : -1)),
  };
  const field = correctionField(
    image,
    hole.map((v) => (v ? role.target : role.source)),
    map,
  );
  hole.forEach((v, p) => {
    if (!v) return;
    for (let c = 0; c < 3; c++) expect(toneAt(field, p)[c], `${p % w}, ${c}`).toBeCloseTo(-0.08, 2);
  });
});

test('less light is made up for in full, another tint hardly', () => {
  type Colour = readonly [number, number, number];
  const fieldBetween = (here: Colour, there: Colour) =>
    correctionField(
      picture(w, h, (x) => (x < 26 ? here : there)),
      hole.map((v) => (v ? role.target : role.source)),
      map,
    );
  const dimmed = fieldBetween([0.6, 0.45, 0.3], [0.5, 0.375, 0.25]);
  const redder = fieldBetween([0.6, 0.5, 0.5], [0.5, 0.5, 0.5]);
  const mostTint = 8 / 255;
  hole.forEach((v, p) => {
    if (!v) return;
    const at = `${p % w}, ${Math.floor(p / w)}`;
    for (const [c, wanted] of [0.1, 0.075, 0.05].entries())
      expect(toneAt(dimmed, p)[c], at).toBeCloseTo(wanted, 2);
    const [r, g, b] = toneAt(redder, p);
    const grey = (r + g + b) / 3;
    for (const of of [r, g, b]) expect(Math.abs(of - grey), at).toBeLessThan(1.4 * mostTint);
    expect(r - grey, at).toBeGreaterThan(0.5 * mostTint);
  });
});

test('where one thing ends before another of its tint, in very different light, neither is smeared into the other', () => {
  const fieldBetween = (above: number, below: number) =>
    correctionField(
      picture(w, h, (_x, y) => {
        const v = y < 15 ? above : below;
        return [v, v, v];
      }),
      hole.map((v) => (v ? role.target : role.source)),
      {
        shifts: [
          { dx: 12, dy: -6 },
          { dx: 12, dy: 6 },
        ],
        label: Int32Array.from(hole, (v, p) => (v ? (Math.floor(p / w) < 15 ? 0 : 1) : -1)),
      },
    );
  const most = ({ data }: FloatImage) => data.reduce((m, v) => Math.max(m, Math.abs(v)), 0);
  expect(most(fieldBetween(0.65, 0.4))).toBeLessThan(1 / 255);
  // A step as light has it is shared between the two.
  expect(most(fieldBetween(0.6, 0.54))).toBeGreaterThan(6 / 255);
});
