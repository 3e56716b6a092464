import { afterEach, expect, test, vi } from 'vitest';
import { JobLock } from './job-lock';

/** Locks as browsers give them: to one at a time, a little later, until what the callback returned is settled. */
function browserLocks() {
  const held = new Set<string>();
  return {
    held,
    request: async (name: string, _options: object, callback: (lock: object | null) => unknown) => {
      await Promise.resolve();
      if (held.has(name)) return callback(null);
      held.add(name);
      try {
        return await callback({ name });
      } finally {
        held.delete(name);
      }
    },
  };
}

afterEach(() => vi.unstubAllGlobals());

test('one at a time has a job, and the next one once it was let go of', async () => {
  vi.stubGlobal('navigator', { locks: browserLocks() });
  const [first, second, other] = [new JobLock(), new JobLock(), new JobLock()];
  expect(await first.take('a')).toBe(true);
  expect(await second.take('a')).toBe(false);
  expect(await other.take('b')).toBe(true);
  first.letGo();
  await vi.waitFor(async () => expect(await new JobLock().take('a')).toBe(true));
});

test('a lock that is let go of while it is on its way is not kept', async () => {
  const locks = browserLocks();
  vi.stubGlobal('navigator', { locks });
  const quick = new JobLock();
  const taken = quick.take('a');
  quick.letGo();
  expect(await taken).toBe(false);
  await vi.waitFor(() => expect(locks.held.size).toBe(0));
});
