'use client';
import type { Reads } from '../../core/job';
import { SelectRow } from '../controls/select-row';
import { SwitchRow } from '../controls/switch-row';
import { useBench } from './use-session';

/** What a mend sees of what lies below it. */
export function ReadsRow({ reads, onSet }: { reads: Reads; onSet: (reads: Reads) => void }) {
  return (
    <SelectRow
      label="Reads"
      value={reads}
      options={[
        { value: 'below', label: 'everything below' },
        { value: 'layer', label: 'this layer only' },
        { value: 'chosen', label: 'chosen layers' },
        { value: 'photo', label: 'the photo only' },
      ]}
      onSet={onSet}
    />
  );
}

/** Which layers it sees, the topmost first. */
export function ReadLayers({
  chosen,
  onSet,
}: {
  chosen: readonly string[];
  onSet: (layers: readonly string[]) => void;
}) {
  const layers = useBench((s) => s.job?.layers);
  return (
    <div role="group" aria-label="Layers that are read">
      {layers?.toReversed().map(({ id, name }) => (
        <SwitchRow
          key={id}
          label={name}
          on={chosen.includes(id)}
          onSet={(on) => onSet(on ? [...chosen, id] : chosen.filter((other) => other !== id))}
        />
      ))}
    </div>
  );
}
