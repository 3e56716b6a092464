'use client';
import { useEffect, useState } from 'react';
import type { DemoCard } from './demo-card';

/** The jobs that ship, to try things on. Opening one takes a copy onto the shelf. */
export function DemoShelf({ onOpen, disabled }: { onOpen: (demo: DemoCard) => void; disabled: boolean }) {
  const [demos, setDemos] = useState<DemoCard[] | null>(null);
  const [failed, setFailed] = useState(false);
  useEffect(() => {
    let live = true;
    fetch('/api/demo')
      .then((reply) => reply.json())
      .then((cards: DemoCard[]) => live && setDemos(cards))
      .catch(() => live && setFailed(true));
    return () => {
      live = false;
    };
  }, []);
  return (
    <section aria-labelledby="demo" className="px-6 pt-8">
      <h2 id="demo" className="font-semibold">
        Demo jobs
      </h2>
      <p className="mb-3 text-faint">
        Made-up photographs of a cider orchard and its brochure. Opening one puts a copy on your shelf.
      </p>
      {failed && <p role="alert">The demo jobs could not be listed: the server did not answer.</p>}
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(270px,1fr))] gap-4">
        {demos?.map((demo) => (
          <li key={demo.id} className="overflow-hidden rounded-xl border border-line bg-sheet">
            <button
              type="button"
              disabled={disabled}
              onClick={() => onOpen(demo)}
              className="block w-full text-left hover:bg-quiet disabled:opacity-60"
            >
              <span className="relative grid aspect-[3/1] grid-cols-2 gap-px bg-line">
                <img src={`/api/demo/${demo.id}/before.jpg`} alt="" className="size-full object-cover" />
                <img src={`/api/demo/${demo.id}/after.jpg`} alt="" className="size-full object-cover" />
              </span>
              <span className="block p-3">
                <span className="flex items-baseline gap-2">
                  <span className="text-[14px] font-semibold">{demo.title}</span>
                  <span className="text-faint">
                    {demo.mends === 0 ? 'untouched' : `${demo.mends} mends`} · {demo.width} × {demo.height}
                  </span>
                </span>
                <span className="mt-1 block text-faint">Asked for: {demo.asked}</span>
              </span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
