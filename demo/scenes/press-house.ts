import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  blur,
  type Colour,
  dim,
  type Grid,
  makeColours,
  makeGrid,
  mixColour,
  smooth,
  writeColours,
  writeHeights,
} from '../toolkit/grid';
import { declareMesh, meshOfSurface, type Vec, vec } from '../toolkit/mesh';
import { band, fractal } from '../toolkit/noise';
import { makeDice } from '../toolkit/random';
import type { Scene } from '../toolkit/scene';
import { isCluttered, plain, skinOf } from './skins';

const backWall = 6.2;
const leftWall = -3.1;
const tilesPerMetre = 1 / 0.3;

const repeat =
  (g: Grid) =>
  (x: number, y: number): number =>
    g.data[(y & (g.h - 1)) * g.w + (x & (g.w - 1))];

/** Floor of 8 × 8 m in worn terracotta tiles, laid by hand. */
function makeFloor(folder: string): void {
  const n = 2048;
  const px = n / 8;
  const side = px / tilesPerMetre;
  const tile = 1024;
  const wobble = repeat(fractal(tile, tile, 3, 1));
  const fine = repeat(fractal(tile, tile, 1.6, 2));
  const slow = repeat(fractal(tile, tile, 2.6, 3));
  const pits = repeat(band(tile, tile, 90, 0.5, 4));
  const dice = makeDice(5);
  const palette: Colour[] = [
    [0.52, 0.3, 0.21],
    [0.47, 0.27, 0.19],
    [0.56, 0.34, 0.24],
    [0.43, 0.27, 0.2],
    [0.5, 0.33, 0.25],
  ];
  const each = Array.from({ length: 977 }, () => ({
    c: dim(dice.pick(palette), 1 + dice.normal(0, 0.07)),
    x: dice.normal(0, 0.9),
    y: dice.normal(0, 0.9),
    a: dice.normal(0, 0.008),
    lift: dice.normal(0, 0.0012),
  }));
  const at = (x: number, y: number) => {
    const u = (x + 1.2 * wobble(x, y)) / side;
    const v = (y + 1.2 * wobble(y, x)) / side;
    const t = each[(((Math.floor(u) * 131 + Math.floor(v) * 379) % 977) + 977) % 977];
    const fx = (u - Math.floor(u) - 0.5) * side + t.x;
    const fy = (v - Math.floor(v) - 0.5) * side + t.y;
    const d = Math.max(Math.abs(fx + t.a * fy), Math.abs(fy - t.a * fx)) - side / 2 + 2.2 + 0.5 * fine(x, y);
    return { t, d };
  };
  writeColours(
    join(folder, 'floor.png'),
    makeColours(n, n, (x, y) => {
      const { t, d } = at(x, y);
      const f = fine(x, y);
      const s = slow(x, y);
      let c = dim(t.c, 1 + 0.06 * f + 0.08 * s);
      c = mixColour(c, [0.3, 0.2, 0.15], 0.4 * smooth(0.8, 2.2, s + 0.4 * f));
      c = mixColour(c, [0.62, 0.5, 0.4], 0.25 * smooth(0.9, 2, -s));
      return mixColour(c, dim([0.36, 0.33, 0.28], 1 + 0.12 * f), smooth(-0.8, 0.8, d));
    }),
  );
  writeHeights(
    join(folder, 'floor-height.png'),
    makeGrid(n, n, (x, y) => {
      const { t, d } = at(x, y);
      return (
        smooth(1.5, -2, d) * (0.004 + t.lift) + 0.0004 * fine(x, y) - 0.0012 * smooth(1.6, 2.4, pits(x, y))
      );
    }),
  );
}

/** Limewashed plaster, stained towards its foot, with cracks. */
function makePlaster(folder: string): void {
  const n = 2048;
  const slow = fractal(n, n, 3.1, 11);
  const mid = fractal(n, n, 2.3, 12);
  const fine = fractal(n, n, 1.5, 13);
  const veins = fractal(n, n, 2.6, 14);
  writeColours(
    join(folder, 'plaster.png'),
    makeColours(n, n, (_x, y, i) => {
      let c: Colour = dim(
        [0.74, 0.7, 0.61],
        1 + 0.035 * slow.data[i] + 0.02 * mid.data[i] + 0.015 * fine.data[i],
      );
      c = mixColour(
        c,
        [0.52, 0.45, 0.34],
        0.5 * smooth(0.72, 1.02, y / n + 0.06 * slow.data[i] + 0.03 * mid.data[i]),
      );
      c = mixColour(c, [0.45, 0.4, 0.32], 0.35 * smooth(1.2, 2.4, mid.data[i] + 0.6 * slow.data[i]));
      return mixColour(
        c,
        [0.33, 0.3, 0.25],
        0.55 * smooth(0.018, 0.004, Math.abs(veins.data[i])) * smooth(0.6, 1.4, slow.data[i]),
      );
    }),
  );
  const rough = makeGrid(n, n, (_x, _y, i) => 0.5 * slow.data[i] + 0.5 * mid.data[i] + 0.14 * fine.data[i]);
  writeHeights(join(folder, 'plaster-height.png'), blur(rough, 0.8));
}

/** Oak staves, brown, along the map's height. */
function makeStaves(folder: string): void {
  const n = 1024;
  const grain = fractal(n, n, 1.7, 21, 0.04);
  const slow = fractal(n, n, 2.6, 22);
  const dice = makeDice(23);
  const staves = Array.from({ length: 24 }, () => dice.normal(0, 0.09));
  const gap = (x: number) => Math.abs(((x / n) * 24) % 1);
  writeColours(
    join(folder, 'staves.png'),
    makeColours(n, n, (x, _y, i) => {
      const stave = Math.floor((x / n) * 24);
      const c = dim([0.37, 0.245, 0.145], 1 + staves[stave] + 0.13 * grain.data[i] + 0.1 * slow.data[i]);
      return dim(c, 1 - 0.75 * smooth(0.05, 0.0, Math.min(gap(x), 1 - gap(x))));
    }),
  );
  writeHeights(
    join(folder, 'staves-height.png'),
    makeGrid(n, n, (x, _y, i) => smooth(0, 0.07, Math.min(gap(x), 1 - gap(x))) + 0.08 * grain.data[i]),
  );
}

const caskMesh = () =>
  meshOfSurface(
    60,
    97,
    (v, u) => {
      const y = v * 1.0;
      const r = 0.33 + 0.085 * Math.sin(Math.PI * v);
      return [r * Math.cos(u * 2 * Math.PI), y, r * Math.sin(u * 2 * Math.PI)];
    },
    true,
  );

const caskAt = (x: number, z: number, turn: number, size = 1): string =>
  `object{CaskWhole scale ${size} rotate y*${turn} translate <${x},0,${z}>}`;

const lying = (x: number, y: number, z: number, turn: number): string =>
  `object{CaskWhole translate -y*.5 rotate x*90 rotate z*${turn} translate <${x},${y},${z}>}`;

const caskWhole = `#declare CaskWhole=union{
 object{Cask texture{uv_mapping pigment{image_map{png "staves.png" interpolate 2}} normal{bump_map{png "staves-height.png" interpolate 2 bump_size 2}} finish{diffuse .78 specular .06 roughness .06}}}
 cylinder{y*.03,y*.035,.325 pigment{image_map{png "staves.png" interpolate 2} scale .9} finish{diffuse .7}} cylinder{y*.965,y*.97,.325 texture{pigment{image_map{png "staves.png" interpolate 2} rotate x*90 scale .9} finish{diffuse .7}}}
 ${[0.07, 0.2, 0.8, 0.93].map((y) => `difference{cone{y*${y - 0.028},${(0.335 + 0.087 * Math.sin(Math.PI * (y - 0.028))).toFixed(4)},y*${y + 0.028},${(0.335 + 0.087 * Math.sin(Math.PI * (y + 0.028))).toFixed(4)}} cylinder{-y,y*2,.31}}`).join('')}
 pigment{rgb <.16,.15,.14>} normal{bumps .2 scale .02} finish{diffuse .6 specular .35 roughness .08}}`;

function cable(skin: (t: string) => string): string {
  const points: Vec[] = [];
  const dice = makeDice(31);
  for (let i = 0; i <= 60; i++) {
    const t = i / 60;
    points.push([-3.0 + 5.6 * t, 0.02, 2.1 + 1.0 * Math.sin(t * 4.4) + 0.8 * t + 0.05 * dice.normal()]);
  }
  const smoothed = points.map((p, i) => {
    const [a, b] = [points[Math.max(0, i - 1)], points[Math.min(60, i + 1)]];
    return [(a[0] + 2 * p[0] + b[0]) / 4, p[1], (a[2] + 2 * p[2] + b[2]) / 4] as Vec;
  });
  const parts = smoothed
    .slice(1)
    .map((p, i) => `cylinder{${vec(smoothed[i])},${vec(p)},.013}sphere{${vec(p)},.013}`);
  return `union{${parts.join('')} ${skin(plain('<.75,.30,.04>', 'diffuse .75 specular .25 roughness .04'))}}`;
}

function bucket(skin: (t: string) => string): string {
  const zinc =
    'texture{pigment{rgb <.42,.43,.44>} normal{bumps .15 scale .03} finish{diffuse .45 specular .5 roughness .03 reflection .12}}';
  return `union{difference{cone{0,.13,y*.30,.17} cone{y*.012,.122,y*.31,.163}} torus{.17,.008 translate y*.3} difference{torus{.165,.006 rotate x*90} box{<-.3,-.3,-.1>,<.3,-.02,.1>} translate y*.31} ${skin(zinc)} translate <-1.62,0,3.9>}`;
}

function wallSign(skin: (t: string) => string): string {
  const font = '/usr/share/fonts/truetype/dejavu/DejaVuSans-Bold.ttf';
  const ink = skin(plain('<.95,.95,.92>'));
  return `union{superellipsoid{<.12,.12> scale <.42,.28,.012> ${skin(plain('<.05,.22,.12>', 'diffuse .8 specular .2 roughness .05'))}}
 text{ttf "${font}" "MIND" .004 0 ${ink} scale <.17,.17,1> translate <-.25,.05,-.016>} text{ttf "${font}" "THE STEP" .004 0 ${ink} scale <.115,.115,1> translate <-.325,-.15,-.016>}
 translate <.95,1.85,${backWall - 0.02}>}`;
}

export const pressHouse: Scene = {
  id: 'press-house',
  order: 5,
  title: 'Press house',
  caption: 'Where the cider waits.',
  asked: 'Away with the orange cable, the green sign, the broom and the bucket. The casks stay as they are.',
  things: [
    { id: 'cable', says: 'the cable across the floor' },
    { id: 'sign', says: 'the sign on the wall' },
    { id: 'broom', says: 'the broom in front of the cask' },
    { id: 'bucket', says: 'the bucket in front of the cask' },
  ],
  camera: { at: [0.3, 1.55, -1.4], lookAt: [-0.1, 1.0, 5], angle: 58 },
  lens: {
    exposure: 2.3,
    balance: [1.04, 1, 0.94],
    vignette: 0.26,
    contrast: 0.16,
    grain: 0.022,
    seed: 51,
    focus: { distance: 5, farPx: 7 },
  },
  planes: [
    {
      id: 'floor',
      corners: [
        [-3, 0, 1.5],
        [3, 0, 1.5],
        [3, 0, 6],
        [-3, 0, 6],
      ],
    },
    {
      id: 'back wall',
      corners: [
        [-3, 0, backWall],
        [3, 0, backWall],
        [3, 2.8, backWall],
        [-3, 2.8, backWall],
      ],
    },
  ],
  lines: [
    { id: 'foot of the back wall', from: [-3.1, 0, backWall], to: [3.1, 0, backWall] },
    { id: 'corner', from: [leftWall, 0, backWall], to: [leftWall, 2.8, backWall] },
  ],
  prepare(folder) {
    makeFloor(folder);
    makePlaster(folder);
    makeStaves(folder);
    writeFileSync(join(folder, 'casks.inc'), declareMesh('Cask', caskMesh()) + caskWhole);
    return {};
  },
  describe(pass) {
    const light =
      pass.is === 'picture'
        ? `light_source{<-9,5.4,1.9> rgb <1,.93,.80>*17 area_light y*1.2,z*1.2,3,3 adaptive 1 fade_distance 3.5 fade_power 2}
light_source{<2.6,2.7,0> rgb <1,.88,.70>*.62 area_light x*1.2,z*1.2,3,3 adaptive 0 fade_distance 3 fade_power 2}
light_source{<0,2.6,-2.5> rgb <.85,.9,1>*.36 area_light x*4,y*2,3,3 adaptive 0}
light_source{<0,.2,1> rgb <1,.82,.65>*.09 shadowless}`
        : '';
    const plaster = (scale: string) =>
      `texture{pigment{image_map{png "plaster.png" interpolate 2} scale ${scale}} normal{bump_map{png "plaster-height.png" interpolate 2 bump_size 1.6} scale ${scale}} finish{diffuse .82}}`;
    const room = `
plane{y,0 texture{pigment{image_map{png "floor.png" interpolate 2} rotate x*90 scale 8} normal{bump_map{png "floor-height.png" interpolate 2 bump_size 3} rotate x*90 scale 8} finish{diffuse .75 specular .08 roughness .08 reflection{.0,.10 fresnel on}}} interior{ior 1.4} translate <-4,0,0>}
plane{-z,-${backWall} ${plaster('<4.6,3.1,1>')}}
difference{box{<${leftWall - 0.6},-.1,-4>,<${leftWall},4,7>} box{<${leftWall - 1},1.0,.5>,<${leftWall + 0.2},2.4,3.0>} ${plaster('<4.4,3.1,1> rotate y*-90 translate x*0')}}
plane{-x,-3.4 ${plaster('<4.4,3.1,1> rotate y*90')}}
plane{-y,-3.0 pigment{rgb <.55,.5,.43>} finish{diffuse .8}}
${[0.4, 1.9, 3.4, 4.9].map((z) => `box{<-3.4,2.72,${z}>,<3.4,3.02,${z + 0.24}> texture{pigment{image_map{png "staves.png" interpolate 2} rotate z*90 scale <3,.8,1>} finish{diffuse .7}}}`).join('\n')}
${caskAt(-2.3, 5.3, 20)} ${caskAt(-1.35, 5.55, 110, 1.05)} ${caskAt(-0.4, 5.4, 200)} ${caskAt(-1.85, 4.5, 310, 0.9)} ${caskAt(2.6, 4.6, 75, 1.1)}
box{<1.15,.0,5.3>,<3.1,.16,5.5> texture{pigment{image_map{png "staves.png" interpolate 2} rotate z*90} finish{diffuse .7}}} box{<1.15,.0,5.7>,<3.1,.16,5.9> texture{pigment{image_map{png "staves.png" interpolate 2} rotate z*90} finish{diffuse .7}}}
${lying(1.65, 0.58, 5.65, 40)} ${lying(2.55, 0.58, 5.65, 130)} ${lying(2.1, 1.28, 5.68, 250)}`;
    const parts = [light, '#include "casks.inc"', room];
    if (isCluttered(pass)) {
      const skin = skinOf(pass, 'broom');
      parts.push(
        cable(skinOf(pass, 'cable')),
        wallSign(skinOf(pass, 'sign')),
        bucket(skinOf(pass, 'bucket')),
        `union{cylinder{<0,.26,0>,<0,1.5,0>,.014 ${skin(plain('<.62,.48,.30>'))}} cone{<0,.30,0>,.035,<0,.0,0>,.17 scale <1,1,.35> ${skin('texture{pigment{gradient x color_map{[0 rgb <.62,.50,.22>][.5 rgb <.45,.34,.14>][1 rgb <.62,.50,.22>]} scale .012} normal{gradient x 1 scale .012} finish{diffuse .8}}')}} rotate x*-14 rotate z*7 translate <-.25,0,4.85>}`,
      );
    }
    return parts.join('\n');
  },
};
