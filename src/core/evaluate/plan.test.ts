import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { noMasks } from '../area';
import { type Mend, noZones, type TryPixels } from '../job';
import { boundsOf, makeRaster, tilesIn } from '../raster';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf } from '../testing/jobs';
import { ContentKeys } from './content-keys';
import { Plan, rectOfTile } from './plan';
import { planSteps } from './steps';

const photo = makeRaster(900, 600, 4, 8);
const bounds = boundsOf(photo);
const tiles = tilesIn(bounds, bounds);
const keys = new ContentKeys({ masks: noMasks, tries: () => undefined });

const planOf = (mends: readonly Mend[], previewed: ReadonlySet<string> = new Set()) =>
  new Plan(bounds, 'photo', keys, {
    steps: planSteps(jobOf(photo, [layerOf(mends)]), bounds),
    zones: noZones,
    previewed,
  });

const noCoverage = { coverage: (_: unknown, into: Float32Array) => into.fill(0) };

const cloned = (x: number, y: number, w: number, h: number) =>
  mendOf('clone', areaOfShapes([boxShape(x, y, w, h)]), { dx: 20, dy: 10 });

const finished = (plan: Plan) => tiles.map((tile) => plan.keyAt(tile, plan.steps.length));

const boxes = fc
  .tuple(
    fc.integer({ min: 0, max: 700 }),
    fc.integer({ min: 0, max: 400 }),
    fc.integer({ min: 1, max: 200 }),
    fc.integer({ min: 1, max: 200 }),
  )
  .map(([x, y, w, h]) => cloned(x, y, w, h));

describe('a job’s plan', () => {
  test('a tile goes through the steps that touch it, from the bottom up, and through no others', () => {
    fc.assert(
      fc.property(fc.array(boxes, { maxLength: 6 }), (mends) => {
        const plan = planOf(mends);
        for (const tile of tiles) {
          const touching = plan.steps.flatMap(({ affected }, i) =>
            tilesIn(affected, bounds).includes(tile) ? [i] : [],
          );
          expect(plan.stepsOf(tile)).toEqual(touching);
          for (let at = 0; at <= plan.steps.length; at++)
            expect(plan.depthAt(tile, at)).toBe(touching.filter((i) => i < at).length);
        }
      }),
    );
  });

  test('same job, same keys; another mend changes the keys of the tiles it touches or is read from', () => {
    fc.assert(
      fc.property(fc.array(boxes, { minLength: 1, maxLength: 4 }), boxes, (mends, more) => {
        expect(finished(planOf(mends))).toEqual(finished(planOf(mends)));
        const before = finished(planOf(mends));
        const plan = planOf([...mends, more]);
        const touched = new Set(tilesIn(plan.stepOf(more.id)!.affected, bounds));
        finished(plan).forEach((key, k) => {
          if (touched.has(tiles[k])) expect(key).not.toBe(before[k]);
          else expect(key).toBe(before[k]);
        });
      }),
    );
  });

  test('a mend replaced gives the plan that its job would have, wherever it grows to', () => {
    fc.assert(
      fc.property(fc.array(boxes, { minLength: 1, maxLength: 4 }), boxes, fc.nat(), (mends, other, pick) => {
        const at = pick % mends.length;
        const grown = {
          ...mends[at],
          area: areaOfShapes([...mends[at].area.shapes, ...other.area.shapes]),
        };
        const plan = planOf(mends);
        finished(plan);
        const step = plan.replace(grown)!;
        const anew = planOf(mends.with(at, grown));
        expect(step.affected).toEqual(anew.stepOf(grown.id)!.affected);
        expect(finished(plan)).toEqual(finished(anew));
        expect(plan.inputKey(grown)).toBe(anew.inputKey(grown));
      }),
    );
  });

  test('a plan that takes over what the one before knew has the keys that it would have alone', () => {
    const versions = fc.array(
      fc.record({
        picks: fc.constantFrom([0, 1, 2], [0, 1, 2, 3], [0, 1, 4], [5, 1, 2], []),
        layers: fc.tuple(fc.constantFrom(1, 0.5, 0.7), fc.constantFrom(1, 0.4)),
        split: fc.constantFrom(0, 1, 2),
        dragged: fc.nat({ max: 9 }),
        isDrafted: fc.boolean(),
      }),
      { minLength: 2, maxLength: 5 },
    );
    fc.assert(
      fc.property(fc.array(boxes, { minLength: 6, maxLength: 6 }), versions, (read, jobs) => {
        const mends = read.map((mend, k) => (k === 1 ? { ...mend, reads: 'layer' as const } : mend));
        const layers = [layerOf([]), layerOf([])];
        let before: Plan | null = null;
        for (const { picks, layers: opacities, split, dragged, isDrafted } of jobs) {
          const held = picks.map((k) => mends[k]);
          const halves = [held.slice(0, split), held.slice(split)];
          const job = jobOf(
            photo,
            layers.map((layer, k) => ({ ...layer, opacity: opacities[k], mends: halves[k] })),
          );
          const top = held.at(-1);
          const planned = {
            steps: planSteps(job, bounds),
            zones: noZones,
            previewed: new Set(held.filter((_, k) => k === dragged).map(({ id }) => id)),
            draft: isDrafted && top ? { ...noCoverage, mendId: top.id, revision: split } : null,
          };
          const plan: Plan = new Plan(bounds, 'photo', keys, { ...planned, before });
          const alone = new Plan(bounds, 'photo', keys, planned);
          for (const tile of tiles) expect(plan.stepsOf(tile)).toEqual(alone.stepsOf(tile));
          expect(finished(plan)).toEqual(finished(alone));
          for (const mend of held) expect(plan.inputKey(mend)).toBe(alone.inputKey(mend));
          before = plan;
        }
      }),
      { numRuns: 200 },
    );
  });

  test('nothing is taken over of a fill whose pixels came meanwhile, nor of what lies above it', () => {
    const held = new Map<string, TryPixels>();
    const lookedUp = new ContentKeys({ masks: noMasks, tries: (id) => held.get(id) });
    const fill = {
      ...mendOf('fill', areaOfShapes([boxShape(300, 200, 80, 80)]), null),
      tries: [{ id: 't', seed: 1 }],
      chosenTry: 't',
    };
    const steps = planSteps(
      jobOf(photo, [layerOf([cloned(10, 10, 50, 50), fill, cloned(320, 220, 40, 40)])]),
      bounds,
    );
    const planAfter = (before: Plan | null) =>
      new Plan(bounds, 'photo', lookedUp, { steps, zones: noZones, before });
    const first = planAfter(null);
    const missing = finished(first);
    const data = new Uint8Array(4 * 80 * 80).fill(9);
    held.set('t', { tryId: 't', x: 300, y: 200, w: 80, h: 80, data, inputKey: '' });
    const second = planAfter(first);
    expect(finished(second)).toEqual(finished(planAfter(null)));
    expect(finished(second)).not.toEqual(missing);
    expect(second.keyAt(tiles[0], 3)).toBe(first.keyAt(tiles[0], 3));
  });

  test('what is still to go is part of what a mend is computed from; a job without it has the keys it had', () => {
    const mend = cloned(10, 10, 50, 50);
    const later = { ...mend, pending: areaOfShapes([boxShape(80, 10, 20, 20)]) };
    const other = { ...mend, pending: areaOfShapes([boxShape(80, 10, 20, 21)]) };
    const keys = [mend, later, other].map((m) => planOf([m]).inputKey(m));
    expect(new Set(keys).size).toBe(3);
    expect(planOf([{ ...mend, pending: null }]).inputKey(mend)).toBe(keys[0]);
  });

  test('a mend that the job does not hold comes on top, and is not replaced', () => {
    const plan = planOf([cloned(10, 10, 50, 50)]);
    const stranger = cloned(300, 300, 40, 40);
    expect(plan.positionOf(stranger.id)).toBe(1);
    expect(plan.stepOf(stranger.id)).toBeNull();
    expect(plan.replace(stranger)).toBeNull();
  });

  test('what is dragged has other keys than what lies still', () => {
    const mend = cloned(10, 10, 50, 50);
    const [still, dragged] = [planOf([mend]), planOf([mend], new Set([mend.id]))];
    expect([still.isMoving, dragged.isMoving]).toEqual([false, true]);
    expect(dragged.inputKey(mend)).not.toBe(still.inputKey(mend));
  });

  test('rectangles of tiles cover the photo once', () => {
    const covered = tiles.reduce((sum, tile) => {
      const { w, h } = rectOfTile(tile, bounds);
      return sum + w * h;
    }, 0);
    expect(covered).toBe(bounds.w * bounds.h);
  });
});
