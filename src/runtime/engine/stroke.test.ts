import { describe, expect, it } from 'vitest';
import { boundsOfArea } from '../../core/area';
import { areaOfShapes, mendOf } from '../../core/testing/jobs';
import { Stroke } from './stroke';

const bounds = { x: 0, y: 0, w: 400, h: 300 };
const at = [200, 150] as const;
const dab = { kind: 'stroke', op: 'add', radiusPx: 60, hardness: 0.5, points: [[...at, 1]] } as const;
const begun = () => new Stroke(mendOf('clone', areaOfShapes([dab])), bounds);
const coverageOf = (stroke: Stroke) => [
  ...stroke.coverage(bounds, new Float32Array(bounds.w * bounds.h).fill(9)),
];

describe('a stroke under way', () => {
  it('is not covered a second time where its first point comes again', () => {
    const stroke = begun();
    const before = coverageOf(stroke);
    const { revision } = stroke;
    const rose = stroke.extend([[...at, 1]]);
    expect(stroke.revision).toBe(revision);
    expect(coverageOf(stroke)).toEqual(before);
    // What nobody was told of yet is told all the same.
    const covered = boundsOfArea(stroke.mend.area);
    expect(rose.reduce((sum, { w, h }) => sum + w * h, 0)).toBeGreaterThan(0.7 * covered.w * covered.h);
    expect(stroke.extend([[...at, 1]])).toEqual([]);
  });

  it('grows where the same place is pressed harder', () => {
    const soft = new Stroke(mendOf('clone', areaOfShapes([{ ...dab, points: [[...at, 0.5]] }])), bounds);
    soft.extend([[...at, 0.5]]);
    const sum = (list: number[]) => list.reduce((a, b) => a + b, 0);
    const before = sum(coverageOf(soft));
    soft.extend([[...at, 1]]);
    expect(sum(coverageOf(soft))).toBeGreaterThan(2 * before);
    expect(coverageOf(soft)).toEqual(coverageOf(begun()));
  });
});
