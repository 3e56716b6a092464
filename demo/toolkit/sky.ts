import { join } from 'node:path';
import {
  blur,
  type Colour,
  clamp01,
  makeColours,
  makeGrid,
  mixColour,
  sampleWrapped,
  smooth,
  toEncoded,
  writeColours,
} from './grid';
import { unit, type Vec } from './mesh';
import { fractal } from './noise';
import { makeDice } from './random';

/** Degrees that the sky map covers: left and right of the view, and from the horizon up. */
const spread = 58;
const lowest = 0.6;
const highest = 48;

/** Clouds over a window of sky, marched through layers of noise and lit from one side; written as `sky.png`. */
export function makeSky(folder: string, seed: number, cover: number, sun: Vec): void {
  const w = 1400;
  const h = 640;
  const shape = fractal(1024, 1024, 3.1, seed);
  const detail = fractal(1024, 1024, 2.6, seed + 1);
  const towards = unit(sun);
  const dice = makeDice(seed + 2);
  const base = 1;
  const top = 1.7;
  const density = (x: number, y: number, z: number): number => {
    const rise = (y - base) / (top - base);
    const slant = rise * 55;
    const c =
      sampleWrapped(shape, x * 120 + slant, z * 120 - slant) +
      0.34 * sampleWrapped(detail, x * 420 + 2 * slant, z * 420);
    return clamp01(c + cover - 0.9 * rise ** 1.6 - 0.6 * Math.exp(-rise / 0.06)) * 7;
  };
  const opacity = makeGrid(w, h);
  const light = makeGrid(w, h);
  const layers = 20;
  for (let py = 0; py < h; py++)
    for (let px = 0; px < w; px++) {
      const az = ((px / (w - 1)) * 2 - 1) * spread * (Math.PI / 180);
      const el = (highest + (lowest - highest) * (py / (h - 1))) * (Math.PI / 180);
      const d: Vec = [Math.sin(az) * Math.cos(el), Math.sin(el), Math.cos(az) * Math.cos(el)];
      const jitter = dice.next();
      let through = 1;
      let sum = 0;
      for (let k = 0; k < layers && through > 0.02; k++) {
        const y = base + ((top - base) * (k + jitter)) / layers;
        const t = y / d[1];
        const x = d[0] * t;
        const z = d[2] * t;
        const here = density(x, y, z);
        if (here <= 0) continue;
        let above = 0;
        for (const s of [0.06, 0.16, 0.34])
          above +=
            density(x + towards[0] * s, y + towards[1] * s, z + towards[2] * s) * (s < 0.1 ? 0.1 : 0.15);
        const lit = Math.exp(-1.15 * above) * 0.8 + 0.2 * Math.exp(-0.25 * above);
        const a = 1 - Math.exp(-here * Math.min((top - base) / layers / d[1], 0.22) * 2.2);
        sum += through * a * (lit * 0.95 + 0.16 + (0.26 * (y - base)) / (top - base));
        through *= 1 - a;
      }
      const i = py * w + px;
      opacity.data[i] = 1 - through;
      light.data[i] = sum;
    }
  const softOpacity = blur(opacity, 1.2);
  const softLight = blur(light, 1.2);
  const colours = makeColours(w, h, (_x, y, i) => {
    const degrees = highest + (lowest - highest) * (y / (h - 1));
    const k = smooth(0, 42, degrees);
    const blue = mixColour([0.5, 0.62, 0.74], [0.13, 0.27, 0.56], k);
    const a = softOpacity.data[i];
    const cloud = (softLight.data[i] / Math.max(0.02, a)) * 0.92;
    const c: Colour = [
      blue[0] * (1 - a) + cloud * a,
      blue[1] * (1 - a) + cloud * 0.985 * a,
      blue[2] * (1 - a) + cloud * 0.96 * a,
    ];
    const haze = Math.exp(-degrees / 6) * 0.75;
    return mixColour(c, [0.66, 0.72, 0.78], haze).map(toEncoded) as unknown as Colour;
  });
  writeColours(join(folder, 'sky.png'), colours);
}

/** Renderer text of a sky that shows `sky.png` by direction. `strength` is that of its light in the picture. */
export const describeSky = (strength: number): string => `
#declare SkyU=function{(atan2(x,z)/pi*180+${spread})/${2 * spread}}
#declare SkyV=function{(asin(y/sqrt(x*x+y*y+z*z))/pi*180-${lowest})/${highest - lowest}}
#declare SkyMap=function{pigment{image_map{png "sky.png" interpolate 2 once}}}
#declare SkyR=function(x,y,z){SkyMap(max(.002,min(.998,SkyU(x,y,z))),min(.998,max(.002,SkyV(x,y,z))),0).red}
#declare SkyG=function(x,y,z){SkyMap(max(.002,min(.998,SkyU(x,y,z))),min(.998,max(.002,SkyV(x,y,z))),0).green}
#declare SkyB=function(x,y,z){SkyMap(max(.002,min(.998,SkyU(x,y,z))),min(.998,max(.002,SkyV(x,y,z))),0).blue}
sphere{0,400 inverse pigment{average pigment_map{
 [1 function{SkyR(x,y,z)} color_map{[0 rgb 0][1 rgb <3,0,0>]}][1 function{SkyG(x,y,z)} color_map{[0 rgb 0][1 rgb <0,3,0>]}][1 function{SkyB(x,y,z)} color_map{[0 rgb 0][1 rgb <0,0,3>]}]}} finish{emission ${strength} diffuse 0} no_shadow}
`;
