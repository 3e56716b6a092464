/** Renders made-up photographs from scratch: `npm run demo:render -- [scene …] [--width 2400]`.
 *  `--reuse` takes the maps and meshes that an earlier run left behind. */
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { encode } from 'fast-png';
import { nodeCodecs } from '../src/headless/node-codecs';
import { scenes } from './scenes';
import { photograph } from './toolkit/camera';
import type { SceneFacts } from './toolkit/facts';
import { defocus, depthOf } from './toolkit/focus';
import { blur, type ColourGrid, clamp01, type Grid, makeGrid, toEncoded } from './toolkit/grid';
import type { Vec } from './toolkit/mesh';
import { installRenderer, render } from './toolkit/povray';
import { type Measures, project, type Scene } from './toolkit/scene';

const { positionals, values } = parseArgs({
  allowPositionals: true,
  options: {
    width: { type: 'string', default: '2400' },
    out: { type: 'string' },
    reuse: { type: 'boolean' },
  },
});
const width = Number(values.width);
const wanted = positionals.length > 0 ? scenes.filter((s) => positionals.includes(s.id)) : scenes;
if (wanted.length === 0 || !(width >= 60)) {
  console.error(`Scenes: ${scenes.map((s) => s.id).join(', ')}. The width is a number of pixels from 60.`);
  process.exit(2);
}
installRenderer();
async function make(scene: Scene): Promise<void> {
  const startedAtMs = Date.now();
  const work = join(import.meta.dirname, '.work', scene.id);
  const out = values.out ?? join(import.meta.dirname, 'photos', scene.id);
  mkdirSync(work, { recursive: true });
  const kept = join(work, 'measures.json');
  const measures: Measures =
    values.reuse && existsSync(kept) ? JSON.parse(readFileSync(kept, 'utf8')) : scene.prepare(work);
  writeFileSync(kept, JSON.stringify(measures));
  const preparedMs = Date.now() - startedAtMs;
  const cluttered = render(scene, measures, { is: 'picture', cluttered: true }, work, width);
  const clean = render(scene, measures, { is: 'picture', cluttered: false }, work, width);
  const objects = scene.things.map((thing) =>
    coverageOf(render(scene, measures, { is: 'mask', thing: thing.id }, work, width)),
  );
  const { w, h } = cluttered[0];
  // The truth is the cluttered light wherever the two renders agree, so that nothing else can differ.
  const changed = differenceMask(cluttered, clean);
  const truthLight = eachPlane(
    (c, i) => (changed.data[i] > 0 ? clean[c].data[i] : cluttered[c].data[i]),
    w,
    h,
  );
  const { focus } = scene.lens;
  let seen = { cluttered, truth: truthLight, objects };
  if (focus) {
    const depth = (isCluttered: boolean) =>
      depthOf(render(scene, measures, { is: 'depth', cluttered: isCluttered }, work, width));
    const [near, behind] = [depth(true), depth(false)];
    const truthDepth = makeGrid(w, h, (_x, _y, i) => (changed.data[i] > 0 ? behind.data[i] : near.data[i]));
    const blurred = defocus([...cluttered, ...objects], near, focus.distance, (focus.farPx * w) / 2400);
    seen = {
      cluttered: [blurred[0], blurred[1], blurred[2]],
      truth: defocus(
        truthLight,
        truthDepth,
        focus.distance,
        (focus.farPx * w) / 2400,
      ) as unknown as ColourGrid,
      objects: blurred.slice(3).map((o) => makeGrid(w, h, (_x, _y, i) => (o.data[i] > 0.02 ? 1 : 0))),
    };
  }
  const differs = focus ? differenceMask(seen.cluttered, seen.truth) : changed;
  const photo = photograph(seen.cluttered, seen.truth, scene.lens);
  const truth = photograph(seen.truth, seen.truth, scene.lens);
  rmSync(out, { recursive: true, force: true });
  mkdirSync(out, { recursive: true });
  writeFileSync(join(out, 'photo.jpg'), await jpegOf(photo));
  writeFileSync(join(out, 'truth.jpg'), await jpegOf(truth));
  const shadows = castBy(differs, seen.objects);
  scene.things.forEach((thing, k) => {
    writeFileSync(join(out, `${thing.id}.png`), maskPng(seen.objects[k]));
    if (shadows[k].data.some((v) => v > 0))
      writeFileSync(join(out, `${thing.id}-cast.png`), maskPng(shadows[k]));
  });
  writeFileSync(join(out, 'scene.json'), `${JSON.stringify(factsOf(scene, w, h, shadows), null, 1)}\n`);
  const seconds = (ms: number) => `${(ms / 1000).toFixed(0)} s`;
  console.log(
    `${scene.id}: ${w}×${h}, maps ${seconds(preparedMs)}, all ${seconds(Date.now() - startedAtMs)}`,
  );
}

const eachPlane = (at: (c: number, i: number) => number, w: number, h: number): ColourGrid => [
  makeGrid(w, h, (_x, _y, i) => at(0, i)),
  makeGrid(w, h, (_x, _y, i) => at(1, i)),
  makeGrid(w, h, (_x, _y, i) => at(2, i)),
];

/** 1 where the two renders differ visibly, closed and a little grown. Found on noise-free light, encoded as seen. */
function differenceMask(a: ColourGrid, b: ColourGrid): Grid {
  const { w, h } = a[0];
  const raw = makeGrid(w, h, (_x, _y, i) => {
    let most = 0;
    for (let c = 0; c < 3; c++)
      most = Math.max(most, Math.abs(toEncoded(2 * a[c].data[i]) - toEncoded(2 * b[c].data[i])));
    return most > 2.5 / 255 ? 1 : 0;
  });
  const soft = blur(raw, w / 600);
  return makeGrid(w, h, (_x, _y, i) => (soft.data[i] > 0.25 ? 1 : 0));
}

const coverageOf = (white: ColourGrid): Grid =>
  makeGrid(white[0].w, white[0].h, (_x, _y, i) => (white[0].data[i] > 0.02 ? 1 : 0));

/** What differs but is no object: shadow and reflection, given to the thing that lies nearest. */
function castBy(differs: Grid, objects: readonly Grid[]): Grid[] {
  const { w, h } = differs;
  const reach = objects.map((o) => blur(o, w / 40));
  const casts = objects.map(() => makeGrid(w, h));
  for (let i = 0; i < w * h; i++) {
    if (!differs.data[i] || objects.some((o) => o.data[i] > 0)) continue;
    let best = 0;
    for (let k = 1; k < objects.length; k++) if (reach[k].data[i] > reach[best].data[i]) best = k;
    casts[best].data[i] = 1;
  }
  return casts;
}

function factsOf(scene: Scene, w: number, h: number, casts: readonly Grid[]): SceneFacts {
  const at = (p: Vec) =>
    project(scene.camera, p, w, h).map((v) => Math.round(v * 10) / 10) as [number, number];
  return {
    id: scene.id,
    order: scene.order,
    title: scene.title,
    caption: scene.caption,
    asked: scene.asked,
    width: w,
    height: h,
    things: scene.things.map((thing, k) => ({
      ...thing,
      mask: `${thing.id}.png`,
      ...(casts[k].data.some((v) => v > 0) ? { cast: `${thing.id}-cast.png` } : {}),
    })),
    planes: scene.planes.map(({ id, corners }) => ({ id, corners: corners.map(at) })),
    lines: scene.lines.map(({ id, from, to }) => ({ id, from: at(from), to: at(to) })),
  };
}

function maskPng(mask: Grid): Uint8Array {
  const data = Uint8Array.from(mask.data, (v) => (v > 0 ? 255 : 0));
  return encode({ width: mask.w, height: mask.h, channels: 1, depth: 8, data });
}

async function jpegOf([r, g, b]: ColourGrid): Promise<Uint8Array> {
  const data = new Uint8ClampedArray(r.data.length * 4);
  for (let i = 0; i < r.data.length; i++) {
    data[4 * i] = clamp01(r.data[i]) * 255 + 0.5;
    data[4 * i + 1] = clamp01(g.data[i]) * 255 + 0.5;
    data[4 * i + 2] = clamp01(b.data[i]) * 255 + 0.5;
    data[4 * i + 3] = 255;
  }
  return new Uint8Array(
    await nodeCodecs.jpeg({ width: r.w, height: r.h, data, colorSpace: 'srgb' } as ImageData, 92),
  );
}

for (const scene of wanted) await make(scene);
