import { describe, expect, test } from 'vitest';
import { fromUnitSquare, invert, project, stepsAt } from '../../geometry';
import { makeRandom } from '../../random';
import { groundOfPlane } from './atlas';
import { role } from './frame';
import { boxHole, checkSources, fillPicture, grainy, picture } from './testing';

describe('a fill on a plane', () => {
  test('a pattern in perspective is completed along its plane', () => {
    const corners = [
      [60, 20],
      [140, 26],
      [190, 150],
      [10, 150],
    ] as const;
    const toUnit = invert(fromUnitSquare(corners)!);
    const [pw, ph] = [200, 160];
    const tiles = picture(pw, ph, (x, y) => {
      let sum = 0;
      for (let v = 0; v < 3; v++)
        for (let u = 0; u < 3; u++) {
          const p = project(toUnit, x + (u + 0.5) / 3, y + (v + 0.5) / 3);
          if (p) sum += ((Math.floor(p[0] * 6) + Math.floor(p[1] * 6)) & 1) / 9;
        }
      return [0.2 + 0.6 * sum, 0.3 + 0.4 * sum, 0.25];
    });
    const part = boxHole(pw, ph, 80, 80, 34, 30);
    // What the area shows is of no help.
    const shown = picture(pw, ph, (x, y) => {
      const at = 4 * (y * pw + x);
      return part[y * pw + x] ? [0.9, 0.1, 0.9] : ([...tiles.data.subarray(at, at + 3)] as never);
    });
    const meanError = (plane: typeof corners | null) => {
      const filled = fillPicture({
        image: shown,
        hole: part,
        reach: 3,
        steering: { plane, leavesOut: null },
      });
      checkSources(filled, pw, ph, part);
      let sum = 0;
      let count = 0;
      part.forEach((v, i) => {
        if (!v) return;
        sum += Math.abs(filled.image.data[4 * i] - tiles.data[4 * i]);
        count++;
      });
      return (255 * sum) / count;
    };
    const onPlane = meanError(corners);
    expect(onPlane).toBeLessThan(10);
    expect(onPlane).toBeLessThan(0.7 * meanError(null));
  });

  test('corners that make no plane are refused, and a plane whose horizon the area reaches', () => {
    const bad = [
      [0, 0],
      [10, 10],
      [10, 0],
      [0, 10],
    ] as const;
    const [image, hole] = [grainy(150, 120, 21), boxHole(150, 120, 62, 48, 26, 22)];
    expect(() => fillPicture({ image, hole, steering: { plane: bad } })).toThrow(/no plane/);
    const steep = [
      [70, 62],
      [80, 62],
      [140, 110],
      [10, 110],
    ] as const;
    expect(() => fillPicture({ image, hole, steering: { plane: steep } })).toThrow(/horizon/);
  });

  test('on a plane, a wide window gets as much room as there is memory for', () => {
    const rect = { x: 0, y: 0, w: 2400, h: 1600 };
    const roles = boxHole(rect.w, rect.h, 1000, 800, 400, 200).map((v) => (v ? role.target : role.source));
    const square = [
      [700, 600],
      [1700, 600],
      [1700, 1300],
      [700, 1300],
    ] as const;
    const ground = groundOfPlane(rect, roles, square);
    const pixels = ground.w * ground.h;
    expect(pixels).toBeLessThanOrEqual(6_000_000);
    expect(pixels).toBeGreaterThan(5_950_000);
  });

  const [w, h] = [320, 260];
  const corners = [
    [120, 30],
    [200, 30],
    [310, 250],
    [10, 250],
  ] as const;
  /** A floor that goes far back, with grain that is as fine far as near. */
  const floorUnder = (light: (x: number, y: number) => number) => {
    const random = makeRandom(5);
    return picture(w, h, (x, y) => {
      const v = light(x, y) + 0.06 * (random.next() - 0.5);
      return [v, v, v];
    });
  };

  test('tone is made up for at the rim as well as farther in: no line shows where the area begins', () => {
    const hole = boxHole(w, h, 120, 90, 80, 70);
    // Nowhere else is it as light.
    const floor = floorUnder((x, y) => 0.3 + 0.3 * Math.exp(-((x - 160) ** 2 + (y - 125) ** 2) / 6000));
    const { image } = fillPicture({ image: floor, hole, reach: 2, steering: { plane: corners } });
    // Lightness of the outermost ring of the hole and of the one beyond it, side by side along each side.
    const ring = (inset: number, of: typeof floor) => {
      let [sum, count] = [0, 0];
      for (let y = 100; y < 150; y++)
        for (const x of [120 + inset, 199 - inset]) {
          const p = 4 * (y * w + x);
          sum += of.data[p];
          count++;
        }
      return (255 * sum) / count;
    };
    const grainOfMean = (255 * 0.06) / Math.sqrt(12 * 100);
    expect(Math.abs(ring(0, image) - ring(0, floor))).toBeLessThan(4 * grainOfMean);
  });

  test('of places that fit alike, those are taken that were seen at about the same size', () => {
    const hole = boxHole(w, h, 110, 70, 100, 90);
    const floor = floorUnder((x, y) => 0.3 + 0.25 * (x / w) + 0.1 * (y / h));
    const { origin } = fillPicture({ image: floor, hole, reach: 2, steering: { plane: corners } });
    const toPhoto = fromUnitSquare(corners)!;
    const sizeAt = (x: number, y: number) => {
      const [u, v] = project(invert(toPhoto), x + 0.5, y + 0.5)!;
      const { across, down } = stepsAt(toPhoto, u, v)!;
      return 0.5 * Math.log2(Math.abs(across[0] * down[1] - across[1] * down[0]));
    };
    let [sum, count] = [0, 0];
    hole.forEach((v, p) => {
      if (!v) return;
      sum += Math.abs(sizeAt(origin[2 * p], origin[2 * p + 1]) - sizeAt(p % w, Math.floor(p / w)));
      count++;
    });
    expect(sum / count).toBeLessThan(0.65);
  });
});
