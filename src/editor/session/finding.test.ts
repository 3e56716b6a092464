import { expect, test } from 'vitest';
import type { ColourPick } from '../../core/marking';
import { Finding } from './finding';
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
