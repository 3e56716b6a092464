'use client';
import { useEffect, useRef } from 'react';
import { View } from '../../editor';
import { HandBar } from './hand-bar';
import { LayingBar } from './laying-bar';
import { TwinLoupe } from './twin-loupe';
import { useBench, useSession } from './use-session';

export function PhotoView() {
  const session = useSession();
  const canvas = useRef<HTMLCanvasElement>(null);
  const bar = useRef<HTMLDivElement>(null);
  const opening = useBench((s) => s.status.is === 'opening' && s.job === null);
  const title = useBench((s) => s.job?.title ?? 'Photo');
  const compare = useBench((s) => s.compare);
  const flipped = useBench((s) => s.flipped);
  const readOnly = useBench((s) => s.readOnly);
  useEffect(() => {
    if (!canvas.current) return;
    const view = new View(session, canvas.current, () => bar.current);
    return () => view.close();
  }, [session]);
  const label = flipped
    ? 'before'
    : compare === 'pair'
      ? 'before, and after'
      : compare === 'wipe'
        ? 'before, then after'
        : '';
  return (
    <>
      <canvas
        ref={canvas}
        tabIndex={0}
        aria-label={`${title}${label ? `, ${label}` : ''}. Space and drag to pan, + and − to zoom.`}
        role="img"
        className="absolute inset-0 size-full touch-none"
      />
      {compare === 'wipe' && !flipped && <WipeHandle />}
      {compare === 'pair' && (
        <>
          <span className="pointer-events-none absolute top-2 left-2 rounded bg-white/90 px-1.5">before</span>
          <span className="pointer-events-none absolute top-2 left-[calc(50%+8px)] rounded bg-white/90 px-1.5">
            after
          </span>
        </>
      )}
      {flipped && (
        <span className="pointer-events-none absolute top-2 left-2 rounded bg-white/90 px-1.5 font-medium">
          before
        </span>
      )}
      {readOnly && (
        <p
          role="status"
          className="absolute top-2 left-1/2 -translate-x-1/2 rounded-lg bg-warn-soft px-3 py-1.5 font-medium text-warn shadow"
        >
          Open in another tab: here it can only be looked at. Close it there and reload to go on here.
        </p>
      )}
      <HandBar bar={bar} />
      <LayingBar />
      <TwinLoupe />
      {opening && <p className="absolute inset-0 grid place-items-center text-[14px]">Opening …</p>}
    </>
  );
}

function WipeHandle() {
  const session = useSession();
  const line = useRef<HTMLDivElement>(null);
  const place = (at: number) => {
    session.view?.wipe(at);
    if (line.current) line.current.style.left = `${at * 100}%`;
    line.current?.setAttribute('aria-valuenow', String(Math.round(at * 100)));
  };
  useEffect(() => {
    if (line.current) line.current.style.left = `${(session.view?.wipeAt ?? 0.5) * 100}%`;
  }, [session]);
  return (
    <div
      ref={line}
      role="slider"
      tabIndex={0}
      aria-label="Divider between before and after"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={50}
      className="absolute inset-y-0 -ml-3 w-6 cursor-ew-resize touch-none"
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={(e) => {
        if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
        const box = e.currentTarget.parentElement!.getBoundingClientRect();
        place(Math.min(1, Math.max(0, (e.clientX - box.left) / box.width)));
      }}
      onKeyDown={(e) => {
        const step = e.key === 'ArrowLeft' ? -0.02 : e.key === 'ArrowRight' ? 0.02 : 0;
        if (!step) return;
        e.preventDefault();
        e.stopPropagation();
        place(Math.min(1, Math.max(0, (session.view?.wipeAt ?? 0.5) + step)));
      }}
    >
      <span className="absolute inset-y-0 left-1/2 w-0.5 -translate-x-1/2 bg-white shadow-[0_0_0_1px_rgba(0,0,0,0.5)]" />
      <span className="absolute top-1/2 left-1/2 flex -translate-x-1/2 -translate-y-1/2 gap-2 rounded-full bg-white px-2 py-1 text-[11px] shadow">
        <span>before</span>
        <span>after</span>
      </span>
    </div>
  );
}
