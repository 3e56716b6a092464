import { execFileSync, spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { decode } from 'fast-png';
import { type ColourGrid, enlarge, makeGrid } from './grid';
import { describeCamera, fogDistance, type Measures, type Pass, type Scene } from './scene';

/** Puts the renderer on this machine when it is not there. */
export function installRenderer(): void {
  if (spawnSync('which', ['povray']).status === 0) return;
  console.log('Installing the renderer (povray) …');
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  execFileSync('apt-get', ['update', '-qq'], { stdio: ['ignore', 'ignore', 'inherit'], env });
  execFileSync('apt-get', ['install', '-y', '-qq', 'povray', 'povray-includes'], {
    stdio: ['ignore', 'ignore', 'inherit'],
    env,
  });
}

const nameOf = (pass: Pass): string =>
  pass.is === 'mask' ? `mask-${pass.thing}` : `${pass.is}-${pass.cluttered ? 'cluttered' : 'clean'}`;

/** The mask of a thing holds no mirror image of it. */
const withoutMirrors = (described: string): string =>
  described.replace(/\breflection\s*(\{[^{}]*\}|[\d.]+)/g, '');

/** Width of a photograph, and the width at which its light is rendered: less saves time, lens and grain are full size. */
export interface Size {
  readonly width: number;
  readonly rendered: number;
}

/** Part of a picture in pixels, for passes whose rest is known. */
export interface Region {
  readonly x0: number;
  readonly y0: number;
  readonly x1: number;
  readonly y1: number;
}

/** Renders one pass, or a region of it (the rest is black), and returns linear colours, 1 = the most the file can hold. */
export function render(
  scene: Scene,
  measures: Measures,
  pass: Pass,
  folder: string,
  { width, rendered }: Size,
  region?: Region,
): ColourGrid {
  const name = `${nameOf(pass)}-${rendered}`;
  const by = rendered / width;
  const settings =
    'global_settings{assumed_gamma 1.0 max_trace_level 7}\n#default{finish{ambient 0 emission 0 diffuse .8}}';
  const fog = pass.is === 'depth' ? `fog{fog_type 1 distance ${fogDistance} rgb 1}` : '';
  const described = scene.describe(pass, measures);
  const text = `#version 3.7;\n${settings}\n${describeCamera(scene.camera)}\n${fog}\n${pass.is === 'mask' ? withoutMirrors(described) : described}\n`;
  writeFileSync(join(folder, `${name}.pov`), text);
  const fine = pass.is === 'picture' ? ['+A0.2', '+AM1', '+R2', '-J'] : ['+A0.3', '-J'];
  const part = region
    ? [
        `+SC${Math.max(1, Math.floor(region.x0 * by))}`,
        `+EC${Math.ceil(region.x1 * by)}`,
        `+SR${Math.max(1, Math.floor(region.y0 * by))}`,
        `+ER${Math.ceil(region.y1 * by)}`,
      ]
    : [];
  const done = spawnSync(
    'povray',
    [
      `+I${name}.pov`,
      `+O${name}.png`,
      `+W${rendered}`,
      `+H${Math.round((rendered * 2) / 3)}`,
      '+FN16',
      'File_Gamma=1.0',
      '-D',
      '-V',
      '+WT2',
      ...fine,
      ...part,
    ],
    { cwd: folder, encoding: 'utf8', maxBuffer: 1 << 26 },
  );
  if (done.status !== 0) throw new Error(`${scene.id}, ${name}: ${done.stderr.slice(-2000)}`);
  const png = decode(readFileSync(join(folder, `${name}.png`)));
  const plane = (c: number) => {
    const light = makeGrid(
      png.width,
      png.height,
      (_x, _y, i) => (png.data as Uint16Array)[i * png.channels + c] / 65535,
    );
    return rendered === width ? light : enlarge(light, width, Math.round((width * 2) / 3));
  };
  return [plane(0), plane(1), plane(2)];
}
