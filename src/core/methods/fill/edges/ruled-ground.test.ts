import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import { role } from '../frame';
import { boxHole, fillPicture, noisy, picture } from '../testing';
import { ruledGround } from './ruled-ground';

const [w, h] = [440, 440];
const pitch = 31;
const soft = (d: number) => Math.max(0, Math.min(1, 2.2 - Math.abs(d)));

/** Boards that lean and draw together a little as they go down, and what they stand on. */
interface Boards {
  readonly footAt?: number;
  /** How far the joints below y = 220 lie beside those above. */
  readonly stepPx?: number;
  readonly handle?: (x: number, y: number) => boolean;
}

const lean = 0.02;
const draw = 6e-5;
/** Distance from joint 0 for each row, in pitches. */
const placeIn = (x: number, y: number) => (x - 220 - lean * (y - 220)) / (1 + draw * (220 - y)) / pitch;

function boards({ footAt = h, stepPx = 0, handle = () => false }: Boards = {}) {
  const random = makeRandom(5);
  return picture(w, h, (x, y) => {
    const grain = 0.05 * (random.next() - 0.5);
    if (y >= footAt) return [0.7 + grain, 0.68 + grain, 0.6 + grain];
    if (handle(x, y)) return [0.9, 0.9, 0.9];
    const place = placeIn(x - (y > 220 ? stepPx : 0), y);
    const board = 0.02 * Math.sin(12.9 * Math.floor(place));
    const light = 1 - 0.6 * soft(pitch * (place - Math.round(place))) + board + grain;
    return [0.35 * light, 0.5 * light, 0.45 * light];
  });
}

const rolesOf = (hole: Uint8Array) => hole.map((v) => (v ? role.target : role.source));
const found = (image: ReturnType<typeof boards>, hole: Uint8Array) => ruledGround(image, rolesOf(hole), w, h);

describe('ruled ground', () => {
  test('boards on both sides of a hole: each joint lies whole periods from the others, in every row', () => {
    const ground = found(boards(), boxHole(w, h, 130, 130, 180, 180));
    const { ux, uy, period, placeOf } = ground!;
    expect(period).toBeGreaterThan(pitch - 0.7);
    expect(period).toBeLessThan(pitch + 0.7);
    expect(Math.abs(ux / uy - lean)).toBeLessThan(0.006);
    const first = placeOf(220, 220)!.across;
    for (let y = 60; y < 380; y += 40)
      for (let k = -4; k <= 4; k++) {
        const x = 220 + lean * (y - 220) + k * pitch * (1 + draw * (220 - y));
        const place = placeOf(Math.round(x), y)!;
        const off = (place.across - first) / period;
        expect(Math.abs(off - Math.round(off)) * period, `joint ${k} at ${y}`).toBeLessThan(1.6);
        expect(place.isRegular).toBe(true);
      }
  });

  test('boards that end beside the hole end in it as well', () => {
    const { placeOf } = found(boards({ footAt: 300 }), boxHole(w, h, 130, 90, 180, 290))!;
    expect(placeOf(220, 270)).not.toBeNull();
    expect(placeOf(220, 345)).toBeNull();
    expect(placeOf(40, 345)).toBeNull();
  });

  test('in a photo of a third of the size, boards are found as well, down to their foot', () => {
    const large = boards({ footAt: 300 });
    const side = Math.floor(w / 3);
    const small = picture(side, side, (x, y) => {
      const at = (c: number) => {
        let sum = 0;
        for (let d = 0; d < 9; d++)
          sum += large.data[4 * ((3 * y + Math.floor(d / 3)) * w + 3 * x + (d % 3)) + c];
        return sum / 9;
      };
      return [at(0), at(1), at(2)];
    });
    const ground = ruledGround(small, rolesOf(boxHole(side, side, 43, 30, 60, 97)), side, side);
    expect(ground?.period).toBeGreaterThan((pitch - 1) / 3);
    expect(ground?.period).toBeLessThan((pitch + 1) / 3);
    expect(ground!.placeOf(73, 88)).not.toBeNull();
    expect(ground!.placeOf(73, 114)).toBeNull();
  });

  test('joints that do not meet are no straight lines', () => {
    expect(found(boards({ stepPx: pitch / 2 }), boxHole(w, h, 130, 130, 180, 180))).toBeNull();
  });

  test('what stands on the boards is none of them', () => {
    const handle = (x: number, y: number) => x >= 102 && x < 116 && y >= 200 && y < 212;
    const { placeOf } = found(boards({ handle }), boxHole(w, h, 130, 130, 180, 180))!;
    expect(placeOf(108, 206)).toBeNull();
    expect(placeOf(108, 230)).not.toBeNull();
  });

  test('whatever lines there are, places in what is found are numbers', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.array(
          fc.record({
            at: fc.integer({ min: 0, max: 239 }),
            wide: fc.integer({ min: 1, max: 9 }),
            light: fc.double({ min: -0.4, max: 0.4, noNaN: true }),
            to: fc.integer({ min: 40, max: 240 }),
          }),
          { minLength: 4, maxLength: 14 },
        ),
        (seed, lines) => {
          const random = makeRandom(seed);
          const image = picture(240, 240, (x, y) => {
            const v =
              0.5 +
              lines.reduce(
                (sum, { at, wide, light, to }) => sum + (y < to && Math.abs(x - at) < wide ? light : 0),
                0.05 * random.next(),
              );
            return [v, v, 0.9 * v];
          });
          const ground = ruledGround(image, rolesOf(boxHole(240, 240, 80, 70, 90, 110)), 240, 240);
          if (ground) {
            const { period, placeOf } = ground;
            expect(period).toBeGreaterThan(1);
            for (let p = 0; p < 240 * 240; p += 37) {
              const place = placeOf(p % 240, Math.floor(p / 240));
              if (place) expect(Math.abs(place.across)).toBeLessThan(1000);
            }
          }
        },
      ),
      { numRuns: 40 },
    );
  });

  test('grain and waves have none', () => {
    expect(found(noisy(w, h, 3), boxHole(w, h, 130, 130, 180, 180))).toBeNull();
  });
});

test.each([
  ['with boards on both sides', {}, 130],
  ['down to their foot', { footAt: 300 }, 100],
] as const)('boards are filled straight, %s', (_where, made, top) => {
  const image = boards(made);
  const hole = boxHole(w, h, 125, top, 190, 230);
  hole.forEach((v, p) => {
    if (v) image.data.fill(0, 4 * p, 4 * p + 3);
  });
  const { image: filled } = fillPicture({ image, hole });
  let [dark, light, joints, between] = [0, 0, 0, 0];
  hole.forEach((v, p) => {
    const [x, y] = [p % w, Math.floor(p / w)];
    if (!v || y > (made as Boards).footAt! - 20) return;
    const off = pitch * Math.abs(placeIn(x, y) - Math.round(placeIn(x, y)));
    const green = filled.data[4 * p + 1];
    if (off < 0.6) {
      joints++;
      if (green < 0.38) dark++;
    } else if (off > 4.5) {
      between++;
      if (green > 0.38) light++;
    }
  });
  expect(joints).toBeGreaterThan(1000);
  expect(dark / joints).toBeGreaterThan(0.85);
  expect(light / between).toBeGreaterThan(0.99);
});

test('boards beside a plain wall, parted from what they stand on by a guide line where things beside hide their foot', () => {
  const foot = 300;
  const wall = 235;
  // On both sides of the hole stands something dark red before that line.
  const hides = (x: number, y: number) => y > 250 && y < 385 && Math.abs(x - 220) < 160;
  const boarded = boards({ footAt: foot });
  const image = picture(w, h, (x, y) => {
    const i = 4 * (y * w + x);
    if (hides(x, y)) return [0.4, 0.05, 0.05];
    if (x >= wall && y < foot) return [0.3, 0.3 + 0.5 * (boarded.data[i] - 0.35), 0.6];
    return [boarded.data[i], boarded.data[i + 1], boarded.data[i + 2]];
  });
  const hole = boxHole(w, h, 125, 120, 190, 250);
  hole.forEach((v, p) => {
    if (v) image.data.fill(0, 4 * p, 4 * p + 3);
  });
  const allowed = hole.map((_, p) => (hides(p % w, Math.floor(p / w)) ? 0 : 1));
  const lines = [[20, foot, 420, foot]] as const;
  const { image: filled } = fillPicture({ image, hole, allowed, steering: { lines } });
  let [wrong, dark, joints] = [0, 0, 0];
  hole.forEach((v, p) => {
    const [x, y] = [p % w, Math.floor(p / w)];
    // Right at the line, and at the rim, where tone is evened to what stands there.
    if (!v || Math.abs(y - foot) < 3 || Math.abs(x - 220) > 87 || y > 362) return;
    if (filled.data[4 * p] > 0.52 !== y > foot) wrong++;
    if (y > foot - 5 || x > wall - 5 || Math.abs(placeIn(x, y) - Math.round(placeIn(x, y))) * pitch > 0.6)
      return;
    joints++;
    if (filled.data[4 * p + 1] < 0.38) dark++;
  });
  expect(wrong).toBeLessThan(30);
  expect(dark / joints).toBeGreaterThan(0.6);
});
