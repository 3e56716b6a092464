import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { figureMeshes } from '../toolkit/figure';
import { blur, makeGrid, smooth, stamp } from '../toolkit/grid';
import { fractal } from '../toolkit/noise';
import { layTurf, treeMeshes, treeObject, turfMeshes } from '../toolkit/plants';
import { makeDice } from '../toolkit/random';
import type { Fault, Scene } from '../toolkit/scene';
import { describeSky, makeSky } from '../toolkit/sky';
import { meadow, outdoorLight } from './orchard-row';
import { dressFigure, plain } from './skins';

function ladder(): string {
  const wood = plain('<.42,.34,.24>', 'diffuse .8', 'wrinkles .3 scale .03');
  const rungs = Array.from(
    { length: 9 },
    (_, i) => `cylinder{<-.22,${0.3 + i * 0.3},0>,<.22,${0.3 + i * 0.3},0>,.016}`,
  ).join('');
  return `union{cylinder{<-.24,0,0>,<-.2,3,0>,.028} cylinder{<.24,0,0>,<.2,3,0>,.028} ${rungs} ${wood} rotate x*16 rotate y*-24 translate <1.1,0,2.0>}`;
}

function basket(x: number, z: number, seed: number): string {
  const dice = makeDice(seed);
  const rings = Array.from(
    { length: 9 },
    (_, i) =>
      `torus{${(0.17 + 0.06 * Math.sin((i / 8) * 2.2)).toFixed(3)},.021 translate y*${(0.03 + i * 0.034).toFixed(3)}}`,
  ).join('');
  const apples = Array.from({ length: 26 }, () => {
    const a = dice.between(0, 6.28);
    const r = 0.19 * Math.sqrt(dice.next());
    return `sphere{<${(r * Math.cos(a)).toFixed(3)},${dice.between(0.27, 0.34).toFixed(3)},${(r * Math.sin(a)).toFixed(3)}>,.042 pigment{rgb ${dice.between(0.3, 0.6).toFixed(2)}}}`;
  }).join('');
  return `union{union{${rings} cylinder{0,y*.03,.16} ${plain('<.45,.36,.25>', 'diffuse .8', 'bumps .6 scale .02')}} ${apples} translate <${x},0,${z}>}`;
}

function dust(
  w: number,
  h: number,
  seed: number,
  count: number,
  tone: number,
  id: string,
  says: string,
): Fault {
  const dice = makeDice(seed);
  const cover = makeGrid(w, h);
  for (let i = 0; i < count; i++) {
    const x = dice.between(0, w);
    const y = dice.between(0, h);
    const r = (w / 2400) * (0.9 + 4 * dice.next() ** 3);
    const lumps = 1 + dice.below(3);
    for (let k = 0; k < lumps; k++)
      stamp(
        cover,
        x + dice.normal(0, r),
        y + dice.normal(0, r),
        r * dice.between(0.6, 1.1),
        dice.between(0.6, 1),
      );
  }
  return { id, says, cover: blur(cover, 0.5), tone };
}

function hairs(w: number, h: number): Fault {
  const dice = makeDice(404);
  const cover = makeGrid(w, h);
  for (let k = 0; k < 9; k++) {
    let [x, y, a] = [dice.between(0.05, 0.95) * w, dice.between(0.05, 0.95) * h, dice.between(0, 6.28)];
    const bend = dice.normal(0, 0.018);
    const steps = (w / 2400) * dice.between(110, 420);
    for (let s = 0; s < steps; s++) {
      stamp(cover, x, y, (w / 2400) * 1.1, 0.85);
      a += bend + dice.normal(0, 0.03);
      x += Math.cos(a);
      y += Math.sin(a);
    }
  }
  return { id: 'hairs', says: 'the hairs', cover: blur(cover, 0.4), tone: 0.93 };
}

function crease(w: number, h: number): Fault {
  const rough = fractal(4096, 64, 2.2, 61);
  const cover = makeGrid(w, h, (x, y) => {
    const wander = 5 * rough.data[x & 4095] + 60 * Math.sin((x / w) * 2.1);
    const d = (y - (0.63 * h - 0.12 * x + wander * (w / 2400))) * (2400 / w);
    const broken = 0.65 + 0.35 * rough.data[4096 + ((x * 3) & 4095)];
    return (
      Math.max(0, Math.min(1, broken)) *
      (0.95 * Math.exp(-((d / 1.6) ** 2)) + 0.22 * Math.exp(-(((d - 7) / 6) ** 2)))
    );
  });
  return { id: 'crease', says: 'the crease', cover, tone: 0.9 };
}

function tornCorner(w: number, h: number): Fault {
  const ragged = fractal(4096, 64, 2, 62);
  const cover = makeGrid(w, h, (x, y) => {
    const k = 2400 / w;
    const d = (w - x) * k + 0.8 * (h - y) * k - 330 - 9 * ragged.data[Math.floor((x - y) * k + 4096) & 4095];
    return smooth(1.2, -1.2, d);
  });
  return { id: 'corner', says: 'the torn corner', cover, tone: 0.955 };
}

export const oldPrint: Scene = {
  id: 'old-print',
  order: 7,
  title: 'Old print',
  caption: 'From the family album: the first harvest.',
  asked: 'A clean copy for the wall: dust, hairs, the crease and the torn corner.',
  things: [],
  camera: { at: [0, 1.5, -3.4], lookAt: [0.1, 1.35, 4], angle: 46 },
  lens: {
    exposure: 2.0,
    balance: [1, 1, 1],
    vignette: 0.34,
    contrast: 0.34,
    grain: 0.036,
    seed: 71,
    focus: { distance: 5.2, farPx: 9 },
    colour: 0,
  },
  planes: [],
  lines: [],
  faults: (w, h) => [
    dust(w, h, 401, 260, 0.96, 'dust', 'the light dust'),
    dust(w, h, 402, 120, 0.06, 'spots', 'the dark spots'),
    hairs(w, h),
    crease(w, h),
    tornCorner(w, h),
  ],
  prepare(folder) {
    makeSky(folder, 15, 0.2, [-0.62, 0.62, -0.35]);
    const trees = [0, 1].map((k) => treeMeshes(`Tree${k}`, 700 + k) + treeObject(`Tree${k}`));
    const man = figureMeshes('Picker', {
      seed: 3,
      step: [0.12, -0.1],
      hands: [
        [-0.33, 1.05, 0.28],
        [0.3, 1.18, 0.3],
      ],
      hat: 'straw',
    });
    writeFileSync(join(folder, 'plants.inc'), turfMeshes(500) + trees.join('') + man);
    return {};
  },
  describe(pass) {
    const lit = pass.is === 'picture' ? outdoorLight + describeSky(0.5) : '';
    const dice = makeDice(12);
    const trees = [
      'object{Tree0 scale 1.05 translate <1.7,-.03,2.9>}',
      'object{Tree1 rotate y*80 scale 1.0 translate <-2.6,-.03,4.4>}',
      ...Array.from(
        { length: 26 },
        () =>
          `object{Tree${dice.below(2)} rotate y*${dice.between(0, 360).toFixed(0)} scale ${dice.between(0.85, 1.15).toFixed(2)} translate <${dice.between(-13, 13).toFixed(1)},-.03,${dice.between(9, 30).toFixed(1)}>}`,
      ),
    ];
    const clothes = {
      trousers: '<.12,.12,.13>',
      jacket: ['<.55,.53,.5>', '<.6,.58,.55>'],
      skin: '<.55,.38,.3>',
      hair: ['<.05,.04,.03>', '<.1,.08,.06>'],
      hat: '<.62,.55,.38>',
    } as const;
    const man = `${dressFigure('Picker', clothes, (t) => t)} rotate y*150 translate <.25,0,2.3>}`;
    const turf = layTurf(
      31,
      -2.6,
      20,
      (z) => 1.3 + (z + 3.4) * 0.58,
      0.46,
      () => 0.85,
    );
    return [
      lit,
      '#include "plants.inc"',
      meadow,
      turf,
      trees.join('\n'),
      ladder(),
      basket(-0.5, 1.7, 5),
      basket(-0.95, 2.2, 6),
      man,
    ].join('\n');
  },
};
