import { describe, expect, test } from 'vitest';
import type { Mend } from '../../core/job';
import type { Island } from '../../core/marking';
import { boxShape } from '../../core/testing/jobs';
import { Finding } from './finding';
import { Islands } from './islands';
import { Marking } from './marking';
import { areaAt, piece, standIn } from './testing';

const island = (x: number) => piece(x, 10) as unknown as Island;
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
