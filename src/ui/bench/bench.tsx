'use client';
import Link from 'next/link';
import { Tooltip } from 'radix-ui';
import { useState } from 'react';
import { Card } from './card/card';
import { HeadStrip } from './head-strip';
import { MendList } from './mend-list/mend-list';
import { NoticeBar } from './notice-bar';
import { OfferBar } from './offer-bar';
import { PhotoView } from './photo-view';
import { SideSheet } from './side-sheet';
import { ToolRail } from './tool-rail';
import { TryoutsDialog } from './tryouts/tryouts';
import { SessionProvider, useBench } from './use-session';
import { useShortcuts } from './use-shortcuts';

export function Bench({ jobId }: { jobId: string }) {
  return (
    <Tooltip.Provider delayDuration={500}>
      <SessionProvider key={jobId} jobId={jobId}>
        <Layout />
      </SessionProvider>
    </Tooltip.Provider>
  );
}

export type SheetName = 'mends' | 'card' | null;

function Layout() {
  const status = useBench((s) => s.status);
  const [sheet, setSheet] = useState<SheetName>(null);
  useShortcuts();
  if (status.is === 'failed')
    return (
      <main className="grid h-full place-items-center p-6">
        <div className="max-w-md space-y-3">
          <h1 className="text-[17px] font-semibold">This job cannot be opened</h1>
          <p>{status.message}</p>
          <Link href="/" className="inline-block rounded-lg bg-ink px-3 py-2 font-medium text-white">
            Back to the shelf
          </Link>
        </div>
      </main>
    );
  return (
    <div className="flex h-dvh flex-col overflow-hidden select-none">
      <HeadStrip onSheet={setSheet} />
      <div className="flex min-h-0 grow">
        <aside
          aria-label="Mends"
          className="hidden w-[232px] shrink-0 overflow-y-auto border-r border-line min-[900px]:block"
        >
          <MendList />
        </aside>
        <main className="relative min-w-0 grow">
          <PhotoView />
          <OfferBar />
          <NoticeBar />
        </main>
        <aside
          aria-label="Card"
          className="hidden w-[268px] shrink-0 overflow-y-auto border-l border-line min-[900px]:block"
        >
          <Card />
        </aside>
      </div>
      <ToolRail />
      <TryoutsDialog />
      <SideSheet title="Mends" open={sheet === 'mends'} onClose={() => setSheet(null)}>
        <MendList />
      </SideSheet>
      <SideSheet title="Card" open={sheet === 'card'} onClose={() => setSheet(null)}>
        <Card />
      </SideSheet>
    </div>
  );
}
