/** Renders made-up photographs from scratch: `npm run demo:render -- [scene …] [--width 2400] [--rendered 1600]`.
 *  With `--rendered` the light is rendered smaller and enlarged; lens and grain keep their full size.
 *  `--reuse` takes the maps and meshes that an earlier run left behind. */
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { encode } from 'fast-png';
import { nodeCodecs } from '../src/headless/node-codecs';
import { scenes } from './scenes';
import type { SceneFacts } from './toolkit/facts';
import { type ColourGrid, clamp01, type Grid } from './toolkit/grid';
import type { Vec } from './toolkit/mesh';
import { installRenderer } from './toolkit/povray';
import { type Measures, project, type Scene } from './toolkit/scene';
import { type Shot, shoot } from './toolkit/shoot';

const { positionals, values } = parseArgs({
  allowPositionals: true,
  options: {
    width: { type: 'string', default: '2400' },
    out: { type: 'string' },
    reuse: { type: 'boolean' },
    rendered: { type: 'string' },
  },
});
const width = Number(values.width);
const rendered = Number(values.rendered ?? width);
const wanted = positionals.length > 0 ? scenes.filter((s) => positionals.includes(s.id)) : scenes;
if (wanted.length === 0 || !(width >= 60) || !(rendered >= 60 && rendered <= width)) {
  console.error(`Scenes: ${scenes.map((s) => s.id).join(', ')}. The width is a number of pixels from 60.`);
  process.exit(2);
}
installRenderer();
for (const scene of wanted) await make(scene);

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
  const shot = shoot(scene, measures, work, { width, rendered });
  rmSync(out, { recursive: true, force: true });
  mkdirSync(out, { recursive: true });
  writeFileSync(join(out, 'photo.jpg'), await jpegOf(shot.photo));
  writeFileSync(join(out, 'truth.jpg'), await jpegOf(shot.truth));
  for (const { id, object, cast } of shot.things) {
    writeFileSync(join(out, `${id}.png`), maskPng(object));
    if (cast) writeFileSync(join(out, `${id}-cast.png`), maskPng(cast));
  }
  const { w, h } = shot.photo[0];
  writeFileSync(join(out, 'scene.json'), `${JSON.stringify(factsOf(scene, shot, w, h), null, 1)}\n`);
  const seconds = (ms: number) => `${(ms / 1000).toFixed(0)} s`;
  console.log(
    `${scene.id}: ${w}×${h}, maps ${seconds(preparedMs)}, all ${seconds(Date.now() - startedAtMs)}`,
  );
}

function factsOf(scene: Scene, shot: Shot, width: number, height: number): SceneFacts {
  const at = (p: Vec) =>
    project(scene.camera, p, width, height).map((v) => Math.round(v * 10) / 10) as [number, number];
  const { id, order, title, caption, asked } = scene;
  return {
    id,
    order,
    title,
    caption,
    asked,
    width,
    height,
    things: shot.things.map((thing) => ({
      id: thing.id,
      says: thing.says,
      mask: `${thing.id}.png`,
      ...(thing.cast ? { cast: `${thing.id}-cast.png` } : {}),
    })),
    planes: scene.planes.map((plane) => ({ id: plane.id, corners: plane.corners.map(at) })),
    lines: scene.lines.map((line) => ({ id: line.id, from: at(line.from), to: at(line.to) })),
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
  const picture = { width: r.w, height: r.h, data, colorSpace: 'srgb' } as ImageData;
  return new Uint8Array(await nodeCodecs.jpeg(picture, 92));
}
