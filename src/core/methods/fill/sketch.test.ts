import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { makeFloatImage } from '../../raster';
import { computeFill, type FillStage, unsteered } from './compute';
import type { CoarseAnswer } from './first-answer';
import { role } from './frame';
import { planPieces } from './pieces';
import { reduced } from './reduced';
import { sketchOf } from './sketch';
import { boxHole, fillPicture, noisy, type PictureFill, picture } from './testing';

describe('a sketch is the same fill in a smaller picture', () => {
  const random = makeRandom(4);
  const [w, h] = [501, 400];
  const image = makeFloatImage({ x: 70, y: 30, w, h });
  for (let i = 0; i < image.data.length; i++) image.data[i] = random.next();
  const others = [role.context, role.guessed];
  const roles = Uint8Array.from({ length: w * h }, (_, i) =>
    i % w > 200 && Math.floor(i / w) > 100
      ? role.target
      : (others[Math.floor(20 * random.next())] ?? role.source),
  );
  const { input, placeOf } = sketchOf({ image, roles }, unsteered)!;
  const half = reduced({ image, roles }, 2);

  test('what is to be filled in it, what may be drawn from and what is still to go is as in that picture', () => {
    const [{ image: seen, allowed, pending }] = input.windows;
    expect(seen).toEqual(half.image);
    const isOf = (list: ArrayLike<number>, wanted: number, of: number) =>
      half.roles.every((is, p) => (is === wanted) === (list[p] === of));
    expect(isOf(input.plan.owner, role.target, 0)).toBe(true);
    expect(isOf(allowed!, role.source, 1)).toBe(true);
    expect(isOf(pending!, role.guessed, 1)).toBe(true);
    expect(input.plan.pieces[0].box).toEqual({ x: 100, y: 50, w: 150, h: 150 });
  });

  test('its places are half as far from the window’s corner, and what was laid down is where it was', () => {
    expect(placeOf({ x: 10, y: 20, w: 30, h: 40 })).toEqual({ x: 90, y: 70, w: 60, h: 80 });
    const steering = {
      ...unsteered,
      rail: { angleDeg: 30, slackPx: 8 },
      lines: [[70, 30, 90, 70] as const],
      plane: [
        [80, 40],
        [170, 40],
        [170, 130],
        [80, 130],
      ] as const,
    };
    expect(sketchOf({ image, roles }, steering)!.input.steering).toMatchObject({
      rail: { angleDeg: 30, slackPx: 4 },
      lines: [[0, 0, 10, 20]],
      plane: [
        [5, 5],
        [50, 5],
        [50, 50],
        [5, 50],
      ],
    });
  });

  test('there is none of what is not much larger than one', () => {
    const few = roles.map((is, i) => (is === role.target && Math.floor(i / w) > 200 ? role.context : is));
    expect(sketchOf({ image, roles: few }, unsteered)).toBeNull();
  });
});

describe('a large fill shows a first answer before it searches', () => {
  const random = makeRandom(2);
  const [w, h] = [760, 640];
  /** Sky above, a meadow below it, and something red that may not be drawn from. */
  const at = (x: number, y: number): [number, number, number] => {
    const grain = 0.06 * (random.next() - 0.5);
    if (x < 150 && y > 420) return [0.9, 0.1 + grain, 0.1];
    return y < 300 ? [0.5 + grain, 0.6 + grain, 0.9] : [0.3 + grain, 0.6 + grain, 0.2];
  };
  const image = picture(w, h, at);
  const hole = boxHole(w, h, 220, 150, 340, 320);
  const allowed = Uint8Array.from(hole, (_, i) => (i % w < 170 && Math.floor(i / w) > 400 ? 0 : 1));

  const answersOf = (fill: Partial<PictureFill>) => {
    const answers: { stage: FillStage; answer: CoarseAnswer }[] = [];
    fillPicture({ image, hole, allowed, ...fill }, (stage, _share, answer) => {
      if (answer) answers.push({ stage, answer });
    });
    return answers;
  };

  test('of all of the area, like what it will be', () => {
    const answers = answersOf({});
    expect(answers.map(({ stage }) => stage)).toEqual(['reading']);
    const { rect, w: across, data } = answers[0].answer;
    const by = rect.w / across;
    let [off, seen] = [0, 0];
    for (let p = 0; p < data.length / 4; p++) {
      const y = Math.floor(p / across) * by + (by >> 1);
      const inHole = hole[y * w + (p % across) * by + (by >> 1)] === 1;
      const [red, green, blue, alpha] = data.subarray(4 * p, 4 * p + 4);
      if (alpha !== (inHole ? 255 : 0)) throw new Error(`pixel ${p} is ${alpha}`);
      if (!inHole) continue;
      if (red > 200 && green < 80) throw new Error(`pixel ${p} comes from what may not be drawn from`);
      seen++;
      if (y < 300 !== blue > 140) off++;
    }
    expect(off / seen).toBeLessThan(0.02);
  });

  test('of each part of one in parts; what is still to go in others does not show', () => {
    const whole = boxHole(w, h, 120, 100, 500, 420);
    const { rect } = image;
    const sizes = { largePx: 200_000, mostPartPx: 110_000 };
    const plan = planPieces(whole, rect, rect, 1, 'in parts', null, sizes);
    expect(plan.pieces).toHaveLength(2);
    const ground = noisy(w, h, 6).data;
    const groundAt = (x: number, y: number) =>
      [0, 1, 2].map((c) => ground[4 * (y * w + x) + c]) as [number, number, number];
    const shownOf = (thing: readonly [number, number, number]) => {
      const of = picture(w, h, (x, y) => (whole[y * w + x] ? thing : groundAt(x, y)));
      const seen = { image: of, allowed: null, pending: null, beside: null };
      const answers: CoarseAnswer[] = [];
      const fill = () =>
        computeFill(
          { plan, windows: [seen, seen], steering: unsteered, seed: 1 },
          (stage, _share, answer) => {
            if (answer) answers.push(answer);
            if (stage === 'searching') throw new Error('it has begun');
          },
        );
      expect(fill).toThrow('it has begun');
      expect(answers).toHaveLength(2);
      return answers[1].data;
    };
    const [red, blue] = [shownOf([0.9, 0.05, 0.1]), shownOf([0.1, 0.2, 0.9])];
    expect(red.filter((v, i) => v !== blue[i])).toHaveLength(0);
  });

  test('a small one does not', () => {
    expect(answersOf({ hole: boxHole(w, h, 220, 250, 200, 120) })).toEqual([]);
  });

  test('what leaves nothing to draw from in the smaller picture is filled all the same', () => {
    // Some single columns only.
    const columns = allowed.map((may, i) => (i % 6 === 0 && i % w > 560 ? may : 0));
    const answers: CoarseAnswer[] = [];
    const fill = () =>
      fillPicture({ image, hole, allowed: columns }, (stage, _share, answer) => {
        if (answer) answers.push(answer);
        if (stage === 'searching') throw new Error('it has begun');
      });
    expect(fill).toThrow('it has begun');
    expect(answers).toEqual([]);
  });
});
