import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { Quiet } from './quiet';

beforeEach(() => {
  vi.useFakeTimers();
});
afterEach(() => {
  vi.useRealTimers();
});

test('what nobody waits for comes when no stroke is under way, and not right after one', async () => {
  let isPainting = false;
  const quiet = new Quiet(() => isPainting);
  let came = 0;
  const ask = () => void quiet.comes().then(() => came++);
  ask();
  await vi.advanceTimersByTimeAsync(0);
  expect(came).toBe(1);
  isPainting = true;
  ask();
  await vi.advanceTimersByTimeAsync(5000);
  expect(came).toBe(1);
  isPainting = false;
  quiet.strokeEnded();
  await vi.advanceTimersByTimeAsync(500);
  // Another stroke, before it was quiet for long enough.
  isPainting = true;
  await vi.advanceTimersByTimeAsync(3000);
  isPainting = false;
  quiet.strokeEnded();
  await vi.advanceTimersByTimeAsync(600);
  expect(came).toBe(1);
  await vi.advanceTimersByTimeAsync(900);
  expect(came).toBe(2);
});
