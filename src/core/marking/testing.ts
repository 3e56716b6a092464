import { noMasks, type Shape } from '../area';
import { areaOfShapes } from '../testing/jobs';
import { grainyPhotos } from '../testing/pictures';
import { type Found, type MarkedArea, markedArea } from '.';

/** Photos and areas for tests of marks. */
export const grainy = grainyPhotos(5);

export const markedOf = (shapes: Shape[]): MarkedArea => markedArea(areaOfShapes(shapes), noMasks);

/** What was found, at a photo's own size: 1 where it is. */
export function pixelsOf({ mask, x, y, w, h }: Found, width: number, height: number): Uint8Array {
  const out = new Uint8Array(width * height);
  for (let v = Math.max(0, -y); v < h && y + v < height; v++)
    for (let u = Math.max(0, -x); u < w && x + u < width; u++)
      if (mask.data[Math.floor((v * mask.h) / h) * mask.w + Math.floor((u * mask.w) / w)] > 127)
        out[(y + v) * width + x + u] = 1;
  return out;
}

/** Intersection over union of what was found and what is there, by the middles of pixels. */
export function likeness(got: Uint8Array, width: number, isThere: (x: number, y: number) => boolean): number {
  let [both, either] = [0, 0];
  got.forEach((v, i) => {
    const is = isThere((i % width) + 0.5, Math.floor(i / width) + 0.5);
    if (v && is) both++;
    if (v || is) either++;
  });
  return both / either;
}
