'use client';
import { createContext, type ReactNode, useContext, useEffect, useState } from 'react';
import { useStore } from 'zustand';
import { Session, type SessionState } from '../../editor';
import { JobStore } from '../../runtime/storage';

const SessionContext = createContext<Session | null>(null);

export function useSession(): Session {
  const session = useContext(SessionContext);
  if (!session) throw new Error('There is no session here.');
  return session;
}

/** A part of the session's state; the component is drawn again only when that part changes. */
export function useBench<T>(select: (state: SessionState) => T): T {
  return useStore(useSession().store, select);
}

/** Opens the job for as long as the page shows it. */
export function SessionProvider({ jobId, children }: { jobId: string; children: ReactNode }) {
  const [session, setSession] = useState<Session | null>(null);
  useEffect(() => {
    const made = new Session(jobId, new JobStore());
    setSession(made);
    void made.open();
    // For tests and benchmarks, which ask when all pixels are on the screen.
    (window as unknown as { bench?: Session }).bench = made;
    const warn = (event: BeforeUnloadEvent) => {
      if (made.unkept) event.preventDefault();
    };
    window.addEventListener('beforeunload', warn);
    return () => {
      window.removeEventListener('beforeunload', warn);
      made.close();
    };
  }, [jobId]);
  return session && <SessionContext value={session}>{children}</SessionContext>;
}
