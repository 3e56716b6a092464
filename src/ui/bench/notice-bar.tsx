'use client';
import { AlertTriangle, X } from 'lucide-react';
import { useEffect } from 'react';
import { Button } from '../controls/button';
import { useBench, useSession } from './use-session';

/** Says what happened, or why nothing did, and offers what would help. */
export function NoticeBar() {
  const session = useSession();
  const notice = useBench((s) => s.notice);
  const keepFailed = useBench((s) => s.keepFailed);
  const laying = useBench((s) => s.laying !== null);
  useEffect(() => {
    if (!notice) return;
    const timer = setTimeout(
      () => session.state.notice?.id === notice.id && session.set({ notice: null }),
      9000,
    );
    return () => clearTimeout(timer);
  }, [notice, session]);
  return (
    <div
      className={`pointer-events-none absolute inset-x-0 z-20 flex flex-col items-center gap-2 px-3 ${laying ? 'top-16' : 'top-3'}`}
    >
      {keepFailed && (
        <div
          role="alert"
          className="pointer-events-auto flex max-w-xl items-center gap-3 rounded-xl bg-warn-soft px-3 py-2 shadow-lg"
        >
          <AlertTriangle className="size-4 shrink-0 text-warn" aria-hidden />
          <span>{keepFailed} Your last changes live only in this tab until they are kept.</span>
          <Button tone="strong" onClick={() => session.keepAgain()}>
            Try again
          </Button>
        </div>
      )}
      <div aria-live="polite">
        {notice && (
          <div
            className={`pointer-events-auto flex max-w-xl items-center gap-2 rounded-xl px-3 py-2 shadow-lg ${notice.tone === 'warning' ? 'bg-warn-soft' : 'bg-sheet'}`}
          >
            {notice.tone === 'warning' && <AlertTriangle className="size-4 shrink-0 text-warn" aria-hidden />}
            <span>{notice.text}</span>
            {notice.action && (
              <Button
                tone="strong"
                onClick={() => {
                  notice.action?.run();
                  session.set({ notice: null });
                }}
              >
                {notice.action.label}
              </Button>
            )}
            <button
              type="button"
              aria-label="Dismiss"
              className="grid size-7 place-items-center rounded-lg hover:bg-black/5"
              onClick={() => session.set({ notice: null })}
            >
              <X className="size-4" aria-hidden />
            </button>
          </div>
        )}
      </div>
    </div>
  );
}
