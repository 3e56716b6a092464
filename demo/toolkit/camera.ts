import { blur, type ColourGrid, clamp01, type Grid, makeGrid, smooth, toEncoded } from './grid';
import { makeDice } from './random';
import type { Lens } from './scene';

/** How soft a lens draws on a picture of so many columns: the deviation of its point, in pixels. */
export const softnessPx = (width: number): number => (0.5 * width) / 2400 + 0.25;

/** Makes a photograph of rendered light: glow, vignette, lateral colour, lens softness, a film-like shoulder, grain.
 *  The glow comes from `glowing`, the same picture for both of a pair, so that a thing taken away changes nothing far
 *  from it. The same seed gives the same grain. @returns encoded values 0…1 */
export function photograph(light: ColourGrid, glowing: ColourGrid, lens: Lens): ColourGrid {
  const { w, h } = light[0];
  const glow = glowing.map((plane, c) => {
    const gain = lens.exposure * lens.balance[c];
    const lit = makeGrid(w, h, (_x, _y, i) => plane.data[i] * gain);
    const bright = blur(
      makeGrid(w, h, (_x, _y, i) => Math.max(0, lit.data[i] - 0.75)),
      w / 150,
    );
    const wide = blur(lit, w / 25);
    return makeGrid(w, h, (_x, _y, i) => 0.18 * bright.data[i] + 0.012 * wide.data[i]);
  });
  const seen = light.map((plane, c) => {
    const gain = lens.exposure * lens.balance[c];
    const lit = makeGrid(w, h, (x, y, i) => {
      const r = Math.hypot(x - w / 2, y - h / 2) / (w / 2);
      return (plane.data[i] * gain + glow[c].data[i]) * (1 - lens.vignette * smooth(0.25, 1.25, r));
    });
    return blur(c === 1 ? lit : scaled(lit, c === 0 ? 1.0005 : 0.9995), softnessPx(w));
  });
  const grain = grainOf(w, h, lens.seed);
  const out: ColourGrid = [makeGrid(w, h), makeGrid(w, h), makeGrid(w, h)];
  for (let i = 0; i < w * h; i++) {
    const encoded = [0, 1, 2].map((c) => curve(seen[c].data[i], lens.contrast));
    const luma = 0.3 * encoded[0] + 0.59 * encoded[1] + 0.11 * encoded[2];
    for (let c = 0; c < 3; c++) {
      const v = luma + (encoded[c] - luma) * (lens.colour ?? 1);
      const n =
        lens.colour === 0 ? grain.grey.data[i] : grain.grey.data[i] * 0.87 + grain.colour[c].data[i] * 0.49;
      out[c].data[i] = v + n * lens.grain * (0.45 + 0.9 * Math.sqrt(clamp01(v * (1 - v))));
    }
  }
  return out;
}

/** Shoulder above 0.8, then sRGB, then a mild S. */
function curve(v: number, contrast: number): number {
  const k = 0.8;
  const l = v > k ? k + (1 - k) * (1 - Math.exp(-(v - k) / (1 - k))) : Math.max(0, v);
  const s = toEncoded(l);
  return s + contrast * (s - 0.5) * s * (1 - s) * 2;
}

/** Grain of about one and a half pixels, unit deviation: grey and colour apart. */
function grainOf(w: number, h: number, seed: number): { grey: Grid; colour: Grid[] } {
  const dice = makeDice(seed);
  const plane = () => {
    const soft = blur(
      makeGrid(w, h, () => dice.normal()),
      0.62,
    );
    let squares = 0;
    for (const v of soft.data) squares += v * v;
    const k = 1 / Math.sqrt(squares / soft.data.length);
    return makeGrid(w, h, (_x, _y, i) => soft.data[i] * k);
  };
  return { grey: plane(), colour: [plane(), plane(), plane()] };
}

/** Scaled round the middle by a factor near 1, cubic (Catmull & Rom 1974, doi:10.1016/B978-0-12-079050-0.50020-5). */
function scaled(src: Grid, by: number): Grid {
  const { w, h } = src;
  const weights = (t: number) => [
    ((-t + 2) * t - 1) * t * 0.5,
    ((3 * t - 5) * t * t + 2) * 0.5,
    ((-3 * t + 4) * t + 1) * t * 0.5,
    (t - 1) * t * t * 0.5,
  ];
  const pass = (from: Grid, along: boolean): Grid =>
    makeGrid(w, h, (x, y) => {
      const n = along ? w : h;
      const p = ((along ? x : y) - n / 2) / by + n / 2;
      const k = Math.floor(p);
      const f = weights(p - k);
      let sum = 0;
      for (let j = 0; j < 4; j++) {
        const q = Math.min(n - 1, Math.max(0, k + j - 1));
        sum += f[j] * (along ? from.data[y * w + q] : from.data[q * w + x]);
      }
      return sum;
    });
  return pass(pass(src, true), false);
}
