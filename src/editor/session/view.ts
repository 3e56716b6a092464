import { boundsOfArea, rasteriseArea } from '../../core/area';
import { findMend, type PhotoFacts } from '../../core/job';
import { placementOf } from '../../core/methods';
import type { Rect } from '../../core/raster';
import type { TilePixels } from '../../runtime/engine/protocol';
import { type BrushSight, besideArea, type LoupeCanvases, Painter, type Scene } from '../painter/painter';
import { TileStore } from '../painter/tile-store';
import { boxTool } from '../tools/box';
import { brushTool } from '../tools/brush';
import { chooseTool } from '../tools/choose';
import { clicksTool } from '../tools/clicks';
import type { GestureEvent, Grip, StrokePoint, Tool } from '../tools/gesture';
import { lassoTool } from '../tools/lasso';
import { lineTool } from '../tools/line';
import { pullTool } from '../tools/pull';
import {
  type Camera,
  fitCamera,
  fitZoom,
  type Point,
  panBy,
  type Size,
  stepZoom,
  toDoc,
  zoomAt,
} from '../viewport/camera';
import { paintsLive, takesFrom } from './painting';
import type { Session } from './session';
import type { MarkTool } from './state';

type AnyTool = Tool<{ readonly is: string }>;

const handleReachPx = 14;
const wipeReachPx = 14;

/** The photo on the screen: camera, painter, pointers and the tool at hand. Nothing of it passes through React. */
export class View {
  camera: Camera = { x: 0, y: 0, zoom: 1 };
  pointer: Point | null = null;
  wipeAt = 0.5;
  /** Where target and source are shown side by side, while that panel is there. */
  loupe: LoupeCanvases | null = null;
  /** Milliseconds from pointer to drawn pixels, one a frame while painting; collected when a benchmark asks for it. */
  strokeTimings: number[] | null = null;
  private tiles: TileStore | null = null;
  private readonly painter: Painter;
  private placed = false;
  private tool: AnyTool = chooseTool as unknown as AnyTool;
  private toolState: { readonly is: string } = chooseTool.start;
  private active: number | null = null;
  private mode: 'tool' | 'pan' | 'wipe' | 'pinch' | null = null;
  private readonly touches = new Map<number, Point>();
  private penSeenAtMs = -1e9;
  private spaceHeld = false;
  private drawnSince: number | null = null;
  private readonly off = new AbortController();
  private readonly sizes: ResizeObserver;
  private readonly unsubscribe: () => void;

  constructor(
    private readonly session: Session,
    private readonly canvas: HTMLCanvasElement,
    /** Stands beside the chosen mend; moved here, so that panning costs React nothing. */
    private readonly bar: () => HTMLElement | null,
  ) {
    this.painter = new Painter(
      canvas,
      () => this.scene(),
      () => this.afterFrame(),
    );
    this.sizes = new ResizeObserver(() => this.resize());
    this.sizes.observe(canvas);
    this.listen();
    this.resize();
    const { job } = session.state;
    if (job && session.preview) this.photoShown(job.photo);
    if (session.isOpen) this.engineReady();
    session.view = this;
    this.unsubscribe = session.store.subscribe(() => this.pickTool());
    this.pickTool();
  }

  close(): void {
    this.painter.stop();
    this.off.abort();
    this.unsubscribe();
    this.sizes.disconnect();
    if (this.session.view === this) this.session.view = null;
  }

  invalidate(): void {
    this.painter.invalidate();
  }

  touch(): void {
    this.tiles?.touch();
    this.invalidate();
  }

  /** The level the screen shows. */
  get level(): number {
    return this.tiles?.levelFor(this.camera.zoom) ?? 0;
  }

  photoShown(photo: PhotoFacts): void {
    if (!this.placed && this.painter.view.width > 0) {
      this.camera = fitCamera(photo, this.painter.view);
      this.placed = true;
      this.session.set({ zoom: this.camera.zoom });
    }
    this.invalidate();
  }

  engineReady(): void {
    const { job } = this.session.state;
    if (!job) return;
    this.photoShown(job.photo);
    this.tiles = new TileStore(
      job.photo,
      this.session.levels,
      (wanted) => this.session.engine.call('tiles', { wanted }),
      () => this.invalidate(),
    );
    this.invalidate();
  }

  strokeParts(parts: readonly TilePixels[], sinceMs: number | null): void {
    this.tiles?.patch(parts);
    this.drawnSince ??= sinceMs;
    this.invalidate();
  }

  /** Where the pointer is on the photo. */
  get pointerInPhoto(): Point | null {
    return this.pointer && toDoc(this.camera, this.painter.view, this.pointer);
  }

  /** The part of the document that the screen shows. */
  seen(): Rect {
    const { view } = this.painter;
    const a = toDoc(this.camera, view, { x: 0, y: 0 });
    const b = toDoc(this.camera, view, { x: view.width, y: view.height });
    return { x: a.x, y: a.y, w: b.x - a.x, h: b.y - a.y };
  }

  /** True when every tile on the screen is up to date; for tests and pictures. */
  get settled(): boolean {
    return this.tiles?.idle === true;
  }

  // Zoom

  zoomBy(up: boolean): void {
    this.zoomTo(stepZoom(this.camera.zoom, up));
  }

  zoomTo(
    zoom: number,
    at: Point = { x: this.painter.view.width / 2, y: this.painter.view.height / 2 },
  ): void {
    const { job } = this.session.state;
    if (!job) return;
    const { point, size } = this.pane(at);
    this.moveCamera(zoomAt(this.camera, size, job.photo, point, zoom / this.camera.zoom));
  }

  fit(): void {
    const { job } = this.session.state;
    if (job) this.moveCamera(fitCamera(job.photo, this.pane({ x: 0, y: 0 }).size));
  }

  get atFit(): boolean {
    const { job } = this.session.state;
    return job !== null && Math.abs(this.camera.zoom - fitZoom(job.photo, this.painter.view)) < 1e-6;
  }

  /** Brings a mend to the middle, near enough to judge it. */
  goTo(mendId: string): void {
    const { job } = this.session.state;
    const mend = job && findMend(job, mendId)?.mend;
    if (!mend) return;
    this.show(boundsOfArea(mend.area));
  }

  /** Brings a part of the photo to the middle, at 1:1 or as near as it goes. */
  show(box: Rect): void {
    const { job } = this.session.state;
    if (!job) return;
    const { view } = this.painter;
    const zoom = Math.min(1, (0.5 * view.width) / box.w, (0.5 * view.height) / box.h);
    this.moveCamera({
      x: box.x + box.w / 2,
      y: box.y + box.h / 2,
      zoom: Math.max(zoom, fitZoom(job.photo, view)),
    });
  }

  private moveCamera(camera: Camera): void {
    const zoomed = camera.zoom !== this.camera.zoom;
    this.camera = camera;
    if (zoomed) this.session.set({ zoom: camera.zoom });
    this.invalidate();
  }

  /** Ends the gesture under way, as Escape does. @returns whether there was one */
  cancelGesture(): boolean {
    const was = this.mode === 'tool' || this.toolState.is !== this.tool.start.is;
    if (was) this.send({ type: 'cancel' }, performance.now());
    this.mode = null;
    this.active = null;
    this.pickTool();
    return was;
  }

  /** Ends what takes several gestures, as Enter does. @returns whether there was something to end */
  finishGesture(): boolean {
    const was = this.mode === null && this.toolState.is !== this.tool.start.is;
    if (was) this.send({ type: 'finish' }, performance.now());
    return was;
  }

  // Pointers

  private listen(): void {
    const { signal } = this.off;
    const on = <K extends keyof HTMLElementEventMap>(
      kind: K,
      run: (event: HTMLElementEventMap[K]) => void,
      passive = true,
    ) => this.canvas.addEventListener(kind, run, { signal, passive });
    on('pointerdown', (e) => this.down(e), false);
    on('pointermove', (e) => this.moved(e, true));
    // Delivered before the frame, so that a dab can be on the screen in the frame that the pointer moved in.
    if ('onpointerrawupdate' in this.canvas)
      this.canvas.addEventListener('pointerrawupdate', (e) => this.moved(e as PointerEvent, false), {
        signal,
      });
    on('pointerup', (e) => this.up(e));
    on('pointercancel', (e) => this.lost(e));
    on('lostpointercapture', (e) => this.lost(e));
    on('pointerleave', () => {
      this.pointer = null;
      this.invalidate();
    });
    on('wheel', (e) => this.wheel(e), false);
    on('contextmenu', (e) => e.preventDefault(), false);
    const key = (down: boolean) => (e: KeyboardEvent) => {
      const field =
        e.target instanceof HTMLElement && e.target.closest('input, textarea, select, button, [role=slider]');
      if (e.code !== 'Space' || (down && field)) return;
      this.spaceHeld = down;
      this.showCursor();
      if (down) e.preventDefault();
    };
    window.addEventListener('keydown', key(true), { signal });
    window.addEventListener('keyup', key(false), { signal });
    window.addEventListener(
      'blur',
      () => {
        this.spaceHeld = false;
        if (this.session.state.flipped) this.session.set({ flipped: false });
      },
      { signal },
    );
  }

  private at(e: { clientX: number; clientY: number }): Point {
    const box = this.canvas.getBoundingClientRect();
    const r = this.painter.ratio;
    return { x: (e.clientX - box.left) * r, y: (e.clientY - box.top) * r };
  }

  /** In the paired view, which of the two panes a point lies in, and the point within it. */
  private pane(at: Point): { point: Point; size: Size } {
    const { view } = this.painter;
    if (this.session.state.compare !== 'pair') return { point: at, size: view };
    const width = Math.floor(view.width / 2) - 1;
    return {
      point: { x: at.x > width ? at.x - width - 2 : at.x, y: at.y },
      size: { width, height: view.height },
    };
  }

  private strokePoint(e: PointerEvent): StrokePoint {
    const doc = toDoc(this.camera, this.painter.view, this.at(e));
    return [doc.x, doc.y, e.pointerType === 'pen' ? Math.max(0.05, e.pressure) : 1];
  }

  private down(e: PointerEvent): void {
    this.canvas.focus({ preventScroll: true });
    if (e.pointerType === 'pen') this.penSeenAtMs = e.timeStamp;
    if (e.pointerType === 'touch') {
      // A palm beside a pen is no touch.
      if (e.timeStamp - this.penSeenAtMs < 1000) return;
      this.touches.set(e.pointerId, this.at(e));
      if (this.touches.size === 2) {
        this.cancelGesture();
        this.mode = 'pinch';
        return;
      }
      if (this.touches.size > 2) return;
    }
    if (this.active !== null || !this.session.state.job) return;
    this.active = e.pointerId;
    this.canvas.setPointerCapture(e.pointerId);
    const at = this.at(e);
    const { compare } = this.session.state;
    if (
      compare === 'wipe' &&
      Math.abs(at.x - this.wipeAt * this.painter.view.width) < wipeReachPx * this.painter.ratio
    )
      this.mode = 'wipe';
    else if (e.button === 1 || this.spaceHeld || compare !== 'none') this.mode = 'pan';
    else if (e.button === 0 && this.session.isOpen) {
      this.mode = 'tool';
      const point = this.strokePoint(e);
      const doc = { x: point[0], y: point[1] };
      const patches = !e.shiftKey && !e.altKey && this.onPatch(doc);
      if (patches) this.takeUp(chooseTool as unknown as AnyTool);
      const grip = patches ? ({ kind: 'mark' } as const) : this.gripAt(at, doc);
      const reach = (10 * this.painter.ratio) / this.camera.zoom;
      this.send({ type: 'down', point, shift: e.shiftKey, alt: e.altKey, grip, reach }, e.timeStamp);
    } else this.mode = null;
    this.pointer = at;
    this.showCursor();
    if (e.button === 1) e.preventDefault();
  }

  /** Whether a drag from here takes what is marked to where it should come from. */
  private onPatch(at: Point): boolean {
    const { method, mark, laying, readOnly } = this.session.state;
    if (method !== 'patch' || !mark || laying || readOnly) return false;
    const pixel = { x: Math.floor(at.x), y: Math.floor(at.y), w: 1, h: 1 };
    return rasteriseArea(mark, pixel, (id) => this.session.masks.get(id))[0] > 0.1;
  }

  private takeUp(tool: AnyTool): void {
    this.tool = tool;
    this.toolState = tool.start;
  }

  private gripAt(screen: Point, doc: Point): Grip | null {
    const reach = handleReachPx * this.painter.ratio;
    const handle = this.painter.handles.find(
      ({ at }) => Math.hypot(at.x - screen.x, at.y - screen.y) <= reach,
    );
    if (handle) return handle.grip;
    const mendId = this.session.mendAt(doc);
    return mendId ? { kind: 'mend', mendId } : null;
  }

  private moved(e: PointerEvent, inFrame: boolean): void {
    const at = this.at(e);
    const before = this.pointer;
    if (this.touches.has(e.pointerId) && inFrame) {
      const other = [...this.touches].find(([id]) => id !== e.pointerId)?.[1];
      const old = this.touches.get(e.pointerId)!;
      this.touches.set(e.pointerId, at);
      if (this.mode === 'pinch' && other) return this.pinch(old, at, other);
    }
    if (e.pointerType === 'touch' && e.pointerId !== this.active) return;
    if (this.mode === 'tool' && e.pointerId === this.active) {
      // With raw updates the same points come again with the frame's move event.
      if (inFrame && 'onpointerrawupdate' in this.canvas) {
        this.pointer = at;
        return this.invalidate();
      }
      const events = e.getCoalescedEvents?.() ?? [];
      const points = (events.length > 0 ? events : [e]).map((c) => this.strokePoint(c));
      // The ring is drawn where the pen will be by then.
      const ahead = e.getPredictedEvents?.()[0];
      this.pointer = ahead ? this.at(ahead) : at;
      this.placeLoupe(at);
      this.send({ type: 'move', points }, e.timeStamp);
      this.invalidate();
      return;
    }
    if (!inFrame) return;
    this.pointer = at;
    if (this.mode === 'pan' && before && e.pointerId === this.active) {
      const { job } = this.session.state;
      if (job) this.moveCamera(panBy(this.camera, job.photo, at.x - before.x, at.y - before.y));
    } else if (this.mode === 'wipe' && e.pointerId === this.active)
      this.wipeAt = Math.min(1, Math.max(0, at.x / this.painter.view.width));
    this.placeLoupe(at);
    if (this.mode === null) this.hover();
    this.showCursor();
    this.invalidate();
  }

  /** Keeps the loupe from covering what is worked on. */
  private placeLoupe(at: Point): void {
    const { view } = this.painter;
    const low = at.y > 0.55 * view.height;
    const { loupeRight } = this.session.state;
    if (low && !loupeRight && at.x < 0.5 * view.width) this.session.set({ loupeRight: true });
    if (low && loupeRight && at.x > 0.55 * view.width) this.session.set({ loupeRight: false });
  }

  /** What the brush would take is looked at before it paints. */
  private hover(): void {
    const { method, markTool, compare } = this.session.state;
    const doc = this.pointerInPhoto;
    if (doc && takesFrom(method) && markTool === 'paint' && compare === 'none') this.session.scout.hover(doc);
  }

  private pinch(old: Point, now: Point, other: Point): void {
    const { job } = this.session.state;
    if (!job) return;
    const factor =
      Math.hypot(now.x - other.x, now.y - other.y) /
      Math.max(1, Math.hypot(old.x - other.x, old.y - other.y));
    const middle = { x: (now.x + other.x) / 2, y: (now.y + other.y) / 2 };
    const panned = panBy(this.camera, job.photo, (now.x - old.x) / 2, (now.y - old.y) / 2);
    this.moveCamera(zoomAt(panned, this.painter.view, job.photo, middle, factor));
  }

  private up(e: PointerEvent): void {
    this.touches.delete(e.pointerId);
    if (e.pointerId !== this.active) {
      if (this.mode === 'pinch' && this.touches.size === 0) this.mode = null;
      return;
    }
    const was = this.mode;
    this.mode = this.touches.size > 0 && was === 'pinch' ? 'pinch' : null;
    this.active = null;
    this.pointer = this.at(e);
    if (was === 'tool') this.send({ type: 'up', point: this.strokePoint(e) }, e.timeStamp);
    this.pickTool();
    this.showCursor();
  }

  private lost(e: PointerEvent): void {
    this.touches.delete(e.pointerId);
    if (e.pointerId !== this.active) return;
    if (this.mode === 'tool') this.send({ type: 'cancel' }, e.timeStamp);
    this.mode = null;
    this.active = null;
    this.pickTool();
  }

  private wheel(e: WheelEvent): void {
    e.preventDefault();
    const { job } = this.session.state;
    if (!job) return;
    const step = e.deltaMode === 1 ? e.deltaY * 16 : e.deltaY;
    const { point, size } = this.pane(this.at(e));
    const factor = Math.exp(-step * (e.ctrlKey ? 0.01 : 0.0018));
    this.moveCamera(zoomAt(this.camera, size, job.photo, point, factor));
  }

  // Tools

  private pickTool(): void {
    if (this.mode === 'tool' && this.session.state.method === 'patch') return;
    const { markTool, method, laying } = this.session.state;
    const picks = paintsLive(method) && !laying;
    const drawsLine = laying?.what === 'line' || laying?.what === 'rail';
    const wanted = drawsLine
      ? lineTool
      : markTool === 'choose'
        ? chooseTool
        : markTool === 'paint'
          ? picks
            ? paintingTool
            : markingTool
          : this.toolOf(markTool);
    if ((wanted as unknown as AnyTool) === this.tool) return;
    if (this.mode === 'tool' || this.toolState.is !== this.tool.start.is) this.cancelGesture();
    this.takeUp(wanted as unknown as AnyTool);
    this.showCursor();
  }

  private toolOf(markTool: Exclude<MarkTool, 'choose' | 'paint'>): unknown {
    if (markTool === 'box') return this.session.state.next.boxKind === 'box' ? rectangleTool : ovalTool;
    return { lasso: lassoTool, grow: markingTool, colour: pullTool, span: clicksTool }[markTool];
  }

  private send(event: GestureEvent, atMs: number): void {
    const step = this.tool.transition(this.toolState, event);
    this.toolState = step.state;
    for (const effect of step.effects) this.session.perform(effect, atMs);
    this.invalidate();
  }

  private showCursor(): void {
    const { compare, markTool, laying } = this.session.state;
    const line = laying?.what === 'line' || laying?.what === 'rail';
    const pan = this.spaceHeld || compare !== 'none';
    this.canvas.style.cursor =
      this.mode === 'pan'
        ? 'grabbing'
        : pan
          ? 'grab'
          : line
            ? 'crosshair'
            : markTool === 'choose'
              ? 'default'
              : markTool === 'paint' || markTool === 'grow'
                ? 'none'
                : 'crosshair';
  }

  // Frames

  /** What the brush would take from where the pointer is. */
  private brushSight(): BrushSight | null {
    const { method } = this.session.state;
    const at = this.pointerInPhoto;
    if (!at || !takesFrom(method)) return null;
    const mend = this.session.painting.hovering(at);
    if (!mend) return null;
    try {
      return { target: at, placement: placementOf(mend) };
    } catch {
      // Beyond the plane's horizon nothing can be taken.
      return null;
    }
  }

  private scene(): Scene {
    const { session } = this;
    return {
      state: session.state,
      camera: this.camera,
      tiles: this.tiles,
      preview: session.preview,
      masks: (id) => session.masks.get(id),
      pointer: this.pointer,
      brush: this.brushSight(),
      loupe: this.loupe,
      wipeAt: this.wipeAt,
      painting: session.painting.isLive,
    };
  }

  private afterFrame(): void {
    if (this.drawnSince !== null) {
      this.strokeTimings?.push(performance.now() - this.drawnSince);
      this.drawnSince = null;
    }
    this.placeBar();
  }

  private placeBar(): void {
    const bar = this.bar();
    if (!bar) return;
    const { chosen } = this.session.state;
    const mend = chosen ? this.session.mendOf(chosen) : null;
    if (!mend) return;
    const r = this.painter.ratio;
    const { view } = this.painter;
    const size = { width: bar.offsetWidth, height: bar.offsetHeight };
    const css = { width: view.width / r, height: view.height / r };
    const camera = { ...this.camera, zoom: this.camera.zoom / r };
    const at = besideArea(boundsOfArea(mend.area), camera, css, size, 12);
    bar.style.transform = `translate(${Math.round(at.x)}px, ${Math.round(at.y)}px)`;
  }

  private resize(): void {
    const r = this.painter.ratio;
    const width = Math.round(this.canvas.clientWidth * r);
    const height = Math.round(this.canvas.clientHeight * r);
    if (width === 0 || height === 0) return;
    if (this.canvas.width === width && this.canvas.height === height) return;
    const fitted = this.placed && this.atFit;
    this.canvas.width = width;
    this.canvas.height = height;
    const { job } = this.session.state;
    if (job && (fitted || !this.placed) && (this.session.preview || this.tiles)) {
      this.placed = true;
      this.moveCamera(fitCamera(job.photo, this.painter.view));
    }
    this.invalidate();
  }
}

const paintingTool = brushTool(true);
const markingTool = brushTool(false);
const rectangleTool = boxTool('box');
const ovalTool = boxTool('ellipse');
