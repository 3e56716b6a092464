const linear = Float64Array.from({ length: 256 }, (_, v) => {
  const c = v / 255;
  return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
});

const cube = (t: number): number => (t > 216 / 24389 ? Math.cbrt(t) : ((24389 / 27) * t + 16) / 116);

/** Writes the CIELAB values (D65) of an 8-bit sRGB colour to three places of an array.
 *  Source: CIE 15:2004, and IEC 61966-2-1 for sRGB. */
export function writeLab(r: number, g: number, b: number, into: Float32Array, at: number): void {
  const [lr, lg, lb] = [linear[r], linear[g], linear[b]];
  const fx = cube((0.4124564 * lr + 0.3575761 * lg + 0.1804375 * lb) / 0.95047);
  const fy = cube(0.2126729 * lr + 0.7151522 * lg + 0.072175 * lb);
  const fz = cube((0.0193339 * lr + 0.119192 * lg + 0.9503041 * lb) / 1.08883);
  into[at] = 116 * fy - 16;
  into[at + 1] = 500 * (fx - fy);
  into[at + 2] = 200 * (fy - fz);
}

/** CIELAB values of RGBA pixels, three floats a pixel. */
export function labOfPixels(data: ArrayLike<number>, count: number): Float32Array {
  const out = new Float32Array(3 * count);
  for (let i = 0, p = 0; i < count; i++, p += 4) writeLab(data[p], data[p + 1], data[p + 2], out, 3 * i);
  return out;
}
