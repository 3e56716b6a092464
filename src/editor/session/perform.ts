import { changeMend, findMend } from '../../core/job';
import type { Effect, Grip } from '../tools/gesture';
import { dragged, dragLabel } from './move-mend';
import type { Session } from './session';

/** Does what a tool's gesture asks for. @param atMs  when the pointer was there */
export function perform(session: Session, effect: Effect, atMs: number): void {
  switch (effect.kind) {
    case 'pick-source':
      session.painting.pick(effect.at);
      return;
    case 'no-brush':
      session.painting.tellNoBrush();
      return;
    case 'begin-stroke':
      session.painting.begin(effect.point, effect.shift, effect.alt);
      return;
    case 'extend-stroke':
      session.painting.extend(effect.points, atMs);
      return;
    case 'end-stroke':
      session.begin(session.painting.end());
      return;
    case 'cancel-stroke':
      session.begin(session.painting.cancel());
      return;
    case 'show-shape':
      session.set({ drawing: effect.shape });
      return;
    case 'mark':
      session.marking.add(effect.shape, effect.shift);
      return;
    case 'show-line':
      session.set({ drawnLine: effect.line });
      return;
    case 'line':
      session.steering.addLine(effect.line);
      return;
    case 'pull-begin':
      session.finding.pullBegin(effect.at, effect.op);
      return;
    case 'pull':
      session.finding.pullTo(effect.dx);
      return;
    case 'pull-end':
      session.finding.pullEnd();
      return;
    case 'pull-cancel':
      session.finding.pullCancel();
      return;
    case 'click':
      session.finding.click(effect.at, effect.op);
      return;
    case 'choose':
      session.set({ chosen: effect.mendId });
      return;
    case 'drag':
      dragTo(session, effect.grip, effect.dx, effect.dy);
      return;
    case 'undrag':
      session.patching.cancel();
      session.steering.undragNext();
      return;
    case 'drop':
      dropAt(session, effect.grip, effect.dx, effect.dy);
      return;
  }
}

function dragTo(session: Session, grip: Grip, dx: number, dy: number): void {
  if (grip.kind === 'mark') return session.patching.drag(dx, dy);
  if (grip.mendId === null) return session.steering.dragNext(grip, dx, dy, false);
  const job = session.base ?? session.state.job;
  const mend = job && findMend(job, grip.mendId)?.mend;
  if (!mend) return;
  const changes = dragged(mend, grip, dx, dy);
  session.show(changeMend(mend.id, dragLabel(grip.kind), changes));
  if (grip.kind === 'source' || grip.kind === 'turn') session.scout.watch({ ...mend, ...changes });
}

function dropAt(session: Session, grip: Grip, dx: number, dy: number): void {
  if (grip.kind === 'mark') return session.patching.drop(dx, dy);
  if (grip.mendId === null) return session.steering.dragNext(grip, dx, dy, true);
  session.scout.rest();
  const mend = session.base && findMend(session.base, grip.mendId)?.mend;
  if (mend) session.mending.change(mend.id, dragLabel(grip.kind), dragged(mend, grip, dx, dy));
}
