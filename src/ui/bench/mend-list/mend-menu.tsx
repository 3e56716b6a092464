'use client';
import { Copy, Eye, EyeOff, MoreHorizontal, Trash2 } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { memo } from 'react';
import { changeMend, type Mend, placeMend } from '../../../core/job';
import { useBench, useSession } from '../use-session';

const item =
  'flex h-8 cursor-pointer items-center gap-2 rounded-md px-2 outline-none data-highlighted:bg-quiet';

/** What else can be done with a mend of the list. */
export const MendMenu = memo(function MendMenu({ mend }: { mend: Mend }) {
  const session = useSession();
  return (
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
          <Elsewhere mendId={mend.id} />
          <DropdownMenu.Item className={`${item} text-warn`} onSelect={() => session.mending.remove(mend.id)}>
            <Trash2 className="size-4" aria-hidden /> Delete
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
});

/** Other layers that it may go to. */
function Elsewhere({ mendId }: { mendId: string }) {
  const session = useSession();
  const layers = useBench((s) => s.job?.layers) ?? [];
  return layers
    .filter(({ mends }) => mends.every((m) => m.id !== mendId))
    .map((other) => (
      <DropdownMenu.Item
        key={other.id}
        className={item}
        onSelect={() =>
          session.run({ ...placeMend(mendId, other.id, other.mends.length), label: 'move to layer' })
        }
      >
        Move to {other.name}
      </DropdownMenu.Item>
    ));
}
