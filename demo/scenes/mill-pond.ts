import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { figureMeshes } from '../toolkit/figure';
import { treeMeshes, treeObject, turfMeshes } from '../toolkit/plants';
import { makeDice } from '../toolkit/random';
import type { Pass, Scene } from '../toolkit/scene';
import { describeSky, makeSky } from '../toolkit/sky';
import { outdoorLight } from './orchard-row';
import { dressFigure, isCluttered, plain, skinOf } from './skins';

const drumAt = [1.15, 0, 5.2] as const;

/** Calm water: long low ripples, finer ones by the wind, and rings round the drum while it is there. */
function water(pass: Pass): string {
  const calm = 'bumps .05 scale <.5,1,.14>';
  const fine = 'bumps .03 scale <.16,1,.05>';
  // Taken back out of the rings' place and size, so that away from the drum the water is the very same.
  const home = `translate <${drumAt.map((v) => -v).join()}> scale ${1 / 1.7}`;
  const still = `average normal_map{[1 ${calm} ${home}][1 ${fine} ${home}]}`;
  const stirred = `average normal_map{[1 ${calm} ${home}][1 ${fine} ${home}][2 ripples .16 scale .16]}`;
  const rings = isCluttered(pass)
    ? `normal{cylindrical normal_map{[0 ${still}][.12 ${still}][.5 ${stirred}][1 ripples .22 scale .16]} scale 1.7 translate <${drumAt.join()}>}`
    : `normal{average normal_map{[1 ${calm}][1 ${fine}]}}`;
  const finish =
    pass.is === 'mask'
      ? 'finish{diffuse 0}'
      : 'finish{diffuse .35 reflection{.03,.95 fresnel on} conserve_energy}';
  return `plane{y,0 pigment{bozo color_map{[0 rgb <.030,.040,.022>][1 rgb <.045,.055,.030>]} scale 3} ${rings} ${finish} interior{ior 1.33}}`;
}

function bank(): string {
  const dice = makeDice(44);
  const parts: string[] = [
    'intersection{sphere{<0,-37,46>,40.05} box{<-60,-1,18.2>,<60,6,80>} pigment{bozo turbulence .6 color_map{[0 rgb <.12,.15,.05>][1 rgb <.20,.22,.08>]} scale .7} finish{diffuse .75}}',
    'box{<-60,-.5,18.0>,<60,.16,18.4> pigment{granite color_map{[0 rgb <.10,.08,.05>][1 rgb <.24,.19,.12>]} scale .5} normal{granite .8 scale .3} finish{diffuse .8}}',
  ];
  for (let i = 0; i < 150; i++)
    parts.push(
      `object{Turf${dice.below(3)} rotate y*${dice.between(0, 360).toFixed(0)} scale <2.2,${dice.between(2.2, 4.2).toFixed(1)},1.6> translate <${dice.between(-22, 22).toFixed(1)},.1,${dice.between(18.1, 19.4).toFixed(2)}>}`,
    );
  for (let i = 0; i < 210; i++)
    parts.push(
      `object{Turf${dice.below(3)} rotate y*${dice.between(0, 360).toFixed(0)} scale <3.2,${dice.between(1.6, 2.8).toFixed(1)},3.2> translate <${dice.between(-26, 26).toFixed(1)},${dice.between(0.3, 0.9).toFixed(2)},${dice.between(19.5, 27).toFixed(1)}>}`,
    );
  for (let i = 0; i < 17; i++)
    parts.push(
      `object{Tree${dice.below(2)} rotate y*${dice.between(0, 360).toFixed(0)} scale <1.3,${dice.between(1.0, 1.5).toFixed(2)},1.3>*${dice.between(0.9, 1.3).toFixed(2)} translate <${(-27 + i * 3.3 + dice.normal(0, 0.8)).toFixed(1)},.5,${dice.between(22, 28).toFixed(1)}>}`,
    );
  for (let i = 0; i < 40; i++)
    parts.push(
      `object{Tree${dice.below(2)} rotate y*${dice.between(0, 360).toFixed(0)} scale <2.2,1.2,2>*${dice.between(0.9, 1.4).toFixed(2)} translate <${(-60 + i * 3.1).toFixed(1)},1.2,${dice.between(38, 50).toFixed(1)}>}`,
    );
  // The mill stays: stone walls, a roof, a door to the water.
  parts.push(`union{box{<-3,-.4,0>,<3,3.6,4>} pigment{granite color_map{[0 rgb <.40,.37,.31>][.6 rgb <.55,.51,.43>][1 rgb <.66,.62,.54>]} scale .6} normal{granite .6 scale .25} finish{diffuse .8} translate <-9.5,0,19.6>}
prism{-3.25,3.25,4 <-2.35,0>,<2.35,0>,<0,2.3>,<-2.35,0> rotate x*-90 rotate y*90 rotate z*0 translate <-9.5,3.55,21.6> pigment{granite color_map{[0 rgb <.20,.13,.10>][1 rgb <.36,.22,.16>]} scale .3} normal{gradient x .5 scale .3} finish{diffuse .8}}
box{<-10.1,-.1,19.5>,<-9.2,1.9,19.7> pigment{rgb <.13,.16,.14>}} box{<-8.2,1.5,19.5>,<-7.5,2.4,19.7> pigment{rgb .04}} box{<-11.6,1.5,19.5>,<-10.9,2.4,19.7> pigment{rgb .04}}`);
  return parts.join('\n');
}

/** Reeds in the near corner, which stay. */
function reeds(): string {
  const dice = makeDice(9);
  const parts: string[] = [];
  for (let i = 0; i < 130; i++) {
    const [x, z] = [-2.5 + dice.normal(0, 0.35), 3.1 + dice.normal(0, 0.3)];
    const high = dice.between(0.5, 1.25);
    const lean = [dice.normal(0, 0.12), dice.normal(0, 0.08)];
    parts.push(
      `cone{<${x.toFixed(3)},-.1,${z.toFixed(3)}>,.008,<${(x + lean[0] * high).toFixed(3)},${high.toFixed(3)},${(z + lean[1] * high).toFixed(3)}>,.0015}`,
    );
  }
  return `union{${parts.join('')} pigment{bozo color_map{[0 rgb <.20,.26,.07>][1 rgb <.36,.34,.14>]} scale .3} finish{diffuse .8}}`;
}

function drum(skin: (t: string) => string): string {
  const paint = skin(
    'texture{pigment{bozo color_map{[0 rgb <.62,.20,.05>][.75 rgb <.55,.17,.05>][.8 rgb <.25,.12,.06>][1 rgb <.30,.15,.08>]} scale .13 turbulence .4} normal{bumps .1 scale .02} finish{diffuse .75 specular .25 roughness .03}}',
  );
  return `union{cylinder{-x*.44,x*.44,.29} torus{.292,.014 rotate z*90 translate x*.15} torus{.292,.014 rotate z*90 translate -x*.15} torus{.28,.016 rotate z*90 translate x*.44} torus{.28,.016 rotate z*90 translate -x*.44} ${paint} rotate z*4 rotate y*28 translate <${drumAt[0]},.09,${drumAt[2]}>}`;
}

const pole = (skin: (t: string) => string): string =>
  `union{cone{<-.62,-.4,4.2>,.035,<-.50,1.55,4.25>,.026} sphere{<-.5,1.55,4.25>,.026} torus{.034,.008 rotate z*-3.5 translate <-.517,1.3,4.244>} ${skin('texture{pigment{wood turbulence .2 color_map{[0 rgb <.30,.25,.19>][1 rgb <.45,.39,.30>]} rotate x*90 scale .03} normal{wrinkles .4 scale <.02,.2,.02>} finish{diffuse .8}}')}}`;

function angler(skin: (t: string) => string): string {
  const clothes = {
    trousers: '<.20,.18,.13>',
    jacket: ['<.62,.12,.08>', '<.68,.15,.10>'],
    skin: '<.6,.4,.3>',
    hair: ['<.1,.07,.05>', '<.2,.14,.09>'],
    hat: '<.7,.68,.6>',
  } as const;
  return `${dressFigure('Angler', clothes, skin)} rotate y*160 translate <6.1,.16,18.6>} cylinder{<5.8,1.2,18.3>,<4.0,2.6,16.6>,.012 ${skin(plain('.05'))}}`;
}

export const millPond: Scene = {
  id: 'mill-pond',
  order: 4,
  title: 'Mill pond',
  caption: 'The pond above the mill, early.',
  asked:
    'The drum must go, with its reflection and the rings; the pole as well, and the man fishing over there.',
  things: [
    { id: 'drum', says: 'the floating drum' },
    { id: 'pole', says: 'the pole' },
    { id: 'angler', says: 'the man fishing on the far bank' },
  ],
  camera: { at: [0, 1.75, -1.2], lookAt: [0, 1.1, 8], angle: 48 },
  lens: {
    exposure: 2.1,
    balance: [1.02, 1, 0.98],
    vignette: 0.2,
    contrast: 0.16,
    grain: 0.014,
    seed: 41,
    focus: { distance: 9, farPx: 5 },
  },
  planes: [
    {
      id: 'water',
      corners: [
        [-3, 0, 3],
        [3, 0, 3],
        [6, 0, 16],
        [-6, 0, 16],
      ],
    },
  ],
  lines: [{ id: 'far water line', from: [-12, 0, 18], to: [12, 0, 18] }],
  prepare(folder) {
    makeSky(folder, 25, -0.05, [-0.62, 0.62, -0.35]);
    const trees = [0, 1].map((k) => treeMeshes(`Tree${k}`, 800 + k) + treeObject(`Tree${k}`));
    const man = figureMeshes('Angler', {
      seed: 5,
      step: [0.1, -0.05],
      hands: [
        [-0.25, 1.05, 0.32],
        [0.2, 1.1, 0.36],
      ],
      hat: 'cap',
    });
    writeFileSync(join(folder, 'plants.inc'), turfMeshes(600) + trees.join('') + man);
    return {};
  },
  describe(pass) {
    const lit = pass.is === 'picture' ? outdoorLight + describeSky(0.5) : '';
    const parts = [lit, '#include "plants.inc"', water(pass), bank(), reeds()];
    if (isCluttered(pass))
      parts.push(drum(skinOf(pass, 'drum')), pole(skinOf(pass, 'pole')), angler(skinOf(pass, 'angler')));
    return parts.join('\n');
  },
};
