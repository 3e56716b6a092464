import { describe, expect, test } from 'vitest';
import { boxShape } from '../testing/jobs';
import { belongingsOf, seenOf } from '.';
import { grainy, markedOf, pixelsOf } from './testing';

describe('what belongs to it', () => {
  test('a shadow at its foot and a bit left out are offered, the ground is not', () => {
    const photo = grainy(400, 300, (x, y) => {
      if (x > 150 && x < 210 && y > 60 && y < 180) return [0.8, 0.3, 0.1];
      if (x > 150 && x < 300 && y >= 178 && y < 205) return [0.25, 0.27, 0.22];
      return [0.5, 0.54, 0.45];
    });
    // The marked part lacks the top of the thing.
    const offers = belongingsOf(seenOf(photo), markedOf([boxShape(149, 90, 62, 91)]));
    const kinds = offers.map((o) => o.kind);
    expect(kinds).toContain('shadow');
    expect(kinds).toContain('bit');
    const shadow = offers.find((o) => o.kind === 'shadow')!;
    const covered = pixelsOf(shadow, 400, 300);
    expect(covered[195 * 400 + 260]).toBe(1);
    expect(covered[100 * 400 + 320]).toBe(0);
    const bit = pixelsOf(offers.find((o) => o.kind === 'bit')!, 400, 300);
    expect(bit[75 * 400 + 180]).toBe(1);
  });

  test('a reflection in water is offered where it looks like the thing, and not on plain ground', () => {
    const scene = (mirrored: boolean) =>
      grainy(300, 300, (x, y) => {
        const inThing = (v: number) => x > 110 && x < 190 && v > 90 && v < 150;
        if (inThing(y)) return x < 150 ? [0.9, 0.5, 0.1] : [0.5, 0.2, 0.1];
        if (mirrored && inThing(300 - y)) return x < 150 ? [0.6, 0.35, 0.15] : [0.35, 0.2, 0.12];
        return [0.2, 0.25, 0.25];
      });
    const marked = markedOf([boxShape(110, 90, 81, 61)]);
    expect(belongingsOf(seenOf(scene(true)), marked).some((o) => o.kind === 'reflection')).toBe(true);
    expect(belongingsOf(seenOf(scene(false)), marked).some((o) => o.kind === 'reflection')).toBe(false);
    // Marked roughly, down into the water.
    const rough = markedOf([boxShape(106, 80, 89, 82)]);
    const offers = belongingsOf(seenOf(scene(true)), rough);
    const covered = pixelsOf(offers.find((o) => o.kind === 'reflection')!, 300, 300);
    let hit = 0;
    for (let y = 162; y < 210; y++) for (let x = 111; x < 190; x++) hit += covered[y * 300 + x];
    expect(hit).toBeGreaterThan(0.95 * 48 * 79);
    expect(belongingsOf(seenOf(scene(false)), rough).some((o) => o.kind === 'reflection')).toBe(false);
  });

  test('something dark that touches a thing above its foot is no shadow of it', () => {
    const scene = (top: number, bottom: number) =>
      grainy(400, 300, (x, y) => {
        if (x > 150 && x < 210 && y > 60 && y < 220) return [0.8, 0.3, 0.1];
        if (x >= 210 && x < 270 && y > top && y < bottom) return [0.25, 0.27, 0.22];
        return [0.5, 0.54, 0.45];
      });
    const kinds = (top: number, bottom: number) =>
      belongingsOf(seenOf(scene(top, bottom)), markedOf([boxShape(149, 58, 62, 163)])).map((o) => o.kind);
    expect(kinds(150, 190)).not.toContain('shadow');
    // Nor one that stands next to it, down to the same foot.
    expect(kinds(120, 222)).not.toContain('shadow');
    expect(kinds(198, 222)).toContain('shadow');
  });

  test('ground that is only somewhat darker, and runs into a shadow, is none of it', () => {
    const photo = grainy(400, 300, (x, y) => {
      if (x > 150 && x < 210 && y > 60 && y < 180) return [0.8, 0.3, 0.1];
      if (x > 150 && x < 300 && y >= 178 && y < 205) return [0.25, 0.27, 0.22];
      // A path that the shadow falls across.
      if (x > 270 && x < 330) return [0.42, 0.45, 0.38];
      return [0.5, 0.54, 0.45];
    });
    const [shadow] = belongingsOf(seenOf(photo), markedOf([boxShape(149, 58, 62, 123)]));
    expect(shadow.kind).toBe('shadow');
    const covered = pixelsOf(shadow, 400, 300);
    let [right, all] = [0, 0];
    covered.forEach((v, i) => {
      const [x, y] = [i % 400, Math.floor(i / 400)];
      if (!v || (x < 212 && y < 182)) return;
      all++;
      if (x > 149 && x < 301 && y > 176 && y < 206) right++;
    });
    expect(right / all).toBeGreaterThan(0.95);
    expect(right).toBeGreaterThan(0.9 * 149 * 25);
  });

  test('the dark side of another thing, on which the shadow falls, is none of it', () => {
    const beside = (r: number, g: number, b: number) => {
      const photo = grainy(400, 300, (x, y) => {
        if (x > 150 && x < 210 && y > 60 && y < 180) return [0.8, 0.3, 0.1];
        if (x > 260 && x < 310 && y > 130 && y < 210) return [r, g, b];
        if (x > 150 && x < 300 && y >= 178 && y < 205) return [0.25, 0.27, 0.22];
        return [0.5, 0.54, 0.45];
      });
      const [shadow] = belongingsOf(seenOf(photo), markedOf([boxShape(149, 58, 62, 123)]));
      expect(shadow.kind).toBe('shadow');
      const covered = pixelsOf(shadow, 400, 300);
      const share = (x0: number, x1: number, y0: number, y1: number) => {
        let count = 0;
        for (let y = y0; y < y1; y++) for (let x = x0; x < x1; x++) count += covered[y * 400 + x];
        return count / ((x1 - x0) * (y1 - y0));
      };
      expect(share(215, 255, 180, 203)).toBeGreaterThan(0.9);
      return share(265, 306, 140, 203);
    };
    expect(beside(0.3, 0.2, 0.1)).toBeLessThan(0.05);
    // What is as dull as a shadow cannot be told from one.
    expect(beside(0.25, 0.27, 0.22)).toBeGreaterThan(0.9);
  });

  test('two shadows that begin at its foot are both offered', () => {
    const photo = grainy(400, 300, (x, y) => {
      if (x > 170 && x < 230 && y > 60 && y < 180) return [0.8, 0.3, 0.1];
      const inShadow = (x > 170 && x < 330) || (x > 70 && x <= 170 && y < 190);
      if (inShadow && (x <= 170 || x >= 230) && y >= 170 && y < 200) return [0.25, 0.27, 0.22];
      return [0.5, 0.54, 0.45];
    });
    const offers = belongingsOf(seenOf(photo), markedOf([boxShape(169, 58, 62, 123)]));
    const shadows = offers.filter((o) => o.kind === 'shadow');
    expect(shadows).toHaveLength(2);
    // The likelier one first: it is longer at the foot, and larger.
    expect(shadows[0].x).toBeGreaterThan(shadows[1].x);
  });

  test('what is like the margin, and not like the thing, is no bit left out', () => {
    // A post before a dark patch that goes on to the right, all on light ground.
    const photo = grainy(400, 300, (x, y) => {
      if (x > 190 && x < 210 && y > 90 && y < 200) return [0.8, 0.3, 0.1];
      if (x > 170 && x < 252 && y > 80 && y < 150) return [0.3, 0.34, 0.36];
      return [0.7, 0.74, 0.65];
    });
    const marked = markedOf([boxShape(172, 82, 56, 120)]);
    const post = markedOf([boxShape(191, 91, 18, 108)]);
    const bits = (offers: readonly { kind: string }[]) => offers.filter((o) => o.kind === 'bit').length;
    expect(bits(belongingsOf(seenOf(photo), marked))).toBeGreaterThan(0);
    expect(bits(belongingsOf(seenOf(photo), marked, post))).toBe(0);
  });

  test('bright cloud below wires between trees is no reflection of theirs', () => {
    const photo = grainy(400, 240, (x, y) => {
      if (x < 60 || x > 340) return [0.2, 0.3, 0.12];
      const onWire = [50, 70, 90].some((at) => Math.abs(y - at) < 3);
      if (onWire) return [0.3, 0.3, 0.32];
      return y < 100 ? [0.6, 0.72, 0.9] : [0.9, 0.92, 0.95];
    });
    const wires = [50, 70, 90].map((at) => boxShape(62, at - 8, 276, 16));
    const offers = belongingsOf(seenOf(photo), markedOf(wires));
    expect(offers.map((o) => o.kind)).not.toContain('reflection');
  });
});
