import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { figureMeshes, type Pose } from '../toolkit/figure';
import { layTurf, treeMeshes, treeObject, turfMeshes } from '../toolkit/plants';
import { makeDice } from '../toolkit/random';
import type { Scene } from '../toolkit/scene';
import { describeSky, makeSky } from '../toolkit/sky';
import { meadow, outdoorLight } from './orchard-row';
import { type Clothes, dressFigure, isCluttered, plain, skinOf } from './skins';

interface Person {
  readonly id: string;
  readonly pose: Pose;
  readonly clothes: Clothes;
  readonly turn: number;
  readonly at: readonly [number, number];
  readonly size: number;
  readonly unwanted?: boolean;
}

const dark = ['<.05,.035,.02>', '<.12,.08,.05>'] as const;
const fair = ['<.30,.20,.10>', '<.42,.30,.16>'] as const;

const people: readonly Person[] = [
  {
    id: 'A',
    pose: {
      seed: 11,
      step: [0.1, -0.08],
      hands: [
        [-0.24, 1.0, 0.3],
        [0.26, 1.02, 0.3],
      ],
      hat: 'straw',
    },
    clothes: {
      trousers: '<.13,.15,.22>',
      jacket: ['<.58,.56,.50>', '<.64,.62,.56>'],
      skin: '<.60,.40,.30>',
      hair: dark,
      hat: '<.62,.52,.30>',
    },
    turn: 200,
    at: [-2.0, 4.6],
    size: 1,
  },
  {
    id: 'B',
    pose: {
      seed: 12,
      step: [0.02, -0.02],
      hands: [
        [-0.3, 0.92, 0.1],
        [0.34, 1.25, 0.34],
      ],
      hat: 'none',
    },
    clothes: {
      trousers: '<.22,.17,.11>',
      jacket: ['<.16,.28,.20>', '<.20,.33,.24>'],
      skin: '<.50,.31,.22>',
      hair: dark,
    },
    turn: 150,
    at: [-1.1, 4.9],
    size: 0.97,
  },
  {
    id: 'C',
    pose: {
      seed: 13,
      step: [0.06, -0.1],
      hands: [
        [-0.28, 0.9, 0.08],
        [0.27, 0.95, 0.12],
      ],
      hat: 'cap',
    },
    clothes: {
      trousers: '<.30,.30,.31>',
      jacket: ['<.75,.16,.30>', '<.82,.20,.36>'],
      skin: '<.62,.43,.34>',
      hair: fair,
      hat: '<.85,.85,.82>',
    },
    turn: 175,
    at: [-0.46, 4.75],
    size: 1,
    unwanted: true,
  },
  {
    id: 'D',
    pose: {
      seed: 14,
      step: [0.12, -0.12],
      hands: [
        [-0.3, 1.1, 0.3],
        [0.28, 0.92, 0.1],
      ],
      hat: 'none',
    },
    clothes: {
      trousers: '<.11,.11,.13>',
      jacket: ['<.30,.33,.42>', '<.36,.39,.48>'],
      skin: '<.60,.40,.30>',
      hair: fair,
    },
    turn: 215,
    at: [0.5, 5.0],
    size: 0.95,
  },
  {
    id: 'E',
    pose: {
      seed: 15,
      step: [0.2, -0.18],
      hands: [
        [-0.3, 0.95, 0.2],
        [0.3, 0.95, -0.1],
      ],
      hat: 'straw',
    },
    clothes: {
      trousers: '<.35,.30,.20>',
      jacket: ['<.48,.22,.10>', '<.55,.27,.13>'],
      skin: '<.55,.36,.27>',
      hair: dark,
      hat: '<.60,.50,.30>',
    },
    turn: 80,
    at: [3.0, 8.2],
    size: 1,
  },
];

function banner(skin: (t: string) => string): string {
  const font = '/usr/share/fonts/truetype/dejavu/DejaVuSans-Bold.ttf';
  const cloth = skin(plain('<.80,.78,.70>', 'diffuse .65,.3', 'wrinkles .25 scale <.5,.12,.2>'));
  const ink = skin(plain('<.50,.08,.06>', 'diffuse .8'));
  const rope = skin(plain('<.35,.30,.22>'));
  return `union{
 box{<-1.75,-.3,-.006>,<1.75,.3,.006> ${cloth}}
 text{ttf "${font}" "HARVEST DAY" .004 0 ${ink} scale <.40,.40,1> translate <-1.56,-.14,-.0105>}
 cylinder{<-1.75,.27,0>,<-3.4,.62,.1>,.010 ${rope}} cylinder{<1.75,.27,0>,<3.5,.7,.1>,.010 ${rope}} cylinder{<-1.75,-.27,0>,<-3.4,-.2,.1>,.008 ${rope}} cylinder{<1.75,-.27,0>,<3.5,-.15,.1>,.008 ${rope}}
 rotate z*-1.2 translate <.1,2.72,6.3>}`;
}

function table(): string {
  const wood =
    'texture{pigment{wood turbulence .15 color_map{[0 rgb <.36,.27,.17>][1 rgb <.50,.39,.26>]} rotate y*90 scale .05} finish{diffuse .8}}';
  const dice = makeDice(3);
  const apples = Array.from(
    { length: 60 },
    () =>
      `sphere{<${dice.between(1.5, 3.0).toFixed(2)},${dice.between(0.8, 0.93).toFixed(3)},${dice.between(4.55, 5.0).toFixed(2)}>,.042 pigment{bozo color_map{[0 rgb <.50,.09,.05>][.6 rgb <.58,.16,.06>][1 rgb <.60,.50,.14>]} scale .05} finish{specular .3 roughness .03}}`,
  ).join('\n');
  return `union{box{<1.35,.70,4.4>,<3.15,.75,5.15>} box{<1.45,0,4.5>,<1.52,.7,4.57>} box{<2.98,0,4.5>,<3.05,.7,4.57>} box{<1.45,0,5.0>,<1.52,.7,5.07>} box{<2.98,0,5.0>,<3.05,.7,5.07>} box{<1.42,.75,4.47>,<3.08,.80,4.5>} ${wood}} ${apples}`;
}

const place = (p: Person, skin: (t: string) => string): string =>
  `${dressFigure(`Person${p.id}`, p.clothes, skin)} scale ${p.size} rotate y*${p.turn} translate <${p.at[0]},0,${p.at[1]}>}`;

export const harvestDay: Scene = {
  id: 'harvest-day',
  order: 6,
  title: 'Harvest day',
  caption: 'Friends and neighbours in the meadow.',
  asked:
    'The visitor in pink is not one of ours; take her out, but leave the others. And last year’s banner.',
  things: [
    { id: 'visitor', says: 'the visitor in pink' },
    { id: 'banner', says: 'the banner' },
  ],
  camera: { at: [0, 1.6, -1.6], lookAt: [0.1, 1.25, 6], angle: 48 },
  lens: {
    exposure: 2.1,
    balance: [1.02, 1, 0.98],
    vignette: 0.18,
    contrast: 0.15,
    grain: 0.015,
    seed: 61,
    focus: { distance: 6.4, farPx: 10 },
  },
  planes: [],
  lines: [],
  prepare(folder) {
    makeSky(folder, 35, 0.0, [-0.62, 0.62, -0.35]);
    const trees = [0, 1].map((k) => treeMeshes(`Tree${k}`, 900 + k) + treeObject(`Tree${k}`));
    const figures = people.map((p) => figureMeshes(`Person${p.id}`, p.pose));
    writeFileSync(join(folder, 'plants.inc'), turfMeshes(200) + trees.join('') + figures.join(''));
    return {};
  },
  describe(pass) {
    const lit = pass.is === 'picture' ? outdoorLight + describeSky(0.5) : '';
    const dice = makeDice(17);
    const trees = Array.from({ length: 46 }, (_, i) => {
      const far = i < 9;
      const x = far ? (i % 2 ? 1 : -1) * dice.between(3.6, 9) : -52 + (i - 9) * 2.9;
      const z = far ? dice.between(9, 18) : dice.between(30, 42);
      return `object{Tree${dice.below(2)} rotate y*${dice.between(0, 360).toFixed(0)} scale ${dice.between(0.9, 1.35).toFixed(2)} translate <${x.toFixed(1)},-.03,${z.toFixed(1)}>}`;
    });
    const trodden = (x: number, z: number) => 0.55 + 0.45 * Math.min(1, Math.hypot(x, (z - 4.8) * 0.7) / 3);
    const parts = [
      lit,
      '#include "plants.inc"',
      meadow,
      layTurf(61, -0.8, 22, (z) => 1.2 + (z + 1.6) * 0.6, 0.44, trodden),
      trees.join('\n'),
      table(),
    ];
    parts.push(
      'cylinder{<-3.3,0,6.4>,<-3.3,3.5,6.4>,.05 pigment{rgb <.36,.29,.2>}} cylinder{<3.6,0,6.4>,<3.6,3.5,6.4>,.05 pigment{rgb <.36,.29,.2>}}',
    );
    for (const p of people) if (!p.unwanted) parts.push(place(p, (t) => t));
    if (isCluttered(pass)) {
      for (const p of people) if (p.unwanted) parts.push(place(p, skinOf(pass, 'visitor')));
      parts.push(banner(skinOf(pass, 'banner')));
    }
    return parts.join('\n');
  },
};
