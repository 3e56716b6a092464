import { describe, expect, test } from 'vitest';
import { addMend, changeMend, transact } from '../../core/job';
import { areaAt, standIn } from './testing';

describe('what was said of a fill', () => {
  const open = () => {
    const { session } = standIn({});
    const mend = { ...session.mending.mendFor('fill', areaAt(10), session.state.next), chosenTry: 'first' };
    const made = transact(session.state.job!, addMend(session.state.activeLayer!, mend))!.job;
    const filledAgain = transact(made, changeMend(mend.id, 'fill', { chosenTry: 'second' }))!.job;
    const renamed = transact(made, changeMend(mend.id, 'rename', { name: 'wall' }))!.job;
    const { job: empty } = session.state;
    session.set({ job: made });
    session.set({ notice: { id: 1, text: 'It lies on a plane.', tone: 'plain', tryId: 'first' } });
    return { session, empty, filledAgain, renamed };
  };

  test('stays while that is what shows', () => {
    const { session, renamed } = open();
    session.set({ job: renamed, zoom: 2 });
    expect(session.state.notice).not.toBeNull();
  });

  test.each(['filledAgain', 'empty'] as const)('is gone with it (%s), and nothing else is', (to) => {
    const opened = open();
    const { session } = opened;
    session.set({ job: opened[to] });
    expect(session.state.notice).toBeNull();
    session.set({ notice: { id: 2, text: 'Something else.', tone: 'plain' } });
    session.set({ job: opened.renamed });
    expect(session.state.notice).toMatchObject({ id: 2 });
  });
});
