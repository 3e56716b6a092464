import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { figureMeshes } from '../toolkit/figure';
import { type Vec, vec } from '../toolkit/mesh';
import { makeDice } from '../toolkit/random';
import type { Scene } from '../toolkit/scene';
import { flagMetres, makeBricks, makeFlags, makePlanks } from './courtyard-maps';
import { dressFigure, isCluttered, plain, skinOf } from './skins';

const wallAt = 8.6;
const door = { x: -2.75, w: 2.1, h: 2.35 };

function ground(heightM: number): string {
  const side = flagMetres;
  return `
#declare Flags=height_field{png "flags-height.png" smooth
 texture{pigment{average pigment_map{[4 image_map{png "flags.png" interpolate 2} rotate x*90][1 granite color_map{[0 rgb <.36,.34,.30>][.5 rgb <.55,.52,.46>][1 rgb <.72,.69,.62>]} scale .006]}}
 normal{average normal_map{[1 bump_map{png "flags-relief.png" interpolate 2 bump_size 2.2} rotate x*90][.5 granite .25 scale .004]}} finish{diffuse .78 specular .03 roughness .12}} scale <${side},${heightM},${side}>}
object{Flags translate <${-side / 2},${-heightM * 0.7},-1.4>}
plane{y,-.25 pigment{rgb <.35,.32,.28>}}`;
}

function wall(heightM: number): string {
  const { x, w, h } = door;
  const beam = (a: Vec, b: Vec) =>
    `superellipsoid{<.08,.08> scale ${vec([(b[0] - a[0]) / 2, (b[1] - a[1]) / 2, (b[2] - a[2]) / 2])} translate ${vec([(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2])}`;
  const dice = makeDice(12);
  let planks = '';
  for (let at = x; at < x + w - 0.01; ) {
    let wide = 0.12 + 0.06 * dice.next();
    if (at + wide > x + w - 0.08) wide = x + w - at;
    planks += `superellipsoid{<.06,.06> scale <${wide / 2 - 0.004},${h / 2},.02> translate <${at + wide / 2},${h / 2 + 0.02 + 0.008 * dice.next()},${8.74 + 0.006 * dice.next()}>
 texture{Planks scale <1.1,1.6,1> translate <${dice.next()},${dice.next()},0>} texture{pigment{rgbt <.16,.27,.25,${0.3 + 0.15 * dice.next()}>} finish{diffuse .8}}}\n`;
    at += wide;
  }
  const iron =
    'texture{pigment{rgb <.07,.06,.055>} normal{bumps .4 scale .02} finish{specular .3 roughness .1}}';
  return `
#declare Planks=texture{pigment{image_map{png "planks.png" interpolate 2}} normal{bump_map{png "planks-height.png" bump_size 6 interpolate 2}} finish{diffuse .8}}
#declare Bare=texture{pigment{image_map{png "planks-bare.png" interpolate 2}} normal{bump_map{png "planks-height.png" bump_size 6 interpolate 2}} finish{diffuse .8}}
#declare Wall=height_field{png "bricks-height.png" smooth pigment{image_map{png "bricks.png" interpolate 2} rotate x*90} normal{bump_map{png "bricks-relief.png" interpolate 2 bump_size 2} rotate x*90} finish{diffuse .8} scale <14,${heightM},4.4> rotate x*-90}
difference{object{Wall translate <-7,-.03,${wallAt}>} box{<${x},-1,8>,<${x + w},${h},9>} box{<2.35,1.15,8>,<3.35,2.3,9>}}
box{<-7,-1,8.95>,<7,4.4,9.2> pigment{rgb .05}}
${planks}
box{<${x},.35,8.70>,<${x + w * 0.47},.41,8.73> ${iron}} box{<${x},1.85,8.70>,<${x + w * 0.47},1.91,8.73> ${iron}}
torus{.05,.009 rotate x*90 translate <${x + w - 0.25},1.08,8.7> ${iron}}
${beam([x - 0.22, h, 8.44], [x + w + 0.22, h + 0.26, 8.8])} texture{Bare rotate z*90 scale <2,.6,1>} normal{wrinkles .4 scale <.3,.02,.1>}}
${beam([x - 0.02, 0, 8.6], [x + 0.09, h, 8.8])} texture{Planks scale 1.3}} ${beam([x + w - 0.09, 0, 8.6], [x + w + 0.02, h, 8.8])} texture{Planks scale 1.3}}
${beam([2.2, 2.3, 8.46], [3.5, 2.46, 8.8])} texture{Bare rotate z*90 scale <2,.6,1>}}
${beam([2.25, 1.05, 8.44], [3.45, 1.15, 8.8])} pigment{granite color_map{[0 rgb .38][1 rgb .55]} scale .1} normal{granite .3 scale .05}}
union{${[0, 1, 2, 3].map((i) => `box{<${2.35 + i * 0.325},1.15,8.70>,<${2.385 + i * 0.325},2.3,8.74>}`).join('')}
 box{<2.35,1.70,8.70>,<3.38,1.735,8.74>} box{<2.35,1.15,8.70>,<3.38,1.2,8.74>} box{<2.35,2.25,8.70>,<3.38,2.3,8.74>} pigment{rgb <.55,.58,.52>}}
box{<2.35,1.15,8.75>,<3.38,2.3,8.76> pigment{rgb .02} normal{bumps .02 scale .3} finish{diffuse .1 reflection{.04,.8 fresnel on}} interior{ior 1.5}}`;
}

function cart(skin: (t: string) => string): string {
  const bare = (extra: string) => skin(`texture{Bare ${extra}}`);
  const wood = bare('rotate z*90 scale <1,.4,1>');
  const iron = skin(plain('.12', 'specular .3'));
  const spokes = Array.from(
    { length: 10 },
    (_, i) => `cone{0,.019,<0,.35,0>,.014 rotate z*${36 * i} ${wood}}`,
  ).join('');
  const wheel = `union{torus{.36,.028 rotate x*90 scale <1,1,1.1> ${wood}} torus{.375,.014 rotate x*90 scale <1,1,1.9> ${iron}} cylinder{-z*.10,z*.10,.055 ${wood}} ${spokes}`;
  let boards = '';
  for (let i = 0; i < 6; i++)
    boards += `box{<-.75,.46,${-0.36 + i * 0.12}>,<.75,.485,${-0.253 + i * 0.12}> ${bare(`rotate z*90 scale <1.2,.5,1> translate ${i * 0.37}*y`)}}`;
  for (let i = 0; i < 3; i++) {
    const y = 0.5 + i * 0.115;
    const side = bare(`rotate z*90 scale <1.2,.5,1> translate ${(i + 3) * 0.29}*y`);
    boards += `box{<-.75,${y},-.38>,<.75,${y + 0.105},-.36> ${side}} box{<-.75,${y},.36>,<.75,${y + 0.105},.38> ${side}} box{<-.77,${y},-.38>,<-.75,${y + 0.105},.38> ${side}}`;
  }
  const dice = makeDice(3);
  let load = '';
  for (let i = 0; i < 170; i++) {
    const k = 0.6 + 0.6 * dice.next();
    const skinColour = skin(
      `texture{pigment{bozo color_map{[0 rgb <.55,.10,.06>*${k}][.55 rgb <.62,.18,.07>][.8 rgb <.62,.52,.16>]} scale .06} finish{specular .25 roughness .03}}`,
    );
    load += `sphere{0,1 scale .042*<1,.92,1> rotate z*${90 * (dice.next() - 0.5)} translate <${-0.68 + 1.36 * dice.next()},${0.54 + 0.24 * dice.next()},${-0.31 + 0.62 * dice.next()}> ${skinColour}}\n`;
  }
  return `union{${wheel} translate <0,.38,-.46>} ${wheel} rotate z*13 translate <0,.38,.46>} cylinder{<0,.38,-.5>,<0,.38,.5>,.025 ${wood}}
${boards} cylinder{<-.9,.44,-.3>,<1.75,.40,-.3>,.028 ${wood}} cylinder{<-.9,.44,.3>,<1.75,.40,.3>,.028 ${wood}} cylinder{<1.2,.42,-.3>,<1.2,0.02,-.3>,.025 ${wood}} cylinder{<1.2,.42,.3>,<1.2,0.02,.3>,.025 ${wood}}
${load} rotate y*24 translate <2.35,0.01,6.6>}`;
}

function man(skin: (t: string) => string): string {
  const clothes = {
    trousers: '<.10,.115,.15>',
    jacket: ['<.33,.30,.19>', '<.39,.35,.225>'],
    skin: '<.60,.38,.28>',
    hair: ['<.06,.035,.02>', '<.14,.085,.05>'],
    hat: '<.27,.255,.24>',
  } as const;
  return `${dressFigure('Man', clothes, skin)} rotate y*-14 translate <-.35,0.01,4.7>}`;
}

function crates(skin: (t: string) => string): string {
  let holes = '';
  for (let i = 0; i < 3; i++) {
    const y = 0.05 + i * 0.078;
    for (let k = 0; k < 5; k++)
      holes += `box{<${-0.262 + k * 0.108},${y},-.3>,<${-0.172 + k * 0.108},${y + 0.05},.3>}`;
    for (let k = 0; k < 3; k++)
      holes += `box{<-.4,${y},${-0.16 + k * 0.115}>,<.4,${y + 0.05},${-0.07 + k * 0.115}>}`;
  }
  const plastic = skin(
    plain('<.035,.13,.34>', 'diffuse .75 specular .25 roughness .04', 'bumps .08 scale .02'),
  );
  const crate = `union{difference{superellipsoid{<.07,.07> scale <.30,.155,.20> translate y*.155} box{<-.285,.02,-.185>,<.285,.4,.185>} ${holes}}
 difference{box{<-.315,.285,-.215>,<.315,.312,.215>} box{<-.285,.2,-.185>,<.285,.4,.185>}} ${plastic}`;
  return `${crate} rotate y*28 translate <1.0,.01,3.15>} ${crate} rotate x*180 translate y*.31 rotate y*-37 translate <1.02,.325,3.17>}`;
}

function hose(skin: (t: string) => string): string {
  const dice = makeDice(5);
  const points: Vec[] = [];
  for (let i = 0; i < 96; i++) {
    const a = i * 0.42;
    const r = 0.3 + 0.05 * Math.sin(i * 0.31) + 0.04 * dice.next();
    if (i < 58)
      points.push([
        -1.55 + r * Math.cos(a),
        0.022 + 0.02 * Math.floor(i / 15) + 0.01 * dice.next(),
        3.55 + r * 0.95 * Math.sin(a),
      ]);
    else {
      const q = (i - 58) / 37;
      const fade = 1 - Math.min(1, q * 6);
      points.push([
        -1.55 + r * Math.cos(a) * fade - 2 * q ** 1.2 + 0.32 * Math.sin(q * 9) * q,
        0.022,
        3.55 + r * Math.sin(a) * fade + 5.1 * q + 0.25 * Math.sin(q * 11) * q,
      ]);
    }
  }
  const rubber = skin(plain('<.07,.22,.075>', 'diffuse .75 specular .3 roughness .03'));
  let parts = '';
  let last: Vec | null = null;
  for (let k = 0; k < points.length - 3; k++)
    for (let j = 0; j < 8; j++) {
      const p = catmullRom(points, k + 1, j / 8);
      if (last) parts += `cylinder{${vec(last)},${vec(p)},.0125} `;
      parts += `sphere{${vec(p)},.0125}\n`;
      last = p;
    }
  return `union{${parts} ${rubber}}`;
}

function catmullRom(p: readonly Vec[], k: number, t: number): Vec {
  const [a, b, c, d] = [p[k - 1], p[k], p[k + 1], p[k + 2]];
  return [0, 1, 2].map(
    (e) =>
      b[e] +
      0.5 *
        t *
        (c[e] - a[e] + t * (2 * a[e] - 5 * b[e] + 4 * c[e] - d[e] + t * (3 * (b[e] - c[e]) + d[e] - a[e]))),
  ) as unknown as Vec;
}

/** Light through a tree that is not in the picture. */
function dapple(): string {
  const dice = makeDice(21);
  let leaves = '';
  for (let i = 0; i < 900; i++)
    leaves += `disc{0,${vec([dice.next() - 0.5, dice.next() - 0.2, dice.next() - 0.5])},${(0.035 + 0.05 * dice.next()).toFixed(3)} translate ${vec([-9.5 + 3.4 * dice.next() + 0.8 * (dice.next() - 0.5), 4.6 + 3.2 * dice.next(), -4.6 + 3.4 * dice.next()])}}\n`;
  return `union{${leaves} pigment{rgb <.1,.2,.05>} no_image}`;
}

const things = {
  man: 'the man by the door and his shadow',
  crates: 'the blue crates',
  hose: 'the hose',
  cart: 'the cart',
} as const;

export const courtyard: Scene = {
  id: 'courtyard',
  order: 1,
  title: 'Courtyard',
  caption: 'The old yard behind the press house.',
  asked: 'Nobody in the yard, please, and none of the plastic: no crates, no hose. Perhaps the cart too.',
  things: Object.entries(things).map(([id, says]) => ({ id, says })),
  camera: { at: [0.25, 1.66, -1.6], lookAt: [0.05, 0.72, 5], angle: 53 },
  lens: { exposure: 2.35, balance: [1, 1, 1], vignette: 0.22, contrast: 0.18, grain: 0.02, seed: 7 },
  planes: [
    {
      id: 'flags',
      corners: [
        [-2, 0, 2.5],
        [2, 0, 2.5],
        [2, 0, 8],
        [-2, 0, 8],
      ],
    },
    {
      id: 'wall',
      corners: [
        [-3, 0, wallAt],
        [3, 0, wallAt],
        [3, 3, wallAt],
        [-3, 3, wallAt],
      ],
    },
  ],
  lines: [{ id: 'foot of the wall', from: [-4, 0, wallAt], to: [4, 0, wallAt] }],
  prepare(folder) {
    const flags = makeFlags(folder);
    const bricks = makeBricks(folder);
    makePlanks(folder);
    const meshes = figureMeshes('Man', {
      seed: 9,
      step: [0.05, -0.16],
      hands: [
        [-0.275, 0.9, 0.04],
        [0.275, 0.93, 0.14],
      ],
      hat: 'cap',
    });
    writeFileSync(join(folder, 'man.inc'), meshes);
    return { flags, bricks };
  },
  describe(pass, measures) {
    const lit = pass.is === 'picture';
    const light = lit
      ? `light_source{<-62,44,-30>*3 rgb <1,.90,.74>*1.45 area_light x*3,y*3,4,4 adaptive 1 circular orient}
light_source{<-4,38,-14> rgb <.50,.66,.92>*.40 area_light x*75,z*60,4,4 adaptive 0}
light_source{<8,16,-40> rgb <.62,.70,.82>*.19 area_light x*70,y*26,4,4 adaptive 0}
light_source{<2,-30,-6> rgb <1,.84,.64>*.08 shadowless}
sphere{0,500 inverse pigment{gradient y color_map{[0 rgb <.80,.84,.88>][.45 rgb <.42,.58,.84>][1 rgb <.25,.42,.75>]} scale 500} finish{emission .31 diffuse 0}}`
      : '';
    const parts = [light, '#include "man.inc"', ground(measures.flags), wall(measures.bricks), dapple()];
    if (isCluttered(pass)) parts.push(cart(skinOf(pass, 'cart')));
    if (isCluttered(pass)) parts.push(man(skinOf(pass, 'man')));
    if (isCluttered(pass)) parts.push(crates(skinOf(pass, 'crates')));
    if (isCluttered(pass)) parts.push(hose(skinOf(pass, 'hose')));
    return parts.join('\n');
  },
};
