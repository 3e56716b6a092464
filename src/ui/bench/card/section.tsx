import type { ReactNode } from 'react';

/** One part of the card. */
export function Section({
  title,
  aside,
  children,
}: {
  title: string;
  aside?: ReactNode;
  children: ReactNode;
}) {
  return (
    <section className="border-b border-line px-3 py-2.5">
      <div className="mb-1 flex items-baseline">
        <h3 className="grow font-semibold">{title}</h3>
        {aside && <span className="text-faint">{aside}</span>}
      </div>
      {children}
    </section>
  );
}
