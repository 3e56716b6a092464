'use client';
import { memo, useEffect, useState } from 'react';
import { useInView } from 'react-intersection-observer';
import type { Mend } from '../../../core/job';
import { BlobPicture } from '../../controls/blob-picture';
import { useBench, useSession } from '../use-session';

/** A small crop of the photo, before and after. Made only when it is on the screen. */
export const MendThumb = memo(function MendThumb({ mend }: { mend: Mend }) {
  const session = useSession();
  const { ref: box, inView: seen } = useInView();
  const [pictures, setPictures] = useState<{ before: Blob; after: Blob } | null>(null);
  const ready = useBench((s) => s.status.is === 'ready');
  const computing = useBench((s) => s.tasks[mend.id] !== undefined);
  const stale = useBench((s) => s.mendStates[mend.id]?.state);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a finished fill or a changed state means other pixels
  useEffect(() => {
    if (!seen || !ready || computing) return;
    let live = true;
    const timer = setTimeout(async () => {
      try {
        const rect = session.pictures.mendRect(mend);
        const before = await session.pictures.cropInQuiet('before', rect, 68);
        const after = await session.pictures.cropInQuiet('after', rect, 68);
        if (live) setPictures({ before, after });
      } catch {
        // The area lies outside the photo, or the engine is being started again: no picture then.
        if (live) setPictures(null);
      }
    }, 200);
    return () => {
      live = false;
      clearTimeout(timer);
    };
  }, [seen, ready, computing, stale, mend, session]);
  return (
    <span
      ref={box}
      aria-hidden
      className="grid h-[34px] w-[70px] shrink-0 grid-cols-2 gap-0.5 overflow-hidden rounded-md bg-quiet"
    >
      <BlobPicture blob={pictures?.before ?? null} alt="" className="size-full object-cover" />
      <BlobPicture blob={pictures?.after ?? null} alt="" className="size-full object-cover" />
    </span>
  );
});
