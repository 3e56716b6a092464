import type { Rect } from '../../../raster';
import type { ShiftMap } from '../cut/seam-cut';
import { boxOfTargets, role } from '../frame';

/** The area, divided into connected parts that are each copied by one shift. */
export interface Parts {
  /** The area's. */
  readonly box: Rect;
  /** box in size: the number of each pixel's part, −1 outside the area. */
  readonly number: Int32Array;
  /** The label of each part. */
  readonly labels: readonly number[];
}

/** @param w  columns of the frame */
export function partsOf(roles: Uint8Array, { label }: ShiftMap, w: number): Parts {
  const box = boxOfTargets(roles, w);
  const number = new Int32Array(box.w * box.h).fill(-1);
  const labels: number[] = [];
  const frameAt = (i: number) => (box.y + Math.floor(i / box.w)) * w + box.x + (i % box.w);
  const stack: number[] = [];
  const visit = (i: number, own: number) => {
    const p = frameAt(i);
    if (number[i] >= 0 || roles[p] !== role.target || label[p] !== own) return;
    number[i] = labels.length;
    stack.push(i);
  };
  for (let first = 0; first < number.length; first++) {
    const p = frameAt(first);
    if (number[first] >= 0 || roles[p] !== role.target) continue;
    const own = label[p];
    visit(first, own);
    while (stack.length > 0) {
      const i = stack.pop()!;
      const x = i % box.w;
      if (x > 0) visit(i - 1, own);
      if (x < box.w - 1) visit(i + 1, own);
      if (i >= box.w) visit(i - box.w, own);
      if (i < number.length - box.w) visit(i + box.w, own);
    }
    labels.push(own);
  }
  return { box, number, labels };
}

/** A place where a part ends. */
export interface Join {
  /** In the frame. */
  readonly x: number;
  readonly y: number;
  readonly part: number;
  /** The part beyond; null: what is known. */
  readonly other: number | null;
}

/** Every other pixel that has a neighbour beyond its part, once for each of those. */
export function joinsOf({ box, number }: Parts, roles: Uint8Array, { w, h }: Rect): Join[] {
  const joins: Join[] = [];
  for (let y = 0, i = 0; y < box.h; y++)
    for (let x = 0; x < box.w; x++, i++) {
      const part = number[i];
      if (part < 0 || (x + y) % 2 !== 0) continue;
      const [fx, fy] = [box.x + x, box.y + y];
      const met: (number | null)[] = [];
      const meet = (u: number, v: number) => {
        const [gx, gy] = [fx + u, fy + v];
        if (gx < 0 || gy < 0 || gx >= w || gy >= h) return;
        const isInBox = x + u >= 0 && y + v >= 0 && x + u < box.w && y + v < box.h;
        const there = isInBox ? number[i + v * box.w + u] : -1;
        if (there === part) return;
        const r = roles[gy * w + gx];
        if (there < 0 && r !== role.source && r !== role.context) return;
        const other = there < 0 ? null : there;
        if (met.includes(other)) return;
        met.push(other);
        joins.push({ x: fx, y: fy, part, other });
      };
      meet(-1, 0);
      meet(1, 0);
      meet(0, -1);
      meet(0, 1);
    }
  return joins;
}
