import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { Command, Source } from '../../core/job';
import { addMend, transact } from '../../core/job';
import { areaOfShapes, boxShape, mendOf } from '../../core/testing/jobs';
import { Mending } from './mending';
import { Nudging } from './nudging';
import { standIn } from './testing';

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

/** One mend, chosen; what is shown and what is done are told apart. */
function nudged(method: 'fill' | 'clone', source: Source | null) {
  const stand = standIn({});
  const { session, done } = stand;
  const mend = mendOf(method, areaOfShapes([boxShape(20, 20, 10, 10)]), source, {
    tries: method === 'fill' ? [{ id: 't1', seed: 1 }] : [],
    chosenTry: method === 'fill' ? 't1' : null,
  });
  session.run(addMend(session.state.activeLayer!, mend));
  session.set({ chosen: mend.id });
  done.length = 0;
  const shown: Command[] = [];
  Object.assign(session, { show: (command: Command) => shown.push(command), mending: new Mending(session) });
  const nudging = new Nudging(session);
  const lastShown = () => transact(session.state.job!, shown.at(-1)!)!.job.layers[0].mends[0];
  return { ...stand, nudging, shown, lastShown, mend: () => session.mendOf(mend.id)! };
}

const left = (mend: { area: { shapes: readonly { kind: string }[] } }) =>
  (mend.area.shapes[0] as unknown as { x: number }).x;

describe('keys that move a mend', () => {
  test('a burst is shown key by key, and is one step and one further try', async () => {
    const { nudging, done, lastShown, mend, shown } = nudged('fill', null);
    for (let i = 0; i < 12; i++) {
      nudging.by('mend', 1, 0);
      await vi.advanceTimersByTimeAsync(100);
      expect(left(lastShown())).toBe(21 + i);
    }
    expect(shown).toHaveLength(12);
    expect(done).toEqual([]);
    expect(nudging.isOpen).toBe(true);
    await vi.advanceTimersByTimeAsync(500);
    expect(left(mend())).toBe(32);
    expect(mend().tries.map((t) => t.seed)).toEqual([1, 2]);
    expect(done).toEqual(['nudge mend', `fill ${mend().name}`]);
    expect(nudging.isOpen).toBe(false);
  });

  test('what rests between two keys parts them', async () => {
    const { nudging, done } = nudged('clone', { dx: 5, dy: 5 });
    nudging.by('mend', 0, 1);
    await vi.advanceTimersByTimeAsync(1000);
    nudging.by('mend', 0, 1);
    await vi.advanceTimersByTimeAsync(1000);
    expect(done).toEqual(['nudge mend', 'nudge mend']);
  });

  test('mend and source are moved each by steps of its own; settled, the last is done at once and once', async () => {
    const { nudging, done, mend } = nudged('clone', { dx: 5, dy: 5 });
    nudging.by('mend', 3, 0);
    nudging.by('source', 0, 10);
    expect(done).toEqual(['nudge mend']);
    nudging.settle();
    await vi.advanceTimersByTimeAsync(1000);
    expect(done).toEqual(['nudge mend', 'nudge source']);
    expect(mend()).toMatchObject({ source: { dx: 5, dy: 15 } });
    expect(left(mend())).toBe(23);
  });

  test('a source that there is not, or nothing chosen, is not moved; the first is said', () => {
    const { nudging, session, shown, said } = nudged('fill', null);
    nudging.by('source', 1, 0);
    expect(said.at(-1)).toContain('no source');
    session.set({ chosen: null });
    nudging.by('mend', 1, 0);
    expect(shown).toEqual([]);
    expect(nudging.isOpen).toBe(false);
  });
});
