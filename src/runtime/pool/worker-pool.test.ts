import { expect, test } from 'vitest';
import { InputError } from '../../core/errors';
import { fakeWorker } from '../rpc/testing';
import { runFill } from './fill-job';
import type { PoolProtocol } from './protocol';
import { rehearsal } from './rehearsal';
import { cancelled, WorkerPool } from './worker-pool';

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

test('a worker is got ready before there is a task, and after one was cancelled, never beside one or after closing', async () => {
  const { pool, made } = poolOf((n) => (n === 2 ? new Promise(() => {}) : { data: Uint8Array.of(n) }), 1);
  const rest = () => new Promise((r) => setTimeout(r, 20));
  pool.rehearse();
  await rest();
  expect(made()).toBe(1);
  const abort = new AbortController();
  const running = pool.run('fill', request, { ...options(), signal: abort.signal });
  pool.rehearse();
  await rest();
  expect(made()).toBe(2);
  abort.abort();
  expect(await running).toBe(cancelled);
  await rest();
  expect(made()).toBe(3);
  pool.close();
  pool.rehearse();
  await rest();
  expect(made()).toBe(3);
});

test('what a worker gets ready with is a fill from beginning to end', () => {
  const stages = new Set<string>();
  const { rect, data } = runFill(rehearsal(), (stage) => stages.add(stage));
  expect([...stages]).toEqual(['reading', 'searching', 'joining', 'blending']);
  expect(data.length).toBe(rect.w * rect.h * 4);
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
