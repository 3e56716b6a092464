import { type Camera, type Point, type Size, toScreen } from '../../viewport/camera';
import { colours } from '../colours';

/** What everything over the photo is drawn with: lines that are seen on any ground, in pixels of the screen or of the document. */
export class Pen {
  constructor(
    readonly context: CanvasRenderingContext2D,
    readonly camera: Camera,
    readonly view: Size,
    readonly ratio: number,
  ) {}

  /** Draws in document pixels; `px` is the size there of one on the screen. */
  inDocument(draw: (c: CanvasRenderingContext2D, px: number) => void): void {
    const { context: c, camera, view, ratio } = this;
    c.save();
    c.translate(view.width / 2, view.height / 2);
    c.scale(camera.zoom, camera.zoom);
    c.translate(-camera.x, -camera.y);
    c.lineJoin = 'round';
    draw(c, ratio / camera.zoom);
    c.restore();
  }

  polyline(points: readonly (readonly number[])[]): Path2D {
    const path = new Path2D();
    points.forEach(([x, y], i) => {
      const p = toScreen(this.camera, this.view, { x, y });
      if (i === 0) path.moveTo(p.x, p.y);
      path.lineTo(p.x, p.y);
    });
    return path;
  }

  doubleStroke(path: Path2D, dash: number[] = [], colour: string = colours.steer): void {
    const { context: c, ratio } = this;
    c.save();
    c.lineCap = 'round';
    for (const [stroke, width] of [
      [colours.threadEdge, 4],
      [colour, 2],
    ] as const) {
      c.strokeStyle = stroke;
      c.lineWidth = width * ratio;
      c.setLineDash(dash.map((d) => d * ratio));
      c.stroke(path);
    }
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
}
