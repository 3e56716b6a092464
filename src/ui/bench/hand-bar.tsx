'use client';
import { ChevronDown, Eye, EyeOff, LayoutGrid, Shuffle, Trash2, X } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { type RefObject, useEffect, useState } from 'react';
import { changeMend, methodIds } from '../../core/job';
import { methods } from '../../core/methods';
import { Button } from '../controls/button';
import { IconButton } from '../controls/icon-button';
import { methodIcons } from './tool-icons';
import { useBench, useSession } from './use-session';

/** Beside the chosen mend on the photo: the few things done most. */
export function HandBar({ bar }: { bar: RefObject<HTMLDivElement | null> }) {
  const session = useSession();
  const chosen = useBench((s) => s.chosen);
  const mend = useBench((s) =>
    s.chosen ? s.job?.layers.flatMap((l) => l.mends).find((m) => m.id === s.chosen) : undefined,
  );
  const task = useBench((s) => (s.chosen ? s.tasks[s.chosen] : undefined));
  const hidden = useBench(
    (s) =>
      s.marksHidden ||
      s.flipped ||
      s.compare !== 'none' ||
      s.readOnly ||
      s.drawing !== null ||
      s.laying !== null,
  );
  const view = session.view;
  useEffect(() => {
    if (chosen) view?.invalidate();
  }, [chosen, view]);
  if (!mend || hidden) return null;
  const Icon = methodIcons[mend.method];
  return (
    <div
      ref={bar}
      role="toolbar"
      aria-label={`${mend.name}, on the photo`}
      className="absolute top-0 left-0 z-10 flex items-center gap-0.5 rounded-xl bg-sheet p-1 shadow-lg"
    >
      {task ? (
        <>
          <span className="px-2" role="status">
            {task.stage} · {Math.round(task.share * 100)} % · <Seconds since={task.startedAtMs} />
          </span>
          <Button tone="warn" onClick={() => session.fills.cancel(mend.id)}>
            <X className="size-4" aria-hidden /> Cancel
          </Button>
        </>
      ) : (
        <>
          <Button
            tone="quiet"
            title="Another try, or the next best source (N)"
            onClick={() => session.begin(session.mending.anotherTry(mend.id))}
          >
            <Shuffle className="size-4" aria-hidden /> Another
          </Button>
          <Button
            tone="quiet"
            title="Several candidates side by side (Shift + N)"
            onClick={() => session.begin(session.tryouts.open(mend.id))}
          >
            <LayoutGrid className="size-4" aria-hidden /> Tryouts
          </Button>
          <DropdownMenu.Root>
            <DropdownMenu.Trigger className="flex h-8 items-center gap-1.5 rounded-lg px-2.5 font-medium hover:bg-quiet">
              <Icon className="size-4" aria-hidden /> {methods[mend.method].title}{' '}
              <ChevronDown className="size-3.5" aria-hidden />
            </DropdownMenu.Trigger>
            <DropdownMenu.Portal>
              <DropdownMenu.Content className="z-40 w-72 rounded-xl border border-line bg-sheet p-1 shadow-xl">
                {methodIds.map((id) => (
                  <DropdownMenu.Item
                    key={id}
                    onSelect={() => session.begin(session.mending.switchMethod(mend.id, id))}
                    className="cursor-pointer rounded-md px-2 py-1.5 outline-none data-highlighted:bg-quiet"
                  >
                    <span className="block font-medium">{methods[id].title}</span>
                    <span className="block text-faint">{methods[id].says}</span>
                  </DropdownMenu.Item>
                ))}
              </DropdownMenu.Content>
            </DropdownMenu.Portal>
          </DropdownMenu.Root>
          <IconButton
            label={mend.visible ? 'Hide' : 'Show'}
            hint="H"
            onClick={() =>
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
          </IconButton>
          <IconButton label="Delete" hint="Delete" onClick={() => session.mending.remove(mend.id)}>
            <Trash2 className="size-4" aria-hidden />
          </IconButton>
        </>
      )}
    </div>
  );
}

function Seconds({ since }: { since: number }) {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 250);
    return () => clearInterval(timer);
  }, []);
  return <>{Math.max(0, (now - since) / 1000).toFixed(1)} s</>;
}
