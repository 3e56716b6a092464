'use client';
import { ChevronDown } from 'lucide-react';
import { useId } from 'react';

interface Props<T extends string> {
  label: string;
  value: T;
  options: readonly { value: T; label: string }[];
  disabled?: boolean;
  onSet: (value: T) => void;
}

/** A choice of a few words. The platform's own list, which every tablet and reader knows. */
export function SelectRow<T extends string>({ label, value, options, disabled, onSet }: Props<T>) {
  const id = useId();
  return (
    <div className="grid grid-cols-[4.9rem_1fr] items-center gap-2 py-0.5">
      <label htmlFor={id} className="text-faint">
        {label}
      </label>
      <span className="relative">
        <select
          id={id}
          disabled={disabled}
          value={value}
          onChange={(e) => onSet(e.target.value as T)}
          className="h-7 w-full appearance-none rounded-lg bg-quiet pr-7 pl-2 hover:bg-[#d9d9d9]"
        >
          {options.map((o) => (
            <option key={o.value} value={o.value}>
              {o.label}
            </option>
          ))}
        </select>
        <ChevronDown className="pointer-events-none absolute top-1.5 right-2 size-4" aria-hidden />
      </span>
    </div>
  );
}
