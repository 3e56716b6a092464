import { join } from 'node:path';
import {
  blur,
  type Colour,
  clamp01,
  dim,
  type Grid,
  makeColours,
  makeGrid,
  mixColour,
  shrinkBy,
  smooth,
  writeColours,
  writeHeights,
} from '../toolkit/grid';
import { band, fractal } from '../toolkit/noise';
import { makeDice } from '../toolkit/random';

/** Side of the paved square in metres, and of its map in pixels. */
export const flagMetres = 11;
const flagPixels = 4096;
const tile = 2048;

/** A tileable noise read at any pixel. */
const repeat =
  (g: Grid, dx = 0, dy = 0) =>
  (x: number, y: number): number =>
    g.data[((y + dy) & (g.h - 1)) * g.w + ((x + dx) & (g.w - 1))];

interface Stones {
  readonly distance: Float32Array;
  readonly id: Int32Array;
  readonly count: number;
  readonly middle: { readonly x: number; readonly y: number }[];
}

/** Irregular courses of flagstones: for each pixel the signed distance to its stone's edge, and which stone. */
function layStones(
  n: number,
  px: number,
  wobbleX: (x: number, y: number) => number,
  wobbleY: (x: number, y: number) => number,
): Stones {
  const dice = makeDice(4);
  const distance = new Float32Array(n * n).fill(1e9);
  const id = new Int32Array(n * n);
  const middle: { x: number; y: number }[] = [{ x: 0, y: 0 }];
  const put = (a: number, b: number, c: number, d: number) => {
    const k = middle.length;
    middle.push({ x: a + c / 2, y: b + d / 2 });
    const turn = dice.normal(0, 0.016);
    const gap = px * dice.between(0.008, 0.02);
    const round = px * dice.between(0.03, 0.075);
    const x0 = Math.max(0, Math.floor(a - 60));
    const x1 = Math.min(n, Math.ceil(a + c + 60));
    const y0 = Math.max(0, Math.floor(b - 60));
    const y1 = Math.min(n, Math.ceil(b + d + 60));
    for (let y = y0; y < y1; y++)
      for (let x = x0; x < x1; x++) {
        const wx = x + wobbleX(x, y) - a - c / 2;
        const wy = y + wobbleY(x, y) - b - d / 2;
        const qx = Math.abs(wx + turn * wy) - (c / 2 - gap - round);
        const qy = Math.abs(wy - turn * wx) - (d / 2 - gap - round);
        const far = Math.hypot(Math.max(qx, 0), Math.max(qy, 0)) + Math.min(Math.max(qx, qy), 0) - round;
        const i = y * n + x;
        if (far >= distance[i]) continue;
        distance[i] = far;
        id[i] = k;
      }
  };
  for (let y = -40; y < n + 40; ) {
    const high = px * dice.between(0.34, 0.62);
    for (let x = -40 - dice.between(0, px * 0.5); x < n + 40; ) {
      const wide = px * dice.between(0.4, 1.05);
      if (dice.next() < 0.16) {
        const f = dice.between(0.4, 0.6);
        put(x, y, wide, high * f);
        put(x, y + high * f, wide, high * (1 - f));
      } else put(x, y, wide, high);
      x += wide;
    }
    y += high;
  }
  return { distance, id, count: middle.length, middle };
}

/** Flagstones: colour, height for the shape and height for the fine relief. @returns how high the shape reaches, in metres */
export function makeFlags(folder: string): number {
  const n = flagPixels;
  const px = n / flagMetres;
  const wob = fractal(tile, tile, 2.8, 1);
  const wave = fractal(tile, tile, 4, 5);
  const shapeX = repeat(wob);
  const shapeY = repeat(wob, 811, 377);
  const bendX = repeat(wave);
  const bendY = repeat(wave, 1301, 529);
  const stones = layStones(
    n,
    px,
    (x, y) => px * (0.016 * shapeX(x, y) + 0.03 * bendX(x >> 1, y >> 1)),
    (x, y) => px * (0.016 * shapeY(x, y) + 0.03 * bendY(x >> 1, y >> 1)),
  );
  const dice = makeDice(14);
  const palette: Colour[] = [
    [0.56, 0.53, 0.47],
    [0.5, 0.48, 0.44],
    [0.6, 0.555, 0.47],
    [0.47, 0.46, 0.44],
    [0.58, 0.52, 0.43],
    [0.53, 0.52, 0.49],
  ];
  const each = Array.from({ length: stones.count }, () => ({
    colour: dim(dice.pick(palette), 1 + dice.normal(0, 0.07)),
    tiltX: dice.normal(0, 0.011),
    tiltY: dice.normal(0, 0.011),
    lift: dice.normal(0, 0.006),
  }));
  const fineMap = fractal(tile, tile, 1.7, 7);
  const fine = repeat(fineMap);
  const fine2 = repeat(fineMap, 701, 1187);
  const midMap = fractal(tile, tile, 2.6, 8);
  const mid = repeat(midMap);
  const bigMap = fractal(tile, tile, 3.2, 9);
  const big = (x: number, y: number) => repeat(bigMap)(x >> 1, y >> 1);
  const mid2 = repeat(fractal(tile, tile, 2.3, 10));
  const pits = repeat(band(tile, tile, 40, 0.6, 11));
  const lichen = repeat(band(tile, tile, 30, 0.5, 12));
  const spots = repeat(band(tile, tile, 70, 0.6, 13));
  const edgeAt = (x: number, y: number, i: number) =>
    smooth(0.004, -0.034, stones.distance[i] / px + 0.006 * mid2(x, y));
  const shape = makeGrid(n, n, (x, y, i) => {
    const s = each[stones.id[i]];
    const m = stones.middle[stones.id[i]];
    const edge = edgeAt(x, y, i);
    const d = stones.distance[i] / px;
    const moss = smooth(-0.016, 0.006, d) * smooth(-0.2, 0.9, mid(x, y) + 0.7 * big(x, y) + 0.3 * mid2(x, y));
    const top = 0.03 + s.lift + (s.tiltX * (x - m.x) + s.tiltY * (y - m.y)) / px;
    return edge * top + 0.012 * big(x, y) + 0.012 * moss;
  });
  // Fine relief only where stones lie flat: on their flanks it would comb them into fringes.
  const relief = makeGrid(n, n, (x, y, i) => {
    const edge = edgeAt(x, y, i);
    const wear = 0.0042 * mid(x, y) + 0.0011 * fine(x, y) - 0.0045 * smooth(1.2, 2.2, pits(x, y));
    return edge * edge * wear + (1 - edge) * 0.0012 * fine2(x, y);
  });
  const colours = makeColours(n, n, (x, y, i) => {
    const d = stones.distance[i] / px;
    const f = fine(x, y);
    const m2 = mid2(x, y);
    const edge = smooth(0.004, -0.03, d + 0.006 * m2);
    let c = dim(each[stones.id[i]].colour, 1 + 0.075 * mid(x, y) + 0.05 * f + 0.06 * m2);
    c = mixColour(c, [0.42, 0.38, 0.31], 0.35 * smooth(0.4, 2, big(x, y) + 0.5 * mid(x, y)));
    c = mixColour(c, [0.7, 0.69, 0.62], 0.6 * edge * smooth(1.55, 1.9, lichen(x, y) + 0.35 * m2));
    c = mixColour(c, [0.3, 0.28, 0.25], 0.45 * smooth(1.3, 2.2, spots(x, y) + 0.3 * mid(x, y)));
    c = dim(c, 1 - 0.2 * Math.exp(-((d / 0.016) ** 2)));
    c = mixColour(c, dim([0.3, 0.25, 0.19], 1 + 0.16 * f + 0.1 * m2), smooth(-0.006, 0.004, d));
    const moss = smooth(-0.016, 0.006, d) * smooth(-0.2, 0.9, mid(x, y) + 0.7 * big(x, y) + 0.3 * m2);
    return mixColour(c, dim([0.25, 0.3, 0.12], 1 + 0.22 * fine2(x, y) + 0.15 * m2), 0.9 * moss);
  });
  writeColours(join(folder, 'flags.png'), colours);
  writeHeights(join(folder, 'flags-relief.png'), relief);
  const { low, high } = writeHeights(join(folder, 'flags-height.png'), shrinkBy(blur(shape, 5), 3));
  return high - low;
}

/** Wall of 14 × 4.4 m in stretcher bond. @returns how high it reaches, in metres */
export function makeBricks(folder: string): number {
  const w = 4096;
  const h = 1287;
  const px = w / 14;
  const noise = (slope: number, seed: number) => repeat(fractal(tile, tile, slope, seed));
  const wobX = noise(2.6, 21);
  const wobY = noise(2.6, 22);
  const bendX = noise(4, 23);
  const bendY = noise(4, 24);
  const chip = noise(1.9, 25);
  const fine = noise(1.5, 26);
  const mid = noise(2.3, 27);
  const big = noise(3, 28);
  const runs = repeat(fractal(tile, tile, 1.6, 33, 0.04));
  const dice = makeDice(20);
  const palette: Colour[] = [
    [0.5, 0.3, 0.225],
    [0.545, 0.345, 0.26],
    [0.45, 0.265, 0.21],
    [0.57, 0.39, 0.3],
    [0.49, 0.32, 0.255],
    [0.4, 0.26, 0.225],
    [0.53, 0.325, 0.23],
  ];
  const each = Array.from({ length: 5003 }, () => ({
    colour: dim(dice.pick(palette), 1 + dice.normal(0, 0.1)),
    size: dice.normal(0, 0.7),
    turn: dice.normal(0, 0.008),
    lift: dice.normal(0, 0.0022),
  }));
  const offsets = Array.from({ length: 200 }, () => dice.normal(0, 0.05));
  const long = 0.225 * px;
  const high = 0.075 * px;
  const brickAt = (x: number, y: number) => {
    const wx = x + 1.6 * wobX(x, y) + 4 * bendX(x, y);
    const wy = y + 1.6 * wobY(x, y) + 6 * bendY(x, y) + 20;
    const j = Math.floor(wy / high);
    const along = wx + ((j % 2) * long) / 2 + offsets[((j % 200) + 200) % 200] * long + 40;
    const i = Math.floor(along / long);
    const b = each[(((i * 131 + j * 7919) % 5003) + 5003) % 5003];
    const fx = along - i * long - long / 2;
    const fy = wy - j * high - high / 2 + b.turn * fx;
    const gap = 0.0055 * px;
    const round = 0.01 * px;
    const qx = Math.abs(fx) - (long / 2 - gap - round) + b.size;
    const qy = Math.abs(fy) - (high / 2 - gap - round) + b.size * 0.5;
    const d =
      Math.hypot(Math.max(qx, 0), Math.max(qy, 0)) + Math.min(Math.max(qx, qy), 0) - round + chip(x, y);
    return { b, d, edge: smooth(1.2, -2.4, d) };
  };
  const height = makeGrid(w, h, (x, y) => {
    const { b, edge } = brickAt(x, y);
    const f = fine(x, y);
    return (
      edge * (0.012 + b.lift + 0.0016 * f - 0.004 * smooth(1.4, 2.2, mid(x, y) + 0.5 * f)) +
      (1 - edge) * (0.002 * f + 0.0015 * mid(x, y)) +
      0.006 * big(x, y)
    );
  });
  const colours = makeColours(w, h, (x, y) => {
    const { b, edge } = brickAt(x, y);
    const f = fine(x, y);
    const m = mid(x, y);
    let c = dim(b.colour, 1 + 0.09 * f + 0.07 * m);
    c = mixColour(c, [0.27, 0.2, 0.18], 0.55 * smooth(0.9, 2, m + 0.6 * f));
    c = mixColour(dim([0.6, 0.56, 0.48], 1 + 0.08 * f + 0.08 * m), c, edge);
    c = mixColour(c, [0.72, 0.67, 0.6], 0.3 * smooth(0.8, 2.2, big(x, y) + 0.5 * m));
    const damp = smooth(0.62, 1, y / h + 0.05 * big(x, y) + 0.03 * m);
    c = mixColour(c, [c[0] * 0.62, c[1] * 0.64, c[2] * 0.58], damp);
    c = mixColour(c, [0.36, 0.38, 0.25], 0.35 * damp * smooth(-0.2, 1, m));
    return dim(c, 1 - 0.1 * smooth(0.3, 2, runs(x, y)) * smooth(0.75, 0, y / h));
  });
  writeColours(join(folder, 'bricks.png'), colours);
  writeHeights(join(folder, 'bricks-relief.png'), height);
  const { low, high: top } = writeHeights(join(folder, 'bricks-height.png'), shrinkBy(height, 2));
  return top - low;
}

/** Weathered planks with upright grain: painted grey-green, and bare. */
export function makePlanks(folder: string): void {
  const n = 1024;
  const grain = fractal(n, n, 1.7, 41, 0.03);
  const wide = fractal(n, n, 2.4, 42, 0.08);
  const rough = fractal(n, n, 2, 43);
  const tone = (i: number, a: number, b: number, c: number) =>
    1 + a * grain.data[i] + b * wide.data[i] + c * rough.data[i];
  const planks = (base: Colour, a: number, b: number, c: number) =>
    makeColours(
      n,
      n,
      (_x, _y, i) => dim(base, Math.max(0.2, tone(i, a, b, c))).map(clamp01) as unknown as Colour,
    );
  writeColours(join(folder, 'planks.png'), planks([0.36, 0.38, 0.33], 0.14, 0.1, 0.04));
  writeColours(join(folder, 'planks-bare.png'), planks([0.5, 0.4, 0.29], 0.18, 0.1, 0.05));
  writeHeights(
    join(folder, 'planks-height.png'),
    makeGrid(n, n, (_x, _y, i) => 0.6 * grain.data[i] + 0.4 * wide.data[i]),
  );
}
