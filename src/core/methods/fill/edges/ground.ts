import type { GuideLine } from '../../../job/types';
import type { FloatImage, Rect } from '../../../raster';
import { role } from '../frame';

/** The ground along an edge is looked at so near to it, and so far from the hole at most. */
const besidePx = { from: 2, to: 6 };
const rightBesidePx = { from: 1, to: 2 };
const fartherPx = { from: 5, to: 7 };
const mostAlongPx = 24;

/** The mean colours of what lies along a line outside the hole. Lines are in pixels of the small picture. */
export class Ground {
  private readonly along: number;

  constructor(
    private readonly image: FloatImage,
    private readonly roles: Uint8Array,
    private readonly part: Rect,
    private readonly scale: number,
    reach: number,
  ) {
    this.along = Math.min(reach, mostAlongPx);
  }

  /** How much one side differs before the hole and behind it: the side that differs less; 0 where nothing is seen. */
  changeAlong(line: GuideLine): number {
    const length = Math.hypot(line[2] - line[0], line[3] - line[1]);
    const changes = [-1, 1].map((side) =>
      apart(
        this.meanOf(line, -this.along, -1, side),
        this.meanOf(line, length + 1, length + this.along, side),
      ),
    );
    return Math.min(...changes);
  }

  /** How much its two sides differ before the hole. */
  contrastBefore(line: GuideLine): number {
    return this.contrast(line, besidePx);
  }

  /** The share of that which is there right beside it: near 1 where it is sharp, little where one side fades into the other. */
  sharpnessBefore(line: GuideLine): number {
    return this.contrast(line, rightBesidePx) / Math.max(1, this.contrast(line, fartherPx));
  }

  private contrast(line: GuideLine, beside: typeof besidePx): number {
    return apart(
      this.meanOf(line, -this.along, -1, -1, beside),
      this.meanOf(line, -this.along, -1, 1, beside),
    );
  }

  private meanOf(
    [x0, y0, x1, y1]: GuideLine,
    from: number,
    to: number,
    side: number,
    beside = besidePx,
  ): number[] | null {
    const { image, roles, part, scale } = this;
    const { w, h } = image.rect;
    const length = Math.hypot(x1 - x0, y1 - y0);
    const [ux, uy] = [(x1 - x0) / length, (y1 - y0) / length];
    const sum = [0, 0, 0];
    let count = 0;
    for (let t = from; t <= to; t += 0.5)
      for (let d = beside.from; d <= beside.to; d += 0.5) {
        const x = Math.round(part.x + (x0 + ux * t - uy * d * side) * scale);
        const y = Math.round(part.y + (y0 + uy * t + ux * d * side) * scale);
        if (x < 0 || y < 0 || x >= w || y >= h) continue;
        const p = y * w + x;
        if (roles[p] !== role.source && roles[p] !== role.context) continue;
        for (let c = 0; c < 3; c++) sum[c] += 255 * image.data[4 * p + c];
        count++;
      }
    return count > 0 ? sum.map((v) => v / count) : null;
  }
}

const apart = (a: number[] | null, b: number[] | null): number =>
  a && b ? Math.hypot(...a.map((v, c) => v - b[c])) : 0;
