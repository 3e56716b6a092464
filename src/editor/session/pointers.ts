import { rasteriseArea } from '../../core/area';
import { topmostAt } from '../../core/job';
import { boxTool } from '../tools/box';
import { brushTool } from '../tools/brush';
import { chooseTool } from '../tools/choose';
import { clicksTool } from '../tools/clicks';
import type { GestureEvent, Grip, StrokePoint, Tool } from '../tools/gesture';
import { lassoTool } from '../tools/lasso';
import { lineTool } from '../tools/line';
import { pullTool } from '../tools/pull';
import { type Point, panBy, toDoc, zoomAt } from '../viewport/camera';
import { paintsLive, takesFrom } from './painting';
import { perform } from './perform';
import type { Session } from './session';
import type { MarkTool } from './state';
import type { View } from './view';

type AnyTool = Tool<{ readonly is: string }>;

const handleReachPx = 14;
const wipeReachPx = 14;

/** What mouse, pen and fingers do on the photo: gestures go to the tool at hand, all else moves the camera or the wipe. */
export class Pointers {
  /** Where the pointer is, in pixels of the canvas; null when it is elsewhere. */
  pointer: Point | null = null;
  private tool: AnyTool = choosingTool as unknown as AnyTool;
  private toolState: { readonly is: string } = choosingTool.start;
  private active: number | null = null;
  private mode: 'tool' | 'pan' | 'wipe' | 'pinch' | null = null;
  private readonly touches = new Map<number, Point>();
  private penSeenAtMs = -1e9;
  private spaceHeld = false;
  private readonly off = new AbortController();
  private readonly unsubscribe: () => void;

  constructor(
    private readonly session: Session,
    private readonly view: View,
    private readonly canvas: HTMLCanvasElement,
  ) {
    this.listen();
    this.unsubscribe = session.store.subscribe(() => this.pickTool());
    this.pickTool();
  }

  close(): void {
    this.off.abort();
    this.unsubscribe();
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
      this.view.pointerMoved();
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
    const r = this.view.ratio;
    return { x: (e.clientX - box.left) * r, y: (e.clientY - box.top) * r };
  }

  private strokePoint(e: PointerEvent): StrokePoint {
    const doc = toDoc(this.view.camera, this.view.size, this.at(e));
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
      Math.abs(at.x - this.view.wipeAt * this.view.size.width) < wipeReachPx * this.view.ratio
    )
      this.mode = 'wipe';
    else if (e.button === 1 || this.spaceHeld || compare !== 'none') this.mode = 'pan';
    else if (e.button === 0 && this.session.isOpen) {
      this.mode = 'tool';
      const point = this.strokePoint(e);
      const doc = { x: point[0], y: point[1] };
      const patches = !e.shiftKey && !e.altKey && this.onPatch(doc);
      if (patches) this.takeUp(choosingTool as unknown as AnyTool);
      const grip = patches ? ({ kind: 'mark' } as const) : this.gripAt(at, doc);
      const reach = (10 * this.view.ratio) / this.view.camera.zoom;
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
    const reach = handleReachPx * this.view.ratio;
    const handle = this.view.handles.find(({ at }) => Math.hypot(at.x - screen.x, at.y - screen.y) <= reach);
    if (handle) return handle.grip;
    const { job } = this.session.state;
    const mendId = job && topmostAt(job, doc, (id) => this.session.masks.get(id));
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
        return this.view.pointerMoved();
      }
      const events = e.getCoalescedEvents?.() ?? [];
      const points = (events.length > 0 ? events : [e]).map((c) => this.strokePoint(c));
      // The ring is drawn where the pen will be by then.
      const ahead = e.getPredictedEvents?.()[0];
      this.pointer = ahead ? this.at(ahead) : at;
      this.placeLoupe(at);
      this.send({ type: 'move', points }, e.timeStamp);
      return;
    }
    if (!inFrame) return;
    this.pointer = at;
    if (this.mode === 'pan' && before && e.pointerId === this.active) {
      const { job } = this.session.state;
      if (job) this.view.moveCamera(panBy(this.view.camera, job.photo, at.x - before.x, at.y - before.y));
    } else if (this.mode === 'wipe' && e.pointerId === this.active)
      this.view.wipe(at.x / this.view.size.width);
    this.placeLoupe(at);
    if (this.mode === null) this.hover();
    this.showCursor();
    this.view.pointerMoved();
  }

  /** Keeps the loupe from covering what is worked on. */
  private placeLoupe(at: Point): void {
    const { size: view } = this.view;
    const low = at.y > 0.55 * view.height;
    const { loupeRight } = this.session.state;
    if (low && !loupeRight && at.x < 0.5 * view.width) this.session.set({ loupeRight: true });
    if (low && loupeRight && at.x > 0.55 * view.width) this.session.set({ loupeRight: false });
  }

  /** What the brush would take is looked at before it paints. */
  private hover(): void {
    const { method, markTool, compare } = this.session.state;
    const doc = this.view.pointerInPhoto;
    if (doc && takesFrom(method) && markTool === 'paint' && compare === 'none') this.session.scout.hover(doc);
  }

  private pinch(old: Point, now: Point, other: Point): void {
    const { job } = this.session.state;
    if (!job) return;
    const factor =
      Math.hypot(now.x - other.x, now.y - other.y) /
      Math.max(1, Math.hypot(old.x - other.x, old.y - other.y));
    const middle = { x: (now.x + other.x) / 2, y: (now.y + other.y) / 2 };
    const panned = panBy(this.view.camera, job.photo, (now.x - old.x) / 2, (now.y - old.y) / 2);
    this.view.moveCamera(zoomAt(panned, this.view.size, job.photo, middle, factor));
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
    if (was === 'tool') void this.hoverOnceQuiet();
  }

  /** What lies under a hand that rests where its stroke ended is looked at, too. */
  private async hoverOnceQuiet(): Promise<void> {
    await this.session.quiet.comes();
    if (this.mode === null) this.hover();
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
    const { point, size } = this.view.pane(this.at(e));
    const factor = Math.exp(-step * (e.ctrlKey ? 0.01 : 0.0018));
    this.view.moveCamera(zoomAt(this.view.camera, size, job.photo, point, factor));
  }

  private pickTool(): void {
    if (this.mode === 'tool' && this.session.state.method === 'patch') return;
    const { markTool, method, laying } = this.session.state;
    const picks = paintsLive(method) && !laying;
    const drawsLine = laying?.what === 'line' || laying?.what === 'rail';
    const wanted = drawsLine
      ? lineTool
      : markTool === 'choose'
        ? picks
          ? choosingSourceTool
          : choosingTool
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
    for (const effect of step.effects) perform(this.session, effect, atMs);
    this.view.pointerMoved();
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
}

const choosingTool = chooseTool(false);
const choosingSourceTool = chooseTool(true);
const paintingTool = brushTool(true);
const markingTool = brushTool(false);
const rectangleTool = boxTool('box');
const ovalTool = boxTool('ellipse');
