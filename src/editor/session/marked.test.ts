import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { Area } from '../../core/area';
import { addMend, changeMend, changeZones, type Mend } from '../../core/job';
import type { Belonging, Fault, Island, Outlook, Suggestion } from '../../core/marking';
import { areaOfShapes, boxShape } from '../../core/testing/jobs';
import { Advice } from './advice';
import { Finding } from './finding';
import { Islands } from './islands';
import { Marking } from './marking';
import { Steering } from './steering';
import { Sweeping } from './sweeping';
import { standIn } from './testing';

const piece = (x: number, y: number, side = 4) => ({
  x,
  y,
  w: side,
  h: side,
  mask: { w: side, h: side, data: new Uint8Array(side * side).fill(255) },
});
const offer = (x: number, y: number) => ({ ...piece(x, y), kind: 'shadow' }) as unknown as Belonging;
const island = (x: number) => piece(x, 10) as unknown as Island;
const fault = (x: number, kind = 'speck') =>
  ({ ...piece(x, 5), kind, isDark: true, likelihood: 9 }) as unknown as Fault;
const areaAt = (x: number): Area => areaOfShapes([boxShape(x, 10, 20, 20)]);

describe('advice', () => {
  beforeEach(() => {
    vi.useFakeTimers();
  });
  afterEach(() => {
    vi.useRealTimers();
  });
  const outlook = { fallsDown: false } as Outlook;

  test('is asked for once a mark rests, not while it grows', async () => {
    const asked: unknown[] = [];
    const { session } = standIn({
      outlook: ({ mend }: { mend: { area: Area } }) => {
        asked.push(mend.area.shapes);
        return outlook;
      },
      belongings: () => [offer(40, 10)],
    });
    const advice = new Advice(session);
    const marks = [areaAt(10), areaAt(12), areaAt(14)];
    for (const mark of marks) {
      session.set({ mark });
      advice.refresh();
      await vi.advanceTimersByTimeAsync(200);
    }
    expect(asked).toEqual([]);
    await vi.advanceTimersByTimeAsync(400);
    expect(asked).toEqual([marks[2].shapes]);
    expect(session.state.outlook).toBe(outlook);
    expect(session.state.offers).toHaveLength(1);
    session.set({ mark: null });
    advice.refresh();
    expect(session.state).toMatchObject({ outlook: null, offers: [] });
  });

  test('an answer about a mark that is gone is not shown', async () => {
    const { session } = standIn({
      outlook: () => {
        session.set({ mark: areaAt(30) });
        return outlook;
      },
    });
    const advice = new Advice(session);
    session.set({ mark: areaAt(10) });
    advice.refresh();
    await vi.advanceTimersByTimeAsync(400);
    expect(session.state.outlook).toBeNull();
  });

  test('taking an offer marks it and leaves the others, found again or not, once each', async () => {
    const [taken, beside] = [offer(40, 10), offer(60, 10)];
    let found: Belonging[] = [taken, beside];
    const { session } = standIn({ outlook: () => outlook, belongings: () => found });
    const advice = new Advice(session);
    session.set({ mark: areaAt(10) });
    advice.refresh();
    await vi.advanceTimersByTimeAsync(400);
    found = [offer(61, 10), offer(80, 10)];
    advice.take(taken);
    advice.refresh();
    expect(session.state.mark!.shapes.at(-1)).toMatchObject({ kind: 'mask', op: 'add', x: 40 });
    expect(session.state.offers).toEqual([beside]);
    await vi.advanceTimersByTimeAsync(400);
    expect(session.state.offers.map((o) => o.x)).toEqual([60, 80]);
  });

  test('what touches the mark joins the job’s avoid zone, and what was in it stays', () => {
    const suggestions = (['fill', 'beside'] as const).map((what) => ({ what, why: '' }));
    const { session, said } = standIn(
      {},
      { outlook: { ...outlook, beside: { ...offer(40, 10), standsNext: false }, suggestions } },
    );
    const advice = new Advice(session);
    session.run(changeZones('draw avoid zone', { avoid: areaAt(70) }));
    advice.follow({ what: 'beside', why: '' });
    const { avoid } = session.state.job!.zones;
    expect(avoid!.shapes[0]).toEqual(areaAt(70).shapes[0]);
    expect(avoid!.shapes[1]).toMatchObject({ kind: 'mask', op: 'add', x: 40, y: 10, maskId: 'held-1' });
    expect(said.at(-1)).toContain('avoid zone');
    // It is not suggested twice, and does nothing twice.
    expect(session.state.outlook!.suggestions.map((s) => s.what)).toEqual(['fill']);
    advice.follow({ what: 'beside', why: '' });
    expect(session.state.job!.zones.avoid).toBe(avoid);
  });

  describe('beside a fill', () => {
    const next = { ...offer(40, 10), standsNext: true };
    const begun = (beside: object | null) => {
      const made = standIn({ outlook: () => ({ ...outlook, beside }), heldTries: () => held });
      const mend = made.session.mending.mendFor('fill', areaAt(10), made.session.state.next);
      const held = [mend.chosenTry!];
      made.session.run(addMend(made.session.state.activeLayer!, mend));
      return { ...made, mend, held, advice: new Advice(made.session) };
    };

    test('what touches it joins that mend’s avoid zone when asked to, and it is filled again', async () => {
      const { session, offered, mends, done, mend, held, advice } = begun(offer(40, 10));
      expect(await advice.leavingOut(mend)).toBe(mend);
      // Nothing is said when it could not be computed, or something else was chosen meanwhile.
      await advice.tellBeside(mend.id);
      session.set({ chosen: mend.id });
      const [id] = held.splice(0);
      await advice.tellBeside(mend.id);
      expect(offered()).toBeNull();
      held.push(id);
      await advice.tellBeside(mend.id);
      offered()!.run();
      expect(mends()[0].steer.avoid!.shapes).toMatchObject([
        { kind: 'mask', x: 40, y: 10, maskId: 'held-1' },
      ]);
      expect(session.state.job!.zones.avoid).toBeNull();
      expect(done.at(-1)).toBe(`fill again ${mend.name}`);
    });

    test('what stands next to it is left out from the first, until one goes on with it', async () => {
      const { session, offered, mends, done, mend, advice } = begun(next);
      const careful = await advice.leavingOut(mend);
      expect(careful.steer.avoid!.shapes).toMatchObject([{ kind: 'mask', x: 40, y: 10 }]);
      session.run(changeMend(mend.id, 'fill', { steer: careful.steer }));
      session.set({ chosen: mend.id });
      await advice.tellBeside(mend.id, null);
      expect(offered()!.label).toBe('Go on with it');
      offered()!.run();
      expect(mends()[0].steer.avoid).toBeNull();
      expect(done.at(-1)).toBe(`fill again ${mend.name}`);
    });

    test('with a zone from an earlier fill, that one stays when one goes on with what stands next', async () => {
      const { session, offered, mends, mend, advice } = begun(next);
      const lent = { ...mend, steer: { ...mend.steer, avoid: areaAt(70) } };
      // What was said of the mark knew nothing of that zone.
      session.set({ mark: mend.area, outlook });
      const careful = await advice.leavingOut(lent);
      expect(careful.steer.avoid!.shapes.map((s) => s.kind)).toEqual(['box', 'mask']);
      session.run(changeMend(mend.id, 'fill', { steer: careful.steer }));
      session.set({ chosen: mend.id });
      await advice.tellBeside(mend.id, lent.steer.avoid);
      offered()!.run();
      expect(mends()[0].steer.avoid).toEqual(areaAt(70));
    });

    test('what the outlook has said of the mark is not looked for again', async () => {
      const { session, mend, advice } = begun(next);
      session.set({ mark: mend.area, outlook });
      expect(await advice.leavingOut(mend)).toBe(mend);
    });
  });

  test('each suggestion is followed by what it names', async () => {
    const { session, said, done, settled } = standIn({}, { outlook });
    const advice = new Advice(session);
    for (const what of ['islands', 'avoid', 'plane', 'fill', 'no'] as const)
      advice.follow({ what } as unknown as Suggestion);
    await settled();
    expect(done).toEqual(['find islands', 'lay avoid', 'place plane', 'mend by fill']);
    advice.follow({ what: 'rail' } as unknown as Suggestion);
    expect(session.state.next.rail).toMatchObject({ angleDeg: 90 });
    expect(said.at(-1)).toContain('same side');
  });
});

describe('islands', () => {
  const cut = {
    kind: 'stroke',
    op: 'add',
    points: [
      [20, 5, 1],
      [20, 40, 1],
    ],
    radiusPx: 2,
    hardness: 1,
  } as const;

  test('a mark that cannot be split by itself says so; cuts that do not part it keep their place', async () => {
    const { session, said } = standIn({ islands: () => [island(10)] });
    const islands = new Islands(session);
    await islands.find();
    expect(said.at(-1)).toContain('Mark the large thing first');
    session.set({ mark: areaAt(10) });
    await islands.find();
    expect(said.at(-1)).toContain('nothing to split');
    expect(session.state.islands).toBeNull();
    await islands.find([cut]);
    expect(said.at(-1)).toContain('do not part it yet');
    expect(session.state.islands!.cuts).toHaveLength(1);
  });

  test('parts keep their methods when they are found anew, and go in the order they are put in', async () => {
    let found = [island(10), island(30)];
    const { session } = standIn({ islands: () => found }, { mark: areaAt(10) });
    const islands = new Islands(session);
    await islands.find();
    islands.setMethod(1, 'heal');
    found = [island(10), island(30), island(50)];
    await islands.find();
    expect(session.state.islands!.parts.map((p) => p.method)).toEqual(['fill', 'heal', 'fill']);
    islands.move(1, -1);
    islands.move(0, -1);
    expect(session.state.islands!.parts.map((p) => p.island.x)).toEqual([30, 10, 50]);
  });

  test('to each part those after it are still to go; one without a source is filled instead, and said to be', async () => {
    const { session, mends, said, done } = standIn(
      { islands: () => [island(10), island(30), island(50)], findSource: () => null },
      { mark: areaAt(10) },
    );
    const islands = new Islands(session);
    await islands.find();
    islands.setMethod(1, 'heal');
    const { findSource } = session.mending;
    session.mending.findSource = async () => null;
    await islands.mend();
    session.mending.findSource = findSource;
    expect(mends().map((m) => [m.name, m.method, m.pending?.shapes ?? null])).toEqual([
      ['Island 1', 'fill', [...mends()[1].area.shapes, ...mends()[2].area.shapes]],
      ['Island 2', 'fill', mends()[2].area.shapes],
      ['Island 3', 'fill', null],
    ]);
    for (const mend of mends()) expect(mend.area.shapes).toHaveLength(1);
    expect(said.at(-1)).toContain('Part 2 finds no place');
    expect(done).toEqual(['3 islands', 'fill Island 1', 'fill Island 2', 'fill Island 3']);
    expect(session.state).toMatchObject({ islands: null, mark: null });
  });

  test('what is marked while it is seen what to leave out stays', async () => {
    const { session, mends } = standIn(
      {
        islands: () => [island(10), island(30)],
        leavingOut: (mend: Mend) => new Promise((done) => setTimeout(() => done(mend), 5)),
      },
      { mark: areaAt(10) },
    );
    Object.assign(session, { finding: new Finding(session), marking: new Marking(session) });
    const islands = new Islands(session);
    await islands.find();
    const mended = islands.mend();
    const more = boxShape(70, 50, 5, 5);
    session.set({ mark: { ...session.state.mark!, shapes: [...session.state.mark!.shapes, more] } });
    await mended;
    expect(mends()).toHaveLength(2);
    expect(session.state.mark?.shapes).toEqual([more]);
  });

  test('of cuts drawn before the first is answered, all part it; left meanwhile, it stays whole', async () => {
    const asked: number[] = [];
    const { session, settled } = standIn(
      {
        islands: async ({ cuts }: { cuts: readonly unknown[] }) => {
          asked.push(cuts.length);
          await new Promise((done) => setTimeout(done, 5));
          return [island(10), island(30), island(50)].slice(0, cuts.length + 1);
        },
      },
      { mark: areaAt(10) },
    );
    const islands = new Islands(session);
    islands.addCut(cut, false);
    islands.addCut(cut, false);
    await settled();
    expect(asked).toEqual([1, 2]);
    expect(session.state.islands).toMatchObject({ cuts: { length: 2 }, parts: { length: 3 } });
    islands.addCut(cut, false);
    islands.leave();
    await settled();
    expect(session.state.islands).toBeNull();
  });

  test('bridges laid one right after the other are both taken out of what is still marked', async () => {
    const { session, mends, settled } = standIn(
      { islands: () => [island(10), island(30)], findSource: () => ({ dx: 9, dy: 0 }) },
      { mark: areaAt(10) },
    );
    const islands = new Islands(session);
    islands.addCut(cut, true);
    islands.addCut(cut, true);
    await settled();
    expect(mends().map((m) => m.name)).toEqual(['Bridge', 'Bridge']);
    expect(session.state.mark!.shapes.map((s) => s.op)).toEqual(['add', 'subtract', 'subtract']);
  });

  test('what stands next to the whole is left out of every part, and that is said', async () => {
    const avoid = areaAt(70);
    const { session, mends, said } = standIn(
      {
        islands: () => [island(10), island(30)],
        leavingOut: (mend: Mend) => ({ ...mend, steer: { ...mend.steer, avoid } }),
      },
      { mark: areaAt(10) },
    );
    const islands = new Islands(session);
    await islands.find();
    await islands.mend();
    expect(mends().map((m) => m.steer.avoid)).toEqual([avoid, avoid]);
    expect(said.at(-1)).toContain('left out');
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
    session.marking.add(more, true);
    session.marking[end]();
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

describe('sweep', () => {
  const faults = [fault(10), fault(30, 'line'), fault(50)];

  test('accepted faults become taps in one step; a line is taken by its pixels', async () => {
    const { session, mends, done, said, settled } = standIn({ sweep: () => faults });
    const sweeping = new Sweeping(session);
    sweeping.open();
    await settled();
    expect(session.state.sweep).toMatchObject({ faults, share: null });
    sweeping.toggle(0);
    await sweeping.mend();
    expect(mends().map((m) => [m.name, m.area.shapes[0].kind])).toEqual([
      ['Dark line 1', 'mask'],
      ['Dark speck 2', 'ellipse'],
    ]);
    expect(done).toEqual(['sweep 2 faults']);
    expect(said.at(-1)).toBe('Mended 2 faults, in one step.');
    expect(session.state.sweep).toBeNull();
  });

  test('sensitivity lists more or less at once; what was refused stays so, also when it is found again', async () => {
    const sure = [
      { ...fault(10), likelihood: 9 },
      { ...fault(30), likelihood: 2.5 },
      { ...fault(50), likelihood: -2 },
    ];
    let searches = 0;
    const { session, mends, settled } = standIn({
      sweep: () => {
        searches++;
        return searches === 1 ? sure : [{ ...fault(5), likelihood: 10 }, ...sure];
      },
    });
    const sweeping = new Sweeping(session);
    const listed = () => session.state.sweep!.faults.map((f) => f.x);
    sweeping.open();
    await settled();
    expect(listed()).toEqual([10, 30]);
    sweeping.toggle(1);
    sweeping.setSensitivity(0);
    expect(listed()).toEqual([10]);
    sweeping.setSensitivity(100);
    expect(listed()).toEqual([10, 30, 50]);
    expect([...session.state.sweep!.refused]).toEqual([1]);
    expect(searches).toBe(1);
    sweeping.setOptions({ mostPx: 30 });
    await settled();
    expect(listed()).toEqual([5, 10, 30, 50]);
    expect([...session.state.sweep!.refused]).toEqual([2]);
    await sweeping.mend();
    expect(mends()).toHaveLength(3);
  });

  test('with all refused nothing is mended; all can be accepted again', async () => {
    const { session, mends, said, settled } = standIn({ sweep: () => faults });
    const sweeping = new Sweeping(session);
    sweeping.open();
    await settled();
    sweeping.all(false);
    await sweeping.mend();
    expect(said.at(-1)).toContain('nothing to mend');
    sweeping.all(true);
    sweeping.toggle(2);
    sweeping.toggle(2);
    await sweeping.mend();
    expect(mends()).toHaveLength(3);
  });

  test('what an older search finds late is dropped, and a failed search ends', async () => {
    let answer: (faults: readonly Fault[]) => void = () => {};
    const waits = new Promise<readonly Fault[]>((resolve) => {
      answer = resolve;
    });
    const answers = [waits, [fault(70)]];
    const { session, settled } = standIn({
      sweep: () => answers.shift() ?? Promise.reject(new Error('gone')),
    });
    const sweeping = new Sweeping(session);
    sweeping.open();
    sweeping.setOptions({ mostPx: 20 });
    await Promise.resolve();
    answer(faults);
    await settled();
    expect(session.state.sweep!.faults.map((f) => f.x)).toEqual([70]);
    sweeping.setOptions({ light: false });
    expect(session.state.sweep!.share).toBe(0.5);
    await settled();
    expect(session.state.sweep).toMatchObject({ share: null });
    expect(session.state.sweep!.faults).toHaveLength(1);
  });

  test('left while sources are sought, nothing is mended', async () => {
    const { session, mends, settled } = standIn({
      sweep: () => faults,
      findSource: () => {
        sweeping.close();
        return { dx: 9, dy: 0 };
      },
    });
    const sweeping = new Sweeping(session);
    sweeping.open();
    await settled();
    await sweeping.mend();
    expect(mends()).toHaveLength(0);
    expect(session.state.sweep).toBeNull();
  });
});
