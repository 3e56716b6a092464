import type { boundsOfArea, MaskLookup } from '../../core/area';
import { findMend, type Mend, type SourceShift } from '../../core/job';
import { methods } from '../../core/methods';
import type { Rect } from '../../core/raster';
import type { Side } from '../../runtime/engine/protocol';
import type { SessionState } from '../session/state';
import type { Grip } from '../tools/gesture';
import { type Camera, type Point, type Size, toDoc, toScreen } from '../viewport/camera';
import { surrounds } from './colours';
import { Overlay, outlinePath } from './overlay';
import type { TileStore } from './tile-store';

/** What the painter reads each frame. */
export interface Scene {
  readonly state: SessionState;
  readonly camera: Camera;
  readonly tiles: TileStore | null;
  readonly preview: ImageBitmap | null;
  readonly masks: MaskLookup;
  /** Pointer on the canvas, in screen pixels; null when it is elsewhere. */
  readonly pointer: Point | null;
  /** Where the brush would take from, if it is one that takes from somewhere. */
  readonly brushShift: SourceShift | null;
  /** 0…1 across the view. */
  readonly wipeAt: number;
  readonly painting: boolean;
}

/** Owns the canvas: one loop on animation frames that reads the scene, then draws. Nothing else draws. */
export class Painter {
  private dirty = true;
  private handle = 0;
  private readonly context: CanvasRenderingContext2D;
  /** Where the chosen mend's handles were drawn, for taking hold of them. */
  handles: { readonly at: Point; readonly grip: Grip }[] = [];

  constructor(
    readonly canvas: HTMLCanvasElement,
    private readonly read: () => Scene,
    private readonly onFrame: (view: Size) => void,
  ) {
    this.context = canvas.getContext('2d', { alpha: false })!;
    const loop = () => {
      this.handle = requestAnimationFrame(loop);
      if (!this.dirty) return;
      this.dirty = false;
      this.draw(this.read());
      this.onFrame(this.view);
    };
    this.handle = requestAnimationFrame(loop);
  }

  get view(): Size {
    return { width: this.canvas.width, height: this.canvas.height };
  }

  get ratio(): number {
    return globalThis.devicePixelRatio || 1;
  }

  invalidate(): void {
    this.dirty = true;
  }

  stop(): void {
    cancelAnimationFrame(this.handle);
  }

  private draw(scene: Scene): void {
    const { context: c, view } = this;
    const { state, wipeAt } = scene;
    c.setTransform(1, 0, 0, 1, 0, 0);
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
      );
      if (!state.flipped && !state.marksHidden) this.marks(scene);
    }
    scene.tiles?.settle();
  }

  /** One picture within a rectangle of the canvas, as a view of the given size placed at `left` would show it. */
  private pane(scene: Scene, side: Side, clip: Rect, size: Size, left = clip.x): void {
    const { context: c } = this;
    if (clip.w <= 0) return;
    c.save();
    c.beginPath();
    c.rect(clip.x, clip.y, clip.w, clip.h);
    c.clip();
    c.translate(left, 0);
    this.picture(scene, side, scene.camera, size);
    c.restore();
  }

  private picture(scene: Scene, side: Side, camera: Camera, size: Size): void {
    const { context: c } = this;
    const { state, tiles, preview } = scene;
    const { width, height } = state.job!.photo;
    c.imageSmoothingEnabled = camera.zoom <= 2;
    c.imageSmoothingQuality = 'medium';
    const edge = (x: number, y: number) => {
      const p = toScreen(camera, size, { x, y });
      return { x: Math.round(p.x), y: Math.round(p.y) };
    };
    if (preview) {
      const a = edge(0, 0);
      const b = edge(width, height);
      c.drawImage(preview, a.x, a.y, b.x - a.x, b.y - a.y);
    }
    if (!tiles) return;
    const from = toDoc(camera, size, { x: 0, y: 0 });
    const to = toDoc(camera, size, { x: size.width, y: size.height });
    const docView = { x: from.x, y: from.y, w: to.x - from.x, h: to.y - from.y };
    for (const tile of tiles.tilesFor(side, tiles.levelFor(camera.zoom), docView)) {
      // Edges on whole screen pixels: neighbouring tiles then meet without a seam.
      const { docRect, from: f } = tile;
      const a = edge(docRect.x, docRect.y);
      const b = edge(Math.min(width, docRect.x + docRect.w), Math.min(height, docRect.y + docRect.h));
      if (b.x > a.x && b.y > a.y)
        c.drawImage(tile.canvas, f.x, f.y, f.w, f.h, a.x, a.y, b.x - a.x, b.y - a.y);
    }
    if (side === 'before') return;
    for (const { coarse } of Object.values(state.tasks)) {
      if (!coarse) continue;
      const { rect, picture } = coarse;
      const a = edge(rect.x, rect.y);
      const b = edge(rect.x + rect.w, rect.y + rect.h);
      c.imageSmoothingEnabled = true;
      c.drawImage(picture, a.x, a.y, b.x - a.x, b.y - a.y);
    }
  }

  private marks(scene: Scene): void {
    const { state, camera, masks } = scene;
    const overlay = new Overlay(this.context, camera, this.view, this.ratio);
    const job = state.job!;
    const hovered = state.hovered && state.hovered !== state.chosen ? findMend(job, state.hovered) : null;
    if (hovered) overlay.outline(outlinePath(hovered.mend.area, masks), 'hovered');
    const chosen = state.chosen && !scene.painting ? findMend(job, state.chosen) : null;
    if (chosen) {
      const { mend } = chosen;
      const path = outlinePath(mend.area, masks);
      const source = methods[mend.method].scope === 'kept' ? null : mend.source;
      if (source) {
        overlay.outline(path, 'source', source);
        const { handle } = overlay.thread(mend.area, source);
        const live = state.markTool === 'choose' && !state.readOnly;
        overlay.sourceHandle(handle, live);
        if (live) this.handles.push({ at: handle, grip: { kind: 'source', mendId: mend.id } });
      }
      if (mend.method === 'fill') this.steering(scene, overlay, mend);
      overlay.outline(path, 'mended');
    }
    if (state.laying?.mendId === null || state.method === 'fill') overlay.zones(job.zones, masks);
    if (state.drawnLine) overlay.guideLine(state.drawnLine);
    if (state.mark) overlay.outline(outlinePath(state.mark, masks), 'mended', undefined, true);
    if (state.drawing) overlay.shape(state.drawing);
    this.brush(scene, overlay);
  }

  /** What was laid down about a fill's sources, with handles. */
  private steering({ state, masks }: Scene, overlay: Overlay, mend: Mend): void {
    const { steer } = mend;
    const { zones } = state.job!;
    overlay.zones({ allow: steer.allow ?? zones.allow, avoid: zones.avoid }, masks);
    overlay.zones({ allow: null, avoid: steer.avoid }, masks);
    const live = state.markTool === 'choose' && !state.laying && !state.readOnly;
    if (steer.rail) overlay.rail(mend.area, steer.rail, steer.plane);
    if (steer.plane) {
      const corners = overlay.plane(steer.plane, live);
      if (live)
        corners.forEach((at, index) => {
          this.handles.push({ at, grip: { kind: 'corner', mendId: mend.id, index } });
        });
    }
    steer.lines.forEach((line, index) => {
      const ends = overlay.guideLine(line, live);
      if (live)
        ends.forEach((at, end) => {
          const grip = { kind: 'line-end', mendId: mend.id, index, end: end as 0 | 1 } as const;
          this.handles.push({ at, grip });
        });
    });
  }

  private brush(scene: Scene, overlay: Overlay): void {
    const { state, camera, pointer, brushShift } = scene;
    const takes = state.method === 'clone' || state.method === 'heal';
    if (state.picked && takes && state.markTool !== 'choose') {
      const doc = pointer ? toDoc(camera, this.view, pointer) : null;
      const at = doc && brushShift ? { x: doc.x + brushShift.dx, y: doc.y + brushShift.dy } : state.picked.at;
      overlay.sourceMark(toScreen(camera, this.view, at));
    }
    if (!pointer || state.markTool !== 'paint' || state.readOnly) return;
    const radius = (state.next.sizePx / 2) * camera.zoom;
    if (takes && brushShift && !scene.painting && radius > 3) {
      const { context: c } = this;
      c.save();
      c.beginPath();
      c.arc(pointer.x, pointer.y, radius, 0, 2 * Math.PI);
      c.clip();
      c.globalAlpha = state.next.opacity;
      const moved = { ...camera, x: camera.x + brushShift.dx, y: camera.y + brushShift.dy };
      this.picture(
        { ...scene, preview: null },
        state.next.reads === 'photo' ? 'before' : 'after',
        moved,
        this.view,
      );
      c.restore();
    }
    overlay.ring(pointer, radius);
  }
}

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
