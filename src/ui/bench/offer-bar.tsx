'use client';
import { Plus } from 'lucide-react';
import type { Belonging } from '../../core/marking';
import { Button } from '../controls/button';
import { useBench, useSession } from './use-session';

const words: Record<Belonging['kind'], string> = {
  shadow: 'Shadow',
  reflection: 'Reflection',
  bit: 'Left-out bit',
};

/** What probably goes with what is marked: one click adds it. */
export function OfferBar() {
  const session = useSession();
  const offers = useBench((s) => s.offers);
  const busy = useBench(
    (s) => s.laying !== null || s.islands !== null || s.dragging !== null || s.marksHidden,
  );
  if (offers.length === 0 || busy) return null;
  return (
    <div
      role="group"
      aria-label="May belong to it"
      className="absolute bottom-3 left-1/2 z-20 flex max-w-[92%] -translate-x-1/2 flex-wrap items-center gap-1.5 rounded-xl bg-sheet py-1.5 pr-1.5 pl-3 shadow-lg"
    >
      <span className="text-faint">Does this belong to it?</span>
      {offers.map((offer, i) => (
        <Button
          key={`${offer.kind}-${offer.x}-${offer.y}`}
          onPointerEnter={() => session.set({ offerHovered: i })}
          onPointerLeave={() => session.set({ offerHovered: null })}
          onFocus={() => session.set({ offerHovered: i })}
          onBlur={() => session.set({ offerHovered: null })}
          onClick={() => session.advice.take(offer)}
        >
          <Plus className="size-4" aria-hidden /> {words[offer.kind]}
        </Button>
      ))}
    </div>
  );
}
