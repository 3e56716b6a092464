'use client';
import { MoreHorizontal } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import type { ReactNode } from 'react';

/** What else can be done with something, behind three dots. @param of  its name */
export function MoreMenu({ of, children }: { of: string; children: ReactNode }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label={`More for ${of}`}
        className="grid size-7 shrink-0 place-items-center rounded-lg hover:bg-black/5"
      >
        <MoreHorizontal className="size-4" aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          className="z-40 w-48 rounded-xl border border-line bg-sheet p-1 shadow-xl"
        >
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

interface ItemProps {
  tone?: 'plain' | 'warn';
  onSelect: () => void;
  children: ReactNode;
}

export function MenuItem({ tone = 'plain', onSelect, children }: ItemProps) {
  return (
    <DropdownMenu.Item
      className={`flex h-8 cursor-pointer items-center gap-2 rounded-md px-2 outline-none data-highlighted:bg-quiet ${tone === 'warn' ? 'text-warn' : ''}`}
      onSelect={onSelect}
    >
      {children}
    </DropdownMenu.Item>
  );
}
