import type { Raster } from '../../src/core/raster';

/** Planes of CIELAB (D65) for a rectangle of an 8-bit sRGB picture. */
export interface Lab {
  readonly w: number;
  readonly h: number;
  readonly planes: readonly [Float32Array, Float32Array, Float32Array];
}

const linear = Float64Array.from({ length: 256 }, (_, v) => {
  const c = v / 255;
  return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
});

const cube = (t: number): number => (t > 216 / 24389 ? Math.cbrt(t) : ((24389 / 27) * t + 16) / 116);

/** Source: CIE 15:2004, and IEC 61966-2-1 for sRGB. */
export function labOf(picture: Raster, x0: number, y0: number, w: number, h: number): Lab {
  const planes = [new Float32Array(w * h), new Float32Array(w * h), new Float32Array(w * h)] as const;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const p = ((y0 + y) * picture.width + x0 + x) * 4;
      const [r, g, b] = [linear[picture.data[p]], linear[picture.data[p + 1]], linear[picture.data[p + 2]]];
      const fx = cube((0.4124564 * r + 0.3575761 * g + 0.1804375 * b) / 0.95047);
      const fy = cube(0.2126729 * r + 0.7151522 * g + 0.072175 * b);
      const fz = cube((0.0193339 * r + 0.119192 * g + 0.9503041 * b) / 1.08883);
      const i = y * w + x;
      planes[0][i] = 116 * fy - 16;
      planes[1][i] = 500 * (fx - fy);
      planes[2][i] = 200 * (fy - fz);
    }
  return { w, h, planes };
}
