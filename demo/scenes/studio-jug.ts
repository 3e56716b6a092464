import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { declareMesh, type Mesh, meshOfSurface, type Vec, vec } from '../toolkit/mesh';
import { makeDice } from '../toolkit/random';
import type { Pass, Scene } from '../toolkit/scene';
import { isCluttered, plain, skinOf } from './skins';
import {
  jugOutline,
  jugParameter,
  makeAppleSkins,
  makeBackdrop,
  makeCloth,
  makeGlaze,
  makeSticker,
} from './studio-jug-maps';

const eye: Vec = [2, 21, -66];

/** The jug's surface in centimetres, grown by `off`: turned on a wheel, a little uneven, with a spout. */
function jugPoint(t: number, turn: number, off = 0): Vec {
  const smooth = (a: number, b: number, x: number) => {
    const k = Math.min(1, Math.max(0, (x - a) / (b - a)));
    return k * k * (3 - 2 * k);
  };
  const { r: radius, y } = jugOutline(t);
  const ridges = 0.028 * Math.sin(y * 5.1 + 0.25 * Math.sin(turn)) * smooth(0.8, 3, t) * smooth(22, 20, t);
  let r = radius + ridges + 0.035 * Math.sin(2 * turn + 1) + 0.03 * Math.sin(3 * turn + y * 0.15);
  const front = Math.atan2(Math.sin(turn), Math.cos(turn));
  const spout = Math.exp(-((front / 0.36) ** 2)) * smooth(16.2, 21, t) * (1 - smooth(21.4, 28, t));
  r += off + 1.75 * spout;
  r -=
    0.35 *
    Math.exp(-(((Math.abs(front) - 0.62) / 0.25) ** 2)) *
    smooth(17.5, 21, t) *
    (1 - smooth(21.4, 26, t));
  return [r * Math.cos(turn), y + 0.55 * spout + 0.03 * Math.sin(turn), r * Math.sin(turn)];
}

const jugMesh = (): Mesh =>
  meshOfSurface(300, 241, (v, u) => jugPoint(jugParameter(v), (u * 2 - 1) * Math.PI), true);

function handleMesh(): Mesh {
  const path = [
    [-4, 18.5],
    [-6.4, 20],
    [-9.2, 18.6],
    [-10.2, 14.8],
    [-9.2, 11.2],
    [-6.6, 8.6],
  ];
  const at = (s: number): [number, number] => {
    const k = Math.min(path.length - 2, Math.floor(s * (path.length - 1)));
    const t = s * (path.length - 1) - k;
    const p = (i: number) => path[Math.max(0, Math.min(path.length - 1, k + i))];
    return [0, 1].map((e) => {
      const [a, b, c, d] = [p(-1)[e], p(0)[e], p(1)[e], p(2)[e]];
      return b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)));
    }) as [number, number];
  };
  return meshOfSurface(
    70,
    33,
    (s, u) => {
      const a = u * 2 * Math.PI;
      const c = at(s);
      const [n0, n1] = [at(Math.max(0, s - 0.01)), at(Math.min(1, s + 0.01))];
      const l = Math.hypot(n1[0] - n0[0], n1[1] - n0[1]) || 1;
      const side = [-(n1[1] - n0[1]) / l, (n1[0] - n0[0]) / l];
      const wide = 0.95 + 0.5 * Math.exp(-((s / 0.1) ** 2)) + 0.6 * Math.exp(-(((1 - s) / 0.1) ** 2));
      const thick = 0.48 + 0.5 * Math.exp(-((s / 0.08) ** 2)) + 0.3 * Math.exp(-(((1 - s) / 0.08) ** 2));
      const k =
        thick * Math.sin(a) * (1 - 0.28 * Math.exp(-((Math.cos(a) / 0.3) ** 2)) * (Math.sin(a) > 0 ? 1 : 0));
      return [c[0] + side[0] * k, c[1] + side[1] * k, wide * Math.cos(a)];
    },
    true,
  );
}

function appleMesh(seed: number): Mesh {
  const dice = makeDice(seed);
  const phases = Array.from({ length: 8 }, () => dice.between(0, 6.28));
  const waves = [1, 2, 3].map(() => dice.normal(0, 0.02));
  return meshOfSurface(
    130,
    161,
    (v, u) => {
      const a = 0.0005 + v * (Math.PI - 0.001);
      const b = u * 2 * Math.PI;
      const rho = Math.sin(a) * (1 + 0.13 * Math.cos(a) + 0.03 * Math.cos(2 * a));
      let y = 0.9 * Math.cos(a);
      y -= a < 1.6 ? 0.46 * Math.exp(-((rho / 0.27) ** 2)) : -0.24 * Math.exp(-((rho / 0.22) ** 2));
      let lobes = 1 + 0.035 * Math.cos(5 * b + phases[0]) * Math.min(1, Math.max(0, (a - 1.6) / 1.4));
      waves.forEach((w, k) => {
        lobes += w * Math.cos((k + 1) * b + phases[k + 1]) * Math.sin(a);
      });
      y *= 1 + 0.05 * Math.sin(b + phases[6]) * Math.sin(a);
      return [rho * lobes * Math.cos(b), y, rho * lobes * Math.sin(b)];
    },
    true,
  );
}

const whiteMap = (file: string, extra = ''): string =>
  `texture{${extra} pigment{image_map{png "${file}" interpolate 2}} finish{emission 1 diffuse 0}}`;

/** The skin of a thing whose unwanted part is painted into its map. */
function painted(pass: Pass, thing: string, mask: string, texture: string, extra = ''): string {
  if (pass.is !== 'mask') return texture;
  return pass.thing === thing ? whiteMap(mask, extra) : 'texture{pigment{rgb 0} finish{diffuse 0}}';
}

function stillLife(pass: Pass, clothHeight: number): string {
  const suffix = isCluttered(pass) ? '-marked' : '';
  const glaze = 'finish{diffuse .74 specular 0 reflection{.018,.62 fresnel on} conserve_energy}';
  const peel =
    'finish{diffuse .72 specular .06 roughness .05 reflection{.012,.42 fresnel on} conserve_energy}';
  const cloth = painted(
    pass,
    'stain',
    'stain-mask.png',
    `texture{pigment{image_map{png "cloth${suffix}.png" interpolate 2} rotate x*90} normal{bump_map{png "weave.png" interpolate 2 bump_size 1.1} rotate x*90} finish{diffuse .82 brilliance .85}}`,
  ).replace('interpolate 2}}', 'interpolate 2} rotate x*90}');
  const jug = painted(
    pass,
    'scratches',
    'scratch-mask.png',
    `texture{uv_mapping pigment{image_map{png "jug${suffix}.png" interpolate 2}} normal{bumps .035 scale .5} ${glaze}}`,
    'uv_mapping',
  );
  const apples = (
    [
      [0, 4.1, [18, 35, -14], [3.8, 3.5, -3.5]],
      [1, 3.85, [-52, 120, 20], [11.9, 3.2, 1.8]],
      [2, 3.6, [8, 220, 62], [-1.9, 2.9, -11.2]],
    ] as const
  )
    .map(([k, r, turn, at]) => {
      const skin = painted(
        pass,
        'marks',
        `apple${k}-mask.png`,
        `texture{uv_mapping pigment{image_map{png "apple${k}${suffix}.png" interpolate 2}} normal{bumps .05 scale .08} ${peel}}`,
        'uv_mapping',
      );
      const stem =
        'sphere_sweep{cubic_spline 6 <0,.2,0>,.05 <0,.38,0>,.045 <.01,.55,0>,.033 <.05,.75,.02>,.03 <.13,.98,.04>,.05 <.16,1.1,.05>,.06 pigment{wood turbulence .3 color_map{[0 rgb <.10,.055,.025>][1 rgb <.2,.12,.05>]} scale .05} finish{diffuse .7 specular .1}}';
      return `#declare Fruit${k}=union{object{Apple${k} ${skin} interior{ior 1.42}} ${stem} scale ${r} rotate ${vec(turn)} translate ${vec(at)}}`;
    })
    .join('\n');
  return `
height_field{png "cloth-height.png" smooth ${cloth} scale <80,${clothHeight},80> translate <-40,${-clothHeight * 0.32},-42>}
#declare Jug=union{object{JugBody ${jug}} object{JugHandle texture{pigment{bozo turbulence .5 color_map{[0 rgb <.42,.455,.43>][.45 rgb <.46,.505,.47>][1 rgb <.16,.22,.25>]} scale <6,6,6> translate y*3} normal{bumps .04 scale .5} ${glaze}}} interior{ior 1.5} rotate y*-12 translate <-8.4,.2,3>}
${apples}
object{Jug} object{Fruit0} object{Fruit1} object{Fruit2}
box{<-95,-30,0>,<95,97,1> pigment{image_map{png "backdrop.png" interpolate 2} translate <-.5,-.23,0> scale <190,127,1>} finish{diffuse .85} translate z*62}`;
}

/** Dust and one long hair, dropped on whatever the camera sees. */
function dust(pass: Pass): string {
  const speck = skinOf(pass, 'dust')(plain('.86', 'diffuse .9'));
  const hair = skinOf(pass, 'hair')(plain('<.05,.035,.025>', 'diffuse .8 specular .2'));
  return `#declare All=union{object{Jug} object{Fruit0} object{Fruit1} object{Fruit2}};
#declare Dice=seed(77); #declare Found=0; #declare Tries=0;
#while(Tries<900 & Found<80)
 #local From=${vec(eye)}; #local Dir=vnormalize(<-17+34*rand(Dice),1+21*rand(Dice),0>-From); #local N=<0,0,0>; #local P=trace(All,From,Dir,N);
 #local S=.03+.06*pow(rand(Dice),3); #local T=rand(Dice); #local A=6.28*rand(Dice); #local L=.3+.6*rand(Dice);
 #if(vlength(N)>0) #declare Found=Found+1;
  #if(T<.8) sphere{0,1 scale <S*(1+T),S,S*.8> rotate z*A*57 translate P+N*S*.3 ${speck}}
  #else sphere_sweep{b_spline 5 P+N*.02-<cos(A),sin(A),0>*L,.016 P+N*.05-<cos(A),sin(A),0>*L*.5,.016 P+N*.05+<sin(A),-cos(A),0>*.25*L,.016 P+N*.05+<cos(A),sin(A),0>*L*.5,.016 P+N*.02+<cos(A+.8),sin(A+.8),0>*L,.016 ${speck}} #end
 #end #declare Tries=Tries+1; #end
sphere_sweep{b_spline 8 <1,-.1,-16>,.022 <2.5,.28,-15>,.024 <4.2,.3,-16.2>,.024 <6,.26,-15.6>,.024 <7.2,.3,-14>,.024 <8.8,.27,-14.4>,.024 <10,.3,-16>,.02 <11,.2,-16.6>,.012 ${hair}}`;
}

export const studioJug: Scene = {
  id: 'studio-jug',
  order: 3,
  title: 'Studio jug',
  caption: 'A stoneware jug and three apples, for the shop’s page.',
  asked:
    'Price sticker off, dust and the hair away, the stain out of the linen, the scratches and the marks on the apples too.',
  things: [
    { id: 'sticker', says: 'the price sticker' },
    { id: 'stain', says: 'the stain on the linen' },
    { id: 'scratches', says: 'the scratches in the glaze' },
    { id: 'marks', says: 'the marks on the apples’ skin' },
    { id: 'dust', says: 'the dust' },
    { id: 'hair', says: 'the hair on the linen' },
  ],
  camera: { at: eye, lookAt: [0.6, 8.4, 0], angle: 36 },
  lens: {
    exposure: 2.05,
    balance: [1, 1, 1],
    vignette: 0.12,
    contrast: 0.14,
    grain: 0.011,
    seed: 33,
    focus: { distance: 66, farPx: 30 },
  },
  planes: [],
  lines: [],
  prepare(folder) {
    const cloth = makeCloth(folder);
    makeBackdrop(folder);
    makeGlaze(folder);
    makeSticker(folder);
    for (let k = 0; k < 3; k++) makeAppleSkins(folder, k);
    const sticker = meshOfSurface(40, 40, (v, u) => {
      const lift = 0.05 + 0.28 * Math.max(0, u + v - 1.45) ** 2 * 2.2;
      return jugPoint(6.5 + 2.6 * v, -2.03 + 0.53 * u, lift);
    });
    const meshes = [
      declareMesh('JugBody', jugMesh()),
      declareMesh('JugHandle', handleMesh()),
      declareMesh('Sticker', sticker),
      ...[0, 1, 2].map((k) => declareMesh(`Apple${k}`, appleMesh(50 + k))),
    ];
    writeFileSync(join(folder, 'still-life.inc'), meshes.join(''));
    return { cloth };
  },
  describe(pass, { cloth }) {
    const card = 'no_shadow no_image';
    const light =
      pass.is === 'picture'
        ? `light_source{<-58,62,-48> rgb <1,.965,.91>*1.15 area_light x*34,z*34,5,5 adaptive 1 circular orient fade_distance 90 fade_power 2}
light_source{<62,40,-30> rgb <.9,.95,1>*.16 area_light y*60,z*60,3,3 adaptive 0}
light_source{<0,90,20> rgb <.95,.97,1>*.14 area_light x*80,z*60,3,3 adaptive 0}
light_source{<0,-20,-40> rgb <1,.93,.82>*.05 shadowless}
object{difference{box{<-20,-27,-.1>,<20,27,.1>} box{<-.4,-30,-1>,<.4,30,1>} box{<-30,-.4,-1>,<30,.4,1>} pigment{rgb <1,.97,.92>} finish{emission 9.5 diffuse 0}} ${card} rotate x*32 rotate y*48 translate <-61,65,-45>}
box{<-30,0,-.1>,<30,60,.1> rotate y*-62 translate <62,-2,-22> pigment{rgb .9} finish{diffuse 0 emission .3} ${card}}
sphere{0,400 inverse pigment{rgb <.75,.8,.85>} finish{emission .07 diffuse 0} no_image}`
        : '';
    const sticker = skinOf(
      pass,
      'sticker',
    )(
      'texture{uv_mapping pigment{image_map{png "sticker.png" interpolate 2}} finish{diffuse .82 specular .05 roughness .08}}',
    );
    const parts = [light, '#include "still-life.inc"', stillLife(pass, cloth)];
    if (isCluttered(pass))
      parts.push(`object{Sticker ${sticker} rotate y*-12 translate <-8.4,.2,3>}`, dust(pass));
    return parts.join('\n');
  },
};
