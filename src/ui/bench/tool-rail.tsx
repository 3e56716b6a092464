'use client';
import { X } from 'lucide-react';
import { methodIds } from '../../core/job';
import { methods } from '../../core/methods';
import { IconButton } from '../controls/icon-button';
import { SelectRow } from '../controls/select-row';
import { SliderRow } from '../controls/slider-row';
import { ReadsRow } from './reads-row';
import { markTools, methodIcons, methodKeys } from './tool-icons';
import { useBench, useSession } from './use-session';

const cell =
  'relative flex h-14 w-[50px] shrink-0 flex-col items-center justify-center gap-1 rounded-lg text-[11.5px]';

/** First how to mark, then how to mend; the brush beside them. */
export function ToolRail() {
  const session = useSession();
  const markTool = useBench((s) => s.markTool);
  const method = useBench((s) => s.method);
  const mark = useBench((s) => s.mark);
  const readOnly = useBench((s) => s.readOnly);
  return (
    <footer className="flex shrink-0 items-center gap-x-1 overflow-x-auto border-t border-line bg-sheet px-3 py-1.5">
      <div role="toolbar" aria-label="Mark" className="flex gap-0.5">
        {markTools.map(({ id, title, key, says, icon: Icon }) => (
          <button
            key={id}
            type="button"
            title={`${says} (${key})`}
            aria-pressed={markTool === id}
            aria-keyshortcuts={key}
            disabled={readOnly && id !== 'choose'}
            onClick={() =>
              session.set(id === 'choose' ? { markTool: id, method: null, laying: null } : { markTool: id })
            }
            className={`${cell} disabled:opacity-40 ${markTool === id ? 'bg-ink text-white' : 'hover:bg-quiet'}`}
          >
            <Icon className="size-[18px]" aria-hidden />
            {title}
            <kbd className="absolute top-0.5 right-1 font-sans text-[10px] opacity-70">{key}</kbd>
          </button>
        ))}
      </div>
      <span className="h-10 w-px shrink-0 bg-line" aria-hidden />
      <div role="toolbar" aria-label="Mend" className="flex gap-0.5">
        {methodIds.map((id) => {
          const Icon = methodIcons[id];
          return (
            <button
              key={id}
              type="button"
              title={`${methods[id].says} (${methodKeys[id]})`}
              aria-pressed={method === id}
              aria-keyshortcuts={methodKeys[id]}
              disabled={readOnly}
              onClick={() => session.pickMethod(method === id && !mark ? null : id)}
              className={`${cell} disabled:opacity-40 ${method === id ? 'bg-mended text-white' : mark ? 'bg-mended-soft text-mended' : 'hover:bg-quiet'}`}
            >
              <Icon className="size-[18px]" aria-hidden />
              {methods[id].title}
              <kbd className="absolute top-0.5 right-1 font-sans text-[10px] opacity-70">
                {methodKeys[id]}
              </kbd>
            </button>
          );
        })}
      </div>
      {mark && (
        <IconButton label="Clear mark" hint="Escape" onClick={() => session.marking.clear()}>
          <X className="size-4" aria-hidden />
        </IconButton>
      )}
      <span className="h-10 w-px shrink-0 bg-line" aria-hidden />
      <BrushSettings />
    </footer>
  );
}

function BrushSettings() {
  const session = useSession();
  const next = useBench((s) => s.next);
  const method = useBench((s) => s.method);
  const takes = method === 'clone' || method === 'heal';
  return (
    <div className="grid min-w-[372px] shrink-0 grid-cols-2 gap-x-2">
      <SliderRow
        label="Size"
        value={next.sizePx}
        min={1}
        max={2000}
        unit="px"
        curved
        onShow={(sizePx) => session.setNext({ sizePx })}
        onSet={(sizePx) => session.setNext({ sizePx })}
      />
      <ReadsRow reads={next.reads} onSet={(reads) => session.setNext({ reads })} />
      <SliderRow
        label="Softness"
        value={Math.round((1 - next.hardness) * 100)}
        min={0}
        max={100}
        unit="%"
        onSet={(v) => session.setNext({ hardness: 1 - v / 100 })}
      />
      <SelectRow
        label="Source"
        value={next.keepsDistance ? 'keep' : 'afresh'}
        disabled={!takes}
        options={[
          { value: 'keep', label: 'keeps its distance' },
          { value: 'afresh', label: 'afresh each stroke' },
        ]}
        onSet={(v) => session.setNext({ keepsDistance: v === 'keep' })}
      />
    </div>
  );
}
