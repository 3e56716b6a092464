'use client';
import { Copy, Eye, EyeOff, Trash2 } from 'lucide-react';
import { memo } from 'react';
import { changeMend, type Mend, placeMend } from '../../../core/job';
import { MenuItem, MoreMenu } from '../../controls/more-menu';
import { useBench, useSession } from '../use-session';

/** What else can be done with a mend of the list. */
export const MendMenu = memo(function MendMenu({ mend }: { mend: Mend }) {
  const session = useSession();
  const { visible } = mend;
  const flip = () =>
    session.run(changeMend(mend.id, visible ? 'hide mend' : 'show mend', { visible: !visible }));
  return (
    <MoreMenu of={mend.name}>
      <MenuItem onSelect={flip}>
        {visible ? <EyeOff className="size-4" aria-hidden /> : <Eye className="size-4" aria-hidden />}
        {visible ? 'Hide' : 'Show'}
      </MenuItem>
      <MenuItem onSelect={() => session.mending.duplicate(mend.id)}>
        <Copy className="size-4" aria-hidden /> Duplicate
      </MenuItem>
      <Elsewhere mendId={mend.id} />
      <MenuItem tone="warn" onSelect={() => session.mending.remove(mend.id)}>
        <Trash2 className="size-4" aria-hidden /> Delete
      </MenuItem>
    </MoreMenu>
  );
});

/** Other layers that it may go to. Asks for them only while the menu is open. */
function Elsewhere({ mendId }: { mendId: string }) {
  const session = useSession();
  const layers = useBench((s) => s.job?.layers) ?? [];
  return layers
    .filter(({ mends }) => mends.every((m) => m.id !== mendId))
    .map(({ id, name, mends }) => (
      <MenuItem
        key={id}
        onSelect={() => session.run({ ...placeMend(mendId, id, mends.length), label: 'move to layer' })}
      >
        Move to {name}
      </MenuItem>
    ));
}
