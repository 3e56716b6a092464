import type { boundsOfArea } from '../../core/area';
import { project, stepsAt } from '../../core/geometry';
import { grow, intersect, isEmpty, type Rect } from '../../core/raster';
import type { Side } from '../../runtime/engine/protocol';
import { type Camera, type Point, type Size, toDoc, toScreen } from '../viewport/camera';
import { apart } from './changes';
import { surrounds } from './colours';
import { type Handle, Marks } from './marks';
import { Overlay } from './overlay';
import type { BrushSight, LoupeCanvases, Scene } from './scene';

const longestFrameMs = 100;

/** Owns the canvas: one loop on animation frames that reads the scene, then draws. Nothing else draws. Where only the brush
 *  or a stroke's newest pixels have changed, only these parts are drawn. */
export class Painter {
  private all = true;
  private brushMoved = false;
  /** Parts of the canvas that have changed. */
  private parts: Rect[] = [];
  /** Where the brush was drawn last. */
  private brushAt: readonly Rect[] = [];
  private handle = 0;
  private onDrawn: (() => void)[] = [];
  private readonly context: CanvasRenderingContext2D;
  /** Where the chosen mend's handles were drawn, for taking hold of them. */
  handles: readonly Handle[] = [];

  constructor(
    readonly canvas: HTMLCanvasElement,
    private readonly read: () => Scene,
    private readonly onFrame: (view: Size) => void,
  ) {
    this.context = canvas.getContext('2d', { alpha: false })!;
    const loop = () => {
      this.handle = requestAnimationFrame(loop);
      if (this.isDue) {
        this.frame(this.read());
        this.onFrame(this.view);
      }
      for (const done of this.onDrawn.splice(0)) done();
    };
    this.handle = requestAnimationFrame(loop);
  }

  get view(): Size {
    return { width: this.canvas.width, height: this.canvas.height };
  }

  get ratio(): number {
    return globalThis.devicePixelRatio || 1;
  }

  private get isDue(): boolean {
    return this.all || this.brushMoved || this.parts.length > 0;
  }

  /** Resolves when all is drawn that has changed, or after a while where nothing is drawn, as in a tab that is not seen. */
  drawn(): Promise<void> {
    if (!this.isDue) return Promise.resolve();
    return new Promise((done) => {
      this.onDrawn.push(done);
      setTimeout(done, longestFrameMs);
    });
  }

  /** Anything may have changed. */
  invalidate(): void {
    this.all = true;
  }

  /** Only what lies within a part of the canvas has changed. */
  invalidateWithin(part: Rect): void {
    this.parts.push(part);
  }

  /** Only the brush is elsewhere. */
  invalidateBrush(): void {
    this.brushMoved = true;
  }

  stop(): void {
    cancelAnimationFrame(this.handle);
  }

  private frame(scene: Scene): void {
    const { context: c } = this;
    const brushAt = this.brushRects(scene);
    const parts = this.all ? null : this.changed(scene, [...this.parts, ...this.brushAt, ...brushAt]);
    this.all = false;
    this.brushMoved = false;
    this.parts = [];
    this.brushAt = brushAt;
    c.setTransform(1, 0, 0, 1, 0, 0);
    if (!parts) this.draw(scene, null);
    // One after the other: lines come out the same as without a clip only where that is one rectangle.
    for (const part of parts ?? []) {
      c.save();
      c.beginPath();
      c.rect(part.x, part.y, part.w, part.h);
      c.clip();
      this.draw(scene, part);
      c.restore();
    }
    const { state, loupe } = scene;
    if (state.job && loupe && !state.flipped && !scene.painting) this.loupe(scene, loupe);
    if (state.job && parts?.length !== 0) scene.tiles?.settle();
  }

  /** The parts that are to be drawn anew; null: all. */
  private changed({ state }: Scene, parts: readonly Rect[]): Rect[] | null {
    if (state.compare !== 'none' || state.sweep?.exaggerated) return null;
    return apart(parts, { x: 0, y: 0, w: this.view.width, h: this.view.height });
  }

  /** Where the brush, the mark of its source and what follows the pointer are drawn. */
  private brushRects(scene: Scene): Rect[] {
    const { state, camera, pointer, brush } = scene;
    const room = 4 * this.ratio;
    const at = ({ x, y }: Point, radius: number): Rect =>
      grow({ x: x - radius, y: y - radius, w: 2 * radius, h: 2 * radius }, room);
    const out: Rect[] = [];
    if (pointer) out.push(at(pointer, Math.max(2 * this.ratio, (state.next.sizePx / 2) * camera.zoom)));
    const sight = brush && sightOf(brush);
    const set = state.sources[state.slot].at;
    if (sight)
      out.push(at(toScreen(camera, this.view, { x: sight.from[0], y: sight.from[1] }), 12 * this.ratio));
    else if (set) out.push(at(toScreen(camera, this.view, set), 12 * this.ratio));
    if (pointer && state.markTool === 'lasso' && state.drawing?.kind === 'polygon') {
      const last = toScreen(
        camera,
        this.view,
        pointOf(state.drawing.points[state.drawing.points.length - 1]),
      );
      const [x, y] = [Math.min(last.x, pointer.x), Math.min(last.y, pointer.y)];
      out.push(grow({ x, y, w: Math.abs(last.x - pointer.x), h: Math.abs(last.y - pointer.y) }, room));
    }
    return out;
  }

  /** @param part  where it is drawn; null: all over */
  private draw(scene: Scene, part: Rect | null): void {
    const { context: c, view } = this;
    const { state, wipeAt } = scene;
    c.fillStyle = surrounds[state.surround];
    c.fillRect(0, 0, view.width, view.height);
    this.handles = [];
    if (!state.job) return;
    if (state.compare === 'pair') {
      const half = { width: Math.floor(view.width / 2) - 1, height: view.height };
      this.pane(scene, 'before', { x: 0, y: 0, w: half.width, h: half.height }, half);
      this.pane(scene, 'after', { x: half.width + 2, y: 0, w: half.width, h: half.height }, half);
    } else if (state.compare === 'wipe' && !state.flipped) {
      const split = Math.round(view.width * wipeAt);
      this.pane(scene, 'before', { x: 0, y: 0, w: split, h: view.height }, view, 0);
      this.pane(scene, 'after', { x: split, y: 0, w: view.width - split, h: view.height }, view, 0);
    } else {
      this.pane(
        scene,
        state.flipped ? 'before' : 'after',
        { x: 0, y: 0, w: view.width, h: view.height },
        view,
        0,
        part,
      );
      if (!state.flipped && !state.marksHidden) this.marks(scene);
    }
  }

  /** Target and source side by side, at 1:1 or more. */
  private loupe(scene: Scene, { target, source, drawn }: LoupeCanvases): void {
    const { state, brush } = scene;
    const sight = state.dragging
      ? { at: state.dragging.target, from: state.dragging.source }
      : brush && sightOf(brush);
    if (!sight) return;
    const size = { width: target.width, height: target.height };
    const zoom = this.ratio * Math.min(4, Math.max(1, (0.8 * size.width) / this.ratio / state.next.sizePx));
    for (const [canvas, [x, y]] of [
      [target, sight.at],
      [source, sight.from],
    ] as const) {
      const c = canvas.getContext('2d')!;
      c.fillStyle = surrounds[state.surround];
      c.fillRect(0, 0, size.width, size.height);
      const from = canvas === source && state.next.reads === 'photo' ? 'before' : 'after';
      this.picture(c, scene, from, { x, y, zoom }, size);
      if (state.dragging) continue;
      const overlay = new Overlay(c, { x, y, zoom }, size, this.ratio);
      overlay.pen.ring({ x: size.width / 2, y: size.height / 2 }, (state.next.sizePx / 2) * zoom);
    }
    drawn();
  }

  /** One picture within a rectangle of the canvas, as a view of the given size placed at `left` would show it. */
  private pane(
    scene: Scene,
    side: Side,
    clip: Rect,
    size: Size,
    left = clip.x,
    part: Rect | null = null,
  ): void {
    const { context: c } = this;
    if (clip.w <= 0) return;
    c.save();
    c.beginPath();
    c.rect(clip.x, clip.y, clip.w, clip.h);
    c.clip();
    c.translate(left, 0);
    this.picture(c, scene, side, scene.camera, size, part);
    if (scene.state.sweep?.exaggerated && side === 'after') this.exaggerate(size);
    c.restore();
  }

  /** Makes small differences large: the picture less its own blur, five times over. */
  private exaggerate({ width, height }: Size): void {
    const { context: c, canvas } = this;
    c.save();
    c.setTransform(1, 0, 0, 1, 0, 0);
    // Half of it and half of its blurred negative leave half of the difference on grey.
    c.globalAlpha = 0.5;
    c.filter = `blur(${Math.round(10 * this.ratio)}px) invert(1)`;
    c.drawImage(canvas, 0, 0, width, height, 0, 0, width, height);
    c.globalAlpha = 1;
    c.filter = 'contrast(6)';
    c.drawImage(canvas, 0, 0, width, height, 0, 0, width, height);
    c.restore();
  }

  /** @param part  where it is drawn; null: all over */
  private picture(
    c: CanvasRenderingContext2D,
    scene: Scene,
    side: Side,
    camera: Camera,
    size: Size,
    part: Rect | null = null,
  ): void {
    const { state, tiles, preview } = scene;
    const { width, height } = state.job!.photo;
    c.imageSmoothingEnabled = camera.zoom <= 2;
    c.imageSmoothingQuality = 'medium';
    const edge = (x: number, y: number) => {
      const p = toScreen(camera, size, { x, y });
      return { x: Math.round(p.x), y: Math.round(p.y) };
    };
    const from = toDoc(camera, size, { x: 0, y: 0 });
    const to = toDoc(camera, size, { x: size.width, y: size.height });
    const docView = { x: from.x, y: from.y, w: to.x - from.x, h: to.y - from.y };
    const shown = tiles?.tilesFor(side, tiles.levelFor(camera.zoom), docView);
    // Enlarged, it costs as much as all the tiles that would hide it.
    if (preview && !shown?.isWhole) {
      const a = edge(0, 0);
      const b = edge(width, height);
      c.drawImage(preview, a.x, a.y, b.x - a.x, b.y - a.y);
    }
    for (const tile of shown?.tiles ?? []) {
      // Edges on whole screen pixels: neighbouring tiles then meet without a seam.
      const { docRect, from: f } = tile;
      const a = edge(docRect.x, docRect.y);
      const b = edge(Math.min(width, docRect.x + docRect.w), Math.min(height, docRect.y + docRect.h));
      const on = { x: a.x, y: a.y, w: b.x - a.x, h: b.y - a.y };
      if (!isEmpty(on) && (!part || !isEmpty(intersect(part, on))))
        c.drawImage(tile.canvas, f.x, f.y, f.w, f.h, a.x, a.y, b.x - a.x, b.y - a.y);
    }
    if (!tiles || side === 'before') return;
    for (const { coarse } of Object.values(state.tasks)) {
      if (!coarse) continue;
      const { rect, picture } = coarse;
      const a = edge(rect.x, rect.y);
      const b = edge(rect.x + rect.w, rect.y + rect.h);
      c.imageSmoothingEnabled = true;
      c.drawImage(picture, a.x, a.y, b.x - a.x, b.y - a.y);
    }
  }

  /** What lies over the photo, and the brush over that. */
  private marks(scene: Scene): void {
    const overlay = new Overlay(this.context, scene.camera, this.view, this.ratio);
    this.handles = new Marks(scene, overlay).draw();
    this.brush(scene, overlay);
  }

  private brush(scene: Scene, overlay: Overlay): void {
    const { state, camera, pointer, brush } = scene;
    const { next } = state;
    const set = state.sources[state.slot].at;
    const takes = (state.method === 'clone' || state.method === 'heal') && !state.laying;
    if (set && takes && state.markTool !== 'choose') {
      const sight = brush && sightOf(brush);
      const [x, y] = sight ? sight.from : [set.x, set.y];
      overlay.sources.sourceMark(toScreen(camera, this.view, { x, y }));
    }
    if (pointer && state.markTool === 'lasso' && state.drawing?.kind === 'polygon')
      overlay.marked.rubber(state.drawing.points[state.drawing.points.length - 1], pointer);
    if (!pointer || (state.markTool !== 'paint' && state.markTool !== 'grow') || state.readOnly) return;
    const radius = (next.sizePx / 2) * camera.zoom;
    if (takes && brush && !scene.painting && radius > 3) this.brushPreview(scene, brush, pointer, radius);
    if (state.method === 'paint' && next.colour && !state.laying && !scene.painting)
      overlay.sources.disc(pointer, radius, next.colour, next.opacity);
    overlay.pen.ring(pointer, radius);
  }

  /** The source inside the brush, laid as it would be. */
  private brushPreview(scene: Scene, brush: BrushSight, pointer: Point, radius: number): void {
    const { context: c } = this;
    const { state, camera } = scene;
    const sight = sightOf(brush);
    if (!sight) return;
    c.save();
    c.beginPath();
    c.arc(pointer.x, pointer.y, radius, 0, 2 * Math.PI);
    c.clip();
    c.globalAlpha = state.next.opacity;
    const [[ax, ay], [bx, by]] = [sight.across, sight.down];
    const det = ax * by - bx * ay;
    if (Math.abs(det) > 1e-6) {
      // From source to target is the way back of the map's steps.
      c.translate(pointer.x, pointer.y);
      c.transform(by / det, -ay / det, -bx / det, ax / det, 0, 0);
      c.translate(-pointer.x, -pointer.y);
    }
    const [sx, sy] = sight.from;
    const moved = {
      ...camera,
      x: sx - (pointer.x - this.view.width / 2) / camera.zoom,
      y: sy - (pointer.y - this.view.height / 2) / camera.zoom,
    };
    const side = state.next.reads === 'photo' ? 'before' : 'after';
    this.picture(c, { ...scene, preview: null }, side, moved, this.view);
    c.restore();
  }
}

/** A brush's target and source points, and how far a target pixel's sides reach in the source. */
function sightOf({ target, placement }: BrushSight) {
  const { x, y } = target;
  const at = [x, y] as const;
  if (placement.kind === 'shift')
    return {
      at,
      from: [x + placement.dx, y + placement.dy] as const,
      across: [1, 0] as const,
      down: [0, 1] as const,
    };
  const from = project(placement.map, x, y);
  const steps = stepsAt(placement.map, x, y);
  return from && steps && { at, from, ...steps };
}

const pointOf = ([x, y]: readonly [number, number, ...number[]]): Point => ({ x, y });

/** Where a bar beside an area may stand on the screen without covering it: below, else above, else at the view's foot. */
export function besideArea(
  bounds: ReturnType<typeof boundsOfArea>,
  camera: Camera,
  view: Size,
  bar: Size,
  gap: number,
): Point {
  const a = toScreen(camera, view, { x: bounds.x, y: bounds.y });
  const b = toScreen(camera, view, { x: bounds.x + bounds.w, y: bounds.y + bounds.h });
  const x = Math.max(gap, Math.min(view.width - bar.width - gap, (a.x + b.x) / 2 - bar.width / 2));
  if (b.y + gap + bar.height + gap <= view.height) return { x, y: Math.max(gap, b.y + gap) };
  if (a.y - gap - bar.height >= gap)
    return { x, y: Math.min(view.height - bar.height - gap, a.y - gap - bar.height) };
  return { x, y: view.height - bar.height - gap };
}
