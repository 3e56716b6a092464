import type { Area, Shape } from '../../core/area';
import { addMends, type Mend } from '../../core/job';
import { type Fault, faultsAt, type SweepOptions } from '../../core/marking/sweep/fault';
import { newMend } from './new-mend';
import type { Session } from './session';
import type { SweepPlan } from './state';

/** Sweeps for small faults: finds them, lets them be accepted or refused, and mends those that were accepted. */
export class Sweeping {
  private round = 0;

  constructor(private readonly session: Session) {}

  /** Begins on the whole photo, or within what is marked. */
  open(): void {
    const { session } = this;
    const { mark } = session.state;
    session.set({
      sweep: {
        options: { mostPx: 12, light: true, dark: true },
        within: mark,
        sensitivity: 50,
        all: [],
        faults: [],
        refused: new Set(),
        pointed: null,
        exaggerated: false,
        share: 0,
      },
      chosen: null,
    });
    session.begin(this.search());
  }

  close(): void {
    this.stop();
    this.session.set({ sweep: null });
  }

  private change(changes: Partial<SweepPlan>): void {
    const { sweep } = this.session.state;
    if (sweep) this.session.set({ sweep: { ...sweep, ...changes } });
  }

  setOptions(options: Partial<SweepOptions>): void {
    const { sweep } = this.session.state;
    if (!sweep) return;
    this.change({ options: { ...sweep.options, ...options } });
    this.session.begin(this.search());
  }

  /** Lists more of what was found, or less, at once; what was refused stays so. */
  setSensitivity(sensitivity: number): void {
    const { sweep } = this.session.state;
    if (sweep) this.change({ sensitivity, faults: faultsAt(sweep.all, sensitivity), pointed: null });
  }

  private async search(): Promise<void> {
    const { session } = this;
    const { sweep } = session.state;
    if (!sweep) return;
    const round = ++this.round;
    const { options, within } = sweep;
    this.change({ share: 0 });
    try {
      const all = await session.engine.call(
        'sweep',
        { options, within },
        { onProgress: ({ share }) => round === this.round && this.change({ share }) },
      );
      if (round === this.round) this.take(all);
    } finally {
      if (round === this.round) this.change({ share: null });
    }
  }

  /** What was refused before and is found again stays refused. */
  private take(all: readonly Fault[]): void {
    const { sweep } = this.session.state;
    if (!sweep) return;
    const keyOf = ({ x, y, w, h, isDark }: Fault) => [x, y, w, h, isDark].join();
    const before = new Set([...sweep.refused].map((i) => keyOf(sweep.all[i])));
    const refused = new Set([...all.keys()].filter((i) => before.has(keyOf(all[i]))));
    this.change({ all, faults: faultsAt(all, sweep.sensitivity), refused, pointed: null });
  }

  exaggerate(exaggerated: boolean): void {
    this.change({ exaggerated });
  }

  point(index: number | null): void {
    this.change({ pointed: index });
  }

  /** Refuses a fault, or accepts it again. */
  toggle(index: number): void {
    const { sweep } = this.session.state;
    if (!sweep) return;
    const refused = new Set(sweep.refused);
    if (!refused.delete(index)) refused.add(index);
    this.change({ refused });
  }

  all(accepted: boolean): void {
    const { sweep } = this.session.state;
    if (sweep) this.change({ refused: new Set(accepted ? [] : sweep.faults.keys()) });
  }

  goTo(fault: Fault): void {
    this.session.view?.show({ x: fault.x, y: fault.y, w: fault.w, h: fault.h });
  }

  /** Makes a tap of every accepted fault, all in one step. */
  async mend(): Promise<void> {
    const { session } = this;
    const { sweep, job, activeLayer, next } = session.state;
    if (!sweep || !job || !activeLayer || !session.mayWrite()) return;
    const accepted = sweep.faults.filter((_, i) => !sweep.refused.has(i));
    if (accepted.length === 0) {
      session.notify('All of them are refused: there is nothing to mend.');
      return;
    }
    const round = ++this.round;
    const mends: Mend[] = [];
    let without = 0;
    try {
      for (const [i, fault] of accepted.entries()) {
        this.change({ share: i / accepted.length });
        const area: Area = { shapes: [this.shapeOf(fault)], marginPx: 3, featherPx: 2 };
        const made = newMend(job, 'tap', area, null, { ...next, opacity: 1, blend: 'normal' });
        const mend = { ...made, name: `${fault.isDark ? 'Dark' : 'Light'} ${fault.kind} ${i + 1}` };
        const source = await session.mending.findSource(mend);
        // Cancelled, or the panel was left.
        if (round !== this.round) return;
        if (source) mends.push({ ...mend, source });
        else without++;
      }
    } finally {
      if (round === this.round) this.change({ share: null });
    }
    const many = mends.length === 1 ? 'one fault' : `${mends.length} faults`;
    if (mends.length > 0 && session.run(addMends(activeLayer, mends, `sweep ${many}`))) {
      this.close();
      session.notify(
        without > 0
          ? `Mended ${many}. For ${without} no place nearby would serve.`
          : `Mended ${many}, in one step.`,
      );
    }
  }

  stop(): void {
    this.round++;
    this.session.tell('stopSweep', null);
    this.change({ share: null });
  }

  /** A speck as an oval, a line by its pixels. */
  private shapeOf({ kind, mask, x, y, w, h }: Fault): Shape {
    if (kind === 'speck') return { kind: 'ellipse', op: 'add', x: x - 1, y: y - 1, w: w + 2, h: h + 2 };
    return { kind: 'mask', op: 'add', x, y, w, h, maskId: this.session.holdMask(mask) };
  }
}
