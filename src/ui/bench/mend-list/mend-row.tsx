'use client';
import { useSortable } from '@dnd-kit/sortable';
import { Copy, Eye, EyeOff, MoreHorizontal, Trash2 } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { type MouseEvent, memo } from 'react';
import { changeMend, type Layer, type Mend, placeMend } from '../../../core/job';
import { methods } from '../../../core/methods';
import { Rename } from '../../controls/rename';
import { StateBadge } from '../state-badge';
import { useBench, useSession } from '../use-session';
import { MendThumb } from './mend-thumb';

const item =
  'flex h-8 cursor-pointer items-center gap-2 rounded-md px-2 outline-none data-highlighted:bg-quiet';

interface Props {
  mend: Mend;
  layer: Layer;
  others: readonly { id: string; name: string; count: number }[];
}

export const MendRow = memo(function MendRow({ mend, layer, others }: Props) {
  const session = useSession();
  const chosen = useBench((s) => s.chosen === mend.id);
  const picked = useBench((s) => s.picked.includes(mend.id));
  const choose = (e: MouseEvent) =>
    e.shiftKey ? session.mending.pick(mend.id) : session.set({ chosen: mend.id, picked: [] });
  const hovered = useBench((s) => s.hovered === mend.id);
  const readOnly = useBench((s) => s.readOnly);
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({
    id: mend.id,
    disabled: readOnly,
  });
  const tries =
    mend.tries.length > 1
      ? ` · try ${mend.tries.findIndex((t) => t.id === mend.chosenTry) + 1} of ${mend.tries.length}`
      : '';
  return (
    <li
      ref={setNodeRef}
      style={{ transform: transform ? `translateY(${transform.y}px)` : undefined, transition }}
      className={`relative flex items-center gap-2 py-1.5 pr-1 pl-3 ${chosen ? 'bg-mended-soft shadow-[inset_3px_0_0_var(--color-mended)]' : picked ? 'bg-mended-soft' : hovered ? 'bg-quiet' : ''} ${isDragging ? 'z-10 bg-white shadow-lg' : ''} ${mend.visible ? '' : 'text-faint'}`}
      onPointerEnter={() => session.set({ hovered: mend.id })}
      onPointerLeave={() => session.set({ hovered: null })}
    >
      <button
        type="button"
        {...attributes}
        {...listeners}
        aria-label={`Choose ${mend.name}; drag to reorder`}
        aria-pressed={chosen || picked}
        className="flex rounded-md"
        onClick={choose}
        onDoubleClick={() => session.view?.goTo(mend.id)}
      >
        <MendThumb mend={mend} />
      </button>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the picture beside it is the button; this widens its target */}
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: the picture beside it is the button */}
      <div className="min-w-0 grow" onClick={choose}>
        <Rename
          name={mend.name}
          label="Mend name"
          disabled={readOnly}
          className="block w-full font-semibold"
          onRename={(name) => session.run(changeMend(mend.id, 'rename mend', { name }))}
        />
        <span className="flex flex-wrap items-center gap-x-1 text-[12px] text-faint">
          {methods[mend.method].title}
          {tries}
          <StateBadge mendId={mend.id} visible={mend.visible && layer.visible} />
        </span>
      </div>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          aria-label={`More for ${mend.name}`}
          className="grid size-7 shrink-0 place-items-center rounded-lg hover:bg-black/5"
        >
          <MoreHorizontal className="size-4" aria-hidden />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="end"
            className="z-40 w-48 rounded-xl border border-line bg-sheet p-1 shadow-xl"
          >
            <DropdownMenu.Item
              className={item}
              onSelect={() =>
                session.run(
                  changeMend(mend.id, mend.visible ? 'hide mend' : 'show mend', { visible: !mend.visible }),
                )
              }
            >
              {mend.visible ? (
                <EyeOff className="size-4" aria-hidden />
              ) : (
                <Eye className="size-4" aria-hidden />
              )}
              {mend.visible ? 'Hide' : 'Show'}
            </DropdownMenu.Item>
            <DropdownMenu.Item className={item} onSelect={() => session.mending.duplicate(mend.id)}>
              <Copy className="size-4" aria-hidden /> Duplicate
            </DropdownMenu.Item>
            {others.map((other) => (
              <DropdownMenu.Item
                key={other.id}
                className={item}
                onSelect={() =>
                  session.run({ ...placeMend(mend.id, other.id, other.count), label: 'move to layer' })
                }
              >
                Move to {other.name}
              </DropdownMenu.Item>
            ))}
            <DropdownMenu.Item
              className={`${item} text-warn`}
              onSelect={() => session.mending.remove(mend.id)}
            >
              <Trash2 className="size-4" aria-hidden /> Delete
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </li>
  );
});
