import type { ButtonHTMLAttributes, ReactNode } from 'react';

type Tone = 'plain' | 'strong' | 'quiet' | 'warn';

const tones: Record<Tone, string> = {
  plain: 'bg-quiet hover:bg-[#d9d9d9]',
  strong: 'bg-ink text-white hover:bg-black',
  quiet: 'hover:bg-quiet',
  warn: 'bg-warn-soft text-warn hover:bg-[#f6d2cc]',
};

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  tone?: Tone;
  children: ReactNode;
}

export function Button({ tone = 'plain', className = '', children, ...rest }: Props) {
  return (
    <button
      type="button"
      className={`inline-flex h-8 shrink-0 items-center justify-center gap-1.5 rounded-lg px-2.5 font-medium whitespace-nowrap disabled:opacity-40 ${tones[tone]} ${className}`}
      {...rest}
    >
      {children}
    </button>
  );
}
