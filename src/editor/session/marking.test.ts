import { describe, expect, test } from 'vitest';
import { addMend, changeMend, type Job, type Mend } from '../../core/job';
import { boxShape } from '../../core/testing/jobs';
import { Finding } from './finding';
import { Marking } from './marking';
import { Mending } from './mending';
import { comesBack } from './state';
import { Steering } from './steering';
import { areaAt, standIn } from './testing';

describe('what was marked for a mend that is taken back', () => {
  const open = () => {
    const { session } = standIn({});
    Object.assign(session, { finding: new Finding(session), marking: new Marking(session) });
    Object.assign(session, { mending: new Mending(session) });
    const empty = session.state.job!;
    const make = async (x: number, rail = false) => {
      const area = areaAt(x);
      session.set({ mark: area, fillKeepsTo: { plane: false, rail } });
      await session.mending.make('fill', area);
      return session.state.job!;
    };
    const travel = (from: Job, to: Job, isBack = true) => {
      session.set({ job: to });
      session.marking.travelled(from, to, isBack);
    };
    return { session, empty, make, travel };
  };

  test('is marked again, mend by mend, until the mend comes back', async () => {
    const { session, empty, make, travel } = open();
    const one = await make(10);
    const two = await make(40, true);
    expect(session.state.mark).toBeNull();
    travel(two, one);
    expect(session.state.mark).toEqual(areaAt(40));
    expect(session.state.fillKeepsTo.rail).toBe(true);
    travel(one, empty);
    expect(session.state.mark).toEqual(areaAt(10));
    expect(session.state.fillKeepsTo.rail).toBe(false);
    travel(empty, one, false);
    expect(session.state.mark).toBeNull();
    travel(one, two, false);
    expect(session.state.mark).toBeNull();
    // Deleted, which was undone, and done again.
    travel(two, one, false);
    expect(session.state.mark).toBeNull();
  });

  test('is not in the way of what was marked since, nor of a method that mends each mark at once', async () => {
    const { session, empty, make, travel } = open();
    const one = await make(10);
    session.set({ mark: areaAt(70) });
    travel(one, empty);
    expect(session.state.mark).toEqual(areaAt(70));
    travel(empty, one, false);
    session.set({ mark: null, method: 'fill' });
    travel(one, empty);
    expect(session.state.mark).toBeNull();
  });
});

describe('what is marked when something else begins to be drawn', () => {
  const open = () => {
    const stand = standIn({}, { mark: areaAt(10) });
    const { session } = stand;
    Object.assign(session, { finding: new Finding(session), marking: new Marking(session) });
    Object.assign(session.mending, {
      change: (id: string, label: string, changes: Partial<Mend>) =>
        session.run(changeMend(id, label, changes)),
    });
    const [first, second] = [30, 60].map((x) => {
      const mend = session.mending.mendFor('clone', areaAt(x), session.state.next);
      session.run(addMend(session.state.activeLayer!, mend));
      return mend.id;
    });
    return { ...stand, first, second, steering: new Steering(session) };
  };
  const more = boxShape(70, 50, 5, 5);

  test.each(['keepShape', 'clear'] as const)('comes back after a mend’s area was changed (%s)', (end) => {
    const { session, first, mends } = open();
    const { mark } = session.state;
    session.marking.reshape(first);
    expect(session.state.mark).toBe(mends()[0].area);
    session.set({ notice: { id: 1, text: comesBack, tone: 'plain' } });
    session.marking.add(more, true);
    expect(session.state.notice).not.toBeNull();
    session.marking[end]();
    expect(session.state.notice).toBeNull();
    expect(session.state).toMatchObject({ reshaping: null, markAside: null });
    expect(session.state.mark).toBe(mark);
    expect(mends()[0].area.shapes).toHaveLength(end === 'keepShape' ? 2 : 1);
  });

  test('comes back after zones, one after the other, and is not in the way of what is marked first', () => {
    const { session, first, steering } = open();
    const { mark } = session.state;
    steering.begin({ what: 'avoid', mendId: first });
    expect(session.state.mark).toBeNull();
    steering.begin({ what: 'allow', mendId: null });
    expect(session.state.mark).toBeNull();
    steering.done();
    expect(session.state.mark).toBe(mark);
    steering.begin({ what: 'rub', mendId: first });
    session.set({ mark: areaAt(70), laying: null });
    expect(session.state.mark).toEqual(areaAt(70));
    session.marking.clear();
    expect(session.state.mark).toBe(mark);
  });

  test('an area that was being changed is kept when the next one is taken up; an unchanged one is no step', () => {
    const { session, first, second, mends, done } = open();
    const { mark } = session.state;
    session.marking.reshape(first);
    session.marking.reshape(second);
    expect(done).not.toContain('change area');
    session.marking.add(more, true);
    session.marking.reshape(first);
    expect(mends()[1].area.shapes).toHaveLength(2);
    expect(session.state.reshaping).toBe(first);
    session.marking.clear();
    expect(session.state.mark).toBe(mark);
  });

  test('a guard of what is marked is drawn round it', () => {
    const { session, steering } = open();
    const { mark } = session.state;
    steering.begin({ what: 'guard', mendId: null });
    expect(session.state.mark).toBe(mark);
  });
});
