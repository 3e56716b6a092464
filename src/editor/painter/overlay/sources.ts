import { boundsOfArea } from '../../../core/area';
import type { PlanePoint } from '../../../core/geometry';
import type { Mend, SourceShift } from '../../../core/job';
import type { ShownMap } from '../../session/state';
import { type Point, toScreen } from '../../viewport/camera';
import { colours } from '../colours';
import type { Pen } from './pen';

/** Where things are taken from, what one takes hold of there, and what a brush lays on. */
export class SourceOverlay {
  constructor(private readonly pen: Pen) {}

  /** The thread from a source to its mend: a light curve with a head at the mend. */
  thread([aboutX, aboutY]: PlanePoint, source: SourceShift): { handle: Point } {
    const { context: c, camera, view, ratio } = this.pen;
    const middle = { x: aboutX, y: aboutY };
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
    const { context: c, ratio } = this.pen;
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

  /** What one takes hold of to turn a source and to make it larger or smaller. @returns where it stands */
  turnHandle({ area, source }: Mend, [ax, ay]: PlanePoint): { at: Point; doc: Point } {
    const { context: c, camera, view, ratio } = this.pen;
    const { dx, dy, turnDeg = 0, scale = 1, mirror = false } = source!;
    const box = boundsOfArea(area);
    const reach = Math.max((0.62 * Math.hypot(box.w, box.h)) / scale, (34 * ratio) / camera.zoom);
    const angle = ((-90 - (mirror ? -1 : 1) * turnDeg) * Math.PI) / 180;
    const middle = { x: ax + dx, y: ay + dy };
    const doc = { x: middle.x + reach * Math.cos(angle), y: middle.y + reach * Math.sin(angle) };
    const [from, at] = [toScreen(camera, view, middle), toScreen(camera, view, doc)];
    c.save();
    for (const [colour, width] of [
      ['#3d2200', 3],
      ['#ffd28a', 1.5],
    ] as const) {
      c.strokeStyle = colour;
      c.lineWidth = width * ratio;
      c.setLineDash([3 * ratio, 3 * ratio]);
      c.beginPath();
      c.moveTo(from.x, from.y);
      c.lineTo(at.x, at.y);
      c.stroke();
    }
    c.setLineDash([]);
    c.beginPath();
    for (const [x, y] of [
      [0, -8],
      [8, 0],
      [0, 8],
      [-8, 0],
    ])
      c.lineTo(at.x + x * ratio, at.y + y * ratio);
    c.closePath();
    c.fillStyle = '#ffd28a';
    c.strokeStyle = '#3d2200';
    c.lineWidth = 2 * ratio;
    c.fill();
    c.stroke();
    c.restore();
    return { at, doc };
  }

  /** The photo shaded by how well each place would serve. */
  sourceMap({ picture, scale }: ShownMap, photo: { width: number; height: number }): void {
    const { context: c, camera, view } = this.pen;
    const a = toScreen(camera, view, { x: 0, y: 0 });
    const b = toScreen(camera, view, { x: photo.width, y: photo.height });
    c.save();
    c.beginPath();
    c.rect(a.x, a.y, b.x - a.x, b.y - a.y);
    c.clip();
    c.imageSmoothingEnabled = true;
    c.drawImage(picture, a.x, a.y, picture.width * scale * camera.zoom, picture.height * scale * camera.zoom);
    c.restore();
  }

  /** Where the next stroke will be taken from. */
  sourceMark(at: Point): void {
    const { context: c, ratio } = this.pen;
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

  /** A brush that lays on a plain colour. */
  disc(at: Point, radius: number, colour: Readonly<Record<string, number>>, opacity: number): void {
    const { context: c } = this.pen;
    c.save();
    c.globalAlpha = opacity;
    c.fillStyle = `rgb(${colour.red} ${colour.green} ${colour.blue})`;
    c.beginPath();
    c.arc(at.x, at.y, radius, 0, 2 * Math.PI);
    c.fill();
    c.restore();
  }
}
