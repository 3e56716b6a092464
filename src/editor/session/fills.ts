import { InvariantError, messageOf } from '../../core/errors';
import { findMend, type Mend, type TryPixels } from '../../core/job';
import { buffersOf } from '../../core/methods/fill/compute';
import type { EngineProtocol } from '../../runtime/engine/protocol';
import { cancelled, type WorkerPool } from '../../runtime/pool/worker-pool';
import type { WorkerClient } from '../../runtime/rpc';
import type { SessionState, Task } from './state';

/** What fills need of the session. */
export interface FillHost {
  state(): SessionState;
  set(changes: Partial<SessionState>): void;
  engine(): WorkerClient<EngineProtocol>;
  keep(jobId: string, pixels: TryPixels): void;
  pixelsChanged(): void;
  warn(text: string, action?: { label: string; run: () => void }): void;
}

/** Computes tries in the pool, with progress, any number side by side. A cancelled or failed one leaves its mend with
 *  its area, to be tried again. */
export class Fills {
  private readonly running = new Map<string, AbortController>();

  constructor(
    private readonly pool: WorkerPool,
    private readonly host: FillHost,
  ) {}

  /** Computes the chosen try of a mend. */
  async compute(mendId: string): Promise<void> {
    const { host } = this;
    const job = host.state().job;
    const mend = job ? findMend(job, mendId)?.mend : null;
    if (!job || !mend?.chosenTry) throw new InvariantError(`There is nothing to compute for ${mendId}.`);
    this.running.get(mendId)?.abort();
    const abort = new AbortController();
    this.running.set(mendId, abort);
    this.report(mendId, { stage: 'waiting', share: 0, startedAtMs: Date.now() });
    try {
      const pixels = await this.work(mend, job.photo.depth, abort);
      if (pixels && !abort.signal.aborted) {
        host.keep(job.id, pixels);
        await host.engine().call('addPixels', { tries: [pixels], masks: [] });
      }
    } catch (error) {
      host.warn(`${mend.name} could not be computed: ${messageOf(error)}`);
    } finally {
      if (this.running.get(mendId) === abort) {
        this.running.delete(mendId);
        this.report(mendId, null);
        host.pixelsChanged();
      }
    }
  }

  cancel(mendId: string): void {
    const abort = this.running.get(mendId);
    if (!abort) return;
    abort.abort();
    this.running.delete(mendId);
    this.report(mendId, null);
    this.host.pixelsChanged();
  }

  cancelAll(): void {
    for (const id of [...this.running.keys()]) this.cancel(id);
  }

  private async work(mend: Mend, depth: 8 | 16, abort: AbortController): Promise<TryPixels | null> {
    const startedAtMs = Date.now();
    const tryId = mend.chosenTry;
    const { input, inputKey } = await this.host.engine().call('fillInput', { mend, tryId });
    const reply = await this.pool.run(
      'fill',
      { input, depth },
      {
        signal: abort.signal,
        transfer: buffersOf(input),
        onProgress: ({ stage, share }) => {
          if (!abort.signal.aborted) this.report(mend.id, { stage, share, startedAtMs });
        },
      },
    );
    if (reply === cancelled) return null;
    return { tryId: tryId!, ...reply.rect, data: reply.data, inputKey };
  }

  private report(mendId: string, task: Task | null): void {
    const tasks = { ...this.host.state().tasks };
    if (task) tasks[mendId] = task;
    else delete tasks[mendId];
    this.host.set({ tasks });
  }
}
