'use client';
import { format } from 'date-fns';
import { ArrowLeft, HelpCircle, Layers, PanelRight, Redo2, Undo2 } from 'lucide-react';
import Link from 'next/link';
import { ToggleGroup } from 'radix-ui';
import { renameJob } from '../../core/job';
import type { Compare } from '../../editor';
import { Button } from '../controls/button';
import { IconButton } from '../controls/icon-button';
import { Rename } from '../controls/rename';
import type { SheetName } from './bench';
import { ExportDialog } from './export-dialog';
import { useBench, useSession } from './use-session';

const group = 'flex h-8 shrink-0 rounded-lg bg-quiet p-0.5';
const option =
  'rounded-md px-2.5 font-medium hover:bg-white/60 data-[state=on]:bg-white data-[state=on]:shadow-sm';

export function HeadStrip({ onSheet }: { onSheet: (sheet: SheetName) => void }) {
  const session = useSession();
  const title = useBench((s) => s.job?.title ?? '');
  const readOnly = useBench((s) => s.readOnly);
  const keptAtMs = useBench((s) => s.keptAtMs);
  const keepFailed = useBench((s) => s.keepFailed);
  const undoLabel = useBench((s) => s.history.entries[s.history.cursor - 1]?.label);
  const redoLabel = useBench((s) => s.history.entries[s.history.cursor]?.label);
  return (
    <header className="flex h-11 shrink-0 items-center gap-2 overflow-x-auto border-b border-line bg-sheet px-3">
      <Link
        href="/"
        className="flex h-8 shrink-0 items-center gap-1.5 rounded-lg px-2 font-medium hover:bg-quiet"
      >
        <ArrowLeft className="size-4" aria-hidden /> Shelf
      </Link>
      <h1 className="min-w-0 shrink truncate text-[14px] font-semibold max-[900px]:hidden">
        <Rename
          name={title}
          label="Job name"
          disabled={readOnly}
          onRename={(name) => session.run(renameJob(name))}
          className="max-w-[220px]"
        />
      </h1>
      <span className="shrink-0 text-faint max-[1100px]:hidden" data-testid="kept">
        {keepFailed ? 'not kept' : keptAtMs ? `kept ${format(keptAtMs, 'HH:mm')}` : 'keeping …'}
      </span>
      <span className="grow" />
      <button
        type="button"
        disabled={!undoLabel || readOnly}
        onClick={() => session.undo()}
        className="flex h-8 max-w-44 shrink-0 items-center gap-1.5 rounded-lg px-2 hover:bg-quiet disabled:opacity-40"
      >
        <Undo2 className="size-4 shrink-0" aria-hidden />
        <span className="truncate">
          <span className="max-[640px]:sr-only">Undo</span>{' '}
          <span className="text-faint max-[1100px]:sr-only">{undoLabel}</span>
        </span>
      </button>
      <IconButton
        label={redoLabel ? `Redo ${redoLabel}` : 'Redo'}
        hint="Ctrl + Shift + Z"
        disabled={!redoLabel || readOnly}
        onClick={() => session.redo()}
      >
        <Redo2 className="size-4" aria-hidden />
      </IconButton>
      <ZoomGroup />
      <CompareGroup />
      <IconButton label="Mends" className="min-[900px]:hidden" onClick={() => onSheet('mends')}>
        <Layers className="size-4" aria-hidden />
      </IconButton>
      <IconButton label="Card" className="min-[900px]:hidden" onClick={() => onSheet('card')}>
        <PanelRight className="size-4" aria-hidden />
      </IconButton>
      <Link
        href="/help"
        target="_blank"
        aria-label="Help"
        className="grid size-8 shrink-0 place-items-center rounded-lg hover:bg-quiet max-[640px]:hidden"
      >
        <HelpCircle className="size-4" aria-hidden />
      </Link>
      <ExportDialog>
        <Button tone="strong">Export</Button>
      </ExportDialog>
    </header>
  );
}

function ZoomGroup() {
  const session = useSession();
  const zoom = useBench((s) => s.zoom);
  const percent = zoom * 100;
  return (
    <div className={`${group} items-center max-[640px]:hidden`}>
      <button type="button" className={option} onClick={() => session.view?.fit()}>
        Fit
      </button>
      <button
        type="button"
        className={option}
        data-state={zoom === 1 ? 'on' : 'off'}
        onClick={() => session.view?.zoomTo(1)}
      >
        1:1
      </button>
      <output aria-label="Zoom" className="w-14 px-1 text-center">
        {percent >= 10 ? Math.round(percent) : percent.toFixed(1)} %
      </output>
    </div>
  );
}

function CompareGroup() {
  const session = useSession();
  const compare = useBench((s) => s.compare);
  const flipped = useBench((s) => s.flipped);
  return (
    <div className="flex shrink-0 items-center gap-1">
      <button
        type="button"
        aria-pressed={flipped}
        title="Hold: before (.)"
        className={`h-8 rounded-lg px-2.5 font-medium ${flipped ? 'bg-ink text-white' : 'bg-quiet hover:bg-[#d9d9d9]'}`}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          session.set({ flipped: true });
        }}
        onPointerUp={() => session.set({ flipped: false })}
        onPointerCancel={() => session.set({ flipped: false })}
        onKeyDown={(e) => e.key === 'Enter' && session.set({ flipped: !flipped })}
      >
        Flip
      </button>
      <ToggleGroup.Root
        type="single"
        aria-label="Compare"
        value={compare}
        onValueChange={(value) => session.set({ compare: (value || 'none') as Compare })}
        className={group}
      >
        <ToggleGroup.Item value="wipe" className={option} title="Wipe (,)">
          Wipe
        </ToggleGroup.Item>
        <ToggleGroup.Item value="pair" className={option} title="Pair (/)">
          Pair
        </ToggleGroup.Item>
      </ToggleGroup.Root>
    </div>
  );
}
