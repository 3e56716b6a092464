'use client';
import { useSortable } from '@dnd-kit/sortable';
import { type MouseEvent, memo } from 'react';
import { changeMend, type Mend } from '../../../core/job';
import { methods } from '../../../core/methods';
import type { Session } from '../../../editor';
import { Rename } from '../../controls/rename';
import { StateBadge } from '../state-badge';
import { useBench, useSession } from '../use-session';
import { MendMenu } from './mend-menu';
import { MendThumb } from './mend-thumb';

interface Props {
  mend: Mend;
  /** Whether its layer is. */
  visible: boolean;
}

/** A mend in the list. Sorting draws every row anew whenever one comes or goes, so that what a row holds is kept apart. */
export const MendRow = memo(function MendRow({ mend, visible }: Props) {
  const session = useSession();
  const chosen = useBench((s) => s.chosen === mend.id);
  const picked = useBench((s) => s.picked.includes(mend.id));
  const choose = (e: MouseEvent) => chooseMend(session, mend.id, e);
  const hovered = useBench((s) => s.hovered === mend.id);
  const readOnly = useBench((s) => s.readOnly);
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({
    id: mend.id,
    disabled: readOnly,
  });
  return (
    <li
      ref={setNodeRef}
      style={{ transform: transform ? `translateY(${transform.y}px)` : undefined, transition }}
      className={`relative flex items-center gap-2 py-1.5 pr-1 pl-3 ${chosen ? 'bg-mended-soft shadow-[inset_3px_0_0_var(--color-mended)]' : picked ? 'bg-mended-soft' : hovered ? 'bg-quiet' : ''} ${isDragging ? 'z-10 bg-white shadow-lg' : '[contain-intrinsic-size:auto_46px] [content-visibility:auto]'} ${mend.visible ? '' : 'text-faint'}`}
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
      <MendText mend={mend} visible={visible} />
      <MendMenu mend={mend} />
    </li>
  );
});

const chooseMend = (session: Session, mendId: string, { shiftKey }: MouseEvent) =>
  shiftKey ? session.mending.pick(mendId) : session.set({ chosen: mendId, picked: [] });

/** Name, method, tries and state. */
const MendText = memo(function MendText({ mend, visible }: Props) {
  const session = useSession();
  const readOnly = useBench((s) => s.readOnly);
  const tries =
    mend.tries.length > 1
      ? ` · try ${mend.tries.findIndex((t) => t.id === mend.chosenTry) + 1} of ${mend.tries.length}`
      : '';
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the picture beside it is the button; this widens its target
    // biome-ignore lint/a11y/useKeyWithClickEvents: the picture beside it is the button
    <div className="min-w-0 grow" onClick={(e) => chooseMend(session, mend.id, e)}>
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
        <StateBadge mendId={mend.id} visible={mend.visible && visible} />
      </span>
    </div>
  );
});
