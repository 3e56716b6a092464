import { InvariantError, messageOf } from '../../core/errors';
import type { PlanePoint } from '../../core/geometry';
import { findMend, type Mend, type TryPixels } from '../../core/job';
import { buffersOf, type FillStage } from '../../core/methods/fill/compute';
import type { CoarseAnswer } from '../../core/methods/fill/first-answer';
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

/** What came of a fill that was computed. */
export interface Filled {
  /** The plane on which it was seen to lie, and filled; null: none was seen, or it was said how to draw. */
  readonly seenPlane: readonly PlanePoint[] | null;
}

type OnProgress = (stage: FillStage, share: number, coarse?: CoarseAnswer) => void;

/** Computes tries in the pool, with progress, any number side by side. A cancelled or failed one leaves its mend with
 *  its area, to be tried again. */
export class Fills {
  private readonly running = new Map<string, AbortController>();

  constructor(
    private readonly pool: WorkerPool,
    private readonly host: FillHost,
  ) {}

  /** Computes the chosen try of a mend. @returns null when it was cancelled or failed */
  async compute(mendId: string): Promise<Filled | null> {
    const { host } = this;
    const job = host.state().job;
    const mend = job ? findMend(job, mendId)?.mend : null;
    if (!job || !mend?.chosenTry) throw new InvariantError(`There is nothing to compute for ${mendId}.`);
    this.running.get(mendId)?.abort();
    const abort = new AbortController();
    this.running.set(mendId, abort);
    const startedAtMs = Date.now();
    let filled: Filled | null = null;
    this.report(mendId, { stage: 'waiting', share: 0, startedAtMs });
    try {
      const onProgress: OnProgress = (stage, share, coarse) => {
        if (abort.signal.aborted) return;
        const before = host.state().tasks[mendId]?.coarse;
        this.report(mendId, { stage, share, startedAtMs, coarse: before });
        if (coarse) void this.showCoarse(mendId, coarse, abort.signal);
      };
      filled = await this.work(mend, mend.chosenTry, abort.signal, onProgress);
    } catch (error) {
      host.warn(`${mend.name} could not be computed: ${messageOf(error)}`);
    } finally {
      if (this.running.get(mendId) === abort) {
        this.running.delete(mendId);
        // What it was until now holds no longer; what it is, out of date for instance, is asked at once.
        const { [mendId]: _, ...others } = host.state().mendStates;
        if (filled) host.set({ mendStates: others });
        this.report(mendId, null);
        host.pixelsChanged();
      }
    }
    return filled;
  }

  /** Computes a try that need not be the chosen one, unless its pixels are there already.
   *  @returns whether it is there now: not when it was cancelled */
  async computeTry(
    mend: Mend,
    tryId: string,
    signal: AbortSignal,
    onShare: (share: number) => void,
  ): Promise<boolean> {
    const held = await this.host.engine().call('heldTries', { ids: [tryId] });
    if (held.includes(tryId)) return true;
    const stages: readonly FillStage[] = ['reading', 'searching', 'joining', 'blending'];
    const filled = await this.work(mend, tryId, signal, (stage, share) =>
      onShare((stages.indexOf(stage) + share) / stages.length),
    );
    return filled !== null;
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

  private async work(
    mend: Mend,
    tryId: string,
    signal: AbortSignal,
    report: OnProgress,
  ): Promise<Filled | null> {
    const { host } = this;
    const { job } = host.state();
    if (!job) return null;
    const { input, inputKey } = await host.engine().call('fillInput', { mend, tryId });
    const reply = await this.pool.run(
      'fill',
      { input, depth: job.photo.depth },
      {
        signal,
        transfer: buffersOf(input),
        onProgress: ({ stage, share, coarse }) => report(stage, share, coarse),
      },
    );
    if (reply === cancelled || signal.aborted) return null;
    const pixels: TryPixels = { tryId, ...reply.rect, data: reply.data, inputKey };
    host.keep(job.id, pixels);
    await host.engine().call('addPixels', { tries: [pixels], masks: [] });
    return { seenPlane: reply.seenPlane };
  }

  private async showCoarse(
    mendId: string,
    { rect, w, h, data }: CoarseAnswer,
    signal: AbortSignal,
  ): Promise<void> {
    const picture = await createImageBitmap(new ImageData(data, w, h));
    const task = this.host.state().tasks[mendId];
    if (task && !signal.aborted) this.report(mendId, { ...task, coarse: { rect, picture } });
  }

  private report(mendId: string, task: Task | null): void {
    const tasks = { ...this.host.state().tasks };
    if (task) tasks[mendId] = task;
    else delete tasks[mendId];
    this.host.set({ tasks });
  }
}
