'use client';
import { useBench } from './use-session';

const stages: Record<string, string> = {
  waiting: 'waiting',
  reading: 'reading',
  searching: 'searching',
  joining: 'joining',
  blending: 'blending',
};

/** A mend's state in a word: hidden, computing, failed, out of date, not computed. Nothing when it is ready. */
export function StateBadge({ mendId, visible }: { mendId: string; visible: boolean }) {
  const task = useBench((s) => s.tasks[mendId]);
  const state = useBench((s) => s.mendStates[mendId]);
  if (task)
    return (
      <span className="rounded bg-mended-soft px-1 text-mended">
        {stages[task.stage]} {Math.round(task.share * 100)} %
      </span>
    );
  if (!visible) return <span className="rounded bg-quiet px-1">hidden</span>;
  if (state?.state === 'failed') return <span className="rounded bg-warn-soft px-1 text-warn">failed</span>;
  if (state?.state === 'missing')
    return <span className="rounded bg-warn-soft px-1 text-warn">not computed</span>;
  if (state?.state === 'stale')
    return <span className="rounded bg-source-soft px-1 text-source">out of date</span>;
  return null;
}
