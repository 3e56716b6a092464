import { describe, expect, test, vi } from 'vitest';
import type { Job } from '../../core/job';
import { areaOfShapes, mendOf, strokeShape } from '../../core/testing/jobs';
import type { JobStore } from '../../runtime/storage';
import { Keeper } from './keeper';
import { StrokeFeed } from './stroke-feed';

const later = () => new Promise((r) => setTimeout(r, 5));

describe('keeper', () => {
  const job = { id: 'j' } as Job;
  const transaction = { label: 'x', forward: [], backward: [] };

  test('writes in order, one after the other', async () => {
    const done: string[] = [];
    const store = {
      commit: async (_j: Job, _t: unknown, cursor: number) => {
        await later();
        done.push(`commit ${cursor}`);
      },
      moveCursor: async (_j: Job, cursor: number) => {
        done.push(`cursor ${cursor}`);
      },
    } as unknown as JobStore;
    const states: (number | null)[] = [];
    const keeper = new Keeper(store, (s) => states.push(s.keptAtMs));
    keeper.commit(job, transaction, 1);
    keeper.moveCursor(job, 0);
    keeper.commit(job, transaction, 1);
    expect(keeper.pending).toBe(true);
    await later();
    await later();
    await later();
    expect(done).toEqual(['commit 1', 'cursor 0', 'commit 1']);
    expect(keeper.pending).toBe(false);
    expect(states.at(-1)).not.toBe(null);
  });

  test('a full disk holds everything back in order, says so, and goes on when it is tried again', async () => {
    let full = true;
    const done: number[] = [];
    const store = {
      commit: async (_j: Job, _t: unknown, cursor: number) => {
        if (full) throw new Error('The browser’s store is full.');
        done.push(cursor);
      },
    } as unknown as JobStore;
    let said: string | null = null;
    const keeper = new Keeper(store, (s) => {
      said = s.keepFailed;
    });
    keeper.commit(job, transaction, 1);
    await later();
    keeper.commit(job, transaction, 2);
    await later();
    expect(said).toMatch(/full/);
    expect(done).toEqual([]);
    full = false;
    await keeper.retry();
    expect(done).toEqual([1, 2]);
    expect(said).toBe(null);
  });
});

describe('stroke feed', () => {
  test('brings the whole up to date when the hand rests, and goes on with what came meanwhile', async () => {
    vi.useFakeTimers();
    const asked: string[] = [];
    let shown = 0;
    const feed = new StrokeFeed(
      mend,
      'layer',
      {
        begin: async () => {},
        extend: async (points) => {
          asked.push(`extend ${points.length}`);
          return [];
        },
        settle: async () => {
          asked.push('settle');
          await new Promise((done) => setTimeout(done, 50));
          return [];
        },
        end: async () => {},
      },
      (_, since) => {
        if (since === null) shown++;
      },
    );
    await vi.advanceTimersByTimeAsync(60);
    feed.add([[2, 1, 1]], 0);
    await vi.advanceTimersByTimeAsync(100);
    expect(asked).toEqual(['extend 1', 'extend 1']);
    await vi.advanceTimersByTimeAsync(40);
    expect(asked).toEqual(['extend 1', 'extend 1', 'settle']);
    feed.add([[3, 1, 1]], 0);
    await vi.advanceTimersByTimeAsync(60);
    expect(asked.slice(3)).toEqual(['extend 1']);
    expect(shown).toBe(1);
    await feed.finish();
    await vi.advanceTimersByTimeAsync(1000);
    expect(asked).toHaveLength(4);
    vi.useRealTimers();
  });

  const mend = mendOf('clone', areaOfShapes([strokeShape([[1, 1]], 5)]), { dx: 9, dy: 0 });

  test('sends one request at a time, whatever came meanwhile in the next, and ends with the whole path', async () => {
    const sent: number[] = [];
    let open = 0;
    const feed = new StrokeFeed(
      mend,
      'layer',
      {
        begin: async () => {},
        extend: async (points) => {
          expect(++open).toBe(1);
          sent.push(points.length);
          await later();
          open--;
          return [];
        },
        settle: async () => [],
        end: async () => {},
      },
      () => {},
    );
    feed.add([[2, 1, 1]], 0);
    feed.add([[3, 1, 1]], 0);
    feed.add([[4.03, 1, 0.5]], 0);
    const whole = await feed.finish();
    expect(sent).toEqual([1, 3]);
    expect(whole.area.shapes[0]).toMatchObject({
      points: [
        [1, 1, 1],
        [2, 1, 1],
        [3, 1, 1],
        [4, 1, 0.5],
      ],
    });
  });
});
