import type { Shape } from '../../../core/area';
import type { SourceShift } from '../../../core/job';
import type { Found, Scribbles, SpanPoint } from '../../../core/marking';
import type { MarkHue, MarkLook } from '../../session/state';
import { type Point, toScreen } from '../../viewport/camera';
import { colours, markColours } from '../colours';
import { foundPath, numberPlace } from '../paths';
import type { Pen } from './pen';
import { textureTile } from './textures';

/** Islands that lie side by side are told apart by them. */
const islandHues = [markColours.yellow, markColours.green, markColours.violet];

type LineStyle = 'mended' | 'source' | 'hovered';

/** Outlines of areas, what is marked and what is found, and the gestures that mark. */
export class MarkedOverlay {
  constructor(private readonly pen: Pen) {}

  outline(path: Path2D, style: LineStyle, shift: SourceShift = { dx: 0, dy: 0 }, tint = false): void {
    this.pen.inDocument((c, px) => {
      c.translate(shift.dx, shift.dy);
      if (tint) {
        c.fillStyle = colours.mendedTint;
        c.fill(path, 'evenodd');
      }
      if (style !== 'hovered') {
        c.strokeStyle = colours.halo;
        c.lineWidth = 3.5 * px;
        c.stroke(path);
      }
      c.strokeStyle = style === 'source' ? colours.source : colours.mended;
      c.lineWidth = (style === 'hovered' ? 1.25 : 1.75) * px;
      if (style === 'source') c.setLineDash([6 * px, 4 * px]);
      c.stroke(path);
    });
  }

  /** What is marked, in the way and the colour that were chosen for it. */
  mark(path: Path2D, look: MarkLook, hue: MarkHue): void {
    const colour = markColours[hue];
    this.pen.inDocument((c, px) => {
      if (look === 'tint') {
        c.globalAlpha = 0.24;
        c.fillStyle = colour;
        c.fill(path, 'evenodd');
        c.globalAlpha = 1;
      } else if (look === 'hatch') {
        const pattern = c.createPattern(textureTile(colour, 'hatch'), 'repeat')!;
        pattern.setTransform(new DOMMatrix([px, 0, 0, px, 0, 0]));
        c.fillStyle = pattern;
        c.fill(path, 'evenodd');
      }
      for (const [stroke, width] of [
        [colours.halo, 3.5],
        [colour, 1.75],
      ] as const) {
        c.strokeStyle = stroke;
        c.lineWidth = width * px;
        c.stroke(path);
      }
    });
  }

  /** Something found that could be marked too, or kept out: dotted, and filled when it is pointed at. */
  offer(found: Found, pointed: boolean, colour: string = colours.allow): void {
    const path = foundPath(found);
    this.pen.inDocument((c, px) => {
      if (pointed) {
        c.globalAlpha = 0.35;
        c.fillStyle = colour;
        c.fill(path, 'evenodd');
        c.globalAlpha = 1;
      }
      c.setLineDash([2 * px, 4 * px]);
      c.lineCap = 'round';
      for (const [stroke, width] of [
        [colours.halo, 4],
        [colour, 2.25],
      ] as const) {
        c.strokeStyle = stroke;
        c.lineWidth = width * px;
        c.stroke(path);
      }
    });
  }

  /** A part of what is marked, with its number. */
  island(found: Found, number: number): void {
    const path = foundPath(found);
    this.pen.inDocument((c, px) => {
      c.globalAlpha = 0.26;
      c.fillStyle = islandHues[number % islandHues.length];
      c.fill(path, 'evenodd');
      c.globalAlpha = 1;
      c.strokeStyle = colours.halo;
      c.lineWidth = 2.5 * px;
      c.stroke(path);
    });
    const { context: c, camera, view, ratio } = this.pen;
    const at = toScreen(camera, view, numberPlace(found));
    c.save();
    c.font = `600 ${14 * ratio}px system-ui, sans-serif`;
    c.textAlign = 'center';
    c.textBaseline = 'middle';
    c.fillStyle = 'rgba(0, 0, 0, 0.65)';
    c.beginPath();
    c.arc(at.x, at.y, 12 * ratio, 0, 2 * Math.PI);
    c.fill();
    c.fillStyle = '#ffffff';
    c.fillText(String(number), at.x, at.y + ratio);
    c.restore();
  }

  /** A fault that was found: round what is accepted, crossed out where it is refused. */
  fault({ x, y, w, h }: Found, refused: boolean, pointed: boolean): void {
    const { context: c, camera, view, ratio } = this.pen;
    const at = toScreen(camera, view, { x: x + w / 2, y: y + h / 2 });
    const r = (Math.hypot(w, h) / 2) * camera.zoom + (pointed ? 9 : 5) * ratio;
    c.save();
    for (const [colour, width] of [
      ['rgba(0, 0, 0, 0.6)', pointed ? 5 : 3.5],
      [refused ? '#bdbdbd' : '#ffd28a', pointed ? 2.5 : 1.5],
    ] as const) {
      c.strokeStyle = colour;
      c.lineWidth = width * ratio;
      c.beginPath();
      c.arc(at.x, at.y, r, 0, 2 * Math.PI);
      if (refused) {
        c.moveTo(at.x - r * 0.7, at.y + r * 0.7);
        c.lineTo(at.x + r * 0.7, at.y - r * 0.7);
      }
      c.stroke();
    }
    c.restore();
  }

  /** The scribbles that a thing is grown from: those outside it are hollow. */
  scribbles({ inside, outside }: Scribbles): void {
    for (const [strokes, away] of [
      [inside, false],
      [outside, true],
    ] as const)
      for (const { points } of strokes)
        this.pen.doubleStroke(
          this.pen.polyline(points),
          away ? [2, 6] : [],
          away ? colours.source : colours.mended,
        );
  }

  /** The clicks along a line, and the way between them. */
  clicks(clicks: readonly SpanPoint[]): void {
    this.pen.doubleStroke(this.pen.polyline(clicks), [3, 5]);
    for (const [x, y] of clicks)
      this.pen.ring(toScreen(this.pen.camera, this.pen.view, { x, y }), 5 * this.pen.ratio);
  }

  /** From the last corner of an outline to the pointer. */
  rubber([x, y]: readonly number[], to: Point): void {
    const path = new Path2D();
    const from = toScreen(this.pen.camera, this.pen.view, { x, y });
    path.moveTo(from.x, from.y);
    path.lineTo(to.x, to.y);
    this.pen.doubleStroke(path, [3, 5]);
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
    else if (shape.kind === 'ellipse')
      path.ellipse(shape.x + shape.w / 2, shape.y + shape.h / 2, shape.w / 2, shape.h / 2, 0, 0, 2 * Math.PI);
    else if (shape.kind === 'stroke')
      return this.strokeTrail(shape.points, shape.radiusPx, shape.op === 'subtract');
    this.outline(path, shape.op === 'subtract' ? 'source' : 'mended', undefined, shape.op === 'add');
  }

  private strokeTrail(points: readonly (readonly number[])[], radiusPx: number, away: boolean): void {
    const { context: c, camera, view } = this.pen;
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
}
