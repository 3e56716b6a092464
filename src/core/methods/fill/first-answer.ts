import { type FloatImage, intersect, type Rect } from '../../raster';

/** A first answer of something large: 8-bit RGBA, to be shown in its rectangle; transparent where there is none yet. */
export interface CoarseAnswer {
  readonly rect: Rect;
  readonly w: number;
  readonly h: number;
  readonly data: Uint8ClampedArray<ArrayBuffer>;
}

/** So long at most is the longer side of what is shown. */
const longestSide = 640;

/** What is known so far of an area while it is filled: sketches of pieces, and pieces that are finished. */
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

  /** With a piece, over what was there before.
   *  @param at  the document rectangle that it covers: its own when it is as large as the photo */
  with({ rect, data }: FloatImage, at: Rect = rect): CoarseAnswer {
    const { box, by, w, h } = this;
    const common = intersect(at, box);
    const [across, down] = [rect.w / at.w, rect.h / at.h];
    for (let v = 0; v < h; v++) {
      const y = Math.min(box.y + box.h - 1, box.y + v * by + (by >> 1));
      if (y < common.y || y >= common.y + common.h) continue;
      const row = Math.floor((y - at.y) * down) * rect.w;
      for (let u = 0; u < w; u++) {
        const x = Math.min(box.x + box.w - 1, box.x + u * by + (by >> 1));
        if (x < common.x || x >= common.x + common.w) continue;
        const from = 4 * (row + Math.floor((x - at.x) * across));
        const alpha = data[from + 3];
        if (alpha <= 0) continue;
        const to = 4 * (v * w + u);
        for (let c = 0; c < 3; c++) this.data[to + c] = (255 * data[from + c]) / alpha;
        this.data[to + 3] = 255 * alpha;
      }
    }
    return { rect: { x: box.x, y: box.y, w: w * by, h: h * by }, w, h, data: this.data.slice() };
  }
}
