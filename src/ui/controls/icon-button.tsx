import { Tooltip } from 'radix-ui';
import type { ButtonHTMLAttributes, ReactNode } from 'react';

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  /** What it does: the accessible name and the tip. */
  label: string;
  /** The key that does the same. */
  hint?: string;
  pressed?: boolean;
  children: ReactNode;
}

export function IconButton({ label, hint, pressed, className = '', children, ...rest }: Props) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>
        <button
          type="button"
          aria-label={label}
          aria-pressed={pressed}
          className={`inline-grid size-8 shrink-0 place-items-center rounded-lg disabled:opacity-35 ${pressed ? 'bg-ink text-white' : 'hover:bg-quiet'} ${className}`}
          {...rest}
        >
          {children}
        </button>
      </Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={6}
          className="z-50 rounded-md bg-ink px-2 py-1 text-[12px] text-white shadow-lg select-none"
        >
          {label}
          {hint && <span className="ml-2 text-white/70">{hint}</span>}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}
