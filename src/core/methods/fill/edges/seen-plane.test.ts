import { describe, expect, test } from 'vitest';
import { fromUnitSquare, invert, type PlanePoint, project } from '../../../geometry';
import { makeRandom } from '../../../random';
import { computeFill } from '../compute';
import { role } from '../frame';
import { boxHole, inputOf, picture } from '../testing';
import { seenPlane } from './seen-plane';

const [w, h] = [340, 300];
const hole = boxHole(w, h, 130, 110, 80, 76);
const roles = hole.map((v) => (v ? role.target : role.source));

/** Where lines through two pairs of points meet. */
function meeting(a: PlanePoint, b: PlanePoint, c: PlanePoint, d: PlanePoint): PlanePoint {
  const [ax, ay, bx, by] = [b[0] - a[0], b[1] - a[1], d[0] - c[0], d[1] - c[1]];
  const t = ((c[0] - a[0]) * by - (c[1] - a[1]) * bx) / (ax * by - ay * bx);
  return [a[0] + t * ax, a[1] + t * ay];
}

/** A wall of bricks on the plane of a quadrilateral, so many courses high; soft and grainy. */
function wall(corners: readonly PlanePoint[], courses = 12, hasJoints = true) {
  const toUnit = invert(fromUnitSquare(corners)!);
  const random = makeRandom(3);
  const shades = Array.from({ length: 997 }, () => 0.06 * (random.next() - 0.5));
  const ground = (x: number, y: number) => {
    const p = project(toUnit, x, y);
    if (!p) return 0.5;
    const v = p[1] * courses;
    const row = Math.floor(v);
    const u = p[0] * courses * 0.45 + (row & 1) / 2;
    const isMortar = v - row < 0.14 || (hasJoints && u - Math.floor(u) < 0.07);
    return isMortar ? 0.75 : 0.4 + shades[Math.abs(row * 31 + (hasJoints ? Math.floor(u) * 7 : 0)) % 997];
  };
  return picture(w, h, (x, y) => {
    let sum = 0;
    for (const dy of [0.2, 0.5, 0.8]) for (const dx of [0.2, 0.5, 0.8]) sum += ground(x + dx, y + dy) / 9;
    const value = hole[y * w + x] ? 0.1 : sum + 0.02 * (random.next() - 0.5);
    return [value, 0.8 * value, 0.7 * value];
  });
}

describe('the plane that bricks are seen to lie on', () => {
  const right: PlanePoint[] = [
    [0, -20],
    [340, 70],
    [340, 215],
    [0, 330],
  ];

  test.each([
    { says: 'a wall that runs away to the right', corners: right, isFloor: false },
    {
      says: 'a wall that runs away to the left',
      corners: [
        [0, 60],
        [340, -10],
        [340, 310],
        [0, 230],
      ] as PlanePoint[],
      isFloor: false,
    },
    {
      says: 'a floor that runs away from the eye',
      corners: [
        [-80, 300],
        [110, 0],
        [240, 0],
        [430, 300],
      ] as PlanePoint[],
      isFloor: true,
    },
  ])('$says', ({ corners, isFloor }) => {
    const found = seenPlane(wall(corners), roles, w, h)!;
    expect(found).not.toBeNull();
    const [a, b, c, d] = found;
    const [p, q, r, s] = corners;
    const [at, asked] = [meeting(b, c, a, d), meeting(p, q, s, r)];
    // Two of its sides run to where the courses run to, two lie as the horizon does.
    const far = Math.hypot(asked[0] - w / 2, asked[1] - h / 2);
    expect(Math.hypot(at[0] - asked[0], at[1] - asked[1])).toBeLessThan(0.06 * far);
    for (const [from, to] of [
      [a, b],
      [c, d],
    ]) {
      const [level, upright] = [Math.abs(to[0] - from[0]), Math.abs(to[1] - from[1])];
      expect(isFloor ? upright / level : level / upright).toBeLessThan(Math.sin((5 * Math.PI) / 180));
    }
  });

  test('a fill tells on which it lies, and sees none when it is not to', () => {
    const image = wall(right);
    const [seen] = computeFill(inputOf({ image, hole }));
    const [a, b, c, d] = seen.seenPlane!;
    const [at, asked] = [meeting(b, c, a, d), meeting(right[0], right[1], right[3], right[2])];
    expect(Math.hypot(at[0] - asked[0], at[1] - asked[1])).toBeLessThan(
      0.06 * Math.hypot(asked[0] - w / 2, asked[1] - h / 2),
    );
    const [unseen] = computeFill(inputOf({ image, hole, steering: { seesPlane: false } }));
    expect(unseen.seenPlane).toBeNull();
    expect(unseen.origin).not.toEqual(seen.origin);
    const [placed] = computeFill(inputOf({ image, hole, steering: { plane: right } }));
    expect(placed.seenPlane).toBeNull();
  });

  test('none on a wall seen squarely, none without joints, none where nothing runs together', () => {
    const squarely: PlanePoint[] = [
      [0, 0],
      [340, 0],
      [340, 300],
      [0, 300],
    ];
    expect(seenPlane(wall(squarely), roles, w, h)).toBeNull();
    expect(seenPlane(wall(right, 12, false), roles, w, h)).toBeNull();
    const random = makeRandom(9);
    const grain = picture(w, h, () => [random.next(), 0.5, 0.5]);
    expect(seenPlane(grain, roles, w, h)).toBeNull();
  });
});
