import type { Mask } from '../../core/area';
import { messageOf } from '../../core/errors';
import type { Job, Transaction, TryPixels } from '../../core/job';
import type { JobStore } from '../../runtime/storage';

type Write = () => Promise<void>;

/** Writes every change to the store, in order, one after the other. When the store refuses (a full disk), the writes are
 *  held back in order and tried again, so that nothing is lost as long as the tab lives. */
export class Keeper {
  private queue: Write[] = [];
  private busy = false;

  constructor(
    private readonly store: JobStore,
    private readonly onState: (state: { keptAtMs: number | null; keepFailed: string | null }) => void,
  ) {}

  commit(job: Job, transaction: Transaction, cursor: number): void {
    this.add(() => this.store.commit(job, transaction, cursor, Date.now()));
  }

  moveCursor(job: Job, cursor: number): void {
    this.add(() => this.store.moveCursor(job, cursor, Date.now()));
  }

  putTry(jobId: string, pixels: TryPixels): void {
    this.add(() => this.store.putTry(jobId, pixels));
  }

  putMask(jobId: string, maskId: string, mask: Mask): void {
    this.add(() => this.store.putMask(jobId, maskId, mask));
  }

  /** True while something is not yet kept. */
  get pending(): boolean {
    return this.queue.length > 0;
  }

  async retry(): Promise<void> {
    await this.work();
  }

  private add(write: Write): void {
    this.queue.push(write);
    this.onState({ keptAtMs: null, keepFailed: null });
    void this.work();
  }

  private async work(): Promise<void> {
    if (this.busy) return;
    this.busy = true;
    try {
      while (this.queue.length > 0) {
        await this.queue[0]();
        this.queue.shift();
      }
      this.onState({ keptAtMs: Date.now(), keepFailed: null });
    } catch (error) {
      this.onState({ keptAtMs: null, keepFailed: messageOf(error) });
    } finally {
      this.busy = false;
    }
  }
}
