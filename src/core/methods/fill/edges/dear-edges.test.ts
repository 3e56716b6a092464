import { describe, expect, test } from 'vitest';
import type { Rule } from '../frame';
import { makeFrame } from '../levels';
import { boxHole, noisy } from '../testing';
import { onlySeen, savesEnough, tooDear, withoutRules } from './dear-edges';

const [w, h] = [40, 30];
const along: Rule = { nx: 0, ny: 1, slack: 1.5, period: null };
const seen: Rule = { ...along, isOnlySeen: true };

/** A rule on each band of ten rows. */
function frameOf(list: readonly Rule[], across: Float32Array | null = null) {
  const index = Uint8Array.from({ length: w * h }, (_, p) => 1 + Math.floor(p / w / 10));
  const hole = boxHole(w, h, 10, 0, 20, 30);
  const roles = hole.map((v) => (v ? 3 : 2));
  return makeFrame(noisy(w, h, 1), roles, 2, { index, list, across });
}

/** Costs of ten rows each; what is sought lies in twenty columns. */
const costs = (...ofBands: number[]) =>
  Float32Array.from({ length: w * h }, (_, p) =>
    p % w >= 10 && p % w < 30 ? ofBands[Math.floor(p / w / 10)] : Number.NaN,
  );

describe('edges that are only seen', () => {
  test('are in doubt, drawn ones are not; nor is any where ruled ground counts as well', () => {
    expect(onlySeen(frameOf([seen, along, seen]))).toEqual(new Set([1, 3]));
    expect(onlySeen(frameOf([seen, along, seen], new Float32Array(w * h)))).toEqual(new Set());
    expect(onlySeen({ ...frameOf([]), rules: null })).toEqual(new Set());
  });

  test('are too dear where they cost many times what is free does, and clearly more', () => {
    const frame = frameOf([seen, seen, seen]);
    const { rules, promised } = tooDear(frame, new Set([1, 2, 3]), costs(1000, 600, 30), costs(100, 300, 2));
    expect(rules).toEqual(new Set([1]));
    // A third of all that is sought saves 900.
    expect(promised).toBeCloseTo(300);
  });

  test('are not dropped when they are not in question', () => {
    const { rules, promised } = tooDear(
      frameOf([along, seen, seen]),
      new Set([2, 3]),
      costs(1000, 1, 1),
      costs(1, 1, 1),
    );
    expect(rules.size).toBe(0);
    expect(promised).toBe(0);
  });

  test('are let go only if that saves half of what it promised', () => {
    const before = costs(1000, 600, 500);
    expect(savesEnough(before, costs(400, 600, 500), 300)).toBe(true);
    expect(savesEnough(before, costs(900, 600, 500), 300)).toBe(false);
    // Nor where others pay for it.
    expect(savesEnough(before, costs(100, 900, 900), 300)).toBe(false);
  });

  test('ask nothing once they are dropped, and others ask what they did', () => {
    const { rules } = withoutRules(frameOf([seen, seen, seen]), new Set([2]));
    expect([5, 15, 25].map((y) => rules!.index[y * w + 20])).toEqual([1, 0, 3]);
    expect(rules!.list).toHaveLength(3);
  });
});
