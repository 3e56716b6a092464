export type Point = readonly [x: number, y: number];

/** How long a line is that goes back to where it began, and what it encloses: above 0 clockwise. */
export function sizeOf(points: readonly (readonly [number, number, ...number[]])[]): {
  length: number;
  area: number;
} {
  let [length, twice] = [0, 0];
  points.forEach(([x, y], k) => {
    const [px, py] = points.at(k - 1)!;
    length += Math.hypot(x - px, y - py);
    twice += px * y - x * py;
  });
  return { length, area: twice / 2 };
}

/** The convex hull of some points, clockwise (Andrew 1979, doi:10.1016/0020-0190(79)90072-3); of fewer than three, what there is. */
export function hullOf(points: readonly Point[]): Point[] {
  const sorted = [...points].sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  const half = (some: readonly Point[]) => {
    const out: Point[] = [];
    for (const p of some) {
      while (out.length >= 2) {
        const [a, b] = out.slice(-2);
        if ((b[0] - a[0]) * (p[1] - a[1]) > (b[1] - a[1]) * (p[0] - a[0])) break;
        out.pop();
      }
      out.push(p);
    }
    return out.slice(0, -1);
  };
  return [...half(sorted), ...half(sorted.reverse())];
}
