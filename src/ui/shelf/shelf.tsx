'use client';
import { formatDistanceToNow } from 'date-fns';
import { useLiveQuery } from 'dexie-react-hooks';
import { FolderOpen, HelpCircle, ImagePlus } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { Tooltip } from 'radix-ui';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { messageOf } from '../../core/errors';
import { acceptedFiles, newId, takeIn } from '../../editor';
import { JobStore } from '../../runtime/storage';
import { Button } from '../controls/button';
import type { DemoCard } from './demo-card';
import { DemoShelf } from './demo-shelf';
import { JobCard } from './job-card';

/** What was deleted can be brought back for this long. */
const keepDeletedMs = 24 * 3600 * 1000;

interface Line {
  key: string;
  text: string;
  warning: boolean;
  undo?: () => void;
}

export function Shelf() {
  const [store] = useState(() => new JobStore());
  const router = useRouter();
  const rows = useLiveQuery(() => (typeof indexedDB === 'undefined' ? [] : store.shelf()), [store]);
  const deleted = useLiveQuery(() => (typeof indexedDB === 'undefined' ? [] : store.deleted()), [store]);
  const [lines, setLines] = useState<Line[]>([]);
  const [busy, setBusy] = useState<string | null>(null);

  useEffect(() => {
    void store.clearDeleted(Date.now() - keepDeletedMs);
  }, [store]);

  const say = useCallback(
    (line: Omit<Line, 'key'>) => setLines((old) => [...old.slice(-4), { key: newId(), ...line }]),
    [],
  );

  const take = useCallback(
    async (files: readonly File[]) => {
      const taken: string[] = [];
      for (const file of files) {
        setBusy(`Opening ${file.name} …`);
        try {
          taken.push(await takeIn(file, store));
        } catch (error) {
          say({ text: `${file.name} was not opened: ${messageOf(error)}`, warning: true });
        }
      }
      setBusy(null);
      if (files.length === 1 && taken.length === 1) router.push(`/job/${taken[0]}`);
    },
    [router, say, store],
  );

  const dropzone = useDropzone({
    onDrop: (accepted, refused) => void take([...accepted, ...refused.map((r) => r.file)]),
    noClick: true,
    noKeyboard: true,
  });

  const takeDemo = useCallback(
    async (demo: DemoCard) => {
      setBusy(`Opening ${demo.title} …`);
      try {
        const reply = await fetch(`/api/demo/${demo.id}/job.vine.zip`);
        if (!reply.ok) throw new Error(`the server answered ${reply.status}.`);
        const id = await takeIn(new File([await reply.blob()], `${demo.title}.vine.zip`), store);
        router.push(`/job/${id}`);
      } catch (error) {
        say({ text: `${demo.title} was not opened: ${messageOf(error)}`, warning: true });
        setBusy(null);
      }
    },
    [router, say, store],
  );

  const accept = useMemo(
    () =>
      Object.entries(acceptedFiles)
        .flatMap(([type, suffixes]) => [type, ...suffixes])
        .join(','),
    [],
  );

  const remove = async (id: string, title: string) => {
    await store.setDeleted(id, Date.now());
    say({ text: `${title} was deleted.`, warning: false, undo: () => void store.setDeleted(id, null) });
  };

  return (
    <Tooltip.Provider delayDuration={500}>
      <div {...dropzone.getRootProps()} className="min-h-full">
        <main className="pb-16">
          <header className="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-line bg-sheet px-6 py-4">
            <h1 className="text-[19px] font-semibold tracking-tight">Shelf</h1>
            <p className="text-faint">Drop photos or job files anywhere on this page.</p>
            <span className="grow" />
            <Link
              href="/help"
              className="inline-flex h-8 items-center gap-1.5 rounded-lg px-2.5 font-medium hover:bg-quiet"
            >
              <HelpCircle className="size-4" aria-hidden /> Help
            </Link>
            <Button tone="strong" onClick={dropzone.open}>
              <ImagePlus className="size-4" aria-hidden /> Open photos
            </Button>
            <input {...dropzone.getInputProps({ accept, 'aria-label': 'Photos or job files' })} />
          </header>

          <div aria-live="polite" className="px-6">
            {busy && <p className="mt-4 rounded-lg bg-mended-soft px-3 py-2">{busy}</p>}
            {lines.map((line) => (
              <p
                key={line.key}
                role={line.warning ? 'alert' : undefined}
                className={`mt-3 flex items-center gap-3 rounded-lg px-3 py-2 ${line.warning ? 'bg-warn-soft' : 'bg-quiet'}`}
              >
                <span className="grow">{line.text}</span>
                {line.undo && (
                  <Button
                    tone="strong"
                    onClick={() => {
                      line.undo?.();
                      setLines((old) => old.filter((l) => l.key !== line.key));
                    }}
                  >
                    Undo delete
                  </Button>
                )}
                <Button tone="quiet" onClick={() => setLines((old) => old.filter((l) => l.key !== line.key))}>
                  Dismiss
                </Button>
              </p>
            ))}
          </div>

          <section aria-labelledby="jobs" className="px-6 pt-6">
            <h2 id="jobs" className="mb-3 font-semibold">
              Jobs <span className="font-normal text-faint">{rows?.length ?? ''}</span>
            </h2>
            {rows?.length === 0 && (
              <div className="flex flex-col items-start gap-3 rounded-xl border border-dashed border-[#b5b5b5] p-8">
                <p className="max-w-prose text-[14px]">
                  No jobs yet. A job is one photo with all the work on it; the photo itself is never written
                  to. JPEG, PNG, WebP and AVIF up to 60 megapixels can be opened.
                </p>
                <Button onClick={dropzone.open}>
                  <FolderOpen className="size-4" aria-hidden /> Choose photos
                </Button>
              </div>
            )}
            <ul className="grid grid-cols-[repeat(auto-fill,minmax(270px,1fr))] gap-4">
              {rows?.map((row) => (
                <JobCard
                  key={row.id}
                  row={row}
                  changed={formatDistanceToNow(row.updatedAt, { addSuffix: true })}
                  onRename={(title) => void store.rename(row.id, title)}
                  onDuplicate={async () => {
                    try {
                      await store.duplicate(row.id, newId, Date.now());
                    } catch (error) {
                      say({
                        text: `${row.job.title} was not duplicated: ${messageOf(error)}`,
                        warning: true,
                      });
                    }
                  }}
                  onDelete={() => void remove(row.id, row.job.title)}
                  store={store}
                  onProblem={(text) => say({ text, warning: true })}
                />
              ))}
            </ul>
            {deleted && deleted.length > 0 && (
              <details className="mt-5 text-faint">
                <summary className="w-fit cursor-pointer rounded">
                  Deleted in the last day ({deleted.length})
                </summary>
                <ul className="mt-2 space-y-1">
                  {deleted.map((row) => (
                    <li key={row.id} className="flex items-center gap-2">
                      {row.job.title}
                      <Button onClick={() => void store.setDeleted(row.id, null)}>Bring back</Button>
                    </li>
                  ))}
                </ul>
              </details>
            )}
          </section>

          <DemoShelf onOpen={(demo) => void takeDemo(demo)} disabled={busy !== null} />
          {dropzone.isDragActive && (
            <div className="pointer-events-none fixed inset-3 rounded-2xl border-2 border-dashed border-mended bg-mended-soft/60" />
          )}
        </main>
      </div>
    </Tooltip.Provider>
  );
}
