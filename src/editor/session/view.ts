import { boundsOfArea } from '../../core/area';
import { findMend, type PhotoFacts } from '../../core/job';
import { placementOf } from '../../core/methods';
import { grow, type Rect } from '../../core/raster';
import type { TilePixels } from '../../runtime/engine/protocol';
import { besideArea, Painter } from '../painter/painter';
import type { BrushSight, LoupeCanvases, Scene } from '../painter/scene';
import { TileStore } from '../painter/tile-store';
import {
  type Camera,
  fitCamera,
  fitZoom,
  type Point,
  type Size,
  stepZoom,
  toDoc,
  toScreen,
  zoomAt,
} from '../viewport/camera';
import { takesFrom } from './painting';
import { Pointers } from './pointers';
import type { Session } from './session';

/** The photo on the screen: camera, tiles and frames. Nothing of it passes through React. */
export class View {
  camera: Camera = { x: 0, y: 0, zoom: 1 };
  wipeAt = 0.5;
  /** Where target and source are shown side by side, while that panel is there. */
  loupe: LoupeCanvases | null = null;
  /** Milliseconds from pointer to drawn pixels, one a frame while painting; collected when a benchmark asks for it. */
  strokeTimings: number[] | null = null;
  private tiles: TileStore | null = null;
  private readonly painter: Painter;
  private placed = false;
  readonly pointers: Pointers;
  private drawnSince: number | null = null;
  private readonly sizes: ResizeObserver;

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
    this.resize();
    const { job } = session.state;
    if (job && session.preview) this.photoShown(job.photo);
    if (session.isOpen) this.engineReady();
    session.view = this;
    this.pointers = new Pointers(session, this, canvas);
  }

  close(): void {
    this.painter.stop();
    this.pointers.close();
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

  /** Resolves when all is on the screen that has changed so far. */
  drawn(): Promise<void> {
    return this.painter.drawn();
  }

  strokeParts(parts: readonly TilePixels[], sinceMs: number | null): void {
    this.tiles?.patch(parts);
    if (parts.length > 0) this.drawnSince ??= sinceMs;
    for (const { level, rect } of parts) {
      const by = 2 ** level;
      const { x, y } = toScreen(this.camera, this.painter.view, { x: rect.x * by, y: rect.y * by });
      const scale = by * this.camera.zoom;
      const at = { x, y, w: rect.w * scale, h: rect.h * scale };
      // Where the picture is scaled, neighbouring pixels show a little of it.
      this.painter.invalidateWithin(grow(at, Math.ceil(Math.max(6, 2 * scale))));
    }
  }

  /** Moves the line between before and after. @param at  0…1 across the view */
  wipe(at: number): void {
    this.wipeAt = Math.min(1, Math.max(0, at));
    this.invalidate();
  }

  /** Nothing but what follows the pointer has changed. */
  pointerMoved(): void {
    this.painter.invalidateBrush();
  }

  /** Where the pointer is on the photo. */
  get pointerInPhoto(): Point | null {
    const { pointer } = this.pointers;
    return pointer && toDoc(this.camera, this.painter.view, pointer);
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

  moveCamera(camera: Camera): void {
    const zoomed = camera.zoom !== this.camera.zoom;
    this.camera = camera;
    if (zoomed) this.session.set({ zoom: camera.zoom });
    this.invalidate();
  }

  /** Of the canvas, in its own pixels. */
  get size(): Size {
    return this.painter.view;
  }

  /** Pixels of the canvas in one of the page's. */
  get ratio(): number {
    return this.painter.ratio;
  }

  get handles(): Painter['handles'] {
    return this.painter.handles;
  }

  /** In the paired view, which of the two panes a point lies in, and the point within it. */
  pane(at: Point): { point: Point; size: Size } {
    const { view } = this.painter;
    if (this.session.state.compare !== 'pair') return { point: at, size: view };
    const width = Math.floor(view.width / 2) - 1;
    return {
      point: { x: at.x > width ? at.x - width - 2 : at.x, y: at.y },
      size: { width, height: view.height },
    };
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
      pointer: this.pointers.pointer,
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
