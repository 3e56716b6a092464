'use client';
import { useState } from 'react';

interface Props {
  name: string;
  label: string;
  className?: string;
  disabled?: boolean;
  onRename: (name: string) => void;
}

/** A name that turns into a field on double click or Enter. */
export function Rename({ name, label, className = '', disabled, onRename }: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  if (typed === null)
    return (
      <button
        type="button"
        disabled={disabled}
        className={`min-w-0 truncate rounded text-left ${className}`}
        title="Double-click to rename"
        onDoubleClick={() => setTyped(name)}
        onKeyDown={(e) => {
          if (e.key === 'F2') setTyped(name);
        }}
      >
        {name}
      </button>
    );
  const end = (keep: boolean) => {
    const trimmed = typed.trim();
    setTyped(null);
    if (keep && trimmed && trimmed !== name) onRename(trimmed.slice(0, 200));
  };
  return (
    <input
      // biome-ignore lint/a11y/noAutofocus: the field appears because its name was just double-clicked
      autoFocus
      aria-label={label}
      value={typed}
      maxLength={200}
      className={`min-w-0 rounded bg-white px-1 ring-1 ring-ink ${className}`}
      onChange={(e) => setTyped(e.target.value)}
      onFocus={(e) => e.target.select()}
      onBlur={() => end(true)}
      onKeyDown={(e) => {
        if (e.key === 'Enter') end(true);
        if (e.key === 'Escape') end(false);
        e.stopPropagation();
      }}
    />
  );
}
