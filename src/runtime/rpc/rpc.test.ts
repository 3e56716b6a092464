import { describe, expect, test, vi } from 'vitest';
import { InputError } from '../../core/errors';
import type { PoolProtocol } from '../pool/protocol';
import { cancelled, WorkerPool } from '../pool/worker-pool';
import { type Handlers, serve, WorkerClient } from '.';

type Demo = {
  double: { request: number; reply: number; progress: number };
  refuse: { request: null; reply: null };
  wait: { request: null; reply: null };
};

/** A worker in the same thread: messages are cloned and come later, as real ones do. */
function fakeWorker(handlers: Handlers<never>): Worker {
  const worker = { onmessage: null, onerror: null, terminated: false } as unknown as Worker & {
    terminated: boolean;
  };
  const inside = {
    onmessage: null as ((event: MessageEvent) => void) | null,
    postMessage: (message: unknown) => {
      const data = structuredClone(message);
      setTimeout(() => !worker.terminated && worker.onmessage?.({ data } as MessageEvent));
    },
  };
  serve(inside, handlers);
  worker.postMessage = (message: unknown) => {
    const data = structuredClone(message);
    setTimeout(() => !worker.terminated && inside.onmessage?.({ data } as MessageEvent));
  };
  worker.terminate = () => {
    worker.terminated = true;
  };
  return worker;
}

const handlers: Handlers<Demo> = {
  double: (n, progress) => {
    progress(0.5);
    return 2 * n;
  },
  refuse: () => {
    throw new InputError('no', 'That is not possible.');
  },
  wait: () => new Promise(() => {}),
};

describe('requests', () => {
  test('are answered, with what was told meanwhile', async () => {
    const client = new WorkerClient<Demo>(fakeWorker(handlers as never));
    const told: number[] = [];
    expect(
      await Promise.all([
        client.call('double', 4, { onProgress: (p) => told.push(p) }),
        client.call('double', 5),
      ]),
    ).toEqual([8, 10]);
    expect(told).toEqual([0.5]);
  });

  test('that fail keep their code and message', async () => {
    const client = new WorkerClient<Demo>(fakeWorker(handlers as never));
    await expect(client.call('refuse', null)).rejects.toMatchObject({
      name: 'InputError',
      code: 'no',
      message: 'That is not possible.',
    });
  });

  test('a worker that dies rejects what was pending, once, and what comes later', async () => {
    const worker = fakeWorker(handlers as never);
    const gone = vi.fn();
    const client = new WorkerClient<Demo>(worker, gone);
    const pending = client.call('wait', null);
    worker.onerror?.({ message: 'out of memory', preventDefault: () => {} } as ErrorEvent);
    await expect(pending).rejects.toThrow(/out of memory/);
    await expect(client.call('double', 1)).rejects.toThrow(/out of memory/);
    expect(gone).toHaveBeenCalledTimes(1);
  });
});

describe('pool', () => {
  const request = {} as PoolProtocol['fill']['request'];
  const options = () => ({ signal: new AbortController().signal, onProgress: () => {}, transfer: [] });
  const poolOf = (fill: (n: number) => unknown, size = 2) => {
    let made = 0;
    const pool = new WorkerPool(() => fakeWorker({ fill: () => fill(++made) } as never), size);
    return { pool, made: () => made };
  };

  test('runs more tasks than it has workers, each to its own answer', async () => {
    const { pool } = poolOf((n) => ({ data: Uint8Array.of(n) }));
    const replies = await Promise.all([1, 2, 3, 4, 5].map(() => pool.run('fill', request, options())));
    expect(new Set(replies.map((r) => (r === cancelled ? -1 : r.data[0]))).size).toBe(5);
  });

  test('a cancelled task answers at once, running or waiting, and the next one runs', async () => {
    const { pool } = poolOf((n) => (n === 1 ? new Promise(() => {}) : { data: Uint8Array.of(n) }), 1);
    const abort = new AbortController();
    const running = pool.run('fill', request, { ...options(), signal: abort.signal });
    const early = new AbortController();
    const waiting = pool.run('fill', request, { ...options(), signal: early.signal });
    const next = pool.run('fill', request, options());
    await new Promise((r) => setTimeout(r, 20));
    early.abort();
    abort.abort();
    expect(await running).toBe(cancelled);
    expect(await waiting).toBe(cancelled);
    expect(await next).not.toBe(cancelled);
  });

  test('a failed task fails alone', async () => {
    const { pool } = poolOf((n) => {
      if (n === 1) throw new InputError('no-source', 'There is not enough.');
      return { data: Uint8Array.of(n) };
    }, 1);
    const first = pool.run('fill', request, options());
    const second = pool.run('fill', request, options());
    await expect(first).rejects.toThrow(/not enough/);
    expect(await second).toMatchObject({ data: Uint8Array.of(2) });
  });
});
