import { type Area, boundsOfArea, type MaskLookup, outlineOf, type Shape } from '../../core/area';
import type { SourceShift } from '../../core/job';
import { type Camera, type Point, type Size, toScreen } from '../viewport/camera';
import { colours } from './colours';

const paths = new WeakMap<Area, Path2D>();

/** An area's outline in document pixels, found once per area. */
export function outlinePath(area: Area, masks: MaskLookup): Path2D {
  const known = paths.get(area);
  if (known) return known;
  const path = new Path2D();
  for (const ring of outlineOf(area, masks)) {
    ring.forEach(([x, y], i) => {
      if (i === 0) path.moveTo(x, y);
      else path.lineTo(x, y);
    });
    path.closePath();
  }
  paths.set(area, path);
  return path;
}

export type LineStyle = 'mended' | 'source' | 'hovered';

/** Draws the overlay in screen pixels; document paths are brought there by the camera's transform. */
export class Overlay {
  constructor(
    private readonly context: CanvasRenderingContext2D,
    private readonly camera: Camera,
    private readonly view: Size,
    private readonly ratio: number,
  ) {}

  outline(path: Path2D, style: LineStyle, shift: SourceShift = { dx: 0, dy: 0 }, tint = false): void {
    const { context: c, camera, view } = this;
    c.save();
    c.translate(view.width / 2, view.height / 2);
    c.scale(camera.zoom, camera.zoom);
    c.translate(shift.dx - camera.x, shift.dy - camera.y);
    const px = this.ratio / camera.zoom;
    if (tint) {
      c.fillStyle = colours.mendedTint;
      c.fill(path, 'evenodd');
    }
    c.lineJoin = 'round';
    if (style !== 'hovered') {
      c.strokeStyle = colours.halo;
      c.lineWidth = 3.5 * px;
      c.stroke(path);
    }
    c.strokeStyle = style === 'source' ? colours.source : colours.mended;
    c.lineWidth = (style === 'hovered' ? 1.25 : 1.75) * px;
    if (style === 'source') c.setLineDash([6 * px, 4 * px]);
    c.stroke(path);
    c.restore();
  }

  shape(shape: Shape): void {
    const path = new Path2D();
    if (shape.kind === 'polygon') {
      shape.points.forEach(([x, y], i) => {
        if (i === 0) path.moveTo(x, y);
        else path.lineTo(x, y);
      });
      path.closePath();
    } else if (shape.kind === 'box') path.rect(shape.x, shape.y, shape.w, shape.h);
    else if (shape.kind === 'stroke')
      return this.strokeTrail(shape.points, shape.radiusPx, shape.op === 'subtract');
    this.outline(path, shape.op === 'subtract' ? 'source' : 'mended', undefined, shape.op === 'add');
  }

  private strokeTrail(points: readonly (readonly number[])[], radiusPx: number, away: boolean): void {
    const { context: c, camera, view } = this;
    c.save();
    c.lineCap = 'round';
    c.lineJoin = 'round';
    c.lineWidth = 2 * radiusPx * camera.zoom;
    c.strokeStyle = away ? 'rgba(194, 106, 0, 0.35)' : 'rgba(15, 143, 125, 0.4)';
    c.beginPath();
    points.forEach(([x, y], i) => {
      const p = toScreen(camera, view, { x, y });
      if (i === 0) c.moveTo(p.x, p.y);
      c.lineTo(p.x, p.y);
    });
    c.stroke();
    c.restore();
  }

  /** The thread from a source to its mend: a light curve with a head at the mend. */
  thread(area: Area, source: SourceShift): { handle: Point } {
    const { context: c, camera, view, ratio } = this;
    const box = boundsOfArea(area);
    const middle = { x: box.x + box.w / 2, y: box.y + box.h / 2 };
    const from = toScreen(camera, view, { x: middle.x + source.dx, y: middle.y + source.dy });
    const to = toScreen(camera, view, middle);
    const dx = to.x - from.x;
    const dy = to.y - from.y;
    const length = Math.hypot(dx, dy) || 1;
    const bend = Math.min(60 * ratio, length * 0.25);
    const mid = {
      x: (from.x + to.x) / 2 + (dy / length) * bend,
      y: (from.y + to.y) / 2 - (dx / length) * bend,
    };
    const path = new Path2D();
    path.moveTo(from.x, from.y);
    path.quadraticCurveTo(mid.x, mid.y, to.x, to.y);
    const angle = Math.atan2(to.y - mid.y, to.x - mid.x);
    for (const turn of [-0.45, 0.45]) {
      path.moveTo(to.x, to.y);
      path.lineTo(to.x - 9 * ratio * Math.cos(angle + turn), to.y - 9 * ratio * Math.sin(angle + turn));
    }
    c.save();
    c.lineCap = 'round';
    for (const [colour, width] of [
      [colours.threadEdge, 4],
      [colours.thread, 2],
    ] as const) {
      c.strokeStyle = colour;
      c.lineWidth = width * ratio;
      c.stroke(path);
    }
    c.restore();
    return { handle: from };
  }

  /** What one takes hold of to move a source. */
  sourceHandle(at: Point, live: boolean): void {
    const { context: c, ratio } = this;
    c.save();
    c.globalAlpha = live ? 1 : 0.45;
    c.beginPath();
    c.arc(at.x, at.y, 9 * ratio, 0, 2 * Math.PI);
    c.fillStyle = '#ffd28a';
    c.fill();
    c.lineWidth = 2 * ratio;
    c.strokeStyle = '#3d2200';
    c.stroke();
    c.beginPath();
    c.arc(at.x, at.y, 2.5 * ratio, 0, 2 * Math.PI);
    c.fillStyle = '#3d2200';
    c.fill();
    c.restore();
  }

  ring(at: Point, radius: number): void {
    const { context: c, ratio } = this;
    c.save();
    for (const [colour, width] of [
      ['rgba(0, 0, 0, 0.6)', 2.5],
      ['#ffffff', 1.25],
    ] as const) {
      c.beginPath();
      c.arc(at.x, at.y, Math.max(1.5 * ratio, radius), 0, 2 * Math.PI);
      c.strokeStyle = colour;
      c.lineWidth = width * ratio;
      c.stroke();
    }
    c.restore();
  }

  /** Where the next stroke will be taken from. */
  sourceMark(at: Point): void {
    const { context: c, ratio } = this;
    c.save();
    for (const [colour, width] of [
      ['#3d2200', 4],
      ['#ffb347', 2],
    ] as const) {
      c.strokeStyle = colour;
      c.lineWidth = width * ratio;
      c.beginPath();
      for (const [x, y] of [
        [1, 1],
        [1, -1],
        [-1, -1],
        [-1, 1],
      ]) {
        c.moveTo(at.x + 3 * x * ratio, at.y + 3 * y * ratio);
        c.lineTo(at.x + 10 * x * ratio, at.y + 10 * y * ratio);
      }
      c.stroke();
    }
    c.restore();
  }
}
