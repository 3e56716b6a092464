import { describe, expect, test } from 'vitest';
import { addMend } from '../../core/job';
import { areaOfShapes, boxShape, mendOf } from '../../core/testing/jobs';
import { Advice } from './advice';
import { Finding } from './finding';
import { Marking } from './marking';
import { Mending } from './mending';
import { addShape } from './new-mend';
import { type Answers, standIn } from './testing';

const boxes = [10, 30, 50].map((x) => boxShape(x, 20, 12, 12));

/** Until the next of the hand's events. */
const nextEvent = () => new Promise((done) => setTimeout(done, 1));

/** Marks more and asks for a fill of it, as a stroke with fill ready does, while earlier fills still look round. */
function hasty(answers: Answers = {}) {
  const stand = standIn({
    leavingOut: (mend: never) => new Promise((done) => setTimeout(() => done(mend), 5)),
    ...answers,
  });
  const { session } = stand;
  const finding = new Finding(session);
  Object.assign(session, { finding, marking: new Marking(session) });
  const mending = new Mending(session);
  const mark = (i: number) => {
    const area = addShape(session.state.mark, boxes[i], session.state.next);
    session.set({ mark: area });
    return area;
  };
  return { ...stand, mending, finding, mark, areas: () => stand.mends().map((m) => m.area.shapes) };
}

describe('mends of what a quick hand marks', () => {
  test('each mark becomes a mend of its own, though the one before is still being made', async () => {
    const { session, mending, mark, areas } = hasty();
    const made: Promise<void>[] = [];
    for (const i of boxes.keys()) {
      made.push(mending.make('fill', mark(i)));
      await nextEvent();
    }
    await Promise.all(made);
    expect(areas()).toEqual(boxes.map((box) => [box]));
    expect(session.state.mark).toBeNull();
  });

  test('what is marked meanwhile and not to be mended yet stays marked', async () => {
    const { session, mending, mark, areas } = hasty();
    const made = mending.make('fill', mark(0));
    await nextEvent();
    mark(1);
    await made;
    expect(areas()).toEqual([[boxes[0]]]);
    expect(session.state.mark?.shapes).toEqual([boxes[1]]);
  });

  test('asked for twice in a moment, it is made once', async () => {
    const { mending, mark, areas } = hasty();
    const area = mark(0);
    await Promise.all([mending.make('fill', area), mending.make('fill', area)]);
    expect(areas()).toEqual([[boxes[0]]]);
  });

  test('one that is taken back on the way is not made; one without a source says so and keeps its mark', async () => {
    const { session, mending, mark, areas, said } = hasty({ findSources: () => [] });
    const made = mending.make('fill', mark(0));
    await nextEvent();
    session.set({ mark: null });
    await made;
    await mending.make('heal', mark(1));
    expect(areas()).toEqual([]);
    expect(said).toHaveLength(1);
    expect(session.state.mark?.shapes).toEqual([boxes[1]]);
  });

  test('one that fails does not hold up the next', async () => {
    let calls = 0;
    const { mending, mark, areas } = hasty({
      leavingOut: (mend) => {
        if (++calls === 1) throw new Error('no answer');
        return mend;
      },
    });
    const first = mending.make('fill', areaOfShapes([boxes[0]]));
    const second = mending.make('fill', mark(1));
    await expect(first).rejects.toThrow('no answer');
    await second;
    expect(areas()).toEqual([[boxes[1]]]);
  });
});

test('what is being found for the next mark stays, though the mend of the one before comes in between', async () => {
  const found = { x: 60, y: 60, w: 3, h: 3, mask: { w: 3, h: 3, data: new Uint8Array(9).fill(255) } };
  const { session, mending, finding, mark, areas } = hasty({
    growScribbles: () => new Promise((done) => setTimeout(() => done(found), 20)),
  });
  const made = mending.make('fill', mark(0));
  await nextEvent();
  finding.scribble({ kind: 'stroke', op: 'add', points: [[61, 61, 1]], radiusPx: 2, hardness: 1 }, false);
  await made;
  expect(areas()).toEqual([[boxes[0]]]);
  expect(session.state.mark).toBeNull();
  await finding.settled();
  expect(session.state.mark?.shapes).toMatchObject([{ kind: 'mask', x: 60 }]);
  // And the scribble after it still belongs to the same thing.
  expect(session.state.scribbles.inside).toHaveLength(1);
});

test('another source, asked for twice in a moment, walks on by two', async () => {
  const ranked = [10, 20, 30].map((dx) => ({ dx, dy: 0 }));
  const { session } = standIn({
    findSources: () => new Promise((done) => setTimeout(() => done(ranked), 5)),
  });
  const mend = mendOf('clone', areaOfShapes([boxes[0]]), { dx: 10, dy: 0, turnDeg: 30 });
  session.run(addMend(session.state.activeLayer!, mend));
  const mending = new Mending(session);
  await Promise.all([mending.anotherTry(mend.id), mending.anotherTry(mend.id)]);
  expect(session.mendOf(mend.id)!.source).toEqual({ dx: 30, dy: 0, turnDeg: 30 });
});

describe('what the outlook laid down for a mark', () => {
  const plane = [
    [0, 0],
    [90, 10],
    [90, 60],
    [0, 70],
  ] as const;
  const rail = { angleDeg: 0, slackPx: 12 };
  const none = { plane: null, rail: null };
  /** A mark of which the outlook's suggestion was followed. */
  function advised(what: 'plane' | 'rail') {
    const stand = hasty();
    stand.session.setNext({ plane, rail });
    stand.mark(0);
    new Advice(stand.session).follow({ what, why: '' });
    return stand;
  }
  const steers = ({ mends }: ReturnType<typeof hasty>) => mends().map(({ steer }) => steer);

  test('is kept to by a fill of it, though more is marked, and by no later one', async () => {
    const stand = advised('rail');
    await stand.mending.make('fill', stand.mark(1));
    await stand.mending.make('fill', stand.mark(2));
    expect(steers(stand)).toMatchObject([{ plane: null, rail }, none]);
  });

  test('stays when the mark is set aside, and goes when it is cleared', async () => {
    const aside = advised('plane');
    const { session } = aside;
    session.set({ mark: null, markAside: session.state.mark, laying: { what: 'avoid', mendId: null } });
    session.set({ laying: null });
    await aside.mending.make('fill', session.state.mark!);
    expect(steers(aside)).toMatchObject([{ plane, rail: null }]);
    const cleared = advised('plane');
    cleared.session.set({ mark: null });
    await cleared.mending.make('fill', cleared.mark(1));
    expect(steers(cleared)).toMatchObject([none]);
  });
});
