import { type FloatImage, intersect, type Rect } from '../../raster';

/** A first answer of something large: 8-bit RGBA, to be shown in its rectangle; transparent where there is none yet. */
export interface CoarseAnswer {
  readonly rect: Rect;
  readonly w: number;
  readonly h: number;
  readonly data: Uint8ClampedArray<ArrayBuffer>;
}

/** So long at most is the longer side of what is shown of an area in parts. */
const longestSide = 640;

/** What is known so far of an area that is filled in parts: first answers of parts, and parts that are finished. */
export class FirstAnswer {
  private readonly by: number;
  private readonly w: number;
  private readonly h: number;
  private readonly data: Uint8ClampedArray<ArrayBuffer>;

  /** @param box  of the area, document pixels */
  constructor(private readonly box: Rect) {
    this.by = Math.max(1, Math.ceil(Math.max(box.w, box.h) / longestSide));
    this.w = Math.ceil(box.w / this.by);
    this.h = Math.ceil(box.h / this.by);
    this.data = new Uint8ClampedArray(this.w * this.h * 4);
  }

  /** With a part's first answer. */
  withCoarse({ rect, w, h, data }: CoarseAnswer): CoarseAnswer {
    return this.with(rect, (x, y, to) => {
      const from = 4 * (Math.floor((y * h) / rect.h) * w + Math.floor((x * w) / rect.w));
      if (data[from + 3] > 0) this.data.set(data.subarray(from, from + 4), to);
    });
  }

  /** With a part as it will stay. */
  withPart({ rect, data }: FloatImage): CoarseAnswer {
    return this.with(rect, (x, y, to) => {
      const from = 4 * (y * rect.w + x);
      const alpha = data[from + 3];
      if (alpha <= 0) return;
      for (let c = 0; c < 3; c++) this.data[to + c] = (255 * data[from + c]) / alpha;
      this.data[to + 3] = 255 * alpha;
    });
  }

  /** Visits what a rectangle covers: its own pixel, and where that goes. */
  private with(rect: Rect, visit: (x: number, y: number, to: number) => void): CoarseAnswer {
    const { box, by, w } = this;
    const common = intersect(rect, box);
    for (let v = 0; v < this.h; v++) {
      const y = Math.min(box.y + box.h - 1, box.y + v * by + (by >> 1));
      if (y < common.y || y >= common.y + common.h) continue;
      for (let u = 0; u < w; u++) {
        const x = Math.min(box.x + box.w - 1, box.x + u * by + (by >> 1));
        if (x >= common.x && x < common.x + common.w) visit(x - rect.x, y - rect.y, 4 * (v * w + u));
      }
    }
    return {
      rect: { x: box.x, y: box.y, w: w * by, h: this.h * by },
      w,
      h: this.h,
      data: this.data.slice(),
    };
  }
}
