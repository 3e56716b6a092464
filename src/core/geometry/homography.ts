export type PlanePoint = readonly [x: number, y: number];

/** A projective map of the plane, row by row; (x, y) goes to ((m0 x + m1 y + m2) / w, (m3 x + m4 y + m5) / w) with
 *  w = m6 x + m7 y + m8. */
export type Homography = readonly [number, number, number, number, number, number, number, number, number];

/** The map that takes the corners of the unit square (0,0), (1,0), (1,1), (0,1) to four points in this order.
 *
 *  @returns null when three of the points lie on a line, or the outline crosses itself or is not convex
 *  Source: Heckbert 1989, Fundamentals of Texture Mapping and Image Warping (UCB/CSD-89-516), section 2.2.3.
 */
export function fromUnitSquare(corners: readonly PlanePoint[]): Homography | null {
  const [[x0, y0], [x1, y1], [x2, y2], [x3, y3]] = corners;
  if (!isConvex(corners)) return null;
  const [dx1, dx2, sx] = [x1 - x2, x3 - x2, x0 - x1 + x2 - x3];
  const [dy1, dy2, sy] = [y1 - y2, y3 - y2, y0 - y1 + y2 - y3];
  const det = dx1 * dy2 - dx2 * dy1;
  const g = (sx * dy2 - dx2 * sy) / det;
  const h = (dx1 * sy - sx * dy1) / det;
  return [x1 - x0 + g * x1, x3 - x0 + h * x3, x0, y1 - y0 + g * y1, y3 - y0 + h * y3, y0, g, h, 1];
}

function isConvex(p: readonly PlanePoint[]): boolean {
  let sign = 0;
  for (let i = 0; i < 4; i++) {
    const [a, b, c] = [p[i], p[(i + 1) % 4], p[(i + 2) % 4]];
    const turn = (b[0] - a[0]) * (c[1] - b[1]) - (b[1] - a[1]) * (c[0] - b[0]);
    const size = Math.hypot(b[0] - a[0], b[1] - a[1]) * Math.hypot(c[0] - b[0], c[1] - b[1]);
    if (Math.abs(turn) < 1e-6 * size || size === 0) return false;
    if (sign !== 0 && Math.sign(turn) !== sign) return false;
    sign = Math.sign(turn);
  }
  return true;
}

/** Where a point goes; null at or beyond the horizon (w ≤ 0). */
export function project(m: Homography, x: number, y: number): [number, number] | null {
  const w = m[6] * x + m[7] * y + m[8];
  if (w <= 1e-12) return null;
  return [(m[0] * x + m[1] * y + m[2]) / w, (m[3] * x + m[4] * y + m[5]) / w];
}

/** First `a`, then `b`. */
export function compose(b: Homography, a: Homography): Homography {
  const out: number[] = [];
  for (let r = 0; r < 3; r++)
    for (let c = 0; c < 3; c++) out.push(b[3 * r] * a[c] + b[3 * r + 1] * a[3 + c] + b[3 * r + 2] * a[6 + c]);
  return out as unknown as Homography;
}

/** The way back, scaled so that w stays positive where it was. */
export function invert(m: Homography): Homography {
  const [a, b, c, d, e, f, g, h, i] = m;
  const det = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  const adjugate = [
    e * i - f * h,
    c * h - b * i,
    b * f - c * e,
    f * g - d * i,
    a * i - c * g,
    c * d - a * f,
    d * h - e * g,
    b * g - a * h,
    a * e - b * d,
  ];
  return adjugate.map((v) => v / det) as unknown as Homography;
}

/** How far one step along each axis carries at a point: the columns of the Jacobian. Null beyond the horizon. */
export function stepsAt(
  m: Homography,
  x: number,
  y: number,
): { across: PlanePoint; down: PlanePoint } | null {
  const w = m[6] * x + m[7] * y + m[8];
  if (w <= 1e-12) return null;
  const px = (m[0] * x + m[1] * y + m[2]) / w;
  const py = (m[3] * x + m[4] * y + m[5]) / w;
  return {
    across: [(m[0] - m[6] * px) / w, (m[3] - m[6] * py) / w],
    down: [(m[1] - m[7] * px) / w, (m[4] - m[7] * py) / w],
  };
}
