import { describe, expect, test, vi } from 'vitest';
import { InputError } from '../../core/errors';
import { type Handlers, WorkerClient } from '.';
import { fakeWorker } from './testing';

type Demo = {
  double: { request: number; reply: number; progress: number };
  refuse: { request: null; reply: null };
  wait: { request: null; reply: null };
};

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
