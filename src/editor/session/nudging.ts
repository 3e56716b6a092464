import { changeMend, type Mend } from '../../core/job';
import { movedMend, movedSource } from './move-mend';
import type { Session } from './session';

/** Keys that follow each other within this are one gesture. */
const restMs = 400;

interface Burst {
  readonly mend: Mend;
  readonly what: 'mend' | 'source';
  readonly dx: number;
  readonly dy: number;
  readonly timer: ReturnType<typeof setTimeout>;
}

/** Moves the chosen mend or its source by keys. A burst of them, or one held down, is shown as it goes and done once: one step to take
 *  back, one further try of a fill. */
export class Nudging {
  private burst: Burst | null = null;

  constructor(private readonly session: Session) {}

  /** True while keys are shown that are not yet done. */
  get isOpen(): boolean {
    return this.burst !== null;
  }

  by(what: Burst['what'], dx: number, dy: number): void {
    const { chosen } = this.session.state;
    if (this.burst && (this.burst.mend.id !== chosen || this.burst.what !== what)) this.settle();
    const before = this.burst;
    const mend = before?.mend ?? (chosen ? this.session.mendOf(chosen) : null);
    if (!mend || !this.session.mayWrite()) return;
    if (what === 'source' && !mend.source) {
      this.session.notify('This mend takes from no place that is set, so there is no source to move.');
      return;
    }
    if (before) clearTimeout(before.timer);
    const next = { mend, what, dx: (before?.dx ?? 0) + dx, dy: (before?.dy ?? 0) + dy };
    // What is shown is none of the changes that end a burst.
    this.burst = null;
    this.session.show(changeMend(mend.id, labelOf(next), changesOf(next)));
    this.burst = { ...next, timer: setTimeout(() => this.settle(), restMs) };
  }

  /** Does what was shown, before anything else is done. */
  settle(): void {
    const { burst } = this;
    if (!burst) return;
    clearTimeout(burst.timer);
    this.burst = null;
    this.session.mending.change(burst.mend.id, labelOf(burst), changesOf(burst));
  }
}

const labelOf = ({ what }: Pick<Burst, 'what'>): string => `nudge ${what}`;

const changesOf = ({ mend, what, dx, dy }: Omit<Burst, 'timer'>): Partial<Omit<Mend, 'id'>> =>
  what === 'mend' ? movedMend(mend, dx, dy) : { source: movedSource(mend, dx, dy) };
