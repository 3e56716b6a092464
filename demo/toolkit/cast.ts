import { connected, squaredDistance } from '../../src/core/area';
import { type Grid, makeGrid } from './grid';

/** What is shorter than this share of the picture's width, or thinner than so many pixels, and touches no thing is unevenness that a
 *  renderer leaves, no shadow. */
const least = { length: 1 / 60, thickPx: 3 };

/** What differs but is no object, a shadow or a reflection, given to the thing that it comes from: the one from which it is reached
 *  first over what differs, or else the nearest.
 *  @param differs  1 where taking all things away changes something
 *  @param objects  1 where each thing is */
export function castBy(differs: Grid, objects: readonly Grid[]): Grid[] {
  const { w, h } = differs;
  const none = objects.length;
  const owner = new Uint8Array(w * h).fill(none);
  const reached: number[] = [];
  objects.forEach((object, k) => {
    for (let i = 0; i < w * h; i++)
      if (object.data[i] > 0 && owner[i] === none) {
        owner[i] = k;
        reached.push(i);
      }
  });
  for (const i of reached) {
    const [x, y] = [i % w, Math.floor(i / w)];
    for (let v = Math.max(0, y - 1); v <= Math.min(h - 1, y + 1); v++)
      for (let u = Math.max(0, x - 1); u <= Math.min(w - 1, x + 1); u++) {
        const j = v * w + u;
        if (owner[j] !== none || differs.data[j] <= 0) continue;
        owner[j] = owner[i];
        reached.push(j);
      }
  }
  const rest = Uint8Array.from(differs.data, (v, i) => (v > 0 && owner[i] === none ? 1 : 0));
  const away = objects.map((object) =>
    squaredDistance(
      Uint8Array.from(object.data, (v) => (v > 0 ? 1 : 0)),
      w,
      h,
    ),
  );
  for (const part of connected(rest, w, h)) {
    const length = lengthOf(part, w);
    if (length < least.length * w || part.length < least.thickPx * length) continue;
    const distances = away.map((to) => part.reduce((near, i) => Math.min(near, to[i]), Infinity));
    const nearest = distances.indexOf(Math.min(...distances));
    for (const i of part) owner[i] = nearest;
  }
  return objects.map((_, k) =>
    makeGrid(w, h, (_x, _y, i) => (owner[i] === k && objects.every((o) => o.data[i] <= 0) ? 1 : 0)),
  );
}

function lengthOf(part: readonly number[], w: number): number {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -1, -1];
  for (const i of part) {
    const [x, y] = [i % w, Math.floor(i / w)];
    [x0, y0, x1, y1] = [Math.min(x0, x), Math.min(y0, y), Math.max(x1, x), Math.max(y1, y)];
  }
  return Math.hypot(x1 - x0 + 1, y1 - y0 + 1);
}
