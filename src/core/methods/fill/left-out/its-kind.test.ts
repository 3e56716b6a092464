import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import type { FloatImage } from '../../../raster';
import { role } from '../frame';
import { withLayout } from '../layout';
import { makeFrame, shrink } from '../levels';
import { boxHole, checkSources, fillPicture, picture } from '../testing';
import { type ItsKind, itsKindIn, withoutItsKind } from './its-kind';

const [w, h] = [640, 400];
const floorBegins = 260;
const radius = 4;
/** Round the one on the right, with room. */
const hole = boxHole(w, h, 314, 104, 166, 200);

type Colour = readonly [number, number, number];
type Scene = (x: number, y: number) => Colour | null;

const brown: Colour = [0.34, 0.22, 0.12];
/** Upright casks with grey hoops, each so wide, from the left. */
const casks =
  (lefts: readonly number[], colour: Colour = brown, top = 120): Scene =>
  (x, y) => {
    const left = lefts.find((at) => x >= at && x < at + 130);
    if (left === undefined || y < top || y >= top + 170) return null;
    const down = (y - top) % 60;
    return down > 20 && down < 30 ? [0.5, 0.5, 0.5] : (x - left) % 22 < 2 ? [0.16, 0.1, 0.05] : colour;
  };
const isOther = (x: number, y: number) => x < 300 && casks([20, 170])(x, y) !== null;
const row = casks([20, 170, 330]);

/** A light wall above a dark red floor, and what stands before it. */
function room(before: Scene): FloatImage {
  const random = makeRandom(4);
  return picture(w, h, (x, y) => {
    const grain = 0.05 * (random.next() - 0.5);
    const tone = 0.02 * Math.sin(x / 23 + Math.sin(y / 31));
    const joint = y >= floorBegins && ((y - floorBegins) % 24 < 2 || (x + y) % 50 < 2);
    const back: Colour = y < floorBegins ? [0.66, 0.6, 0.48] : joint ? [0.16, 0.12, 0.1] : [0.3, 0.17, 0.11];
    const [r, g, b] = before(x, y) ?? back;
    return [r + grain + tone, g + grain + tone, b + grain + tone];
  });
}

function levelsOf(image: FloatImage) {
  const roles = hole.map((v) => (v ? role.target : role.source));
  const fine = makeFrame(image, roles, radius);
  return [fine, shrink(fine), shrink(shrink(fine))];
}

/** The same, each pixel four times. */
function enlarged({ data }: FloatImage): FloatImage {
  return picture(2 * w, 2 * h, (x, y) => {
    const i = 4 * ((y >> 1) * w + (x >> 1));
    return [data[i], data[i + 1], data[i + 2]];
  });
}

const kindIn = (image: FloatImage): ItsKind | null => itsKindIn(levelsOf(image), image);

describe('others of the kind of what is to go', () => {
  const image = room(row);
  const levels = levelsOf(image);
  const kind = itsKindIn(levels, image)!;

  test('are found where they stand, and little else is', () => {
    const count = { others: 0, found: 0, stray: 0 };
    const { w: across } = levels[kind.level];
    kind.standing.forEach((is, p) => {
      const other = isOther(4 * (p % across) + 2, 4 * Math.floor(p / across) + 2);
      if (other) count.others++;
      if (is) count[other ? 'found' : 'stray']++;
    });
    expect(count.found).toBeGreaterThan(0.5 * count.others);
    expect(count.stray).toBeLessThan(0.02 * count.others);
  });

  test('are not drawn from at any level; the wall and the floor are', () => {
    withoutItsKind(levels, kind, radius).forEach(({ w: across, source }, level) => {
      const at = (x: number, y: number) => source[(y >> level) * across + (x >> level)];
      expect(at(230, 170)).toBe(0);
      expect(at(80, 170)).toBe(0);
      expect(at(560, 170)).toBe(1);
      expect(at(100, 360)).toBe(1);
      expect(at(560, 280)).toBe(1);
    });
  });

  test('are out of place in its rows then, though they are seen there', () => {
    const costIn = (toGo: Float32Array | null, x: number, y: number) => {
      const { layout, w: across } = withLayout(levels, radius, 0, 0, toGo)[2];
      return layout!.table[(y >> 2) * layout!.count + layout!.kind[(y >> 2) * across + (x >> 2)]];
    };
    expect(costIn(null, 230, 190)).toBe(0);
    expect(costIn(kind.toGo, 230, 190)).toBeGreaterThan(100);
    for (const toGo of [null, kind.toGo]) {
      expect(costIn(toGo, 560, 190)).toBe(0);
      expect(costIn(toGo, 560, 296)).toBe(0);
    }
  });

  test('are left out also where they are half hidden, or cut by the edge', () => {
    const cut = casks([-90, 170, 330]);
    const hidden = (x: number, y: number) => (y > 200 && x > 560 ? row(x - 400, y) : null);
    const image = room((x, y) => hidden(x, y) ?? cut(x, y));
    const { standing, level } = itsKindIn(levelsOf(image), image)!;
    const across = levels[level].w;
    const partAt = (x0: number, x1: number, y: number) => {
      const row = standing.subarray((y >> 2) * across + (x0 >> 2), (y >> 2) * across + (x1 >> 2));
      return row.reduce((n, v) => n + v, 0) / row.length;
    };
    expect(partAt(8, 32, 190)).toBeGreaterThan(0.5);
    expect(partAt(576, 632, 232)).toBeGreaterThan(0.5);
    expect(partAt(490, 550, 190)).toBe(0);
  });

  test('are found as well where the next one stands right behind the rim, six pixels off', () => {
    const close = room(casks([20, 178, 330]));
    const { standing, level } = itsKindIn(levelsOf(close), close)!;
    const across = levels[level].w;
    const row = standing.subarray((190 >> 2) * across + (190 >> 2), (190 >> 2) * across + (290 >> 2));
    expect(row.reduce((n, v) => n + v, 0) / row.length).toBeGreaterThan(0.5);
  });

  test('are looked for one level higher where the finest is not looked at', () => {
    const large = enlarged(image);
    const roles = boxHole(2 * w, 2 * h, 628, 208, 332, 400).map((v) => (v ? role.target : role.source));
    const all = [makeFrame(large, roles, radius)];
    while (all.length < 4) all.push(shrink(all[all.length - 1]));
    const higher = itsKindIn(all, large, 1)!;
    expect(higher.level).toBe(3);
    for (const { w: across, source } of withoutItsKind(all, higher, radius).slice(3))
      expect(source[42 * across + 57]).toBe(0);
  });
});

describe('there are none', () => {
  test('where what is marked is but the ground', () => expect(kindIn(room(casks([20, 170])))).toBeNull());

  test('where what stands beside it is of another kind', () => {
    const blue = casks([20, 170], [0.1, 0.25, 0.6]);
    expect(kindIn(room((x, y) => (x < 310 ? blue(x, y) : row(x, y))))).toBeNull();
  });

  test('where its like stands in other rows', () => {
    const higher = casks([20, 170], brown, -75);
    expect(kindIn(room((x, y) => (x < 310 ? higher(x, y) : row(x, y))))).toBeNull();
  });

  test('where only a band, or specks, have its colours', () => {
    const alone = casks([330]);
    expect(kindIn(room((x, y) => alone(x, y) ?? (y > 180 && y < 200 && x < 250 ? brown : null)))).toBeNull();
    const speck = (x: number, y: number) => x < 250 && y < floorBegins && x % 40 < 12 && y % 40 < 12;
    expect(kindIn(room((x, y) => alone(x, y) ?? (speck(x, y) ? brown : null)))).toBeNull();
  });

  test('where what has its colours goes on above its rows: a wall', () => {
    const [alone, beyond] = [casks([330]), (x: number, y: number) => x < 200 && y < floorBegins];
    expect(kindIn(room((x, y) => alone(x, y) ?? (beyond(x, y) ? brown : null)))).toBeNull();
    // Of the same breadth, but no higher than itself, it stands there.
    const stands = (x: number, y: number) => beyond(x, y) && y > 130;
    expect(kindIn(room((x, y) => alone(x, y) ?? (stands(x, y) ? brown : null)))).not.toBeNull();
  });

  test('where what has its colours goes on right above its rows, though farther up it lies in shadow: a strip of a door', () => {
    const [alone, dark] = [casks([330]), [0.1, 0.07, 0.04] as const];
    const strip = (from: number) => (x: number, y: number) =>
      x < 60 || x > 150 || y < from || y > floorBegins ? null : y < 70 ? dark : brown;
    expect(kindIn(room((x, y) => alone(x, y) ?? strip(0)(x, y)))).toBeNull();
    expect(kindIn(room((x, y) => alone(x, y) ?? strip(130)(x, y)))).not.toBeNull();
  });

  test('where nothing is known of what is to go, or of the rim', () => {
    const image = room(row);
    const data = image.data.map((v, i) => (hole[i >> 2] ? 0 : v));
    expect(kindIn({ ...image, data })).toBeNull();
    const blind = levelsOf(image).map((frame) => ({ ...frame, known: frame.known.map(() => 0) }));
    expect(itsKindIn(blind, image)).toBeNull();
  });
});

test('a large fill of the last in a row puts none of the others in its place, mirrored neither', () => {
  const image = room(row);
  for (const mirror of [false, true]) {
    const variety = { mirror, turnDeg: 0, scale: 1 };
    const filled = fillPicture({ image, hole, reach: 2, steering: { variety } });
    checkSources(filled, w, h, hole);
    const taken = hole.filter((v, p) => v && isOther(filled.origin[2 * p], filled.origin[2 * p + 1]));
    expect(taken.length).toBeLessThan(0.01 * 166 * 200);
  }
});
