import { redoOn, type Transaction, undoOn } from './commands';
import type { Job } from './types';

/** What was done to a job, one entry a gesture. Entries from `cursor` on were undone and can be done again. */
export interface History {
  readonly entries: readonly Transaction[];
  readonly cursor: number;
}

export const emptyHistory: History = { entries: [], cursor: 0 };

/** Adds an entry behind the cursor; what was undone before it is gone. */
export function record(history: History, transaction: Transaction): History {
  const entries = [...history.entries.slice(0, history.cursor), transaction];
  return { entries, cursor: entries.length };
}

export function undo(job: Job, history: History): { job: Job; history: History; done: Transaction } | null {
  if (history.cursor === 0) return null;
  const done = history.entries[history.cursor - 1];
  return { job: undoOn(job, done), history: { ...history, cursor: history.cursor - 1 }, done };
}

export function redo(job: Job, history: History): { job: Job; history: History; done: Transaction } | null {
  if (history.cursor >= history.entries.length) return null;
  const done = history.entries[history.cursor];
  return { job: redoOn(job, done), history: { ...history, cursor: history.cursor + 1 }, done };
}
