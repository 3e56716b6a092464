import { describe, expect, test } from 'vitest';
import { squaredDistance } from '../../../area';
import { makeRandom } from '../../../random';
import type { FloatImage } from '../../../raster';
import { shrink } from '../levels';
import { boxHole, frameOf, grainy, picture } from '../testing';
import { strangeLines } from './strange-lines';
import { withoutThings } from './things';

const [w, h] = [480, 360];
const hole = boxHole(w, h, 30, 40, 280, 280);

/** Level waves, darker and lighter, and whatever stands in the water. */
function water(stands: (x: number, y: number) => boolean = () => false): FloatImage {
  const random = makeRandom(6);
  return picture(w, h, (x, y) => {
    const wave = Math.sin(y / 4 + 1.5 * Math.sin(x / 37) + Math.sin(y / 19));
    const v = (stands(x, y) ? 0.2 : 0.4 + 0.18 * wave) + 0.04 * (random.next() - 0.5);
    return [v, 1.1 * v, 0.9 * v];
  });
}

/** Three pixels thick, as dark as the darkest waves. */
const inReed = (x: number, y: number) =>
  y > 30 && y < 330 && [425, 442, 459].some((at) => Math.abs(x - at - (y - 180) / 40) < 2);

function linesIn(image: FloatImage): (isIn: (x: number, y: number) => boolean) => number {
  const frame = frameOf(image, hole);
  const lines = strangeLines(frame, squaredDistance(hole, w, h));
  return (isIn) => {
    let [set, all] = [0, 0];
    for (let p = 0; p < w * h; p++) {
      if (hole[p] || !isIn(p % w, Math.floor(p / w))) continue;
      all++;
      if (lines[p]) set++;
    }
    return set / all;
  };
}

describe('what runs in a direction that nothing at the rim runs in', () => {
  test('is found, and little beside it', () => {
    const share = linesIn(water(inReed));
    expect(share(inReed)).toBeGreaterThan(0.8);
    expect(share((x) => x < 335)).toBeLessThan(0.001);
  });

  test('is nothing strange where the rim shows it as well', () => {
    const atRim = (x: number, y: number) => y > 30 && y < 330 && Math.abs(x - 322) < 2;
    expect(linesIn(water((x, y) => inReed(x, y) || atRim(x, y)))(inReed)).toBeLessThan(0.01);
  });

  test('is not seen in waves, nor in what has no direction', () => {
    const everywhere = () => true;
    expect(linesIn(water())(everywhere)).toBe(0);
    expect(linesIn(grainy(w, h, 3))(everywhere)).toBeLessThan(0.01);
    expect(linesIn(picture(w, h, () => [0.5, 0.5, 0.5]))(everywhere)).toBe(0);
  });

  test('cannot be told where nothing is known at the rim', () => {
    const frame = frameOf(water(inReed), hole);
    const blind = { ...frame, known: frame.known.map(() => 0) };
    expect(strangeLines(blind, squaredDistance(hole, w, h)).every((is) => is === 0)).toBe(true);
  });

  test('is not drawn from, though its colours are at home there', () => {
    const fine = frameOf(water(inReed), hole, 4);
    const levels = [fine, shrink(fine), shrink(shrink(fine))];
    withoutThings(levels, 4)
      .slice(0, 2)
      .forEach(({ source, w: across }, level) => {
        const by = 2 ** level;
        const count = { reed: 0, ofReed: 0, water: 0, ofWater: 0 };
        levels[level].source.forEach((is, p) => {
          if (!is) return;
          const [x, y] = [(p % across) * by, Math.floor(p / across) * by];
          const kind = inReed(x, y) ? 'reed' : x < 400 ? 'water' : null;
          if (kind) count[kind] += source[p];
          if (kind) count[kind === 'reed' ? 'ofReed' : 'ofWater']++;
        });
        expect(count.reed).toBeLessThan(0.1 * count.ofReed);
        expect(count.water).toBeGreaterThan(0.99 * count.ofWater);
      });
  });
});
