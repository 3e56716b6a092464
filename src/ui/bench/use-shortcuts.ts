'use client';
import { useEffect } from 'react';
import { tinykeys } from 'tinykeys';
import { changeMend, methodIds } from '../../core/job';
import { type Session, takesFrom } from '../../editor';
import { markTools, methodKeys, slotKeys } from './tool-icons';
import { useSession } from './use-session';

/** Keys that a slider needs for itself; all others work while one has the focus. */
const sliderKeys = /^(Arrow|Home|End|Page)/;

/** True when the key belongs to what has the focus: text, a choice, a menu, a dialog, or a slider's own keys. */
function inField(e: KeyboardEvent): boolean {
  if (!(e.target instanceof HTMLElement)) return false;
  if (e.target.closest('input, textarea, select, [role=menu], [role=dialog]')) return true;
  return sliderKeys.test(e.key) && e.target.closest('[role=slider], [role=radio]') !== null;
}

function nudge(session: Session, e: KeyboardEvent, x: number, y: number): void {
  if (!session.state.chosen) return;
  e.preventDefault();
  const by = e.shiftKey ? 10 : 1;
  session.nudging.by(e.altKey ? 'source' : 'mend', x * by, y * by);
}

/** Whether the keys for a source act on the brush's, not on the chosen mend's. */
const onBrush = (session: Session): boolean => takesFrom(session.state.method);

function turnSource(session: Session, byDeg: number, by: number): void {
  const turned = ({ turnDeg = 0, scale = 1 }: { turnDeg?: number; scale?: number }) => {
    const deg = ((((turnDeg + byDeg + 180) % 360) + 360) % 360) - 180;
    return { turnDeg: deg, scale: Math.round(Math.min(10, Math.max(0.1, scale * by)) * 1000) / 1000 };
  };
  if (onBrush(session)) {
    session.painting.setBrush(turned(session.painting.brush));
    return;
  }
  const mend = session.state.chosen ? session.mendOf(session.state.chosen) : null;
  if (mend?.source)
    session.run(
      changeMend(mend.id, byDeg ? 'turn source' : 'scale source', {
        source: { ...mend.source, ...turned(mend.source) },
      }),
    );
}

function mirrorSource(session: Session): void {
  if (onBrush(session)) {
    session.painting.setBrush({ mirror: !session.painting.brush.mirror });
    return;
  }
  const mend = session.state.chosen ? session.mendOf(session.state.chosen) : null;
  if (mend?.source)
    session.run(
      changeMend(mend.id, 'mirror source', { source: { ...mend.source, mirror: !mend.source.mirror } }),
    );
}

function resizeBrush(session: Session, e: KeyboardEvent, up: boolean): void {
  const { sizePx, hardness } = session.state.next;
  if (e.shiftKey) {
    session.setNext({
      hardness: Math.min(1, Math.max(0, Number((hardness + (up ? 0.1 : -0.1)).toFixed(2)))),
    });
    return;
  }
  const step = sizePx < 20 ? 1 : sizePx < 100 ? 5 : sizePx < 400 ? 20 : 100;
  session.setNext({ sizePx: Math.min(2000, Math.max(1, sizePx + (up ? step : -step))) });
}

/** Room round what is marked, or round the chosen mend. */
function resizeMargin(session: Session, by: number): void {
  const { mark, chosen, next } = session.state;
  const within = (v: number) => Math.min(500, Math.max(-500, v + by));
  if (mark) {
    session.setNext({ marginPx: within(mark.marginPx) });
    session.marking.adjust({ marginPx: within(mark.marginPx) });
    return;
  }
  const mend = chosen ? session.mendOf(chosen) : null;
  if (mend)
    session.mending.change(mend.id, 'margin', {
      area: { ...mend.area, marginPx: within(mend.area.marginPx) },
    });
  else session.setNext({ marginPx: within(next.marginPx) });
}

function stepBack(session: Session): void {
  if (session.view?.pointers.cancelGesture()) return;
  const { mark, method, compare, chosen, laying } = session.state;
  if (laying) session.steering.done();
  else if (session.state.sweep) session.sweeping.close();
  else if (session.state.islands) session.islands.leave();
  else if (mark || session.state.spanClicks.length > 0) session.marking.clear();
  else if (compare !== 'none') session.set({ compare: 'none' });
  else if (method) session.set({ method: null, markTool: 'choose' });
  else if (chosen) session.set({ chosen: null });
}

function bindings(session: Session): Record<string, (e: KeyboardEvent) => void> {
  const free = (run: (e: KeyboardEvent) => void) => (e: KeyboardEvent) => {
    if (inField(e)) return;
    e.preventDefault();
    run(e);
  };
  const withChosen = (run: (mendId: string) => void) =>
    free(() => session.state.chosen && run(session.state.chosen));
  const map: Record<string, (e: KeyboardEvent) => void> = {
    '$mod+KeyZ': free(() => session.undo()),
    '$mod+Shift+KeyZ': free(() => session.redo()),
    '$mod+KeyY': free(() => session.redo()),
    '$mod+Digit0': free(() => session.view?.fit()),
    '$mod+Digit1': free(() => session.view?.zoomTo(1)),
    Escape: (e) => {
      // A dialog or menu that it has just closed has prevented the default, wherever the focus was.
      if (!e.defaultPrevented && !inField(e)) stepBack(session);
    },
    Enter: (e) => {
      if (!inField(e) && session.view?.pointers.finishGesture()) return;
      const { mark, method, reshaping, laying } = session.state;
      if (laying && !inField(e) && !(e.target as HTMLElement).closest?.('button, a')) {
        session.steering.done();
        return;
      }
      if (inField(e) || !mark || (e.target as HTMLElement).closest?.('button, a')) return;
      if (reshaping) {
        session.marking.keepShape();
        return;
      }
      session.marking.mendNow(method ?? 'fill');
    },
    Delete: withChosen((id) => session.mending.remove(id)),
    'Shift+KeyN': withChosen((id) => session.begin(session.tryouts.open(id))),
    'Shift+Digit2': free(() => session.mending.repeatFill()),
    'Shift+KeyI': free(() => turnSource(session, 0, 1.01)),
    'Shift+KeyP': free(() => session.marking.invert()),
    'Alt+BracketLeft': free(() => resizeMargin(session, -1)),
    'Alt+BracketRight': free(() => resizeMargin(session, 1)),
    'Alt+Shift+BracketLeft': free(() => resizeMargin(session, -10)),
    'Alt+Shift+BracketRight': free(() => resizeMargin(session, 10)),
    KeyP: free(() => session.begin(session.marking.keep())),
    KeyN: withChosen((id) => session.begin(session.mending.anotherTry(id))),
    KeyM: free(() => session.scout.toggleMap()),
    KeyB: withChosen((id) => session.begin(session.scout.takeBest(id))),
    KeyJ: free(() => turnSource(session, -5, 1)),
    KeyK: free(() => turnSource(session, 5, 1)),
    'Shift+KeyJ': free(() => turnSource(session, -1, 1)),
    'Shift+KeyK': free(() => turnSource(session, 1, 1)),
    KeyU: free(() => turnSource(session, 0, 1 / 1.05)),
    KeyI: free(() => turnSource(session, 0, 1.05)),
    'Shift+KeyU': free(() => turnSource(session, 0, 1 / 1.01)),
    KeyO: free(() => mirrorSource(session)),
    KeyH: withChosen((id) => {
      const mend = session.mendOf(id);
      if (mend)
        session.run(changeMend(id, mend.visible ? 'hide mend' : 'show mend', { visible: !mend.visible }));
    }),
  };
  for (const tool of markTools) {
    const code = /\d/.test(tool.key) ? `Digit${tool.key}` : `Key${tool.key}`;
    map[code] = free(() =>
      session.set(
        tool.id === 'choose' ? { markTool: tool.id, method: null, laying: null } : { markTool: tool.id },
      ),
    );
  }
  slotKeys.forEach((key, slot) => {
    map[`Key${key}`] = free(() => session.painting.takeSlot(slot));
  });
  for (const id of methodIds) map[`Digit${methodKeys[id]}`] = free(() => session.pickMethod(id));
  return map;
}

const toggle = (session: Session, compare: 'wipe' | 'pair'): void =>
  session.set({ compare: session.state.compare === compare ? 'none' : compare });

/** Keys that are known by the sign on them, wherever a keyboard has it. */
const bySign: Readonly<Record<string, (session: Session, e: KeyboardEvent) => void>> = {
  '+': (session) => session.view?.zoomBy(true),
  '=': (session) => session.view?.zoomBy(true),
  '-': (session) => session.view?.zoomBy(false),
  '−': (session) => session.view?.zoomBy(false),
  '[': (session, e) => resizeBrush(session, e, false),
  '{': (session, e) => resizeBrush(session, e, false),
  ']': (session, e) => resizeBrush(session, e, true),
  '}': (session, e) => resizeBrush(session, e, true),
  '.': (session) => {
    if (!session.state.flipped) session.set({ flipped: true });
  },
  ',': (session) => toggle(session, 'wipe'),
  '/': (session) => toggle(session, 'pair'),
  ';': (session) => session.set({ marksHidden: !session.state.marksHidden }),
  ArrowLeft: (session, e) => nudge(session, e, -1, 0),
  ArrowRight: (session, e) => nudge(session, e, 1, 0),
  ArrowUp: (session, e) => nudge(session, e, 0, -1),
  ArrowDown: (session, e) => nudge(session, e, 0, 1),
};

export function useShortcuts(): void {
  const session = useSession();
  useEffect(() => {
    const off = tinykeys(window, bindings(session));
    const down = (e: KeyboardEvent) => {
      // With Alt the brackets are for the margin.
      if (e.altKey && e.code.startsWith('Bracket')) return;
      if (!inField(e) && !e.ctrlKey && !e.metaKey && Object.hasOwn(bySign, e.key)) bySign[e.key](session, e);
    };
    const up = (e: KeyboardEvent) => {
      if (e.key === '.') session.set({ flipped: false });
    };
    window.addEventListener('keydown', down);
    window.addEventListener('keyup', up);
    return () => {
      off();
      window.removeEventListener('keydown', down);
      window.removeEventListener('keyup', up);
    };
  }, [session]);
}
