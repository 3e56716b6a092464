'use client';
import {
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { SortableContext, sortableKeyboardCoordinates, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { Lock, Plus, Search } from 'lucide-react';
import { useDeferredValue, useState } from 'react';
import { findMend, placeMend } from '../../../core/job';
import { IconButton } from '../../controls/icon-button';
import { useBench, useSession } from '../use-session';
import { AreaList } from './area-list';
import { LayerHead } from './layer-head';
import { MendRow } from './mend-row';

/** All layers and their mends, the topmost first, as they lie over the photo. */
export function MendList() {
  const session = useSession();
  // A long list takes a while to draw: a stroke that was just painted is not to wait for it.
  const job = useDeferredValue(useBench((s) => s.job));
  const readOnly = useBench((s) => s.readOnly);
  const [query, setQuery] = useState<string | null>(null);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  if (!job) return null;
  const wanted = (name: string) => !query || name.toLowerCase().includes(query.toLowerCase());
  const drop = ({ active, over }: DragEndEvent) => {
    const from = findMend(job, String(active.id));
    const to = over ? findMend(job, String(over.id)) : null;
    if (!from || !to || active.id === over?.id) return;
    session.run(placeMend(String(active.id), to.layer.id, to.mendIndex));
  };
  return (
    <div className="pb-6">
      <div className="flex h-10 items-center gap-1 border-b border-line pr-1 pl-3">
        <h2 className="grow font-semibold">Mends</h2>
        <IconButton
          label="Search mends"
          pressed={query !== null}
          onClick={() => setQuery(query === null ? '' : null)}
        >
          <Search className="size-4" aria-hidden />
        </IconButton>
        <IconButton label="Add layer" disabled={readOnly} onClick={() => session.addLayer()}>
          <Plus className="size-4" aria-hidden />
        </IconButton>
      </div>
      {query !== null && (
        <input
          aria-label="Search mends by name"
          placeholder="Name of a mend"
          value={query}
          onChange={(e) => setQuery(e.target.value)}
          className="m-2 h-8 w-[calc(100%-16px)] rounded-lg bg-white px-2 ring-1 ring-line"
        />
      )}
      <DndContext id="mends" sensors={sensors} onDragEnd={drop}>
        {job.layers.map((_, reverse) => {
          const index = job.layers.length - 1 - reverse;
          const layer = job.layers[index];
          const shown = layer.mends.filter((m) => wanted(m.name)).reverse();
          return (
            <section key={layer.id} aria-label={layer.name} className="border-b border-line">
              <LayerHead layer={layer} index={index} count={job.layers.length} />
              <SortableContext items={shown.map((m) => m.id)} strategy={verticalListSortingStrategy}>
                <ul>
                  {shown.map((mend) => (
                    <MendRow key={mend.id} mend={mend} visible={layer.visible} />
                  ))}
                </ul>
              </SortableContext>
            </section>
          );
        })}
      </DndContext>
      <AreaList />
      <div className="flex h-9 items-center gap-2 border-b border-line px-3 text-faint">
        <Lock className="size-4" aria-hidden /> Photo
        <span className="grow text-right whitespace-nowrap">
          {job.photo.width} × {job.photo.height}
        </span>
      </div>
    </div>
  );
}
