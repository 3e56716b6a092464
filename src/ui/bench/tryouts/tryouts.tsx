'use client';
import { Check, Plus, X } from 'lucide-react';
import { Dialog, Progress, ToggleGroup } from 'radix-ui';
import { useEffect, useRef, useState } from 'react';
import { intersect, type Rect } from '../../../core/raster';
import type { Candidate } from '../../../editor';
import { BlobPicture } from '../../controls/blob-picture';
import { Button } from '../../controls/button';
import { useBench, useSession } from '../use-session';

type Size = 'fit' | 'full';

/** Several finished candidates for one mend, large and in context; one is picked, the others stay at hand. */
export function TryoutsDialog() {
  const session = useSession();
  const tryouts = useBench((s) => s.tryouts);
  const [size, setSize] = useState<Size>('fit');
  const mend = tryouts && session.mendOf(tryouts.mendId);
  const list = useRef<HTMLUListElement>(null);
  /** At 1:1 all candidates show the same part. */
  const follow = (scrolled: HTMLElement) => {
    for (const other of list.current?.querySelectorAll<HTMLElement>('[data-pane]') ?? []) {
      if (other === scrolled) continue;
      if (other.scrollLeft !== scrolled.scrollLeft) other.scrollLeft = scrolled.scrollLeft;
      if (other.scrollTop !== scrolled.scrollTop) other.scrollTop = scrolled.scrollTop;
    }
  };
  const ready = tryouts?.candidates.filter((c) => c.state === 'ready').length ?? 0;
  return (
    <Dialog.Root open={tryouts !== null} onOpenChange={(open) => !open && session.tryouts.close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed inset-3 z-30 flex flex-col overflow-hidden rounded-2xl bg-paper shadow-2xl"
        >
          <div className="flex items-center gap-3 border-b border-line px-4 py-2">
            <Dialog.Title className="text-[15px] font-semibold">
              Tryouts{mend ? ` for ${mend.name}` : ''}
            </Dialog.Title>
            <span role="status" className="grow text-faint">
              {ready} of {tryouts?.candidates.length ?? 0} ready. Pick one; the others stay tries of this
              mend.
            </span>
            {mend?.method === 'fill' && (
              <Button onClick={() => session.begin(session.tryouts.more())}>
                <Plus className="size-4" aria-hidden /> More fills
              </Button>
            )}
            <ToggleGroup.Root
              type="single"
              value={size}
              aria-label="Size"
              onValueChange={(v) => v && setSize(v as Size)}
              className="flex rounded-lg bg-quiet p-0.5"
            >
              {(['fit', 'full'] as const).map((v) => (
                <ToggleGroup.Item
                  key={v}
                  value={v}
                  className="h-7 rounded-md px-3 font-medium data-[state=on]:bg-sheet data-[state=on]:shadow"
                >
                  {v === 'fit' ? 'Fit' : '1:1'}
                </ToggleGroup.Item>
              ))}
            </ToggleGroup.Root>
            <Dialog.Close
              aria-label="Close"
              className="grid size-8 place-items-center rounded-lg hover:bg-quiet"
            >
              <X className="size-4" aria-hidden />
            </Dialog.Close>
          </div>
          {mend && (
            <ul
              ref={list}
              className="grid min-h-0 grow auto-rows-[minmax(220px,1fr)] grid-cols-2 gap-2 overflow-y-auto p-2 min-[1000px]:grid-cols-3"
            >
              {tryouts.candidates.map((candidate) => (
                <CandidateTile
                  key={candidate.id}
                  candidate={candidate}
                  rect={widened(session.pictures.mendRect(mend), session.state.job!.photo)}
                  size={size}
                  onScroll={follow}
                  isNow={candidate.mend.method === mend.method && candidate.mend.chosenTry === mend.chosenTry}
                />
              ))}
            </ul>
          )}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** The area lies in the middle of its picture. */
function centre(pane: HTMLElement | null): void {
  if (pane)
    pane.scrollTo((pane.scrollWidth - pane.clientWidth) / 2, (pane.scrollHeight - pane.clientHeight) / 2);
}

/** With as much beside it as a tile has room for: a candidate is judged in context. */
function widened(rect: Rect, photo: { width: number; height: number }): Rect {
  const [w, h] = [Math.max(rect.w, Math.round(rect.h * 2)), Math.max(rect.h, Math.round(rect.w / 2.4))];
  const x = Math.max(0, Math.min(photo.width - w, Math.round(rect.x - (w - rect.w) / 2)));
  const y = Math.max(0, Math.min(photo.height - h, Math.round(rect.y - (h - rect.h) / 2)));
  return intersect({ x, y, w, h }, { x: 0, y: 0, w: photo.width, h: photo.height });
}

function CandidateTile({
  candidate,
  rect,
  size,
  isNow,
  onScroll,
}: {
  candidate: Candidate;
  rect: Rect;
  size: Size;
  isNow: boolean;
  onScroll: (pane: HTMLElement) => void;
}) {
  const session = useSession();
  const pane = useRef<HTMLDivElement>(null);
  const [picture, setPicture] = useState<Blob | null>(null);
  const { state, mend, says, share, reason } = candidate;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the rectangle is a new object each time
  useEffect(() => {
    if (state !== 'ready') return;
    let live = true;
    const side = size === 'fit' ? 900 : Math.max(rect.w, rect.h);
    session.pictures
      .crop('after', rect, side, mend)
      .then((blob) => live && setPicture(blob))
      .catch(() => live && setPicture(null));
    return () => {
      live = false;
    };
  }, [state, mend, size, session]);
  return (
    <li className="flex min-h-0 flex-col overflow-hidden rounded-xl border border-line bg-sheet">
      <div
        data-pane
        ref={pane}
        onScroll={(e) => onScroll(e.currentTarget)}
        className="relative min-h-0 grow overflow-auto bg-[#8c8c8c]"
      >
        {picture ? (
          <BlobPicture
            blob={picture}
            alt={says}
            onLoad={() => size === 'full' && centre(pane.current)}
            className={size === 'fit' ? 'size-full object-contain' : 'max-w-none'}
          />
        ) : state === 'failed' ? (
          <p className="p-3 text-white">{reason}</p>
        ) : (
          <div className="absolute inset-0 grid place-items-center">
            <Progress.Root
              value={Math.round(share * 100)}
              aria-label={`${says} is being computed`}
              className="h-1.5 w-1/2 overflow-hidden rounded-full bg-white/40"
            >
              <Progress.Indicator className="h-full bg-white" style={{ width: `${share * 100}%` }} />
            </Progress.Root>
          </div>
        )}
      </div>
      <div className="flex items-center gap-2 px-2.5 py-1.5">
        <span className="min-w-0 grow truncate">{says}</span>
        <Button
          tone={isNow ? 'plain' : 'strong'}
          disabled={state !== 'ready'}
          onClick={() => session.tryouts.pick(candidate)}
        >
          <Check className="size-4" aria-hidden /> {isNow ? 'Keep' : 'Pick'}
        </Button>
      </div>
    </li>
  );
}
