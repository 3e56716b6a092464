import { type Area, boundsOfArea, type MaskLookup, type Shape } from '../../core/area';
import { fromUnitSquare, invert, type PlanePoint, project, stepsAt } from '../../core/geometry';
import type { GuideLine, Mend, Rail, SourceShift, StopLine, Zones } from '../../core/job';
import type { Found, Scribbles, SpanPoint } from '../../core/marking';
import type { MarkHue, MarkLook, ShownMap } from '../session/state';
import { type Camera, type Point, type Size, toScreen } from '../viewport/camera';
import { colours, markColours } from './colours';
import { foundPath, middleOf, outlinePath } from './paths';

const zoneTiles = new Map<string, OffscreenCanvas>();

function zoneTile(colour: string, texture: 'dots' | 'hatch'): OffscreenCanvas {
  const known = zoneTiles.get(colour + texture);
  if (known) return known;
  const side = 10;
  const tile = new OffscreenCanvas(side, side);
  const c = tile.getContext('2d')!;
  c.globalAlpha = 0.75;
  if (texture === 'dots') {
    c.fillStyle = colour;
    c.beginPath();
    c.arc(side / 2, side / 2, 1.3, 0, 2 * Math.PI);
    c.fill();
  } else {
    c.strokeStyle = colour;
    c.lineWidth = 1.3;
    c.beginPath();
    for (const shift of [-side, 0, side]) {
      c.moveTo(shift, side);
      c.lineTo(shift + side, 0);
    }
    c.stroke();
  }
  zoneTiles.set(colour + texture, tile);
  return tile;
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

  /** What is marked, in the way and the colour that were chosen for it. */
  mark(path: Path2D, look: MarkLook, hue: MarkHue): void {
    const colour = markColours[hue];
    this.inDocument((c, px) => {
      if (look === 'tint') {
        c.globalAlpha = 0.24;
        c.fillStyle = colour;
        c.fill(path, 'evenodd');
        c.globalAlpha = 1;
      } else if (look === 'hatch') {
        const pattern = c.createPattern(zoneTile(colour, 'hatch'), 'repeat')!;
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

  /** Something found that could be marked too: dotted, and filled when it is pointed at. */
  offer(found: Found, pointed: boolean): void {
    const path = foundPath(found);
    this.inDocument((c, px) => {
      if (pointed) {
        c.fillStyle = 'rgba(61, 95, 196, 0.35)';
        c.fill(path, 'evenodd');
      }
      c.setLineDash([2 * px, 4 * px]);
      c.lineCap = 'round';
      for (const [colour, width] of [
        [colours.halo, 4],
        [colours.allow, 2.25],
      ] as const) {
        c.strokeStyle = colour;
        c.lineWidth = width * px;
        c.stroke(path);
      }
    });
  }

  /** A part of what is marked, with its number. */
  island(found: Found, number: number): void {
    const path = foundPath(found);
    this.inDocument((c, px) => {
      c.fillStyle = number % 2 ? 'rgba(15, 143, 125, 0.28)' : 'rgba(138, 63, 196, 0.24)';
      c.fill(path, 'evenodd');
      c.strokeStyle = colours.halo;
      c.lineWidth = 2.5 * px;
      c.stroke(path);
    });
    const { context: c, camera, view, ratio } = this;
    const at = toScreen(camera, view, middleOf(found));
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
    const { context: c, camera, view, ratio } = this;
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

  /** Draws in document pixels; `px` is the size there of one on the screen. */
  private inDocument(draw: (c: CanvasRenderingContext2D, px: number) => void): void {
    const { context: c, camera, view, ratio } = this;
    c.save();
    c.translate(view.width / 2, view.height / 2);
    c.scale(camera.zoom, camera.zoom);
    c.translate(-camera.x, -camera.y);
    c.lineJoin = 'round';
    draw(c, ratio / camera.zoom);
    c.restore();
  }

  /** The scribbles that a thing is grown from: those outside it are hollow. */
  scribbles({ inside, outside }: Scribbles): void {
    for (const [strokes, away] of [
      [inside, false],
      [outside, true],
    ] as const)
      for (const { points } of strokes)
        this.doubleStroke(this.polyline(points), away ? [2, 6] : [], away ? colours.source : colours.mended);
  }

  /** The clicks along a line, and the way between them. */
  clicks(clicks: readonly SpanPoint[]): void {
    this.doubleStroke(this.polyline(clicks), [3, 5]);
    for (const [x, y] of clicks) this.ring(toScreen(this.camera, this.view, { x, y }), 5 * this.ratio);
  }

  /** From the last corner of an outline to the pointer. */
  rubber([x, y]: readonly number[], to: Point): void {
    const path = new Path2D();
    const from = toScreen(this.camera, this.view, { x, y });
    path.moveTo(from.x, from.y);
    path.lineTo(to.x, to.y);
    this.doubleStroke(path, [3, 5]);
  }

  private polyline(points: readonly (readonly number[])[]): Path2D {
    const path = new Path2D();
    points.forEach(([x, y], i) => {
      const p = toScreen(this.camera, this.view, { x, y });
      if (i === 0) path.moveTo(p.x, p.y);
      path.lineTo(p.x, p.y);
    });
    return path;
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
  thread([aboutX, aboutY]: PlanePoint, source: SourceShift): { handle: Point } {
    const { context: c, camera, view, ratio } = this;
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

  /** What one takes hold of to turn a source and to make it larger or smaller. @returns where it stands */
  turnHandle({ area, source }: Mend, [ax, ay]: PlanePoint): { at: Point; doc: Point } {
    const { context: c, camera, view, ratio } = this;
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

  /** A stretch that no tone crosses: a line with bars across it. */
  stopLine({ points }: StopLine): void {
    const { context: c, camera, view, ratio } = this;
    const at = points.map(([x, y]) => toScreen(camera, view, { x, y }));
    const path = new Path2D();
    let gone = 0;
    at.forEach((p, i) => {
      if (i === 0) {
        path.moveTo(p.x, p.y);
        return;
      }
      const before = at[i - 1];
      const length = Math.hypot(p.x - before.x, p.y - before.y);
      path.lineTo(p.x, p.y);
      for (let s = 10 * ratio - gone; s < length; s += 10 * ratio) {
        const [ux, uy] = [(p.x - before.x) / length, (p.y - before.y) / length];
        const [mx, my] = [before.x + ux * s, before.y + uy * s];
        path.moveTo(mx - uy * 4.5 * ratio, my + ux * 4.5 * ratio);
        path.lineTo(mx + uy * 4.5 * ratio, my - ux * 4.5 * ratio);
      }
      path.moveTo(p.x, p.y);
      gone = (gone + length) % (10 * ratio);
    });
    c.save();
    c.lineCap = 'round';
    for (const [colour, width] of [
      [colours.halo, 4.5],
      [colours.avoid, 2],
    ] as const) {
      c.strokeStyle = colour;
      c.lineWidth = width * ratio;
      c.stroke(path);
    }
    c.restore();
  }

  /** The photo shaded by how well each place would serve. */
  sourceMap({ picture, scale }: ShownMap, photo: { width: number; height: number }): void {
    const { context: c, camera, view } = this;
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

  /** A brush that lays on a plain colour. */
  disc(at: Point, radius: number, colour: Readonly<Record<string, number>>, opacity: number): void {
    const { context: c } = this;
    c.save();
    c.globalAlpha = opacity;
    c.fillStyle = `rgb(${colour.red} ${colour.green} ${colour.blue})`;
    c.beginPath();
    c.arc(at.x, at.y, radius, 0, 2 * Math.PI);
    c.fill();
    c.restore();
  }

  /** Allow zones are dotted, avoid zones hatched: told apart without their hues. */
  zones({ allow, avoid }: Zones, masks: MaskLookup): void {
    if (allow) this.zone(outlinePath(allow, masks), colours.allow, 'dots');
    if (avoid) this.zone(outlinePath(avoid, masks), colours.avoid, 'hatch');
  }

  private zone(path: Path2D, colour: string, texture: 'dots' | 'hatch'): void {
    const { context: c, camera, view, ratio } = this;
    c.save();
    c.translate(view.width / 2, view.height / 2);
    c.scale(camera.zoom, camera.zoom);
    c.translate(-camera.x, -camera.y);
    const px = ratio / camera.zoom;
    const pattern = c.createPattern(zoneTile(colour, texture), 'repeat')!;
    pattern.setTransform(new DOMMatrix([px, 0, 0, px, 0, 0]));
    c.fillStyle = pattern;
    c.fill(path, 'evenodd');
    c.lineWidth = 3 * px;
    c.strokeStyle = colours.halo;
    c.stroke(path);
    c.lineWidth = 1.5 * px;
    c.strokeStyle = colour;
    c.stroke(path);
    c.restore();
  }

  private doubleStroke(path: Path2D, dash: number[] = [], colour: string = colours.steer): void {
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

  private knob(at: Point): void {
    const { context: c, ratio } = this;
    c.save();
    c.fillStyle = colours.steer;
    c.strokeStyle = colours.steerInk;
    c.lineWidth = 2 * ratio;
    c.beginPath();
    c.rect(at.x - 6 * ratio, at.y - 6 * ratio, 12 * ratio, 12 * ratio);
    c.fill();
    c.stroke();
    c.restore();
  }

  /** An edge that runs on. @returns its ends on the screen */
  guideLine([x0, y0, x1, y1]: GuideLine, knobs = false): Point[] {
    const ends = [
      { x: x0, y: y0 },
      { x: x1, y: y1 },
    ].map((p) => toScreen(this.camera, this.view, p));
    const path = new Path2D();
    path.moveTo(ends[0].x, ends[0].y);
    path.lineTo(ends[1].x, ends[1].y);
    this.doubleStroke(path);
    if (knobs) for (const end of ends) this.knob(end);
    return ends;
  }

  /** A plane as a grid in perspective. @returns its corners on the screen */
  plane(corners: readonly PlanePoint[], knobs: boolean): Point[] {
    const { camera, view } = this;
    const at = corners.map(([x, y]) => toScreen(camera, view, { x, y }));
    const map = fromUnitSquare(corners);
    const grid = new Path2D();
    for (let k = 1; map && k < 4; k++)
      for (const [a, b] of [
        [
          [k / 4, 0],
          [k / 4, 1],
        ],
        [
          [0, k / 4],
          [1, k / 4],
        ],
      ]) {
        const [p, q] = [project(map, a[0], a[1]), project(map, b[0], b[1])];
        if (!p || !q) continue;
        const [from, to] = [p, q].map(([x, y]) => toScreen(camera, view, { x, y }));
        grid.moveTo(from.x, from.y);
        grid.lineTo(to.x, to.y);
      }
    const c = this.context;
    c.save();
    c.strokeStyle = colours.steer;
    c.globalAlpha = 0.6;
    c.lineWidth = this.ratio;
    c.stroke(grid);
    c.restore();
    const rim = new Path2D();
    at.forEach((p, i) => {
      if (i === 0) rim.moveTo(p.x, p.y);
      else rim.lineTo(p.x, p.y);
    });
    rim.closePath();
    this.doubleStroke(rim, map ? [] : [3, 6]);
    if (knobs) for (const p of at) this.knob(p);
    return at;
  }

  /** The direction that sources keep to: through the area's middle, with a head at both ends. */
  rail(area: Area, { angleDeg }: Rail, plane: readonly PlanePoint[] | null): void {
    const { camera, view, ratio } = this;
    const box = boundsOfArea(area);
    const middle = { x: box.x + box.w / 2, y: box.y + box.h / 2 };
    const angle = (angleDeg * Math.PI) / 180;
    let along = { x: Math.cos(angle), y: Math.sin(angle) };
    const map = plane && fromUnitSquare(plane);
    const unit = map && project(invert(map), middle.x, middle.y);
    const steps = map && unit && stepsAt(map, unit[0], unit[1]);
    if (steps) {
      const [u, v] = [steps.across, steps.down].map(([x, y]) => {
        const length = Math.hypot(x, y) || 1;
        return { x: x / length, y: y / length };
      });
      along = { x: along.x * u.x + along.y * v.x, y: along.x * u.y + along.y * v.y };
    }
    const at = toScreen(camera, view, middle);
    const reach = Math.max(box.w, box.h) * camera.zoom * 0.5 + 48 * ratio;
    const length = Math.hypot(along.x, along.y) || 1;
    const [dx, dy] = [(along.x / length) * reach, (along.y / length) * reach];
    const path = new Path2D();
    for (const side of [1, -1]) {
      const end = { x: at.x + side * dx, y: at.y + side * dy };
      path.moveTo(at.x, at.y);
      path.lineTo(end.x, end.y);
      const turn = Math.atan2(side * dy, side * dx);
      for (const bend of [-0.5, 0.5]) {
        path.moveTo(end.x, end.y);
        path.lineTo(end.x - 10 * ratio * Math.cos(turn + bend), end.y - 10 * ratio * Math.sin(turn + bend));
      }
    }
    this.doubleStroke(path, [8, 6]);
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
