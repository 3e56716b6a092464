import { createStore, type StoreApi } from 'zustand/vanilla';
import type { Mask } from '../../core/area';
import { InvariantError, messageOf } from '../../core/errors';
import {
  addLayer,
  type Command,
  changeLayer,
  findMend,
  gainedUnseen,
  type Job,
  type Mend,
  type MethodId,
  maskIdsOf,
  record,
  redo,
  transact,
  undo,
} from '../../core/job';
import type { EngineProtocol } from '../../runtime/engine/protocol';
import { WorkerPool } from '../../runtime/pool/worker-pool';
import { WorkerClient } from '../../runtime/rpc';
import { JobLock, type JobStore, type OpenedJob } from '../../runtime/storage';
import { Advice } from './advice';
import { Fills } from './fills';
import { Finding } from './finding';
import { Islands } from './islands';
import { Keeper } from './keeper';
import { Looks } from './looks';
import { Marking } from './marking';
import { Mending } from './mending';
import { newId, newLayer } from './new-mend';
import { Nudging } from './nudging';
import { Painting } from './painting';
import { Patching } from './patching';
import { Pictures } from './pictures';
import { Quiet } from './quiet';
import { Scout } from './scout';
import { initialState, type NextMend, type SessionState, withMarkSettled, withNoticeInPlace } from './state';
import { Steering } from './steering';
import { Sweeping } from './sweeping';
import { Tryouts } from './tryouts';
import type { View } from './view';

const makeEngineWorker = () =>
  new Worker(new URL('../../runtime/engine/engine.worker.ts', import.meta.url), { type: 'module' });
const makePoolWorker = () =>
  new Worker(new URL('../../runtime/pool/pool.worker.ts', import.meta.url), { type: 'module' });

/** Once a job is open, the screen's tiles come first. */
const rehearsedAfterMs = 1500;

/** One job open on the bench: its state, and everything that can be done to it. */
export class Session {
  readonly store: StoreApi<SessionState> = createStore(() => initialState);
  readonly masks = new Map<string, Mask>();
  readonly fills: Fills;
  readonly marking = new Marking(this);
  readonly finding = new Finding(this);
  readonly advice = new Advice(this);
  readonly islands = new Islands(this);
  readonly sweeping = new Sweeping(this);
  readonly quiet = new Quiet(() => this.painting.isLive);
  readonly mending = new Mending(this);
  readonly nudging = new Nudging(this);
  readonly steering = new Steering(this);
  readonly tryouts = new Tryouts(this);
  readonly painting = new Painting(this);
  readonly patching = new Patching(this);
  readonly scout = new Scout(this);
  readonly looks = new Looks(this);
  readonly pictures = new Pictures(this);
  view: View | null = null;
  preview: ImageBitmap | null = null;
  private readonly heldMasks = new Set<string>();
  private readonly keeper: Keeper;
  private readonly pool = new WorkerPool(makePoolWorker);
  private client: WorkerClient<EngineProtocol> | null = null;
  /** It has the photo and the job. */
  private engineReady = false;
  private original: Blob | null = null;
  /** The job without the change that a slider is just showing. */
  base: Job | null = null;
  private readonly lock = new JobLock();
  private isClosed = false;
  private restTimer: ReturnType<typeof setTimeout> | null = null;
  private statesTimer: ReturnType<typeof setTimeout> | null = null;
  private restarts = 0;
  private begun = 0;
  levels = 1;

  constructor(
    readonly jobId: string,
    readonly jobs: JobStore,
  ) {
    this.keeper = new Keeper(jobs, (kept) => this.set(kept));
    this.fills = new Fills(this.pool, {
      state: () => this.state,
      set: (changes) => this.set(changes),
      engine: () => this.engine,
      keep: (jobId_, pixels) => this.keeper.putTry(jobId_, pixels),
      pixelsChanged: () => this.pixelsChanged(),
      warn: (text, action) => this.notify(text, 'warning', action),
    });
  }

  get state(): SessionState {
    return this.store.getState();
  }

  set(wanted: Partial<SessionState>): void {
    const changes = withNoticeInPlace(this.state, withMarkSettled(this.state, wanted));
    const chosenAnew = 'chosen' in changes && !('picked' in changes) && changes.chosen !== this.state.chosen;
    this.store.setState(chosenAnew ? { ...changes, picked: [] } : changes);
    this.view?.invalidate();
    if ('chosen' in changes || 'mark' in changes || 'job' in changes) this.scout.refreshMap();
    if ('sources' in changes || 'slot' in changes || 'next' in changes) this.scout.hoverAgain();
    if ('job' in changes) void this.scout.pictureChanged();
    if ('mark' in changes) this.advice.refresh();
  }

  get engine(): WorkerClient<EngineProtocol> {
    if (!this.client) throw new InvariantError('The engine is not running.');
    return this.client;
  }

  get isOpen(): boolean {
    return this.state.status.is === 'ready';
  }

  /** Tells the engine something that nobody waits for. One that is just being started anew need not hear it: it is given the whole job
   *  once it has the photo. */
  tell<K extends keyof EngineProtocol & string>(kind: K, request: EngineProtocol[K]['request']): void {
    this.engine.call(kind, request).catch((error: unknown) => {
      if (this.engineReady) this.notify(`That did not work: ${messageOf(error)}`, 'warning');
    });
  }

  // Opening and closing

  async open(): Promise<void> {
    performance.mark('open-began');
    try {
      const readOnly = !(await this.lock.take(this.jobId));
      const opened = await this.jobs.open(this.jobId);
      const { job, history, original } = opened;
      this.original = original;
      await this.looks.recall();
      if (this.isClosed) return;
      for (const { id, mask } of opened.masks) this.masks.set(id, mask);
      const top = job.layers[job.layers.length - 1];
      this.set({ job, history, readOnly, activeLayer: top.id, keptAtMs: Date.now() });
      await this.startEngine(opened);
      this.set({ status: { is: 'ready' } });
      if (opened.unread > 0)
        this.notify(
          `The last ${opened.unread === 1 ? 'step' : `${opened.unread} steps`} could not be read again, so this is the job as it was before.`,
          'warning',
        );
      this.refreshStates();
      this.restTimer = setTimeout(() => {
        this.pool.rehearse();
        this.painting.rehearse().catch(() => {});
      }, rehearsedAfterMs);
    } catch (error) {
      this.set({ status: { is: 'failed', message: messageOf(error) } });
    }
  }

  close(): void {
    this.nudging.settle();
    this.isClosed = true;
    this.scout.close();
    this.fills.cancelAll();
    this.pool.close();
    this.client?.close();
    this.client = null;
    if (this.restTimer) clearTimeout(this.restTimer);
    if (this.statesTimer) clearTimeout(this.statesTimer);
    this.pictures.close();
    this.lock.letGo();
  }

  private async startEngine(opened: Pick<OpenedJob, 'tries' | 'masks'>): Promise<void> {
    this.client = new WorkerClient<EngineProtocol>(
      makeEngineWorker(),
      (reason) => void this.restartEngine(reason),
    );
    const photo = await this.engine.call(
      'open',
      { file: this.original!, wantHash: false },
      {
        onProgress: ({ preview }) => {
          this.preview = preview;
          this.view?.photoShown(this.state.job!.photo);
          performance.mark('first-pixels');
        },
      },
    );
    this.levels = photo.levels;
    await this.engine.call('addPixels', { tries: opened.tries, masks: opened.masks });
    await this.engine.call('setJob', { job: this.state.job! });
    this.engineReady = true;
    this.view?.engineReady();
  }

  private async restartEngine(reason: string): Promise<void> {
    this.engineReady = false;
    if (this.restarts++ > 3) {
      this.set({
        status: { is: 'failed', message: `Computing stopped again and again (${reason}). The job is kept.` },
      });
      return;
    }
    this.notify(
      'Computing stopped unexpectedly and was started again. Nothing that was kept is lost.',
      'warning',
    );
    await this.startEngine(await this.jobs.open(this.jobId));
    const held = [...this.heldMasks].map((id) => ({ id, mask: this.masks.get(id)! }));
    await this.engine.call('addPixels', { tries: [], masks: held });
    this.pixelsChanged();
  }

  // Changing the job

  /** Does one gesture's work: changes the job, adds an entry to the history and keeps both. */
  run(command: Command): boolean {
    this.nudging.settle();
    const job = this.base ?? this.state.job;
    if (!job || !this.mayWrite()) return false;
    const hadPreview = this.base !== null;
    this.base = null;
    const done = transact(job, command);
    if (!done) {
      if (hadPreview) this.endPreview(job);
      return false;
    }
    this.keepMasks(done.job);
    const history = record(this.state.history, done.transaction);
    this.set({ job: done.job, history });
    this.keeper.commit(done.job, done.transaction, history.cursor);
    if (hadPreview) this.tell('previewJob', { patches: null });
    this.tell('patchJob', { patches: done.transaction.forward });
    this.afterChange();
    this.tellUnseen(job, done.job);
    return true;
  }

  /** A mend that is made on a hidden layer would else seem to have come to nothing. */
  private tellUnseen(before: Job, after: Job): void {
    const layer = gainedUnseen(before, after);
    if (!layer) return;
    this.notify(`${layer.name} is hidden, so what was mended on it does not show.`, 'warning', {
      label: 'Show the layer',
      run: () => this.run(changeLayer(layer.id, 'show layer', { visible: true })),
    });
  }

  /** Takes in pixels of a mark. They are kept with the job once something of it uses them. @returns their id */
  holdMask(mask: Mask): string {
    const id = newId();
    this.masks.set(id, mask);
    this.heldMasks.add(id);
    this.tell('addPixels', { tries: [], masks: [{ id, mask }] });
    return id;
  }

  private keepMasks(job: Job): void {
    if (this.heldMasks.size === 0) return;
    for (const id of maskIdsOf(job)) {
      if (!this.heldMasks.delete(id)) continue;
      this.keeper.putMask(job.id, id, this.masks.get(id)!);
    }
  }

  /** Shows what a command would do, while a slider or handle is being dragged; {@link run} or null ends it. */
  show(command: Command | null): void {
    this.nudging.settle();
    const job = this.base ?? this.state.job;
    if (!job || this.state.readOnly) return;
    if (!command) {
      if (this.base) this.endPreview(job);
      this.base = null;
      return;
    }
    this.base = job;
    const done = transact(job, command);
    this.set({ job: done?.job ?? job });
    this.tell('previewJob', { patches: done?.transaction.forward ?? [] });
    this.view?.touch();
  }

  private endPreview(job: Job): void {
    this.set({ job });
    this.tell('previewJob', { patches: null });
    this.view?.touch();
  }

  undo(): void {
    this.travel(undo);
  }

  redo(): void {
    this.travel(redo);
  }

  private travel(step: typeof undo): void {
    if (this.painting.defers(() => this.travel(step))) return;
    // What is only shown is no step yet: keys are done first, a slider that is being dragged is left.
    this.show(null);
    const { job, history } = this.state;
    if (!job || !this.mayWrite()) return;
    const done = step(job, history);
    if (!done) return;
    this.set({ job: done.job, history: done.history });
    this.keeper.moveCursor(done.job, done.history.cursor);
    this.tell('setJob', { job: done.job });
    const { chosen, activeLayer } = this.state;
    if (chosen && !findMend(done.job, chosen)) this.set({ chosen: null });
    this.leaveLaying(done.job);
    if (this.state.reshaping) this.marking.clear();
    this.marking.travelled(job, done.job, step === undo);
    if (!done.job.layers.some((l) => l.id === activeLayer))
      this.set({ activeLayer: done.job.layers[done.job.layers.length - 1].id });
    this.afterChange();
  }

  /** Ends the laying down of something for a mend that is gone. */
  leaveLaying(job: Job): void {
    const { laying } = this.state;
    if (laying?.mendId && !findMend(job, laying.mendId)) this.steering.done();
  }

  mayWrite(): boolean {
    if (!this.state.readOnly) return true;
    this.notify('This job is open in another tab, so it can only be looked at here.', 'warning');
    return false;
  }

  private afterChange(): void {
    this.view?.touch();
    this.refreshStates();
    this.pictures.refresh();
  }

  pixelsChanged(): void {
    this.afterChange();
  }

  keepAgain(): void {
    void this.keeper.retry();
  }

  get unkept(): boolean {
    return this.keeper.pending;
  }

  private refreshStates(): void {
    if (this.statesTimer) clearTimeout(this.statesTimer);
    this.statesTimer = setTimeout(async () => {
      if (!this.client) return;
      const mendStates = await this.engine.call('mendStates', null).catch(() => null);
      if (mendStates) this.set({ mendStates });
    }, 150);
  }

  /** Work that a gesture set off and that waits for the engine. What goes wrong in it is told, not lost. */
  begin(work: Promise<unknown>): void {
    this.begun++;
    void work
      .catch((error: unknown) => this.notify(`That did not work: ${messageOf(error)}`, 'warning'))
      .finally(() => {
        this.begun--;
      });
  }

  /** True while something that a gesture set off is not yet in the job. */
  get busy(): boolean {
    return this.begun > 0 || this.nudging.isOpen;
  }

  notify(
    text: string,
    tone: 'plain' | 'warning' = 'plain',
    action?: { label: string; run: () => void },
    tryId?: string,
  ): void {
    this.set({ notice: { id: Date.now() + Math.random(), text, tone, action, tryId } });
  }

  // Marks and mends

  setNext(changes: Partial<NextMend>): void {
    this.set({ next: { ...this.state.next, ...changes } });
  }

  /** Picks a method: mends what is marked, or gets ready for the next gesture. */
  pickMethod(method: MethodId | null): void {
    const { mark, markTool, reshaping } = this.state;
    if (method && reshaping) {
      this.marking.keepShape();
      this.begin(this.mending.switchMethod(reshaping, method));
      return;
    }
    if (method && mark && method !== 'patch') {
      this.begin(this.mending.make(method, mark));
      return;
    }
    if (method === 'patch' && mark) this.marking.tellPatch();
    this.set({
      method,
      laying: null,
      markTool: method && markTool === 'choose' ? 'paint' : markTool,
      repeating: this.state.repeating && method === 'fill',
    });
  }

  addLayer(): void {
    const { job } = this.state;
    if (!job) return;
    const layer = newLayer(job);
    if (this.run(addLayer(layer))) this.set({ activeLayer: layer.id });
  }

  mendOf(mendId: string): Mend | null {
    const { job } = this.state;
    return job ? (findMend(job, mendId)?.mend ?? null) : null;
  }
}
