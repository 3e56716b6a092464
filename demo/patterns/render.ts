/** Renders the patterns from scratch: `npm run demo:patterns`. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { decode } from 'fast-png';
import { nodeCodecs } from '../../src/headless/node-codecs';
import { blur, type Grid, makeGrid } from '../toolkit/grid';
import { installRenderer } from '../toolkit/povray';
import { makeDice } from '../toolkit/random';
import { patterns, size } from './patterns';

/** Of the lens, in pixels; of the grain, in 8-bit steps: of light, and of each colour by itself. */
const softness = 0.6;
const grain = { light: 4, colour: 1 };

installRenderer();
const work = join(import.meta.dirname, '..', '.work', 'patterns');
mkdirSync(work, { recursive: true });
for (const [k, { id, described }] of patterns.entries()) {
  const [from, to] = [join(work, `${id}.pov`), join(work, `${id}.png`)];
  writeFileSync(from, described);
  execFileSync(
    'povray',
    [`+I${from}`, `+O${to}`, `+W${size.w}`, `+H${size.h}`, '+A0.1', '+AM2', '+R2', '-D'],
    { stdio: 'ignore' },
  );
  writeFileSync(join(import.meta.dirname, `${id}.jpg`), await photographed(readFileSync(to), 1 + k));
  console.log(id);
}

async function photographed(png: Uint8Array, seed: number): Promise<Uint8Array> {
  const { data, channels } = decode(png);
  const dice = makeDice(seed);
  const { w, h } = size;
  const noise = () => makeGrid(w, h, () => dice.normal());
  const light = evened(blur(noise(), softness));
  const out = new Uint8ClampedArray(4 * w * h);
  for (let c = 0; c < 3; c++) {
    const soft = blur(
      makeGrid(w, h, (x, y) => data[channels * (y * w + x) + c]),
      softness,
    );
    const own = noise();
    for (let i = 0; i < w * h; i++)
      out[4 * i + c] = soft.data[i] + grain.light * light.data[i] + grain.colour * own.data[i];
  }
  for (let i = 3; i < out.length; i += 4) out[i] = 255;
  const picture = { width: w, height: h, data: out, colorSpace: 'srgb' } as ImageData;
  return new Uint8Array(await nodeCodecs.jpeg(picture, 92));
}

/** With a deviation of 1. */
function evened(noise: Grid): Grid {
  const rms = Math.sqrt(noise.data.reduce((s, v) => s + v * v, 0) / noise.data.length);
  return { ...noise, data: noise.data.map((v) => v / rms) };
}
