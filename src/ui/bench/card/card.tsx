'use client';
import { findMend } from '../../../core/job';
import { useBench } from '../use-session';
import { MendCard } from './mend-card';
import { NextCard } from './next-card';
import { SweepPanel } from './sweep-panel';

/** The chosen mend, whole; with none chosen, what the next one starts with. */
export function Card() {
  const mend = useBench((s) => (s.chosen && s.job ? (findMend(s.job, s.chosen)?.mend ?? null) : null));
  const sweeping = useBench((s) => s.sweep !== null);
  if (sweeping) return <SweepPanel />;
  return mend ? <MendCard mend={mend} /> : <NextCard />;
}
