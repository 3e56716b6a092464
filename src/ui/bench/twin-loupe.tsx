'use client';
import { useEffect, useRef, useState } from 'react';
import type { MatchFigures } from '../../core/match';
import { useBench, useSession } from './use-session';

const sidePx = 132;

/** Target and source side by side while a source is being set or moved, with how well they match. */
export function TwinLoupe() {
  const session = useSession();
  const shown = useBench(
    (s) =>
      s.compare === 'none' &&
      !s.flipped &&
      !s.laying &&
      (s.dragging !== null ||
        (s.markTool === 'paint' &&
          (s.method === 'clone' || s.method === 'heal') &&
          s.sources[s.slot].at !== null)),
  );
  if (!shown) return null;
  return <Panel key={session.jobId} />;
}

function Panel() {
  const session = useSession();
  const match = useBench((s) => s.match);
  const right = useBench((s) => s.loupeRight);
  // Before the brush is first over the photo there is nothing to see in it.
  const [isDrawn, setDrawn] = useState(false);
  const target = useRef<HTMLCanvasElement>(null);
  const source = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const { view } = session;
    if (!view || !target.current || !source.current) return;
    view.loupe = { target: target.current, source: source.current, drawn: () => setDrawn(true) };
    view.invalidate();
    return () => {
      view.loupe = null;
    };
  }, [session]);
  const ratio = globalThis.devicePixelRatio || 1;
  const canvas = 'block rounded';
  const size = { width: Math.round(sidePx * ratio), height: Math.round(sidePx * ratio) };
  const style = { width: sidePx, height: sidePx };
  return (
    <section
      aria-label="Target and source"
      className={`pointer-events-none absolute bottom-3 z-10 flex gap-2 rounded-xl bg-sheet p-2 shadow-lg ${right ? 'right-3' : 'left-3'} ${isDrawn ? '' : 'invisible'}`}
    >
      <figure>
        <figcaption className="mb-1 font-medium text-mended">Target</figcaption>
        <canvas ref={target} {...size} style={style} className={canvas} />
      </figure>
      <figure>
        <figcaption className="mb-1 font-medium text-source">Source</figcaption>
        <canvas ref={source} {...size} style={style} className={canvas} />
      </figure>
      <Figures match={match} />
    </section>
  );
}

/** From which values on a figure is seen by an attentive eye, and by any. */
const rows: readonly {
  key: keyof MatchFigures;
  label: string;
  seen: number;
  bad: number;
  says: (v: number) => string;
}[] = [
  { key: 'lightness', label: 'Lightness', seen: 1.5, bad: 4, says: (v) => (v > 0 ? 'lighter' : 'darker') },
  { key: 'colour', label: 'Colour', seen: 2, bad: 6, says: () => 'off' },
  { key: 'sharpness', label: 'Sharpness', seen: 0.35, bad: 0.9, says: (v) => (v > 0 ? 'sharper' : 'softer') },
  { key: 'grain', label: 'Grain', seen: 0.4, bad: 1, says: (v) => (v > 0 ? 'coarser' : 'finer') },
  { key: 'rim', label: 'Rim', seen: 10, bad: 30, says: () => 'uneven' },
];

function Figures({ match }: { match: MatchFigures | null }) {
  return (
    <dl className="w-[168px] self-center tabular-nums">
      {rows.map(({ key, label, seen, bad, says }) => {
        const v = match?.[key];
        const grade =
          v === undefined ? 'none' : Math.abs(v) < seen ? 'good' : Math.abs(v) < bad ? 'fair' : 'poor';
        return (
          <div key={key} className="grid grid-cols-[4.6rem_1fr] items-center gap-1 py-0.5">
            <dt className="text-faint">{label}</dt>
            <dd className={grade === 'poor' ? 'text-warn' : ''}>
              <span aria-hidden>{{ none: '', good: '● ', fair: '◐ ', poor: '○ ' }[grade]}</span>
              {v === undefined ? '–' : grade === 'good' ? 'fits' : `${says(v)} ${Math.abs(v).toFixed(1)}`}
            </dd>
          </div>
        );
      })}
    </dl>
  );
}
