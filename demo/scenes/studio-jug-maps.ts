import { join } from 'node:path';
import {
  blur,
  type Colour,
  dim,
  type Grid,
  makeColours,
  makeGrid,
  mix,
  mixColour,
  smooth,
  writeColours,
  writeHeights,
} from '../toolkit/grid';
import { band, fractal } from '../toolkit/noise';
import { makeDice } from '../toolkit/random';

const repeat =
  (g: Grid) =>
  (x: number, y: number): number =>
    g.data[(y & (g.h - 1)) * g.w + (x & (g.w - 1))];

const grey = (g: Grid) => makeColours(g.w, g.h, (_x, _y, i) => [g.data[i], g.data[i], g.data[i]]);

/** Linen of 80 cm: colour clean and stained, weave, folds. @returns how high the folds reach, in centimetres */
export function makeCloth(folder: string): number {
  const n = 2048;
  const tile = 1024;
  const cm = n / 80;
  const wobX = repeat(fractal(tile, tile, 3.2, 1));
  const wobY = repeat(fractal(tile, tile, 3.2, 2));
  const slubs = repeat(fractal(tile, tile, 1.2, 3, 0.03));
  const slubs2 = repeat(fractal(tile, tile, 1.2, 4, 30));
  const tone = repeat(fractal(tile, tile, 2, 16));
  const thread = 3.4;
  const weaveAt = (x: number, y: number) => {
    const u = (x + 3 * wobX(x, y)) / thread;
    const v = (y + 3 * wobY(x, y)) / thread;
    const fu = u - Math.floor(u) - 0.5;
    const fv = v - Math.floor(v) - 0.5;
    const over = (Math.floor(u) + Math.floor(v)) % 2 === 0 ? 1 : -0.6;
    const warp =
      Math.sqrt(Math.max(0, 1 - (fu * 1.9) ** 2)) *
      (1 + 0.2 * slubs(x, y)) *
      (0.55 + 0.45 * Math.cos(Math.PI * fv) * over);
    const weft =
      Math.sqrt(Math.max(0, 1 - (fv * 1.9) ** 2)) *
      (1 + 0.2 * slubs2(x, y)) *
      (0.55 + 0.45 * Math.cos(Math.PI * fu) * (over > 0 ? -0.6 : 1));
    return Math.max(warp, weft);
  };
  const weave = makeGrid(n, n, weaveAt);
  writeHeights(join(folder, 'weave.png'), weave);
  const large = fractal(n, n, 4.2, 11);
  const ripple = fractal(n, n, 3.4, 13, 1, 3);
  const folds = makeGrid(n, n, (x, y, i) => {
    const u = x / n;
    const v = y / n;
    const phase = u + 0.55 * v + 0.05 * large.data[i];
    const fold =
      1.1 * Math.exp(-(((phase - 0.38) / 0.035) ** 2)) +
      0.9 * Math.exp(-(((phase - 1.13) / 0.03) ** 2)) +
      0.6 * Math.exp(-(((0.3 * u - v + 0.78 + 0.03 * large.data[i]) / 0.022) ** 2));
    const flat = 1 - 0.78 * Math.exp(-(((u - 0.5) / 0.2) ** 2 + ((v - 0.52) / 0.16) ** 2));
    return (fold + 0.35 * large.data[i] + 0.16 * Math.abs(ripple.data[i])) * flat;
  });
  const { low, high } = writeHeights(join(folder, 'cloth-height.png'), blur(folds, 5));
  const clean = makeColours(n, n, (x, y, i) =>
    dim(
      [0.8, 0.765, 0.69],
      (0.93 + 0.05 * weave.data[i] + 0.02 * tone(x, y)) * (0.9 + 0.1 * Math.min(1, weave.data[i])),
    ),
  );
  writeColours(join(folder, 'cloth.png'), clean);
  const edge = fractal(n, n, 3, 21);
  const mottle = fractal(n, n, 2.5, 22);
  const dice = makeDice(23);
  const drops = Array.from({ length: 9 }, () => ({
    a: dice.between(0, 6.28),
    far: dice.between(4.2, 7),
    r: dice.between(0.12, 0.4),
  }));
  const stain = makeGrid(n, n, (x, y, i) => {
    const dx = x / cm - 48;
    const dy = y / cm - 50.8;
    const d = Math.hypot(dx, dy * 1.15) - (2.9 + 0.45 * edge.data[i]);
    let s =
      smooth(0.15, -0.12, d) *
      (0.38 +
        (d < 0 ? 0.5 * Math.exp(-((d / 0.28) ** 2)) : 0) +
        0.12 * Math.max(-1, Math.min(1, mottle.data[i])));
    for (const { a, far, r } of drops)
      s = Math.max(
        s,
        0.5 * smooth(r, r * 0.75, Math.hypot(dx - far * Math.cos(a), dy - far * 0.9 * Math.sin(a))),
      );
    return Math.max(0, Math.min(1, s));
  });
  writeColours(
    join(folder, 'cloth-marked.png'),
    makeColours(n, n, (_x, _y, i) => {
      const k = 0.8 * stain.data[i];
      return [
        clean[0].data[i] * mix(1, 0.6, k),
        clean[1].data[i] * mix(1, 0.4, k),
        clean[2].data[i] * mix(1, 0.22, k),
      ];
    }),
  );
  writeColours(
    join(folder, 'stain-mask.png'),
    grey(makeGrid(n, n, (_x, _y, i) => (stain.data[i] > 0.02 ? 1 : 0))),
  );
  return high - low;
}

export function makeBackdrop(folder: string): void {
  const [w, h] = [2048, 1024];
  const slow = fractal(w, h, 3, 31);
  const fine = fractal(w, h, 1.8, 32);
  writeColours(
    join(folder, 'backdrop.png'),
    makeColours(w, h, (x, y, i) => {
      const g = Math.exp(-(((x / w - 0.57) / 0.33) ** 2 + ((y / h - 0.6) / 0.4) ** 2));
      return dim(
        mixColour([0.2, 0.235, 0.235], [0.52, 0.545, 0.52], g),
        1 + 0.045 * slow.data[i] + 0.02 * fine.data[i],
      );
    }),
  );
}

const outline = [
  [0, 0, 3.9],
  [0.5, 0, 4.6],
  [0.8, 0.35, 4.95],
  [2.5, 2.6, 6.2],
  [6, 6.2, 7.45],
  [9, 9.2, 7.3],
  [12, 12.4, 6],
  [15, 15.6, 4.55],
  [17, 17.6, 4.25],
  [19, 19.6, 4.65],
  [20.6, 21.2, 5.1],
  [20.95, 21.45, 5.05],
  [21.3, 21.4, 4.85],
  [22, 20.6, 4.55],
  [25, 17.6, 3.85],
  [30, 13, 5.2],
  [36, 8, 6.6],
  [40, 2, 5.5],
] as const;

/** The mesh gives the inside of the jug less room than the outside: parameter of the profile at a height 0…1 of the map. */
export const jugParameter = (v: number): number =>
  v < 0.85 ? (v / 0.85) * 22 : 22.2 + ((v - 0.85) / 0.15) * 17.8;
const mapHeight = (t: number): number => (t < 22 ? (t / 22) * 0.85 : 0.85 + ((t - 22.2) / 17.8) * 0.15);

/** Height and radius of the jug's profile at a parameter 0…40: outside up to the lip at 21, then inside down. */
export function jugOutline(t: number): { y: number; r: number } {
  let k = 0;
  while (k < outline.length - 2 && outline[k + 1][0] < t) k++;
  const at = (i: number) => outline[Math.max(0, Math.min(outline.length - 1, i))];
  const [a, b, c, d] = [at(k - 1), at(k), at(k + 1), at(k + 2)];
  const span = c[0] - b[0];
  const s = Math.min(1, Math.max(0, (t - b[0]) / span));
  // Monotone where neighbours rise alike (Fritsch & Carlson 1980, doi:10.1137/0717021), so that the profile has no bumps.
  const along = (e: 1 | 2) => {
    const slope = (p: readonly number[], q: readonly number[]) =>
      q[0] > p[0] ? (q[e] - p[e]) / (q[0] - p[0]) : 0;
    const [s0, s1, s2] = [slope(a, b), slope(b, c), slope(c, d)];
    const tangent = (p: number, q: number) => (p * q <= 0 ? 0 : (2 * p * q) / (p + q));
    const [m0, m1] = [tangent(s0 || s1, s1) * span, tangent(s1, s2 || s1) * span];
    const s2_ = s * s;
    const s3 = s2_ * s;
    return (
      (2 * s3 - 3 * s2_ + 1) * b[e] + (s3 - 2 * s2_ + s) * m0 + (3 * s2_ - 2 * s3) * c[e] + (s3 - s2_) * m1
    );
  };
  return { y: along(1), r: along(2) };
}

/** The jug's glaze, clean and scratched; up the map is up the profile. */
export function makeGlaze(folder: string): void {
  const n = 2048;
  const slow = fractal(n, n, 2.6, 41);
  const fine = fractal(n, n, 1.6, 42);
  const runs = fractal(n, 64, 2.2, 43);
  const [a, b] = [band(n, n, 260, 0.45, 44), band(n, n, 120, 0.4, 45)];
  const clean = makeColours(n, n, (x, y, i) => {
    const t = jugParameter(1 - y / n);
    const height = jugOutline(t).y;
    const drip = runs.data[x];
    const line = 2.3 + 0.5 * drip;
    const clay = dim([0.5, 0.335, 0.22], 1 + 0.07 * fine.data[i] + 0.05 * slow.data[i]);
    let c: Colour = dim([0.7, 0.735, 0.7], 1 + 0.03 * slow.data[i]);
    const upper = smooth(13.2 + drip, 15.8 + 1.1 * drip, t) * smooth(40, 21, t);
    c = mixColour(c, dim([0.3, 0.43, 0.47], 1 + 0.06 * slow.data[i]), 0.82 * upper);
    c = mixColour(
      c,
      [0.45, 0.3, 0.17],
      Math.min(
        0.8,
        0.75 * Math.exp(-(((t - 21) / 0.42) ** 2)) + 0.08 * Math.max(0, Math.sin(height * 5.1)) ** 3,
      ),
    );
    c = mixColour(c, [0.3, 0.19, 0.11], 0.75 * smooth(2, 2.6, 0.7 * a.data[i] + 0.6 * b.data[i]));
    c = mixColour(clay, c, smooth(line - 0.12, line + 0.1, t));
    return mixColour(c, [0.34, 0.22, 0.13], 0.5 * Math.exp(-(((t - line) / 0.13) ** 2)));
  });
  writeColours(join(folder, 'jug.png'), clean);
  const dice = makeDice(8);
  const strokes = [
    [[12.6, -1.28], [8.2, -0.86], 1.6],
    [[12.1, -1.2], [9.8, -1], 0.8],
    [[7.7, -0.84], [7, -0.78], 1.1],
  ] as const;
  const scratch = makeGrid(n, n);
  for (const [from, to, wide] of strokes) {
    const points = Array.from({ length: 14 }, (_, k) => {
      const q = k / 13;
      const t = from[0] + (to[0] - from[0]) * q + dice.normal(0, 0.04);
      const turn = from[1] + (to[1] - from[1]) * q + 0.05 * Math.sin(q * 3) + dice.normal(0, 0.003);
      return [((turn + Math.PI) / (2 * Math.PI)) * n, (1 - mapHeight(t)) * n];
    });
    drawLine(scratch, points, wide);
  }
  const cut = makeGrid(
    n,
    n,
    (_x, _y, i) => scratch.data[i] * Math.max(0, Math.min(1, 0.8 + 0.3 * fine.data[i])),
  );
  writeColours(
    join(folder, 'jug-marked.png'),
    makeColours(n, n, (x, y, i) => {
      const c: Colour = mixColour(
        [clean[0].data[i], clean[1].data[i], clean[2].data[i]],
        [0.93, 0.91, 0.86],
        cut.data[i],
      );
      const shade = cut.data[Math.max(0, y - 2) * n + Math.max(0, x - 1)] * (1 - cut.data[i]);
      return mixColour(c, dim(c, 0.55), shade);
    }),
  );
  writeColours(
    join(folder, 'scratch-mask.png'),
    grey(makeGrid(n, n, (_x, _y, i) => (blurredNear(scratch, i, n) ? 1 : 0))),
  );
}

const blurredNear = (g: Grid, i: number, n: number): boolean =>
  g.data[i] > 0.02 || g.data[Math.max(0, i - 2 * n)] > 0.02 || g.data[Math.max(0, i - n - 1)] > 0.02;

/** Raises a grid to 1 along a line of the given half-width, with a soft edge of a pixel. */
function drawLine(g: Grid, points: readonly (readonly number[])[], half: number): void {
  for (let k = 0; k + 1 < points.length; k++) {
    const [[ax, ay], [bx, by]] = [points[k], points[k + 1]];
    const l2 = (bx - ax) ** 2 + (by - ay) ** 2 || 1;
    const r = half + 1.5;
    for (
      let y = Math.max(0, Math.floor(Math.min(ay, by) - r));
      y <= Math.min(g.h - 1, Math.max(ay, by) + r);
      y++
    )
      for (
        let x = Math.max(0, Math.floor(Math.min(ax, bx) - r));
        x <= Math.min(g.w - 1, Math.max(ax, bx) + r);
        x++
      ) {
        const t = Math.min(1, Math.max(0, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / l2));
        const d = Math.hypot(x - ax - t * (bx - ax), y - ay - t * (by - ay));
        const i = y * g.w + x;
        g.data[i] = Math.max(g.data[i], smooth(half + 1, half - 0.5, d));
      }
  }
}

const digits: Record<string, readonly number[]> = {
  '0': [14, 17, 19, 21, 25, 17, 14],
  '1': [4, 12, 4, 4, 4, 4, 14],
  '4': [2, 6, 10, 18, 31, 2, 2],
  '5': [31, 16, 30, 1, 1, 17, 14],
  '.': [0, 0, 0, 0, 0, 12, 12],
};

/** A price sticker: yellow, a red band, 14.50, a bar code. */
export function makeSticker(folder: string): void {
  const [w, h] = [640, 512];
  const text = '14.50';
  const cell = 17;
  const dice = makeDice(6);
  const bars = Array.from({ length: 44 }, () => dice.between(2, 8));
  const ink: Colour = [0.12, 0.11, 0.1];
  writeColours(
    join(folder, 'sticker.png'),
    makeColours(w, h, (x, y) => {
      const left = (w - text.length * 6 * cell) / 2;
      const column = Math.floor((x - left) / cell);
      const row = Math.floor((y - 200) / cell);
      if (row >= 0 && row < 7 && column >= 0 && column < text.length * 6 && column % 6 < 5) {
        const glyph = digits[text[Math.floor(column / 6)]];
        if ((glyph[row] >> (4 - (column % 6))) & 1) return ink;
      }
      const k = Math.floor((x - 80) / 11);
      if (y > 390 && y < 462 && k >= 0 && k < 44 && x - 80 - k * 11 < bars[k]) return ink;
      return y < 150 ? [0.8, 0.2, 0.16] : [0.97, 0.84, 0.24];
    }),
  );
}

/** An apple's skin, fair and marked, and where the marks are. */
export function makeAppleSkins(folder: string, k: number): void {
  const [w, h] = [2048, 1024];
  const dice = makeDice(60 + k);
  const streaks = fractal(w, h, 2.2, 70 + k, 0.07);
  const fineStreaks = fractal(w, h, 1.4, 80 + k, 0.03, 6);
  const slow = fractal(w, h, 2.8, 90 + k);
  const lenticels = band(w, h, 110, 0.35, 100 + k);
  const russet = fractal(w, h, 2, 110 + k);
  const sunny = dice.between(0, 6.28);
  const fair = makeColours(w, h, (x, y, i) => {
    const th = (y / h) * Math.PI;
    const ph = (x / w) * 2 * Math.PI;
    const blush = 0.62 * Math.cos(ph - sunny) + 0.35 + 0.28 * slow.data[i] + 0.18 * Math.cos(th);
    let c = mixColour([0.7, 0.66, 0.24], [0.8, 0.7, 0.34], smooth(-1.5, 1.5, slow.data[i]));
    c = mixColour(
      c,
      [0.6, 0.1, 0.075],
      0.95 * smooth(-0.25, 0.75, blush + 0.3 * streaks.data[i] + 0.2 * fineStreaks.data[i]),
    );
    c = mixColour(
      c,
      [0.4, 0.05, 0.05],
      0.55 * smooth(0.55, 1.5, blush + 0.35 * fineStreaks.data[i] + 0.25 * streaks.data[i]),
    );
    c = mixColour(
      c,
      [0.86, 0.76, 0.5],
      0.7 * smooth(2.15, 2.7, lenticels.data[i]) * smooth(0.15, 0.5, th) * smooth(3.1, 2.5, th),
    );
    c = mixColour(
      c,
      [0.48, 0.36, 0.17],
      0.75 * smooth(0.62, 0.18, th + 0.1 * russet.data[i] + 0.05 * Math.cos(ph * 5)),
    );
    return mixColour(c, [0.2, 0.15, 0.08], smooth(2.98, 3.12, th));
  });
  writeColours(join(folder, `apple${k}.png`), fair);
  const marks = makeGrid(w, h);
  for (let m = 0; m < 16; m++) {
    const cx = dice.between(0, w);
    const cy = dice.between(0.25, 0.75) * h;
    if (dice.next() < 0.6)
      drawLine(
        marks,
        [
          [cx, cy],
          [cx + 1, cy],
        ],
        dice.between(3, 9),
      );
    else
      drawLine(
        marks,
        [
          [cx, cy],
          [cx + dice.normal(0, 25), cy + dice.normal(0, 18)],
          [cx + dice.normal(0, 40), cy + dice.normal(0, 30)],
        ],
        dice.between(1.2, 2.4),
      );
  }
  writeColours(
    join(folder, `apple${k}-marked.png`),
    makeColours(w, h, (_x, _y, i) =>
      mixColour(
        [fair[0].data[i], fair[1].data[i], fair[2].data[i]],
        [0.3, 0.2, 0.1],
        0.75 * marks.data[i] * Math.max(0.4, Math.min(1, 0.8 + 0.3 * russet.data[i])),
      ),
    ),
  );
  writeColours(
    join(folder, `apple${k}-mask.png`),
    grey(makeGrid(w, h, (_x, _y, i) => (marks.data[i] > 0.02 ? 1 : 0))),
  );
}
