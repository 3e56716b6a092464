'use client';
import { Switch } from 'radix-ui';
import { useId } from 'react';

/** Something that is on or off. */
export function SwitchRow({
  label,
  on,
  disabled,
  onSet,
}: {
  label: string;
  on: boolean;
  disabled?: boolean;
  onSet: (on: boolean) => void;
}) {
  const id = useId();
  return (
    <div className="flex h-8 items-center gap-2 py-0.5">
      <label htmlFor={id} className="grow text-faint">
        {label}
      </label>
      <Switch.Root
        id={id}
        checked={on}
        disabled={disabled}
        onCheckedChange={onSet}
        className="h-5 w-9 rounded-full bg-[#c9c9c9] p-0.5 data-[state=checked]:bg-mended disabled:opacity-40"
      >
        <Switch.Thumb className="block size-4 rounded-full bg-white shadow transition-transform data-[state=checked]:translate-x-4" />
      </Switch.Root>
    </div>
  );
}
