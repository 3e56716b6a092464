'use client';
import { AlertTriangle, Check, RefreshCw } from 'lucide-react';
import type { Mend } from '../../../core/job';
import { Button } from '../../controls/button';
import { useBench, useSession } from '../use-session';
import { Section } from './section';

/** Whether the mend is as it should be; if not, why, and what mends it. */
export function Checks({ mend }: { mend: Mend }) {
  const session = useSession();
  const state = useBench((s) => s.mendStates[mend.id]);
  const task = useBench((s) => s.tasks[mend.id]);
  const line = 'flex items-start gap-2 py-0.5';
  if (task) return <Section title="Check">Computing: {task.stage}</Section>;
  if (!state)
    return (
      <Section title="Check">
        <p className={line}>
          <Check className="mt-0.5 size-4 text-mended" aria-hidden /> Up to date
        </p>
      </Section>
    );
  const said = {
    failed: 'This mend could not be computed',
    missing: 'Not computed: its area is kept',
    stale: 'Out of date: what it was drawn from, or its area, has changed since',
  }[state.state];
  return (
    <Section title="Check">
      <p className={line}>
        <AlertTriangle className="mt-0.5 size-4 shrink-0 text-warn" aria-hidden />
        {said}
        {state.state === 'failed' && `: ${state.reason}`}
      </p>
      {state.state !== 'failed' && (
        <Button tone="strong" onClick={() => session.mending.refreshFill(mend.id)}>
          <RefreshCw className="size-4" aria-hidden /> {state.state === 'missing' ? 'Compute' : 'Refresh'}
        </Button>
      )}
    </Section>
  );
}
