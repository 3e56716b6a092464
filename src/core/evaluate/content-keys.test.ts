import { expect, test } from 'vitest';
import { noMasks } from '../area';
import type { TryPixels } from '../job';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf } from '../testing/jobs';
import { noisePhoto } from '../testing/pictures';
import { Evaluator } from '.';
import { evaluatorOf } from './testing';

test('a heal’s key follows its stop lines and its plane, a fill’s stays', () => {
  const photo = noisePhoto(120, 100, 6);
  const evaluator = evaluatorOf(photo, jobOf(photo, []));
  const line = {
    points: [
      [0, 0],
      [9, 9],
    ] as const,
    widthPx: 3,
  };
  for (const [method, same] of [
    ['heal', false],
    ['fill', true],
  ] as const) {
    const mend = mendOf(method, areaOfShapes([boxShape(0, 0, 20, 20)]), { dx: 50, dy: 0 });
    expect(evaluator.inputKey(mend) === evaluator.inputKey({ ...mend, stops: [line] })).toBe(same);
  }
});

test('a change far away leaves a tile’s key as it was; a change below alters it', () => {
  const photo = noisePhoto(1200, 300, 7);
  const near = mendOf('clone', areaOfShapes([boxShape(10, 10, 40, 40)]), { dx: 100, dy: 0 });
  const far = mendOf('clone', areaOfShapes([boxShape(900, 10, 40, 40)]), { dx: 100, dy: 0 });
  const evaluator = evaluatorOf(photo, jobOf(photo, [layerOf([near, far])]));
  const before = evaluator.pictureKey(0);
  evaluator.setJob(jobOf(photo, [layerOf([near, { ...far, source: { dx: 120, dy: 5 } }])]));
  expect(evaluator.pictureKey(0)).toBe(before);
  evaluator.setJob(jobOf(photo, [layerOf([{ ...near, source: { dx: 101, dy: 0 } }, far])]));
  expect(evaluator.pictureKey(0)).not.toBe(before);
});

test('a kept result stays when something below changes, and its input key tells that it is out of date', () => {
  const photo = noisePhoto(300, 300, 8);
  const data = new Uint8Array(40 * 40 * 4).fill(255);
  const kept: TryPixels = { tryId: 't', x: 100, y: 100, w: 40, h: 40, data, inputKey: '' };
  const evaluator = new Evaluator(photo, 'photo', {
    masks: noMasks,
    tries: (id) => (id === 't' ? kept : undefined),
  });
  const fill = mendOf('fill', areaOfShapes([boxShape(100, 100, 40, 40)]), null, {
    tries: [{ id: 't', seed: 1 }],
    chosenTry: 't',
  });
  evaluator.setJob(jobOf(photo, [layerOf([fill])]));
  const key = evaluator.inputKey(fill);
  const clone = mendOf('clone', areaOfShapes([boxShape(80, 100, 20, 20)]), { dx: 100, dy: 0 });
  evaluator.setJob(jobOf(photo, [layerOf([clone, fill])]));
  expect(evaluator.inputKey(fill)).not.toBe(key);
  expect(evaluator.picture({ x: 110, y: 110, w: 1, h: 1 }).data[0]).toBe(1);
  evaluator.setJob(jobOf(photo, [layerOf([fill])]));
  expect(evaluator.inputKey(fill)).toBe(key);
});

test('an input key tells masks by what they hold, not by their ids', () => {
  const photo = noisePhoto(100, 100, 9);
  const held = new Map([
    ['a', { w: 2, h: 2, data: Uint8Array.of(255, 0, 0, 255) }],
    ['b', { w: 2, h: 2, data: Uint8Array.of(255, 0, 0, 255) }],
    ['c', { w: 2, h: 2, data: Uint8Array.of(255, 0, 255, 255) }],
  ]);
  const evaluator = new Evaluator(photo, 'photo', { masks: (id) => held.get(id), tries: () => undefined });
  evaluator.setJob(jobOf(photo, [layerOf([])]));
  const key = (maskId: string) =>
    evaluator.inputKey(
      mendOf('fill', areaOfShapes([{ kind: 'mask', op: 'add', x: 9, y: 9, w: 2, h: 2, maskId }])),
    );
  expect(key('b')).toBe(key('a'));
  expect(key('c')).not.toBe(key('a'));
});
