/** Marks made on the demo photographs as a user would make them, measured against the known masks. */
import {
  connected,
  noMasks,
  rasteriseArea,
  type StrokeShape,
  squaredDistance,
  trimMask,
} from '../../src/core/area';
import { writeLab } from '../../src/core/colour';
import {
  belongingsOf,
  type Found,
  findSpan,
  growScribbles,
  itsLikeBeside,
  markedArea,
  pickColour,
  type SpanOptions,
  type SpanPoint,
  seenOf,
} from '../../src/core/marking';
import { makeRandom } from '../../src/core/random';
import type { Rect } from '../../src/core/raster';
import { decodePicture } from '../../src/headless/node-codecs';
import { lightnessAt, openDemo, read, thingMask } from './photos';
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

/** Marks something found on a picture of so many columns. */
function drawFound({ mask, x, y, w, h }: Found, into: Uint8Array, width: number): void {
  const height = into.length / width;
  for (let v = 0; v < Math.min(h, height - y); v++)
    for (let u = 0; u < Math.min(w, width - x); u++)
      if (mask.data[Math.floor((v * mask.h) / h) * mask.w + Math.floor((u * mask.w) / w)] > 127)
        into[(y + v) * width + x + u] = 1;
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

/** From which difference of lightness on a shadow is seen. */
const leastShade = 5;

/** How much of what is offered as shadows of a thing is shadow, and how much of its shadow is offered; the thing itself counts as
 *  neither. */
export async function measureShadow(
  scene: string,
  thing: string,
): Promise<{ right: number; found: number; offers: number }> {
  const { photo, seen } = await openDemo(scene);
  const { width, height } = photo;
  const truth = await decodePicture(read(scene, 'truth.jpg'));
  const own = thingMask(scene, thing);
  const cast = thingMask(scene, `${thing}-cast`);
  const { mask, x, y } = trimMask({ w: width, h: height, data: own.map((v) => 255 * v) });
  const shapes = [{ kind: 'mask' as const, op: 'add' as const, maskId: 'm', x, y, w: mask.w, h: mask.h }];
  const marked = (marginPx: number) => markedArea({ shapes, marginPx, featherPx: 0 }, () => mask);
  const offers = belongingsOf(seen, marked(6), marked(0)).filter(({ kind }) => kind === 'shadow');
  const offered = new Uint8Array(own.length);
  for (const offer of offers) drawFound(offer, offered, width);
  let [all, shade, both] = [0, 0, 0];
  own.forEach((isThing, i) => {
    if (isThing) return;
    const isShade = cast[i] && lightnessAt(truth, i) - lightnessAt(photo, i) > leastShade;
    if (offered[i]) all++;
    if (isShade) shade++;
    if (offered[i] && isShade) both++;
  });
  return { right: both / Math.max(1, all), found: both / shade, offers: offers.length };
}

/** The share of the shadows offered to the things that stand beside their like which lies on these: none of it is theirs. */
export async function measureShadowsOnOthers(): Promise<{ share: number; offers: number }> {
  let [all, wrong, offers] = [0, 0, 0];
  for (const [name, outline] of Object.entries(solidThings)) {
    const [scene] = name.split('/');
    const { photo, seen } = await openDemo(scene);
    const { width, height } = photo;
    const shapesOf = (points: readonly number[][]) => [
      { kind: 'polygon' as const, op: 'add' as const, points: points.map(([x, y]) => [x, y] as const) },
    ];
    const marked = (marginPx: number) =>
      markedArea({ shapes: shapesOf(outline), marginPx, featherPx: 0 }, noMasks);
    const shadows = belongingsOf(seen, marked(8), marked(0)).filter(({ kind }) => kind === 'shadow');
    const others = Object.entries(solidThings)
      .filter(([other]) => other !== name && other.startsWith(scene))
      .flatMap(([, points]) => shapesOf(points));
    const theirs = rasteriseArea(
      { shapes: others, marginPx: 0, featherPx: 0 },
      { x: 0, y: 0, w: width, h: height },
      noMasks,
    );
    const offered = new Uint8Array(width * height);
    for (const shadow of shadows) drawFound(shadow, offered, width);
    offers += shadows.length;
    offered.forEach((v, i) => {
      all += v;
      if (v && theirs[i] >= 0.5) wrong++;
    });
  }
  return { share: wrong / Math.max(1, all), offers };
}

/** Pairs of the things that stand beside their like and touch each other: the first is marked. */
const touching = [
  ['studio-jug/apple-left', 'studio-jug/apple-middle'],
  ['studio-jug/apple-middle', 'studio-jug/apple-left'],
  ['studio-jug/apple-middle', 'studio-jug/apple-right'],
  ['studio-jug/apple-right', 'studio-jug/apple-middle'],
  ['press-house/cask-on-top', 'press-house/cask-right'],
  ['press-house/cask-right', 'press-house/cask-on-top'],
] as const;

/** How much of each is found, and known to end there, when the one that it touches is marked. */
export async function measureItsLike(): Promise<number[]> {
  return Promise.all(
    touching.map(async ([name, other]) => {
      const { photo, seen } = await openDemo(name.split('/')[0]);
      const { width, height } = photo;
      const areaOf = (thing: keyof typeof solidThings, marginPx: number) => ({
        shapes: [
          {
            kind: 'polygon' as const,
            op: 'add' as const,
            points: solidThings[thing].map(([x, y]) => [x, y] as const),
          },
        ],
        marginPx,
        featherPx: 0,
      });
      const whole = { x: 0, y: 0, w: width, h: height };
      const [own, its] = [areaOf(name, 10), areaOf(other, 0)].map((area) =>
        rasteriseArea(area, whole, noMasks),
      );
      const found = new Uint8Array(width * height);
      for (const one of itsLikeBeside(seen, markedArea(areaOf(name, 10), noMasks)))
        if (one.ends) drawFound(one, found, width);
      let [all, hit] = [0, 0];
      its.forEach((v, i) => {
        if (v < 0.5 || own[i] >= 0.5) return;
        all++;
        hit += found[i];
      });
      return hit / all;
    }),
  );
}

const scenes = [...new Set(Object.keys(scribbles).map((name) => name.split('/')[0]))];

/** Known things, none of which has one of its like beside it. */
export const thingsAlone = [...Object.keys(scribbles), 'studio-jug/stain'];

/** Whether one of its like is found beside a known thing. */
export async function seemsToHaveItsLike(name: string): Promise<boolean> {
  const [scene, thing] = name.split('/');
  const { photo, seen } = await openDemo(scene);
  const data = thingMask(scene, thing).map((v) => 255 * v);
  const { mask, x, y } = trimMask({ w: photo.width, h: photo.height, data });
  const shape = { kind: 'mask' as const, op: 'add' as const, x, y, w: mask.w, h: mask.h, maskId: 'm' };
  const area = { shapes: [shape], marginPx: 6, featherPx: 0 };
  return (
    itsLikeBeside(
      seen,
      markedArea(area, () => mask),
    ).length > 0
  );
}

/** Of so many round areas laid by chance on each of the clean photos, how many are taken to have one of their like beside them that
 *  ends there: pieces of ground have none, and of the things that they cut none ends there. */
export async function chanceOfItsLike(each: number): Promise<{ wrong: number; of: number }> {
  let [wrong, of] = [0, 0];
  for (const scene of scenes) {
    const photo = await decodePicture(read(scene, 'truth.jpg'));
    const seen = seenOf(photo);
    const random = makeRandom(77);
    for (let k = 0; k < each; k++) {
      const [rx, ry] = [60 + 200 * random.next(), 60 + 200 * random.next()];
      const [cx, cy] = [
        rx + (photo.width - 2 * rx) * random.next(),
        ry + (photo.height - 2 * ry) * random.next(),
      ];
      const points = Array.from(
        { length: 20 },
        (_, j) => [cx + rx * Math.cos(j * 0.1 * Math.PI), cy + ry * Math.sin(j * 0.1 * Math.PI)] as const,
      );
      const shape = { kind: 'polygon' as const, op: 'add' as const, points };
      const found = itsLikeBeside(seen, markedArea({ shapes: [shape], marginPx: 6, featherPx: 0 }, noMasks));
      of++;
      if (found.length > 0 && found.every(({ ends }) => ends)) wrong++;
    }
  }
  return { wrong, of };
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
