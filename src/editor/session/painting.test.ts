import { describe, expect, test } from 'vitest';
import type { StrokePoint } from '../tools/gesture';
import { emptySource } from './brush-source';
import { Painting } from './painting';
import { type Answers, standIn } from './testing';

/** A brush that takes from a place that is set, and an engine that answers after a while. */
function painter(answers: Answers = {}) {
  const slow = () => new Promise((done) => setTimeout(() => done([]), 5));
  const stand = standIn(
    { extendStroke: slow, ...answers },
    { method: 'clone', sources: [{ ...emptySource, at: { x: 50, y: 40 } }], slot: 0 },
  );
  const painting = new Painting(stand.session);
  const stroke = (...points: StrokePoint[]) => {
    painting.begin(points[0], false, false);
    for (const point of points.slice(1)) painting.extend([point], 0);
    return painting.end();
  };
  const paths = () =>
    stand.mends().map((m) => {
      const [shape] = m.area.shapes;
      return shape.kind === 'stroke' ? shape.points.map(([x, y]) => `${x},${y}`).join(' ') : shape.kind;
    });
  return { ...stand, painting, stroke, paths };
}

describe('strokes of a quick hand', () => {
  test('each becomes a mend with its own path, though the one before is still being shown', async () => {
    const { stroke, paths, painting } = painter();
    await Promise.all([
      stroke([10, 10, 1], [14, 10, 1]),
      stroke([30, 10, 1], [34, 12, 1], [38, 12, 1]),
      stroke([50, 30, 1]),
    ]);
    expect(paths()).toEqual(['10,10 14,10', '30,10 34,12 38,12', '50,30']);
    expect(painting.isLive).toBe(false);
  });

  test('one that is called off leaves those before and after it', async () => {
    const { stroke, paths, painting } = painter();
    const first = stroke([10, 10, 1], [14, 10, 1]);
    painting.begin([30, 10, 1], false, false);
    const off = painting.cancel();
    await Promise.all([first, off, stroke([50, 30, 1])]);
    expect(paths()).toEqual(['10,10 14,10', '50,30']);
  });

  test('one that the engine cannot show becomes a mend all the same', async () => {
    let calls = 0;
    const { stroke, paths } = painter({
      extendStroke: async () => {
        if (++calls < 3) throw new Error('gone');
        return [];
      },
    });
    await Promise.all([stroke([10, 10, 1], [14, 10, 1]), stroke([50, 30, 1])]);
    expect(paths()).toEqual(['10,10 14,10', '50,30']);
  });
});

describe('once the hand rests', () => {
  const rested = () => new Promise((done) => setTimeout(done, 60));

  test('stop lines are offered for the last heal that was painted, and for no other stroke', async () => {
    const { stroke, session, done, mends } = painter();
    await stroke([10, 10, 1], [14, 10, 1]);
    await rested();
    expect(done.filter((what) => what.startsWith('offer'))).toEqual([]);
    session.set({ method: 'heal' });
    await stroke([30, 10, 1], [34, 12, 1]);
    await stroke([50, 30, 1]);
    await rested();
    expect(done.filter((what) => what.startsWith('offer'))).toEqual([`offer stops for ${mends()[2].name}`]);
  });

  test('none is looked for along a stroke that is so large that the next one would wait', async () => {
    const { stroke, session, done } = painter();
    session.set({ method: 'heal' });
    await stroke([10, 10, 1], [2000, 1500, 1]);
    await rested();
    expect(done.filter((what) => what.startsWith('offer'))).toEqual([]);
  });

  test('none is offered where another mend was chosen meanwhile', async () => {
    const { stroke, session, done } = painter({ likelyStops: () => session.set({ chosen: 'another' }) });
    session.set({ method: 'heal' });
    await stroke([30, 10, 1], [34, 12, 1]);
    await rested();
    expect(done.filter((what) => what.startsWith('offer'))).toEqual([]);
  });
});
