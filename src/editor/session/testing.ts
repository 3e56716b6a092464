import { createStore } from 'zustand/vanilla';
import type { Area } from '../../core/area';
import { type Command, changeMend, changeZones, type Mend, transact } from '../../core/job';
import { areaOfShapes, boxShape, jobOf, layerOf } from '../../core/testing/jobs';
import { noisePhoto } from '../../core/testing/pictures';
import { newMend } from './new-mend';
import type { Session } from './session';
import { initialState, type SessionState, withMarkSettled, withNoticeInPlace } from './state';

/** What a stand-in's engine answers, by name of the call. */
export type Answers = Record<string, (request: never) => unknown>;

/** A session without screen, store or worker, for tests of the classes that hang on one: it changes a job of 100 × 80 pixels,
 *  answers for its engine, and remembers what it was told to say and do. */
export function standIn(answers: Answers, state: Partial<SessionState> = {}) {
  const job = jobOf(noisePhoto(100, 80), [layerOf([])]);
  const store = createStore<SessionState>(() => ({
    ...initialState,
    job,
    activeLayer: job.layers[0].id,
    ...state,
  }));
  const said: string[] = [];
  let offered: { label: string; run: () => void } | null = null;
  const done: string[] = [];
  const begun: Promise<unknown>[] = [];
  let held = 0;
  const session = {
    store,
    get state() {
      return store.getState();
    },
    set: (changes: Partial<SessionState>) => {
      const before = store.getState();
      store.setState(withNoticeInPlace(before, withMarkSettled(before, changes)));
    },
    setNext: (changes: object) => store.setState({ next: { ...store.getState().next, ...changes } }),
    isOpen: true,
    mayWrite: () => true,
    masks: new Map(),
    holdMask: () => `held-${++held}`,
    notify: (text: string, _tone?: string, action?: typeof offered) => {
      said.push(text);
      offered = action ?? null;
    },
    begin: (work: Promise<unknown>) => begun.push(work.catch(() => {})),
    run: (command: Command) => {
      const after = transact(store.getState().job!, command);
      if (after) store.setState({ job: after.job });
      done.push(command.label);
      return after !== null;
    },
    mendOf: (id: string) => store.getState().job!.layers[0].mends.find((m) => m.id === id) ?? null,
    engine: {
      call: async (name: string, request: never, options?: { onProgress(p: { share: number }): void }) => {
        options?.onProgress({ share: 0.5 });
        return (await answers[name]?.(request)) ?? null;
      },
    },
    tell: (name: string, request: never) => void answers[name]?.(request),
    quiet: { strokeEnded: () => {}, comes: () => new Promise((rested) => setTimeout(rested, 20)) },
    finding: { isPreview: false, settled: async () => {} },
    advice: {
      leavingOut: async (mend: Mend) => answers.leavingOut?.(mend as never) ?? mend,
      tellOfFill: () => {},
    },
    mending: {
      mendFor: (method: Mend['method'], area: Mend['area'], next: SessionState['next']) =>
        newMend(store.getState().job!, method, area, null, next),
      refreshFill: (id: string) => done.push(`fill again ${session.mendOf(id)?.name}`),
      findSource: async (mend: Mend) => answers.findSource?.(mend as never) ?? { dx: 20, dy: 0 },
    },
    fills: { compute: async (id: string) => done.push(`fill ${session.mendOf(id)?.name}`) },
    marking: {
      clear: () => store.setState({ mark: null }),
      mended: () => store.setState({ mark: null }),
      mendNow: (method: string) => done.push(`mend by ${method}`),
    },
    islands: { find: async () => done.push('find islands') },
    steering: {
      begin: ({ what }: { what: string }) => done.push(`lay ${what}`),
      offerStops: async (mend: Mend, isWanted: () => boolean) => {
        await answers.likelyStops?.(mend as never);
        if (isWanted()) done.push(`offer stops for ${mend.name}`);
      },
      placeNextPlane: (onPhoto: unknown = null) =>
        done.push(onPhoto ? `place plane at ${JSON.stringify(onPhoto)}` : 'place plane'),
      setPlane: (mendId: string, plane: Mend['steer']['plane']) => {
        const mend = session.mendOf(mendId)!;
        session.run(changeMend(mendId, 'place plane', { steer: { ...mend.steer, plane } }));
      },
      zoneOf: (what: 'allow' | 'avoid', mendId: string | null) =>
        mendId ? session.mendOf(mendId)?.steer[what] : store.getState().job!.zones[what],
      setZone: (what: 'allow' | 'avoid', mendId: string | null, area: Area) => {
        const label = `draw ${what} zone`;
        const mend = mendId && session.mendOf(mendId);
        if (mend) session.run(changeMend(mend.id, label, { steer: { ...mend.steer, [what]: area } }));
        else session.run(changeZones(label, { [what]: area }));
      },
    },
    view: null,
  };
  return {
    session: session as unknown as Session,
    said,
    /** What the last thing said offers to do. */
    offered: () => offered,
    done,
    mends: () => store.getState().job!.layers[0].mends,
    /** Until all that was begun has ended, failures too. */
    settled: async () => {
      while (begun.length > 0) await begun.shift();
    },
  };
}

/** A square area that begins so far to the right. */
export const areaAt = (x: number): Area => areaOfShapes([boxShape(x, 10, 20, 20)]);

/** A square of pixels that something found is made of. */
export const piece = (x: number, y: number, side = 4) => ({
  x,
  y,
  w: side,
  h: side,
  mask: { w: side, h: side, data: new Uint8Array(side * side).fill(255) },
});
