import { beforeEach, describe, expect, test } from 'vitest';
import { makeRandom } from '../../../random';
import type { ShiftMap } from '../cut/seam-cut';
import { role } from '../frame';
import { boxHole, fillPicture, grainy, mostError, picture } from '../testing';
import { BendNet } from './bend-net';
import { bentCopies } from './bent-copies';
import { type LineFit, lineFitter } from './line-fit';

const [w, h] = [160, 150];

/** A dark line about 2 pixels wide on a plain ground. @param off  from its middle */
const onLine = (off: number) => 0.6 - 0.35 * Math.exp(-(off * off) / 2);

/** Joints between boards, some pixels apart; at the bottom they are off by so much. */
const joints = (jointAt: (x: number, y: number) => number) =>
  picture(w, h, (x, y) => {
    const v = onLine(jointAt(x, y));
    return [v, v, v * 0.9];
  });
const toJoint = (x: number, apart: number) => x - Math.round(x / apart) * apart;

const rolesOf = (hole: Uint8Array) => hole.map((v) => (v ? role.target : role.source));

/** Everything in the hole is taken by one shift. */
const oneShift = (hole: Uint8Array, dx: number, dy: number): ShiftMap => ({
  shifts: [{ dx, dy }],
  label: Int32Array.from(hole, (v) => (v ? 0 : -1)),
});

/** What a map brings to a pixel. */
const copied = (
  image: { rect: { w: number }; data: Float32Array },
  { shifts, label }: ShiftMap,
  p: number,
) => {
  const { dx, dy } = shifts[label[p]];
  return image.data[4 * (p + dy * image.rect.w + dx)];
};

describe('fit of lines', () => {
  const image = joints((x) => toJoint(x, 40));
  // A new fitter takes the place of the one before.
  let fitAt: ReturnType<typeof lineFitter>;
  beforeEach(() => {
    fitAt = lineFitter(image, rolesOf(new Uint8Array(w * h)));
  });

  test('a line that misses is to be moved across, whichever side is asked', () => {
    const [mine, other] = [
      { dx: 0, dy: 30 },
      { dx: 3, dy: 0 },
    ];
    const [one, two] = [fitAt(40, 40, mine, other)!, fitAt(40, 40, other, mine)!];
    expect([one.isOff, two.isOff]).toEqual([true, true]);
    expect(one.x).toBeCloseTo(3, 1);
    expect(two.x).toBeCloseTo(-3, 1);
    expect(Math.abs(one.y)).toBeLessThan(0.01);
  });

  test('a line that meets is held where it is, firmly across and loosely along', () => {
    const fit = fitAt(40, 40, { dx: 40, dy: 5 }, { dx: 0, dy: 0 })!;
    expect(fit).toMatchObject({ isOff: false, x: 0, y: 0 });
    expect(fit.xx).toBeGreaterThan(5 * fit.yy);
    expect(fit.yy).toBeGreaterThan(0);
  });

  test('where no line runs, nothing is said: plain ground, texture, ground of other light', () => {
    expect(fitAt(60, 40, { dx: 0, dy: 30 }, { dx: 3, dy: 0 })).toBeNull();
    const texture = grainy(w, h, 5);
    const fitTexture = lineFitter(texture, rolesOf(new Uint8Array(w * h)));
    let chance = 0;
    for (let k = 0; k < 400; k++)
      if (
        fitTexture(30 + (k % 20) * 5, 30 + Math.floor(k / 20) * 4, { dx: 17, dy: 13 }, { dx: 0, dy: 0 })
          ?.isOff
      )
        chance++;
    expect(chance).toBeLessThan(20);
    const lit = picture(w, h, (x) => (x < 80 ? [0.3, 0.3, 0.3] : [0.7, 0.7, 0.7]));
    expect(
      lineFitter(lit, rolesOf(new Uint8Array(w * h)))(40, 50, { dx: 70, dy: 0 }, { dx: 0, dy: 0 }),
    ).toBeNull();
  });

  test('a line too far off is not pulled over', () => {
    expect(fitAt(40, 40, { dx: 12, dy: 0 }, { dx: 0, dy: 0 })?.isOff ?? false).toBe(false);
  });

  test('too little known says nothing', () => {
    const roles = rolesOf(new Uint8Array(w * h)).fill(role.void);
    expect(lineFitter(image, roles)(40, 40, { dx: 3, dy: 0 }, { dx: 0, dy: 0 })).toBeNull();
  });
});

describe('bends', () => {
  const plain = picture(w, h, () => [0.5, 0.5, 0.5]);
  const hole = boxHole(w, h, 30, 40, 80, 40);
  const firm: LineFit = { isOff: true, x: 2, y: 0, xx: 5, xy: 0, yy: 5 };

  test('follow what holds them and fade from there', () => {
    const net = new BendNet(plain, rolesOf(hole), oneShift(hole, 0, 30));
    for (let y = 40; y < 80; y += 2) net.hold(30, y, 0, null, firm);
    const bends = net.settle();
    const at = (x: number) => bends[2 * (20 * net.box.w + x)];
    expect(at(0)).toBeCloseTo(2, 1);
    for (let x = 8; x < 80; x += 8) expect(at(x)).toBeLessThan(at(x - 8));
    expect(at(79)).toBeGreaterThan(0);
    expect(bends[2 * (20 * net.box.w) + 1]).toBeCloseTo(0, 6);
  });

  test('a miss between two parts is shared by both, the other way round', () => {
    const map = {
      ...oneShift(hole, 0, 30),
      shifts: [
        { dx: 0, dy: 30 },
        { dx: 2, dy: -30 },
      ],
    };
    hole.forEach((v, p) => {
      if (v) map.label[p] = p % w < 70 ? 0 : 1;
    });
    const net = new BendNet(plain, rolesOf(hole), map);
    expect([...net.labels]).toEqual([0, 1]);
    const between = net.joins.filter(({ other }) => other !== null);
    expect(between.length).toBe(40);
    for (const { x, y, part, other } of between) if (part === 0) net.hold(x, y, part, other, firm);
    const bends = net.settle();
    const [left, right] = [39, 40].map((x) => bends[2 * (20 * net.box.w + x)]);
    expect(left).toBeCloseTo(1, 1);
    expect(right).toBeCloseTo(-1, 1);
  });
});

describe('bent copies', () => {
  const hole = boxHole(w, h, 30, 30, 100, 30);

  test('none where all lines meet', () => {
    const image = joints((x) => toJoint(x, 40));
    expect(bentCopies(image, rolesOf(hole), oneShift(hole, 0, 60))).toBeNull();
  });

  test('joints that lie off below run on through the area, and the picture itself stays as it is', () => {
    // Below the area each joint is 3 pixels farther to the right.
    const image = joints((x, y) => toJoint(x - (y > 75 ? 3 : 0), 40));
    const roles = rolesOf(hole);
    const copies = bentCopies(image, roles, oneShift(hole, 0, 60))!;
    expect(copies.image.data.subarray(0, image.data.length)).toEqual(image.data);
    for (const y of [30, 45, 59])
      for (const x of [40, 80, 120]) {
        const row = [...Array(9).keys()].map((k) => copied(copies.image, copies.map, y * w + x + k - 4));
        // At the rim, at the middle of the area too, the darkest is at the joint.
        expect(row.indexOf(Math.min(...row)), `${x}, ${y}`).toBe(4);
      }
    hole.forEach((v, p) => {
      if (!v) return;
      const { dx, dy } = copies.map.shifts[copies.map.label[p]];
      const [x, y] = copies.originOf((p % w) + dx, Math.floor(p / w) + dy);
      expect(Math.abs(x - (p % w) - 3)).toBeLessThanOrEqual(3);
      expect(Math.abs(y - Math.floor(p / w) - 60)).toBeLessThanOrEqual(3);
    });
  });

  test('a part in which nothing misses is copied as it was', () => {
    const image = joints((x, y) => (x < 100 ? toJoint(x - (y > 75 ? 3 : 0), 40) : 40));
    const two = hole.map((v, p) => (v && (p % w < 75 || p % w > 105) ? 1 : 0));
    const { map } = bentCopies(image, rolesOf(two), oneShift(two, 0, 60))!;
    expect(map.shifts[0]).toEqual({ dx: 0, dy: 60 });
    two.forEach((v, p) => {
      if (v) expect(map.label[p] === 0, `${p % w}`).toBe(p % w > 105);
    });
  });

  test('what a cut left out does not come in: a wire just above what is copied stays out, while a course runs on', () => {
    // Beside the area a course lies at row 45; below it, from where the area is taken, at 102 and not at 105, and a wire at 87.
    const taken = boxHole(w, h, 30, 30, 60, 20);
    const image = picture(w, h, (_, y) => {
      const v = Math.min(onLine(y - (y > 75 ? 102 : 45)), onLine(y - 87));
      return [v, v, v];
    });
    const copies = bentCopies(image, rolesOf(taken), oneShift(taken, 0, 60))!;
    const shown = (x: number, y: number) => copied(copies.image, copies.map, y * w + x);
    for (let x = 30; x < 90; x++) expect(shown(x, 30), `${x}`).toBeGreaterThan(0.5);
    for (const x of [31, 88]) {
      const rows = [...Array(9).keys()].map((k) => shown(x, 41 + k));
      expect(rows.indexOf(Math.min(...rows))).toBe(4);
    }
  });

  test('no copy is made of what must not be drawn from', () => {
    const image = joints((x, y) => toJoint(x - (y > 75 ? 3 : 0), 40));
    const roles = rolesOf(hole);
    // Known, but forbidden: a strip along where the right edge of the area would be taken from, in a colour of its own.
    for (let y = 85; y < 125; y++)
      for (let x = 130; x < 140; x++) {
        roles[y * w + x] = role.context;
        image.data.set([1, 0, 1, 1], 4 * (y * w + x));
      }
    const copies = bentCopies(image, roles, oneShift(hole, 0, 60))!;
    hole.forEach((v, p) => {
      if (v) expect(copied(copies.image, copies.map, p)).toBeLessThan(0.75);
    });
  });
});

test('a line that is bent is bent over its length: joints that slant to both sides run straight through a fill', () => {
  const [width, height] = [240, 200];
  const random = makeRandom(3);
  const slanted = Array.from({ length: 12 }, (_, k) => ({
    x: 4 + k * 22 + 10 * random.next(),
    slant: k % 2 ? 0.06 : -0.05,
  }));
  const image = picture(width, height, (x, y) => {
    const off = Math.min(...slanted.map((j) => Math.abs(x - j.x - j.slant * (y - 100))));
    const v = onLine(off) + 0.02 * (random.next() - 0.5);
    return [v, v, v * 0.9];
  });
  const hole = boxHole(width, height, 60, 80, 110, 44);
  for (const seed of [1, 5]) {
    const filled = fillPicture({ image, hole, seed });
    // Bent where they miss each other and nowhere else it was 59 and 69 grey levels.
    expect(mostError(filled.image, image, hole)).toBeLessThan(38);
  }
});
