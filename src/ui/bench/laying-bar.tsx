'use client';
import { Check } from 'lucide-react';
import { findMend } from '../../core/job';
import type { Laying } from '../../editor';
import { Button } from '../controls/button';
import { useBench, useSession } from './use-session';

const told: Record<Laying['what'], string> = {
  allow: 'Draw where it may take from. Alt takes away.',
  cut: 'Paint across it, from edge to edge: each stroke parts it.',
  bridge: 'Paint across it with a wide brush: a rough clone of the ground is laid there.',
  guard: 'Draw what the margin must stop at.',
  avoid: 'Draw over what it must neither take from nor go on with. Alt takes away.',
  line: 'Drag along an edge that runs on through the area or ends in it: its sides do not mix.',
  rail: 'Drag in the direction that sources keep to.',
  stop: 'Paint along the edge that tone must not cross. Alt takes a line away.',
  rub: 'Paint where what lies below is to show through. Alt brings the mend back.',
};

/** While something is laid down on the photo: what the next gesture does, and how it ends. One draws on through it. */
export function LayingBar() {
  const session = useSession();
  const laying = useBench((s) => s.laying);
  const name = useBench((s) =>
    s.laying?.mendId && s.job
      ? (findMend(s.job, s.laying.mendId)?.mend.name ?? '')
      : s.laying?.what === 'guard' || s.laying?.what === 'cut' || s.laying?.what === 'bridge'
        ? 'what is marked'
        : 'the whole job',
  );
  if (!laying) return null;
  return (
    <div
      role="status"
      className="pointer-events-none absolute top-3 left-1/2 z-20 flex -translate-x-1/2 items-center gap-3 rounded-xl bg-sheet py-1.5 pr-1.5 pl-3 shadow-lg"
    >
      <span>
        <b className="font-semibold">{name}</b>: {told[laying.what]}
      </span>
      <Button tone="strong" className="pointer-events-auto" onClick={() => session.steering.done()}>
        <Check className="size-4" aria-hidden /> Done
      </Button>
    </div>
  );
}
