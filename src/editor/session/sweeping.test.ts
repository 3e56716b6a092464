import { describe, expect, test } from 'vitest';
import type { Fault } from '../../core/marking';
import { Sweeping } from './sweeping';
import { piece, standIn } from './testing';

const fault = (x: number, kind = 'speck') =>
  ({ ...piece(x, 5), kind, isDark: true, likelihood: 9 }) as unknown as Fault;
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
