import { expect, test } from 'vitest';
import type { StrokeShape } from '../../core/area';
import type { ColourPick, Scribbles, SpanPoint } from '../../core/marking';
import { boxShape } from '../../core/testing/jobs';
import { Finding } from './finding';
import { addShape } from './new-mend';
import { standIn } from './testing';

/** A session whose engine answers picks one at a time, each when the test lets it: a patch as wide as its tolerance. */
function picking() {
  const waiting: { level: number; answer: (ok?: boolean) => void }[] = [];
  const made = standIn({
    pickColour: ({ pick, level }: { pick: ColourPick; level: number }) =>
      new Promise((resolve, reject) => {
        const w = pick.tolerance;
        const mask = { w, h: 1, data: new Uint8Array(w).fill(255) };
        const answer = (ok = true) =>
          ok ? resolve({ mask, x: pick.x, y: pick.y, w, h: 1 }) : reject(new Error());
        waiting.push({ level, answer });
      }),
  });
  const finding = new Finding(made.session);
  const turn = () => new Promise((done) => setTimeout(done));
  /** Answers what has been asked so far, the oldest first. */
  const answer = async (...ok: boolean[]) => {
    for (const is of ok) {
      waiting.shift()!.answer(is);
      await turn();
    }
  };
  const shapes = () =>
    (made.session.state.mark?.shapes ?? []).map((s) =>
      s.kind === 'mask' ? { id: s.maskId, w: s.w, op: s.op } : s.kind,
    );
  return { ...made, finding, waiting, answer, shapes };
}

test('a pick that is let go before the last one was answered keeps both, each as it was found in the end', async () => {
  const { session, finding, waiting, answer, shapes } = picking();
  session.setNext({ pick: { tolerance: 10, everywhere: false } });
  finding.pullBegin({ x: 10, y: 10 }, 'add');
  await answer(true);
  const [rough] = shapes() as { id: string }[];
  expect(session.masks.has(rough.id)).toBe(true);
  finding.pullEnd();
  // The second one begins, moves and ends while the first is still looked for.
  finding.pullBegin({ x: 50, y: 10 }, 'add');
  finding.pullTo(40);
  finding.pullEnd();
  expect(waiting.map((w) => w.level)).toEqual([0]);
  await answer(true, true, true);
  expect(waiting).toHaveLength(0);
  const { tolerance } = session.state.next.pick;
  expect(tolerance).toBeGreaterThan(10);
  expect(shapes()).toEqual([
    { id: 'held-1', w: 10, op: 'add' },
    { id: 'held-2', w: tolerance, op: 'add' },
  ]);
  // Nothing that was only looked at is left behind.
  expect([...session.masks.keys()].filter((id) => !id.startsWith('held'))).toEqual([]);
});

test('a pick that fails, or is called off, leaves what was marked before', async () => {
  const { session, finding, answer, shapes, settled } = picking();
  session.setNext({ pick: { tolerance: 10, everywhere: false } });
  finding.pullBegin({ x: 10, y: 10 }, 'add');
  await answer(true);
  finding.pullEnd();
  await answer(true);
  const kept = shapes();
  finding.pullBegin({ x: 50, y: 10 }, 'subtract');
  await answer(true);
  expect(shapes()).toHaveLength(2);
  finding.pullEnd();
  await answer(false);
  await settled();
  expect(shapes()).toEqual(kept);
  finding.pullBegin({ x: 50, y: 10 }, 'add');
  await answer(true);
  finding.pullCancel();
  expect(shapes()).toEqual(kept);
  expect([...session.masks.keys()].filter((id) => !id.startsWith('held'))).toEqual([]);
});

/** A session whose engine grows scribbles and finds lines, each when the test lets it: a patch as wide as there are scribbles, a
 *  line with as many points as clicks. */
function growing() {
  const waiting: (() => void)[] = [];
  const later = <T>(answer: T) => new Promise<T>((resolve) => waiting.push(() => resolve(answer)));
  const made = standIn({
    growScribbles: ({ scribbles: { inside, outside } }: { scribbles: Scribbles }) => {
      const w = inside.length + 100 * outside.length;
      return later({ mask: { w, h: 1, data: new Uint8Array(w).fill(255) }, x: 0, y: 0, w, h: 1 });
    },
    findSpan: ({ clicks }: { clicks: readonly SpanPoint[] }) =>
      later([scribbled(...clicks.map(([x, y]) => [x, y] as const))]),
  });
  const finding = new Finding(made.session);
  const answer = async () => {
    waiting.shift()!();
    await new Promise((done) => setTimeout(done));
  };
  const answerAll = async () => {
    while (waiting.length > 0) await answer();
  };
  const shapes = () =>
    (made.session.state.mark?.shapes ?? []).map((s) =>
      s.kind === 'mask' ? s.w : s.kind === 'stroke' ? `line of ${s.points.length}` : s.kind,
    );
  const brushOver = () =>
    made.session.set({
      mark: addShape(made.session.state.mark, boxShape(5, 5, 9, 9), made.session.state.next),
    });
  return { ...made, finding, waiting, answer, answerAll, shapes, brushOver };
}

const scribbled = (...points: (readonly [number, number])[]): StrokeShape => ({
  kind: 'stroke',
  op: 'add',
  radiusPx: 4,
  hardness: 1,
  points: points.map(([x, y]) => [x, y, 1] as const),
});
const one = scribbled([10, 10], [20, 10]);

test('scribbles that follow each other before the first is answered all belong to the thing', async () => {
  const { finding, waiting, answer, answerAll, shapes } = growing();
  finding.scribble(one, false);
  finding.scribble(one, false);
  finding.scribble({ ...one, op: 'subtract' }, false);
  expect(waiting).toHaveLength(1);
  await answer();
  // What was asked before there was more says nothing.
  expect(shapes()).toEqual([]);
  await answerAll();
  expect(shapes()).toEqual([102]);
});

test('an answer leaves alone what is just being drawn', async () => {
  const { session, finding, answerAll, shapes } = growing();
  finding.scribble(one, false);
  session.set({ drawing: one });
  await answerAll();
  expect(shapes()).toEqual([1]);
  expect(session.state.drawing).toBe(one);
});

test('another thing begun before the first is answered: both are marked', async () => {
  const { finding, answerAll, shapes } = growing();
  finding.scribble(one, false);
  finding.scribble(one, false);
  finding.scribble(one, true);
  await answerAll();
  expect(shapes()).toEqual([2, 1]);
});

test('what is marked by hand while a thing grows stays; its margin may be set between two scribbles', async () => {
  const { session, finding, answerAll, shapes, brushOver } = growing();
  finding.scribble(one, false);
  brushOver();
  await answerAll();
  expect(shapes()).toEqual(['box', 1]);
  session.set({ mark: { ...session.state.mark!, marginPx: 33, smoothPx: 3 } });
  finding.scribble(one, false);
  await answerAll();
  expect(shapes()).toEqual(['box', 2]);
  expect(session.state.mark).toMatchObject({ marginPx: 33, smoothPx: 3 });
  // Once more was marked behind it, the next scribble is for another thing.
  brushOver();
  finding.scribble(one, false);
  await answerAll();
  expect(shapes()).toEqual(['box', 2, 'box', 1]);
});

test('a thing grown after a line was found leaves that marked; a mark that was taken back is not given', async () => {
  const { finding, session, answerAll, shapes } = growing();
  finding.click({ x: 1, y: 1 }, 'add');
  finding.click({ x: 9, y: 1 }, 'add');
  // The third click comes before the line through two was found.
  finding.click({ x: 19, y: 1 }, 'add');
  await answerAll();
  expect(shapes()).toEqual(['line of 3']);
  finding.scribble(one, false);
  await answerAll();
  expect(shapes()).toEqual(['line of 3', 1]);
  finding.scribble(one, true);
  finding.clear();
  session.set({ mark: null });
  await answerAll();
  expect(shapes()).toEqual([]);
});
