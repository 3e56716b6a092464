import { blur, type ColourGrid, type Grid, makeGrid } from './grid';
import { fogDistance } from './scene';

/** Distance from the camera in scene units, from the picture of black things in white fog. */
export const depthOf = (fog: ColourGrid): Grid =>
  makeGrid(fog[0].w, fog[0].h, (_x, _y, i) => -fogDistance * Math.log(Math.max(1e-6, 1 - fog[0].data[i])));

const layerCount = 12;

/** Blurs planes as a lens does, by their distance, in layers laid over each other from far to near.
 *  @param farPx  diameter in pixels of the circle that something infinitely far becomes */
export function defocus(planes: readonly Grid[], depth: Grid, distance: number, farPx: number): Grid[] {
  const { w, h } = depth;
  // 1 − f/d runs evenly with the circle of confusion: 1 infinitely far, 0 in focus, below 0 nearer.
  const spread = makeGrid(w, h, (_x, _y, i) => Math.max(-1.2, 1 - distance / Math.max(0.05, depth.data[i])));
  let low = Infinity;
  for (const v of spread.data) low = Math.min(low, v);
  const high = 1;
  const step = (high - low) / (layerCount - 1) || 1;
  const out = planes.map(() => makeGrid(w, h));
  const covered = makeGrid(w, h);
  for (let k = layerCount - 1; k >= 0; k--) {
    const middle = low + k * step;
    const weight = makeGrid(w, h, (_x, _y, i) => Math.max(0, 1 - Math.abs(spread.data[i] - middle) / step));
    const sigma = (Math.abs(middle) * farPx) / 4;
    const alpha = blur(weight, sigma);
    const laid = planes.map((plane) =>
      blur(
        makeGrid(w, h, (_x, _y, i) => plane.data[i] * weight.data[i]),
        sigma,
      ),
    );
    for (let i = 0; i < w * h; i++) {
      const a = alpha.data[i];
      if (a <= 0) continue;
      covered.data[i] = covered.data[i] * (1 - a) + a;
      for (let c = 0; c < planes.length; c++) out[c].data[i] = out[c].data[i] * (1 - a) + laid[c].data[i];
    }
  }
  return out.map((plane) => makeGrid(w, h, (_x, _y, i) => plane.data[i] / Math.max(1e-4, covered.data[i])));
}
