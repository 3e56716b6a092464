import { createStore, type StoreApi } from 'zustand/vanilla';
import { type Area, boundsOfArea, type Mask, rasteriseArea, type Shape } from '../../core/area';
import { InvariantError, messageOf } from '../../core/errors';
import {
  addLayer,
  addMend,
  addTry,
  type Command,
  changeMend,
  findMend,
  type Job,
  type Mend,
  type MethodId,
  record,
  redo,
  removeMend,
  type Source,
  type SourceShift,
  transact,
  undo,
} from '../../core/job';
import { methods } from '../../core/methods';
import { grow, intersect, isEmpty, type Rect } from '../../core/raster';
import type { EngineProtocol, FlatFormat, Side } from '../../runtime/engine/protocol';
import { WorkerPool } from '../../runtime/pool/worker-pool';
import { WorkerClient } from '../../runtime/rpc';
import type { JobStore, OpenedJob } from '../../runtime/storage';
import type { Effect, Grip } from '../tools/gesture';
import type { Point } from '../viewport/camera';
import { sourceAt } from './brush-source';
import { fillToRepeat, firstPassOf, withSettingsOf } from './earlier-fill';
import { Fills } from './fills';
import { Keeper } from './keeper';
import { dragged, dragLabel } from './move-mend';
import { addShape, newId, newLayer, newMend, newTry } from './new-mend';
import { Painting, takesFrom } from './painting';
import { joinable, joinMends, splitMend } from './parts';
import { Patching } from './patching';
import { Scout } from './scout';
import { initialState, type NextMend, type SessionState } from './state';
import { Steering } from './steering';
import { Tryouts } from './tryouts';
import type { View } from './view';

const makeEngineWorker = () =>
  new Worker(new URL('../../runtime/engine/engine.worker.ts', import.meta.url), { type: 'module' });
const makePoolWorker = () =>
  new Worker(new URL('../../runtime/pool/pool.worker.ts', import.meta.url), { type: 'module' });

/** One job open on the bench: its state, and everything that can be done to it. */
export class Session {
  readonly store: StoreApi<SessionState> = createStore(() => initialState);
  readonly masks = new Map<string, Mask>();
  readonly fills: Fills;
  readonly steering = new Steering(this);
  readonly tryouts = new Tryouts(this);
  readonly painting = new Painting(this);
  readonly patching = new Patching(this);
  readonly scout = new Scout(this);
  view: View | null = null;
  preview: ImageBitmap | null = null;
  private readonly keeper: Keeper;
  private readonly pool = new WorkerPool(makePoolWorker);
  private client: WorkerClient<EngineProtocol> | null = null;
  private original: Blob | null = null;
  /** The job without the change that a slider is just showing. */
  private base: Job | null = null;
  private release: (() => void) | null = null;
  private statesTimer: ReturnType<typeof setTimeout> | null = null;
  private thumbsTimer: ReturnType<typeof setTimeout> | null = null;
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

  set(changes: Partial<SessionState>): void {
    this.store.setState(changes);
    this.view?.invalidate();
    if ('chosen' in changes || 'mark' in changes || 'job' in changes) this.scout.refreshMap();
  }

  get engine(): WorkerClient<EngineProtocol> {
    if (!this.client) throw new InvariantError('The engine is not running.');
    return this.client;
  }

  get isOpen(): boolean {
    return this.state.status.is === 'ready';
  }

  // Opening and closing

  async open(): Promise<void> {
    performance.mark('open-began');
    try {
      const readOnly = !(await this.takeLock());
      const opened = await this.jobs.open(this.jobId);
      const { job, history, original } = opened;
      this.original = original;
      for (const { id, mask } of opened.masks) this.masks.set(id, mask);
      const top = job.layers[job.layers.length - 1];
      this.set({ job, history, readOnly, activeLayer: top.id, keptAtMs: Date.now() });
      await this.startEngine(opened);
      this.set({ status: { is: 'ready' } });
      this.refreshStates();
    } catch (error) {
      this.set({ status: { is: 'failed', message: messageOf(error) } });
    }
  }

  close(): void {
    this.fills.cancelAll();
    this.pool.close();
    this.client?.close();
    this.client = null;
    if (this.statesTimer) clearTimeout(this.statesTimer);
    if (this.thumbsTimer) clearTimeout(this.thumbsTimer);
    this.release?.();
  }

  /** One tab at a time may write; the lock goes with the tab. */
  private takeLock(): Promise<boolean> {
    return new Promise((resolve) => {
      void navigator.locks.request(`vine-needle:${this.jobId}`, { ifAvailable: true }, (lock) => {
        resolve(lock !== null);
        if (!lock) return undefined;
        return new Promise<void>((done) => {
          this.release = done;
        });
      });
    });
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
    this.view?.engineReady();
  }

  private async restartEngine(reason: string): Promise<void> {
    this.painting.drop();
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
    this.pixelsChanged();
  }

  // Changing the job

  /** Does one gesture's work: changes the job, adds an entry to the history and keeps both. */
  run(command: Command): boolean {
    const job = this.base ?? this.state.job;
    if (!job || !this.mayWrite()) return false;
    const hadPreview = this.base !== null;
    this.base = null;
    const done = transact(job, command);
    if (!done) {
      if (hadPreview) this.endPreview(job);
      return false;
    }
    const history = record(this.state.history, done.transaction);
    this.set({ job: done.job, history });
    this.keeper.commit(done.job, done.transaction, history.cursor);
    if (hadPreview) void this.engine.call('previewJob', { patches: null });
    void this.engine.call('patchJob', { patches: done.transaction.forward });
    this.afterChange();
    return true;
  }

  /** Shows what a command would do, while a slider or handle is being dragged; {@link run} or null ends it. */
  show(command: Command | null): void {
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
    void this.engine.call('previewJob', { patches: done?.transaction.forward ?? [] });
    this.view?.touch();
  }

  private endPreview(job: Job): void {
    this.set({ job });
    void this.engine.call('previewJob', { patches: null });
    this.view?.touch();
  }

  undo(): void {
    this.travel(undo);
  }

  redo(): void {
    this.travel(redo);
  }

  private travel(step: typeof undo): void {
    const { job, history } = this.state;
    if (!job || !this.mayWrite()) return;
    const done = step(job, history);
    if (!done) return;
    this.set({ job: done.job, history: done.history });
    this.keeper.moveCursor(done.job, done.history.cursor);
    void this.engine.call('setJob', { job: done.job });
    const { chosen, activeLayer } = this.state;
    if (chosen && !findMend(done.job, chosen)) this.set({ chosen: null });
    this.leaveLaying(done.job);
    if (this.state.reshaping) this.clearMark();
    if (!done.job.layers.some((l) => l.id === activeLayer))
      this.set({ activeLayer: done.job.layers[done.job.layers.length - 1].id });
    this.afterChange();
  }

  /** Ends the laying down of something for a mend that is gone. */
  private leaveLaying(job: Job): void {
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
    this.refreshThumbs();
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

  private refreshThumbs(): void {
    if (this.thumbsTimer) clearTimeout(this.thumbsTimer);
    this.thumbsTimer = setTimeout(() => void this.storeThumbs().catch(() => {}), 1500);
  }

  /** Pictures for the shelf. */
  async storeThumbs(): Promise<void> {
    const { job, readOnly } = this.state;
    if (!job || readOnly || !this.client) return;
    const rect = { x: 0, y: 0, w: job.photo.width, h: job.photo.height };
    const before = await this.engine.call('crop', { side: 'before', rect, maxSidePx: 360 });
    const after = await this.engine.call('crop', { side: 'after', rect, maxSidePx: 360 });
    await this.jobs.setThumbs(job.id, before, after);
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
    return this.begun > 0;
  }

  notify(
    text: string,
    tone: 'plain' | 'warning' = 'plain',
    action?: { label: string; run: () => void },
  ): void {
    this.set({ notice: { id: Date.now() + Math.random(), text, tone, action } });
  }

  // Marks and mends

  setNext(changes: Partial<NextMend>): void {
    this.set({ next: { ...this.state.next, ...changes } });
  }

  /** Picks a method: mends what is marked, or gets ready for the next gesture. */
  pickMethod(method: MethodId | null): void {
    const { mark, markTool, reshaping } = this.state;
    if (method && reshaping) {
      this.keepShape();
      this.begin(this.switchMethod(reshaping, method));
      return;
    }
    if (method && mark && method !== 'patch') {
      this.begin(this.mendMark(method, mark));
      return;
    }
    if (method === 'patch' && mark) this.tellPatch();
    this.set({
      method,
      laying: null,
      markTool: method && markTool === 'choose' ? 'paint' : markTool,
      repeating: this.state.repeating && method === 'fill',
    });
  }

  clearMark(): void {
    this.set({ mark: null, drawing: null, reshaping: null });
  }

  /** Takes a mend's area up as what is marked, so that it can be added to and taken away from. */
  reshape(mendId: string): void {
    const mend = this.mendOf(mendId);
    if (!mend || !this.mayWrite()) return;
    const { markTool } = this.state;
    this.set({
      mark: mend.area,
      reshaping: mendId,
      chosen: mendId,
      method: null,
      markTool: markTool === 'choose' ? 'paint' : markTool,
    });
  }

  /** Gives the mend being reshaped what is marked now as its area. */
  keepShape(): void {
    const { mark, reshaping } = this.state;
    if (!mark || !reshaping) return;
    this.clearMark();
    this.changeMend(reshaping, 'change area', { area: mark });
  }

  private async mendMark(method: MethodId, area: Area): Promise<void> {
    const { job, activeLayer, next } = this.state;
    if (!job || !activeLayer || !this.mayWrite()) return;
    const bounds = { x: 0, y: 0, w: job.photo.width, h: job.photo.height };
    if (isEmpty(intersect(boundsOfArea(area), bounds))) {
      this.notify('What is marked lies outside the photo, or nothing is left of it.', 'warning');
      return;
    }
    let mend = this.mendFor(method, area, next);
    if (method === 'fill') mend = this.fillLikeOthers(mend);
    if (method === 'paint') mend = { ...mend, params: next.colour ?? (await this.colourBeside(area)) };
    else if (methods[method].needsSource || method === 'tap') {
      const source = this.regionSource(area) ?? (await this.findSource(mend));
      if (!source) {
        this.notify(
          'There is no place on this photo large enough to take this area from. Mark less of it.',
          'warning',
        );
        return;
      }
      mend = { ...mend, source };
    }
    if (!this.run(addMend(activeLayer, mend))) return;
    this.set({ mark: null, chosen: mend.id });
    if (method === 'fill') this.set({ lastFilled: mend.id });
    if (methods[method].scope === 'kept') void this.fills.compute(mend.id);
    else if (method === 'heal' || method === 'patch') void this.steering.offerStops(mend);
  }

  /** A mend of what is marked, not yet with a source. */
  mendFor(method: MethodId, area: Area, next: NextMend): Mend {
    const mend = newMend(this.state.job!, method, area, null, next);
    if (!methods[method].needsSource) return mend;
    return { ...mend, steer: { ...mend.steer, plane: next.plane, rail: next.rail } };
  }

  /** Colour and grain just left of an area. */
  private colourBeside(area: Area): Promise<Record<string, number>> {
    const box = boundsOfArea(area);
    return this.engine.call('pickPaint', { x: Math.max(8, box.x - 8), y: box.y + box.h / 2, radiusPx: 6 });
  }

  /** Repeated, with the last fill's settings; over what an earlier fill left, with that one's. */
  private fillLikeOthers(mend: Mend): Mend {
    const { job, lastFilled, repeating } = this.state;
    if (!job) return mend;
    const repeated = repeating ? fillToRepeat(job, lastFilled) : null;
    if (repeated) return { ...mend, params: repeated.params, steer: repeated.steer };
    const before = firstPassOf(job, mend, (id) => this.masks.get(id));
    if (!before) return mend;
    this.notify(`Filled as a second pass over ${before.name}, with its settings.`);
    return withSettingsOf(mend, before);
  }

  /** The next marks are filled as the last fill was, each in one stroke; what is marked now at once. */
  repeatFill(): void {
    const { job, lastFilled, repeating, mark } = this.state;
    if (!job || !fillToRepeat(job, lastFilled)) {
      this.notify('There is no fill yet whose settings could be repeated.');
      return;
    }
    if (mark) {
      this.set({ repeating: true });
      this.begin(this.mendMark('fill', mark).finally(() => this.set({ repeating: false })));
      return;
    }
    this.set({ repeating: !repeating });
    this.pickMethod(repeating ? null : 'fill');
  }

  private regionSource(area: Area): Source | null {
    const { method, next } = this.state;
    if (!takesFrom(method)) return null;
    const box = boundsOfArea(area);
    return sourceAt(this.painting.brush, { x: box.x + box.w / 2, y: box.y + box.h / 2 }, next);
  }

  async findSource(mend: Mend, skip = 0): Promise<SourceShift | null> {
    const ranked = await this.engine.call('findSources', { mend });
    return ranked.length > 0 ? ranked[skip % ranked.length] : null;
  }

  /** Another candidate for a fill, the next best source for everything else. */
  async anotherTry(mendId: string): Promise<void> {
    const mend = this.mendOf(mendId);
    if (!mend) return;
    if (methods[mend.method].scope === 'kept') {
      if (this.run(addTry(mendId, newTry(mend)))) void this.fills.compute(mendId);
      return;
    }
    if (!methods[mend.method].needsSource && mend.method !== 'tap') {
      this.notify(`${methods[mend.method].title} takes from no place that is set, so there is no other one.`);
      return;
    }
    const ranked = await this.engine.call('findSources', { mend });
    const now = ranked.findIndex((s) => s.dx === mend.source?.dx && s.dy === mend.source?.dy);
    const source = ranked[(now + 1) % Math.max(1, ranked.length)];
    if (source) this.run(changeMend(mendId, 'another source', { source: { ...mend.source, ...source } }));
    else this.notify('No other place on this photo would serve as a source here.', 'warning');
  }

  /** Computes a fill again as it was, from what now lies round it. The earlier try stays. */
  refreshFill(mendId: string): void {
    const mend = this.mendOf(mendId);
    const seed = mend?.tries.find((t) => t.id === mend.chosenTry)?.seed ?? 1;
    if (!this.run(addTry(mendId, { id: newId(), seed }, 'refresh fill'))) return;
    this.set({ lastFilled: mendId });
    void this.fills.compute(mendId);
  }

  /** Changes a mend; a fill whose input changed by that is computed again as a further try. */
  changeMend(mendId: string, label: string, changes: Partial<Omit<Mend, 'id'>>): void {
    const mend = this.base ? findMend(this.base, mendId)?.mend : this.mendOf(mendId);
    if (!mend) return;
    const method = changes.method ?? mend.method;
    const anew = 'area' in changes || 'params' in changes || 'reads' in changes || 'method' in changes;
    if (methods[method].scope === 'kept' && anew) {
      const added = newTry(mend);
      const done = this.run(
        changeMend(mendId, label, { ...changes, tries: [...mend.tries, added], chosenTry: added.id }),
      );
      if (done) void this.fills.compute(mendId);
      return;
    }
    this.run(changeMend(mendId, label, changes));
  }

  async switchMethod(mendId: string, method: MethodId): Promise<void> {
    const mend = this.mendOf(mendId);
    if (!mend || mend.method === method) return;
    let params: Mend['params'] = Object.fromEntries(
      methods[method].parameters.map((p) => [p.key, mend.params[p.key] ?? p.initial]),
    );
    if (method === 'paint' && mend.params.red === undefined)
      params = this.state.next.colour ?? (await this.colourBeside(mend.area));
    let { source } = mend;
    if ((methods[method].needsSource || method === 'tap') && !source)
      source = await this.findSource({ ...mend, method, params });
    const name = mend.name.replace(methods[mend.method].title, methods[method].title);
    const label = `${methods[mend.method].title.toLowerCase()} to ${methods[method].title.toLowerCase()}`;
    this.changeMend(mendId, label, { method, params, source, name });
  }

  duplicateMend(mendId: string): void {
    const place = this.state.job && findMend(this.state.job, mendId);
    if (!place) return;
    const copy: Mend = { ...place.mend, id: newId(), name: `${place.mend.name}, copy`.slice(0, 200) };
    const command = { ...addMend(place.layer.id, copy, place.mendIndex + 1), label: 'duplicate mend' };
    if (this.run(command)) this.set({ chosen: copy.id });
  }

  deleteMend(mendId: string): void {
    this.fills.cancel(mendId);
    if (this.state.reshaping === mendId) this.clearMark();
    if (this.run(removeMend(mendId)) && this.state.chosen === mendId) this.set({ chosen: null });
    if (this.state.job) this.leaveLaying(this.state.job);
  }

  splitMend(mendId: string): void {
    const mend = this.mendOf(mendId);
    const split = mend && splitMend(mend);
    if (!split) {
      this.notify('This mend is one short piece: there is nothing to split.');
      return;
    }
    if (!this.run(split.command)) return;
    this.set({ chosen: split.ids[0] });
    for (const id of split.ids) this.computeKept(id);
  }

  /** Makes one mend of the chosen one and the one below it. */
  joinMend(mendId: string): void {
    const { job } = this.state;
    const mend = this.mendOf(mendId);
    const below = job && joinable(job, mendId);
    if (!mend || !below) {
      this.notify(
        'It can be joined with the mend below it if both have the same method, mode, margin and feather.',
      );
      return;
    }
    if (this.run(joinMends(mend, below))) this.computeKept(mendId);
  }

  private computeKept(mendId: string): void {
    const mend = this.mendOf(mendId);
    if (mend && methods[mend.method].scope === 'kept') void this.fills.compute(mendId);
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

  /** The topmost visible mend at a point of the photo. */
  mendAt(point: Point): string | null {
    const { job } = this.state;
    if (!job) return null;
    const pixel = { x: Math.floor(point.x), y: Math.floor(point.y), w: 1, h: 1 };
    for (const layer of job.layers.toReversed())
      for (const mend of layer.mends.toReversed()) {
        if (!layer.visible || !mend.visible || isEmpty(intersect(boundsOfArea(mend.area), pixel))) continue;
        if (rasteriseArea(mend.area, pixel, (id) => this.masks.get(id))[0] > 0.1) return mend.id;
      }
    return null;
  }

  // What tools want done

  perform(effect: Effect, atMs: number): void {
    switch (effect.kind) {
      case 'pick-source':
        this.painting.pick(effect.at);
        return;
      case 'begin-stroke':
        this.painting.begin(effect.point, effect.shift, effect.alt);
        return;
      case 'extend-stroke':
        this.painting.extend(effect.points, atMs);
        return;
      case 'end-stroke':
        this.begin(this.painting.end());
        return;
      case 'cancel-stroke':
        this.begin(this.painting.cancel());
        return;
      case 'show-shape':
        this.set({ drawing: effect.shape });
        return;
      case 'mark':
        this.addMark(effect.shape, effect.shift);
        return;
      case 'show-line':
        this.set({ drawnLine: effect.line });
        return;
      case 'line':
        this.steering.addLine(effect.line);
        return;
      case 'choose':
        this.set({ chosen: effect.mendId });
        return;
      case 'drag':
        this.dragTo(effect.grip, effect.dx, effect.dy);
        return;
      case 'undrag':
        this.patching.cancel();
        this.steering.undragNext();
        return;
      case 'drop':
        this.dropAt(effect.grip, effect.dx, effect.dy);
        return;
    }
  }

  private dragTo(grip: Grip, dx: number, dy: number): void {
    if (grip.kind === 'mark') return this.patching.drag(dx, dy);
    if (grip.mendId === null) return this.steering.dragNext(grip, dx, dy, false);
    const job = this.base ?? this.state.job;
    const mend = job && findMend(job, grip.mendId)?.mend;
    if (!mend) return;
    const changes = dragged(mend, grip, dx, dy);
    this.show(changeMend(mend.id, dragLabel(grip.kind), changes));
    if (grip.kind === 'source' || grip.kind === 'turn') this.scout.watch({ ...mend, ...changes });
  }

  private dropAt(grip: Grip, dx: number, dy: number): void {
    if (grip.kind === 'mark') return this.patching.drop(dx, dy);
    if (grip.mendId === null) return this.steering.dragNext(grip, dx, dy, true);
    this.scout.rest();
    const mend = this.base && findMend(this.base, grip.mendId)?.mend;
    if (mend) this.changeMend(mend.id, dragLabel(grip.kind), dragged(mend, grip, dx, dy));
  }

  /** Adds to what is marked; with a method ready, mends it at once unless more is to be added. */
  addMark(shape: Shape, more: boolean): void {
    const { mark, next, method, laying } = this.state;
    if (laying) {
      this.set({ drawing: null });
      this.steering.addDrawn(shape);
      return;
    }
    if (shape.op === 'subtract' && !mark) {
      this.notify('Nothing is marked yet, so there is nothing to take away from.');
      return;
    }
    const area = addShape(mark, shape, next);
    this.set({ mark: area, drawing: null });
    if (method === 'patch') this.tellPatch();
    else if (method && !more && shape.op === 'add') this.begin(this.mendMark(method, area));
  }

  private tellPatch(): void {
    const { next } = this.state;
    this.notify(
      next.patchFrom === 'thing'
        ? 'Drag what is marked to where it should come from.'
        : 'Drag what is marked onto the thing that it should cover.',
      'plain',
      next.patchFrom === 'thing'
        ? { label: 'Use the best source', run: () => this.mendNow('patch') }
        : undefined,
    );
  }

  /** Mends what is marked, without another gesture. */
  mendNow(method: MethodId): void {
    const { mark } = this.state;
    if (mark) this.begin(this.mendMark(method, mark));
  }

  // Pictures for panels and files

  crop(side: Side, rect: Rect, maxSidePx: number, instead?: Mend): Promise<Blob> {
    return this.engine.call('crop', { side, rect, maxSidePx, instead });
  }

  /** The part of the photo that shows a mend, with a little round it. */
  mendRect(mend: Mend): Rect {
    const { photo } = this.state.job!;
    const box = boundsOfArea(mend.area);
    return intersect(grow(box, Math.ceil(Math.max(box.w, box.h) * 0.15) + 8), {
      x: 0,
      y: 0,
      w: photo.width,
      h: photo.height,
    });
  }

  flatten(format: FlatFormat, onShare: (share: number) => void): Promise<Uint8Array<ArrayBuffer>> {
    return this.engine.call('flatten', format, { onProgress: ({ share }) => onShare(share) });
  }
}
