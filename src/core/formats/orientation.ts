import { makeRaster, type Raster } from '../raster';

/** Turns decoded pixels the way an EXIF orientation of 1…8 asks (CIPA DC-008, tag 0x0112). */
export function orient(raster: Raster, orientation: number): Raster {
  if (orientation <= 1 || orientation > 8) return raster;
  const { width: w, height: h } = raster;
  const turned = orientation >= 5;
  const out = makeRaster(turned ? h : w, turned ? w : h, 4, raster.depth);
  for (let y = 0; y < out.height; y++)
    for (let x = 0; x < out.width; x++) {
      const [sx, sy] = sourceOf(orientation, x, y, w, h);
      const s = (sy * w + sx) * 4;
      const d = (y * out.width + x) * 4;
      for (let c = 0; c < 4; c++) out.data[d + c] = raster.data[s + c];
    }
  return out;
}

function sourceOf(orientation: number, x: number, y: number, w: number, h: number): [number, number] {
  switch (orientation) {
    case 2:
      return [w - 1 - x, y];
    case 3:
      return [w - 1 - x, h - 1 - y];
    case 4:
      return [x, h - 1 - y];
    case 5:
      return [y, x];
    case 6:
      return [y, h - 1 - x];
    case 7:
      return [w - 1 - y, h - 1 - x];
    default:
      return [w - 1 - y, x];
  }
}
