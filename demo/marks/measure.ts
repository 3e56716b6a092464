/** Marks made on the demo photographs as a user would make them, measured against the known masks. */
import { connected, noMasks, rasteriseArea, type StrokeShape, squaredDistance } from '../../src/core/area';
import { writeLab } from '../../src/core/colour';
import {
  findSpan,
  growScribbles,
  pickColour,
  type SpanOptions,
  type SpanPoint,
} from '../../src/core/marking';
import type { Rect } from '../../src/core/raster';
import { drawFound, openDemo, thingMask } from './photos';
import scribbles from './scribbles.json';
import solidThings from './solid-things.json';

const strokeOf = (points: readonly (readonly number[])[], radiusPx: number, strayPx = 0): StrokeShape => ({
  kind: 'stroke',
  op: 'add',
  radiusPx,
  hardness: 1,
  points: (strayPx > 0 ? strayed(points, strayPx) : points).map(([x, y]) => [x, y, 1] as const),
});

/** The points of a hand that follows straight lines from point to point and strays from them by up to so many pixels, in slow waves. */
function strayed(points: readonly (readonly number[])[], mostPx: number): (readonly number[])[] {
  const stepPx = 7;
  let travelled = 0;
  return points.slice(1).flatMap(([bx, by], k) => {
    const [ax, ay] = points[k];
    const length = Math.max(1, Math.hypot(bx - ax, by - ay));
    const steps = Math.ceil(length / stepPx);
    return Array.from({ length: steps + 1 }, (_, j) => {
      travelled += stepPx;
      const off = (mostPx / 2) * (Math.sin(travelled / 37 + 1) + Math.sin(travelled / 91 + 2));
      const [along, across] = [j / steps, off / length];
      return [
        ax + along * (bx - ax) - across * (by - ay),
        ay + along * (by - ay) + across * (bx - ax),
      ] as const;
    });
  });
}

/** Thin in many parts, or of the colours of what is behind them: a coil, wheels, light cloth before clouds. */
export const hardThings = ['courtyard/hose', 'courtyard/cart', 'harvest-day/banner'] as const;
export const grownThings = Object.keys(scribbles).filter((name) => !hardThings.some((hard) => hard === name));

export const gestures = ['loop', 'wide loop', 'zigzag', 'cross', 'ring'] as const;
const gestureRadiusPx = 12;

/** What a hand draws on a thing without looking closely, or round it.
 *  @param outline  the thing's, in document pixels */
function drawnAs(gesture: (typeof gestures)[number], outline: readonly (readonly number[])[]): StrokeShape[] {
  const [xs, ys] = [0, 1].map((k) => outline.map((p) => p[k]));
  const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const [cx, cy] = [xs, ys].map((list) => list.reduce((sum, v) => sum + v, 0) / list.length);
  const scaled = (by: number) => {
    const points = outline.map(([x, y]) => [cx + by * (x - cx), cy + by * (y - cy)]);
    return [...points, points[0]];
  };
  const lines: Record<(typeof gestures)[number], number[][][]> = {
    loop: [scaled(0.6)],
    'wide loop': [scaled(0.8)],
    zigzag: [
      [-0.375, -0.1875, 0, 0.1875, 0.375].flatMap((share, k) => {
        const half = (k % 2 ? 0.3 : -0.3) * (right - left);
        const y = cy + share * (bottom - top);
        return [
          [cx + half, y],
          [cx - half, y],
        ];
      }),
    ],
    cross: [
      [
        [cx, top + 18],
        [cx, bottom - 18],
      ],
      [
        [left + 18, cy],
        [right - 18, cy],
      ],
    ],
    ring: [scaled(1.12)],
  };
  return lines[gesture].map((points) => strokeOf(points, gestureRadiusPx));
}

/** Mean intersection over union of things that have several colours, and their like beside them, after one gesture each. Their outlines
 *  were drawn by hand: 0.95 is as good as can be. */
export async function measureGesture(gesture: (typeof gestures)[number]): Promise<number> {
  const all = Object.entries(solidThings);
  let sum = 0;
  for (const [name, outline] of all) {
    const { photo, seen } = await openDemo(name.split('/')[0]);
    const { width, height } = photo;
    const points = outline.map(([x, y]) => [x, y] as const);
    const area = {
      shapes: [{ kind: 'polygon' as const, op: 'add' as const, points }],
      marginPx: 0,
      featherPx: 0,
    };
    const truth = rasteriseArea(area, { x: 0, y: 0, w: width, h: height }, noMasks);
    const got = new Uint8Array(width * height);
    const found = growScribbles(seen, { inside: drawnAs(gesture, outline), outside: [] });
    if (found) drawFound(found, got, width);
    let [both, either] = [0, 0];
    got.forEach((v, i) => {
      const is = truth[i] >= 0.5;
      if (v && is) both++;
      if (v || is) either++;
    });
    sum += both / either;
  }
  return sum / all.length;
}

/** Intersection over union after the scribbles, and after each of two corrections: a stroke along the largest part that
 *  is wrong, through its deepest place, as thick as half of that is deep.
 *
 *  @param strays  by how much of their radius strokes stray from where they are meant to be
 */
export async function measureGrow(name: string, strays = 0): Promise<{ iou: number[]; ms: number[] }> {
  const [scene, thing] = name.split('/');
  const { photo, seen } = await openDemo(scene);
  const truth = thingMask(scene, thing);
  const { radiusPx, inside: drawn } = scribbles[name as keyof typeof scribbles];
  const inside = drawn.map((points) => strokeOf(points, radiusPx, strays * radiusPx));
  const outside: StrokeShape[] = [];
  const iou: number[] = [];
  const ms: number[] = [];
  for (let round = 0; round < 3; round++) {
    const start = performance.now();
    const found = growScribbles(seen, { inside, outside });
    ms.push(performance.now() - start);
    const got = new Uint8Array(truth.length);
    if (found) drawFound(found, got, photo.width);
    iou.push(overlap(got, truth));
    const missing = correction(truth, got, photo.width, strays);
    const extra = correction(got, truth, photo.width, strays);
    if (missing && missing.size >= (extra?.size ?? 0)) inside.push(missing.stroke);
    else if (extra) outside.push(extra.stroke);
  }
  return { iou, ms };
}

function overlap(a: Uint8Array, b: Uint8Array): number {
  let both = 0;
  let either = 0;
  for (let i = 0; i < a.length; i++) {
    if (a[i] && b[i]) both++;
    if (a[i] || b[i]) either++;
  }
  return either > 0 ? both / either : 1;
}

/** Nobody corrects what is thinner than this all along an outline: a margin takes care of it. In pixels, half the thickness. */
const slightPx = 2;

/** A hand that scribbles strays from a thing's middle by so much of the stroke's radius. */
export const handStrays = 0.7;

/** A stroke along the part of `wanted` that `got` lacks most plainly: that with most pixels deep inside. */
function correction(
  wanted: Uint8Array,
  got: Uint8Array,
  width: number,
  strays: number,
): { stroke: StrokeShape; size: number } | null {
  const height = wanted.length / width;
  const lacking = wanted.map((v, i) => (v && !got[i] ? 1 : 0));
  const thickness = squaredDistance(
    lacking.map((v) => 1 - v),
    width,
    height,
  );
  const plain = (p: readonly number[]) => p.reduce((n, i) => n + (thickness[i] > slightPx ** 2 ? 1 : 0), 0);
  let part: readonly number[] = [];
  let most = 0;
  for (const p of connected(lacking, width, height)) {
    const n = plain(p);
    if (n <= most) continue;
    most = n;
    part = p;
  }
  if (part.length < 40) return null;
  const at = part.map((i) => [i % width, Math.floor(i / width)] as const);
  const x0 = at.reduce((m, [x]) => Math.min(m, x), Infinity) - 1;
  const y0 = at.reduce((m, [, y]) => Math.min(m, y), Infinity) - 1;
  const w = at.reduce((m, [x]) => Math.max(m, x), 0) - x0 + 2;
  const h = at.reduce((m, [, y]) => Math.max(m, y), 0) - y0 + 2;
  const rest = new Uint8Array(w * h).fill(1);
  for (const [x, y] of at) rest[(y - y0) * w + x - x0] = 0;
  const deep = squaredDistance(rest, w, h);
  const depth = ([x, y]: readonly [number, number]) => Math.sqrt(deep[(y - y0) * w + x - x0]);
  const deepest = at.reduce((b, p) => (depth(p) > depth(b) ? p : b), at[0]);
  const radiusPx = Math.max(1.5, depth(deepest) / 2);
  const inner = at.filter((p) => depth(p) >= radiusPx * 0.9);
  const farFrom = (q: readonly [number, number]) =>
    inner.reduce(
      (b, p) => (Math.hypot(p[0] - q[0], p[1] - q[1]) > Math.hypot(b[0] - q[0], b[1] - q[1]) ? p : b),
      deepest,
    );
  const one = farFrom(deepest);
  const other = farFrom(one);
  const length = Math.hypot(one[0] - other[0], one[1] - other[1]);
  return {
    stroke: strokeOf([one, deepest, other], radiusPx, strays * radiusPx),
    size: radiusPx * length + radiusPx ** 2,
  };
}

/** The share of a thing's pixels, within a rectangle, that a span with margin 2 marks; and how many lines it found. */
export async function measureSpan(
  scene: string,
  thing: string,
  clicks: readonly SpanPoint[],
  options: SpanOptions,
  within: Rect,
): Promise<{ recall: number; lines: number; ms: number }> {
  const { photo, seen } = await openDemo(scene);
  const truth = thingMask(scene, thing);
  const start = performance.now();
  const shapes = findSpan(seen, clicks, options);
  const ms = performance.now() - start;
  const marked = rasteriseArea({ shapes, marginPx: 2, featherPx: 0 }, within, noMasks);
  let hit = 0;
  let all = 0;
  marked.forEach((v, i) => {
    const at = (within.y + Math.floor(i / within.w)) * photo.width + within.x + (i % within.w);
    if (!truth[at]) return;
    all++;
    if (v >= 0.5) hit++;
  });
  return { recall: all > 0 ? hit / all : 0, lines: shapes.length, ms };
}

/** The wires of the orchard between the trees, three at once; and the middle one alone. */
export const spans = [
  {
    says: 'three wires from two clicks',
    scene: 'orchard-row',
    thing: 'wires',
    clicks: [
      [840, 162],
      [1440, 147],
    ],
    options: { lines: 3, bends: true },
    within: { x: 840, y: 0, w: 600, h: 400 },
  },
  {
    says: 'one wire',
    scene: 'orchard-row',
    thing: 'wires',
    clicks: [
      [840, 216],
      [1440, 205],
    ],
    options: { lines: 1, bends: true },
    within: { x: 840, y: 185, w: 600, h: 45 },
  },
  {
    says: 'a broomstick',
    scene: 'press-house',
    thing: 'broom',
    clicks: [
      [1070, 660],
      [1136, 1040],
    ],
    options: { lines: 1, bends: false },
    within: { x: 1000, y: 660, w: 200, h: 380 },
  },
  {
    says: 'a fishing rod',
    scene: 'mill-pond',
    thing: 'angler',
    clicks: [
      [1812, 483],
      [1970, 651],
    ],
    options: { lines: 1, bends: false },
    within: { x: 1812, y: 483, w: 158, h: 168 },
  },
  {
    says: 'a pole with a lit and a shaded side',
    scene: 'mill-pond',
    thing: 'pole',
    clicks: [
      [944, 715],
      [897, 1440],
    ],
    options: { lines: 1, bends: true },
    within: { x: 860, y: 720, w: 130, h: 690 },
  },
] as const;

/** The share of the banner's lettering (what is clearly red on its plate) that one pick of the colour marks, with margin 2. */
export async function measureLettering(): Promise<{ recall: number; ms: number }> {
  const { photo, seen } = await openDemo('harvest-day');
  const plate = { x: 620, y: 190, w: 1160, h: 190 };
  const start = performance.now();
  const found = pickColour(seen, { x: 735, y: 255, tolerance: 34, everywhere: true }, 0);
  const ms = performance.now() - start;
  if (!found) return { recall: 0, ms };
  const shapes = [
    {
      kind: 'mask' as const,
      op: 'add' as const,
      maskId: 'm',
      x: found.x,
      y: found.y,
      w: found.w,
      h: found.h,
    },
  ];
  const marked = rasteriseArea({ shapes, marginPx: 2, featherPx: 0 }, plate, () => found.mask);
  const lab = new Float32Array(3);
  let hit = 0;
  let all = 0;
  marked.forEach((v, i) => {
    const p = 4 * ((plate.y + Math.floor(i / plate.w)) * photo.width + plate.x + (i % plate.w));
    writeLab(photo.data[p], photo.data[p + 1], photo.data[p + 2], lab, 0);
    if (lab[1] < 22) return;
    all++;
    if (v >= 0.5) hit++;
  });
  return { recall: hit / Math.max(1, all), ms };
}
