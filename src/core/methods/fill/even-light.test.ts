import { describe, expect, test } from 'vitest';
import { squaredDistance } from '../../area';
import { makeRandom } from '../../random';
import { copyFloat, type FloatImage, makeFloatImage } from '../../raster';
import { evenlyLit } from './even-light';
import { role } from './frame';
import { fillPicture, picture } from './testing';

const [w, h] = [240, 200];
const whole = { x: 0, y: 0, w, h };
const soft = (t: number) => {
  const u = Math.min(1, Math.max(0, t));
  return u * u * (3 - 2 * u);
};

/** Cloth: threads, folds and grain, under some light. @param strength  of threads and folds */
function cloth(lightAt: (x: number, y: number) => number, strength = 1): FloatImage {
  const random = makeRandom(5);
  return picture(w, h, (x, y) => {
    const threads = Math.sin((2 * Math.PI * x) / 5) * Math.sin((2 * Math.PI * y) / 6);
    const folds = Math.sin(x / 9 + Math.sin(y / 7)) * Math.sin(y / 11);
    const v = lightAt(x, y) * (0.75 + 0.03 * strength * (threads + folds)) + 0.02 * (random.next() - 0.5);
    return [v, 0.93 * v, 0.8 * v];
  });
}

/** The tip of a shadow that comes in from the left: there is no other place like it. */
const tip = (x: number, y: number, depth = 0.75) =>
  1 - depth * soft((142 - x - 2.4 * Math.max(0, Math.abs(y - 100) - 12)) / 60 + 0.5);
/** Over the tip. */
const hole = Uint8Array.from({ length: w * h }, (_, p) =>
  ((p % w) - 115) ** 2 / 36 ** 2 + (Math.floor(p / w) - 100) ** 2 / 26 ** 2 <= 1 ? 1 : 0,
);
const roles = hole.map((v) => (v ? role.target : role.source));

const within = (image: FloatImage, filled: FloatImage): FloatImage => ({
  rect: image.rect,
  data: image.data.map((v, i) => (hole[i >> 2] ? filled.data[i] : v)),
});

/** What fills the hole where the shadow ends too hard. */
const stepped = (lightAt = tip) =>
  within(
    makeFloatImage(whole),
    cloth((x, y) => (lightAt(x, y) < 0.65 ? 0.35 : 1)),
  );

/** How hard lightness changes in a picture of means over three by three pixels: in the hole, and within eight pixels of it. */
function hardest({ data }: FloatImage): { inside: number; rim: number } {
  const mean = (p: number) => {
    let sum = 0;
    for (const dy of [-w, 0, w]) for (const dx of [-1, 0, 1]) sum += data[4 * (p + dy + dx)];
    return sum / 9;
  };
  const slopes: Record<'inside' | 'rim', number[]> = { inside: [], rim: [] };
  const away = squaredDistance(hole, w, h);
  for (let y = 2; y < h - 2; y++)
    for (let x = 2; x < w - 2; x++) {
      const p = y * w + x;
      const slope = Math.hypot(mean(p + 1) - mean(p - 1), mean(p + w) - mean(p - w)) / 2;
      if (hole[p]) slopes.inside.push(slope);
      else if (away[p] <= 64) slopes.rim.push(slope);
    }
  const most = (list: number[]) => list.sort((a, b) => a - b)[Math.floor(0.995 * list.length)];
  return { inside: most(slopes.inside), rim: most(slopes.rim) };
}

describe('a ground in a soft shadow', () => {
  const image = cloth(tip);

  test('is seen in one light, and what is put back into its light is what it was', () => {
    const lit = evenlyLit(image, roles, stepped())!;
    const known = [...hole.keys()].filter((p) => !hole[p] && lit.roles[p] === role.source);
    const spread = (data: Float32Array) => {
      const list = known.map((p) => data[4 * p]).sort((a, b) => a - b);
      return list[Math.floor(0.95 * list.length)] - list[Math.floor(0.05 * list.length)];
    };
    expect(spread(image.data)).toBeGreaterThan(0.4);
    expect(spread(lit.image.data)).toBeLessThan(0.2);
    const back = makeFloatImage({ x: 60, y: 40, w: 130, h: 120 });
    const was = makeFloatImage(back.rect);
    copyFloat(lit.image, back);
    copyFloat(image, was);
    lit.relight(back);
    let least = Infinity;
    for (let i = 0; i < back.data.length; i++) {
      const p = (40 + Math.floor((i >> 2) / 130)) * w + 60 + ((i >> 2) % 130);
      if (hole[p]) continue;
      expect(Math.abs(back.data[i] - was.data[i])).toBeLessThan(1e-5);
      least = Math.min(least, was.data[i]);
    }
    expect(least).toBeLessThan(0.3);
  });

  test('is given back its light where it was filled, the shadow’s end no longer hard', () => {
    const flat = within(
      makeFloatImage(whole),
      cloth(() => 1),
    );
    expect(hardest(within(image, stepped())).inside).toBeGreaterThan(0.06);
    const lit = evenlyLit(image, roles, stepped())!;
    lit.relight(flat);
    const { inside, rim } = hardest(within(image, flat));
    expect(inside).toBeLessThan(1.1 * rim);
  });

  test.each([1, 2])('is filled without a step where the shadow’s tip was, with seed %i', (seed) => {
    const { inside, rim } = hardest(within(image, fillPicture({ image, hole, reach: 60, seed }).image));
    // In one light it is 0.98 and 0.97; as the picture is, it was 2.1 and 1.8.
    expect(inside).toBeLessThan(1.2 * rim);
  });
});

describe('is left as it is', () => {
  const from = (image: FloatImage, lightAt?: typeof tip) => evenlyLit(image, roles, stepped(lightAt));

  test('what was filled without a step', () => {
    expect(evenlyLit(cloth(tip), roles, within(makeFloatImage(whole), cloth(tip)))).toBeNull();
    expect(from(cloth(tip))).not.toBeNull();
  });

  test('a ground that is lit evenly, or nearly', () => {
    expect(from(cloth(() => 1))).toBeNull();
    expect(from(cloth((x) => 0.85 + (0.2 * x) / w))).toBeNull();
  });

  test('one in a faint shadow, however smooth it is', () => {
    const shaded = (depth: number) => cloth((x, y) => tip(x, y, depth), 0.1);
    expect(from(shaded(0.2))).toBeNull();
    expect(from(shaded(0.55))).not.toBeNull();
  });

  test('one with a hard shadow', () => {
    expect(from(cloth((x, y) => (x + y > 225 ? 1 : 0.4)))).toBeNull();
    // A hard edge that crosses the rim in but two places, beside a soft shadow.
    expect(from(cloth((x, y) => (y > 112 && x < 140 ? 0.35 : tip(x, y))))).toBeNull();
  });

  test('two grounds of different colour, however softly they meet', () => {
    const image = cloth(() => 1);
    for (let p = 0; p < w * h; p++) {
      const t = soft((150 - (p % w)) / 50);
      [0.6, 0.5, 0.4].forEach((less, c) => {
        image.data[4 * p + c] *= 1 - less * t;
      });
    }
    expect(from(image)).toBeNull();
  });

  test('a rough one, whose tone is not smooth', () => {
    const random = makeRandom(3);
    const blots = Float32Array.from({ length: 60 * 60 }, () => random.next() - 0.5);
    const image = cloth((x, y) => tip(x, y) * (1 + 0.8 * blots[60 * (y >> 3) + (x >> 3)]));
    expect(from(image)).toBeNull();
  });

  test('one with waves in it, soft as they are', () => {
    const waves = (height: number) =>
      cloth((x, y) => tip(x, y, 0.6) + height * Math.sin((x + 2 * y) / 10), 0.1);
    expect(from(waves(0.16))).toBeNull();
    expect(from(waves(0.02))).not.toBeNull();
  });

  test('one of which little lies away from hard edges', () => {
    const away = squaredDistance(hole, w, h);
    const striped = (from: number) =>
      cloth((x, y) => tip(x, y) * (away[y * w + x] > from ** 2 && Math.floor((x + y) / 18) % 2 ? 0.6 : 1));
    expect(from(striped(18))).toBeNull();
    expect(from(striped(70))).not.toBeNull();
  });

  test('one of which next to nothing is known', () => {
    const few = roles.map((is, p) => (is === role.source && p % w > 20 ? role.void : is));
    expect(evenlyLit(cloth(tip), few, stepped())).toBeNull();
  });
});

test('nothing is drawn from beside a hard edge, where light and ground cannot be told apart', () => {
  const image = cloth((x, y) => (x > 215 ? 0.2 : tip(x, y)));
  const lit = evenlyLit(image, roles, stepped())!;
  expect(lit.roles[100 * w + 212]).toBe(role.context);
  expect(lit.roles[100 * w + 220]).toBe(role.context);
  expect(lit.roles[30 * w + 120]).toBe(role.source);
});
