'use client';
import { Plus, ShieldOff } from 'lucide-react';
import type { Belonging } from '../../core/marking';
import { Button } from '../controls/button';
import { useBench, useSession } from './use-session';

const words: Record<Belonging['kind'], string> = {
  shadow: 'Shadow',
  reflection: 'Reflection',
  bit: 'Left-out bit',
};

/** What an offer is called; of two shadows also on which side it lies. */
function nameOf(offer: Belonging, offers: readonly Belonging[]): string {
  const other = offers.find((o) => o !== offer && o.kind === offer.kind);
  if (!other || offer.kind === 'bit') return words[offer.kind];
  return `${words[offer.kind]}, ${offer.x + offer.w / 2 < other.x + other.w / 2 ? 'left' : 'right'}`;
}

/** What probably goes with what is marked, and what touches it: one click adds the one and avoids the other. */
export function OfferBar() {
  const session = useSession();
  const offers = useBench((s) => s.offers);
  const busy = useBench(
    (s) => s.laying !== null || s.islands !== null || s.dragging !== null || s.marksHidden,
  );
  const beside = useBench((s) => s.outlook?.beside ?? null);
  if ((offers.length === 0 && !beside) || busy) return null;
  const pointed = (which: number | 'beside') => ({
    onPointerEnter: () => session.set({ offerHovered: which }),
    onPointerLeave: () => session.set({ offerHovered: null }),
    onFocus: () => session.set({ offerHovered: which }),
    onBlur: () => session.set({ offerHovered: null }),
  });
  return (
    <div
      role="group"
      aria-label="Beside what is marked"
      className="absolute bottom-3 left-1/2 z-20 flex max-w-[92%] -translate-x-1/2 flex-wrap items-center gap-1.5 rounded-xl bg-sheet py-1.5 pr-1.5 pl-3 shadow-lg"
    >
      {offers.length > 0 && <span className="text-faint">Does this belong to it?</span>}
      {offers.map((offer, i) => (
        <Button
          key={`${offer.kind}-${offer.x}-${offer.y}`}
          {...pointed(i)}
          onClick={() => session.advice.take(offer)}
        >
          <Plus className="size-4" aria-hidden /> {nameOf(offer, offers)}
        </Button>
      ))}
      {beside && (
        <>
          <span className="text-faint">Something else touches it.</span>
          <Button {...pointed('beside')} onClick={() => session.advice.avoidBeside()}>
            <ShieldOff className="size-4" aria-hidden /> Avoid it
          </Button>
        </>
      )}
    </div>
  );
}
