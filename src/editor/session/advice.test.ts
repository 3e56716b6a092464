import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { Area } from '../../core/area';
import { addMend, changeMend, changeZones } from '../../core/job';
import type { Belonging, Outlook, Suggestion } from '../../core/marking';
import { Advice } from './advice';
import { areaAt, piece, standIn } from './testing';

const offer = (x: number, y: number) => ({ ...piece(x, y), kind: 'shadow' }) as unknown as Belonging;
const corners = [
  [0, 0],
  [9, 1],
  [9, 8],
  [0, 9],
] as const;

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
    const plain = { seenPlane: null };
    const begun = (beside: object | null) => {
      const made = standIn({ outlook: () => ({ ...outlook, beside }) });
      const mend = made.session.mending.mendFor('fill', areaAt(10), made.session.state.next);
      made.session.run(addMend(made.session.state.activeLayer!, mend));
      return { ...made, mend, advice: new Advice(made.session) };
    };

    test('what touches it joins that mend’s avoid zone when asked to, and it is filled again', async () => {
      const { session, offered, mends, done, mend, advice } = begun(offer(40, 10));
      expect(await advice.leavingOut(mend)).toBe(mend);
      // Nothing is said when something else was chosen meanwhile.
      await advice.tellOfFill(mend.id, plain);
      expect(offered()).toBeNull();
      session.set({ chosen: mend.id });
      await advice.tellOfFill(mend.id, plain);
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
      await advice.tellOfFill(mend.id, plain, null);
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
      await advice.tellOfFill(mend.id, plain, lent.steer.avoid);
      offered()!.run();
      expect(mends()[0].steer.avoid).toEqual(areaAt(70));
    });

    test('the plane that it was seen to lie on is told, and placed when asked to', async () => {
      const { session, said, offered, mends, done, mend, advice } = begun(offer(40, 10));
      session.set({ chosen: mend.id });
      await advice.tellOfFill(mend.id, { seenPlane: corners });
      expect(said.at(-1)).toContain('runs away');
      offered()!.run();
      expect(mends()[0].steer).toMatchObject({ plane: corners, avoid: null });
      expect(done.at(-1)).toBe(`fill again ${mend.name}`);
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
    expect(said.at(-1)).toContain('Drag its corners');
    // Nothing is marked: there is nothing for a fill to keep to.
    expect(session.state.fillKeepsTo.plane).toBe(false);
    session.set({
      outlook: {
        ...outlook,
        plane: corners,
      },
    });
    advice.follow({ what: 'plane' } as unknown as Suggestion);
    expect(said.at(-1)).toContain('along the photo’s lines');
    expect(done.at(-1)).toBe('place plane at [[0,0],[9,1],[9,8],[0,9]]');
    advice.follow({ what: 'rail' } as unknown as Suggestion);
    expect(session.state.next.rail).toMatchObject({ angleDeg: 90 });
    expect(said.at(-1)).toContain('same side');
  });
});
