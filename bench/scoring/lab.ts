import { writeLab } from '../../src/core/colour';
import type { Raster } from '../../src/core/raster';

/** Planes of CIELAB (D65) for a rectangle of an 8-bit sRGB picture. */
export interface Lab {
  readonly w: number;
  readonly h: number;
  readonly planes: readonly [Float32Array, Float32Array, Float32Array];
}

export function labOf(picture: Raster, x0: number, y0: number, w: number, h: number): Lab {
  const planes = [new Float32Array(w * h), new Float32Array(w * h), new Float32Array(w * h)] as const;
  const lab = new Float32Array(3);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const p = ((y0 + y) * picture.width + x0 + x) * 4;
      writeLab(picture.data[p], picture.data[p + 1], picture.data[p + 2], lab, 0);
      for (let c = 0; c < 3; c++) planes[c][y * w + x] = lab[c];
    }
  return { w, h, planes };
}
