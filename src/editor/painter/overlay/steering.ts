import { type Area, boundsOfArea, type MaskLookup } from '../../../core/area';
import { fromUnitSquare, invert, type PlanePoint, project, stepsAt } from '../../../core/geometry';
import type { GuideLine, Rail, StopLine, Zones } from '../../../core/job';
import { type Point, toScreen } from '../../viewport/camera';
import { colours } from '../colours';
import { outlinePath } from '../paths';
import type { Pen } from './pen';
import { textureTile } from './textures';

/** What was laid down on the photo about where mends take from, and what stops their tone. */
export class SteeringOverlay {
  constructor(private readonly pen: Pen) {}

  /** Allow zones are dotted, avoid zones hatched: told apart without their hues. */
  zones({ allow, avoid }: Zones, masks: MaskLookup): void {
    if (allow) this.zone(outlinePath(allow, masks), colours.allow, 'dots');
    if (avoid) this.zone(outlinePath(avoid, masks), colours.avoid, 'hatch');
  }

  private zone(path: Path2D, colour: string, texture: 'dots' | 'hatch'): void {
    this.pen.inDocument((c, px) => {
      const pattern = c.createPattern(textureTile(colour, texture), 'repeat')!;
      pattern.setTransform(new DOMMatrix([px, 0, 0, px, 0, 0]));
      c.fillStyle = pattern;
      c.fill(path, 'evenodd');
      c.lineWidth = 3 * px;
      c.strokeStyle = colours.halo;
      c.stroke(path);
      c.lineWidth = 1.5 * px;
      c.strokeStyle = colour;
      c.stroke(path);
    });
  }

  /** A stretch that no tone crosses: a line with bars across it. */
  stopLine({ points }: StopLine): void {
    const { context: c, camera, view, ratio } = this.pen;
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

  /** An edge that runs on. @returns its ends on the screen */
  guideLine([x0, y0, x1, y1]: GuideLine, knobs = false): Point[] {
    const ends = [
      { x: x0, y: y0 },
      { x: x1, y: y1 },
    ].map((p) => toScreen(this.pen.camera, this.pen.view, p));
    const path = new Path2D();
    path.moveTo(ends[0].x, ends[0].y);
    path.lineTo(ends[1].x, ends[1].y);
    this.pen.doubleStroke(path);
    if (knobs) for (const end of ends) this.knob(end);
    return ends;
  }

  /** A plane as a grid in perspective. @returns its corners on the screen */
  plane(corners: readonly PlanePoint[], knobs: boolean): Point[] {
    const { camera, view } = this.pen;
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
    const c = this.pen.context;
    c.save();
    c.strokeStyle = colours.steer;
    c.globalAlpha = 0.6;
    c.lineWidth = this.pen.ratio;
    c.stroke(grid);
    c.restore();
    const rim = new Path2D();
    at.forEach((p, i) => {
      if (i === 0) rim.moveTo(p.x, p.y);
      else rim.lineTo(p.x, p.y);
    });
    rim.closePath();
    this.pen.doubleStroke(rim, map ? [] : [3, 6]);
    if (knobs) for (const p of at) this.knob(p);
    return at;
  }

  /** The direction that sources keep to: through the area's middle, with a head at both ends. */
  rail(area: Area, { angleDeg }: Rail, plane: readonly PlanePoint[] | null): void {
    const { camera, view, ratio } = this.pen;
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
    this.pen.doubleStroke(path, [8, 6]);
  }

  private knob(at: Point): void {
    const { context: c, ratio } = this.pen;
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
}
