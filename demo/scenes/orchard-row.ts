import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { layTurf, treeMeshes, treeObject, turfMeshes } from '../toolkit/plants';
import { makeDice } from '../toolkit/random';
import type { Scene } from '../toolkit/scene';
import { describeSky, makeSky } from '../toolkit/sky';
import { isCluttered, plain, skinOf } from './skins';

/** Sunlight, skylight and the grass's own bounce, at half strength. No jitter: both pictures of a pair agree. */
export const outdoorLight = `
light_source{<-66,46,-8>*3 rgb <1,.92,.79>*1.15}
light_source{<0,80,-10> rgb <.62,.74,.95>*.20}
light_source{<10,60,-60> rgb <.75,.80,.88>*.14 shadowless}
light_source{<0,-30,0> rgb <.5,.6,.3>*.07 shadowless}
`;

export const meadow = `
plane{y,-.03 pigment{bozo turbulence .6 color_map{[0 rgb <.10,.13,.03>][1 rgb <.17,.19,.06>]} scale .5} finish{diffuse .7}}
`;

const font = '/usr/share/fonts/truetype/dejavu/DejaVuSerif-Bold.ttf';

function rows(): string {
  const dice = makeDice(8);
  const parts: string[] = [];
  for (let j = 0; j < 9; j++)
    for (let s = -2; s <= 1; s++) {
      const x = 3 + 6 * s + 0.35 * (dice.next() - 0.5);
      const z = 3.6 + j * 4.1 + 0.6 * (dice.next() - 0.5);
      const size = 0.85 + 0.3 * dice.next();
      parts.push(
        `object{Tree${dice.below(3)} rotate y*${(360 * dice.next()).toFixed(0)} scale ${size.toFixed(2)} translate <${x.toFixed(2)},-.03,${z.toFixed(2)}>}`,
      );
    }
  for (let j = 0; j < 60; j++) {
    const wide = 1.4 * (0.8 + 0.6 * dice.next());
    parts.push(
      `object{Tree${dice.below(3)} rotate y*${(360 * dice.next()).toFixed(0)} scale <${wide.toFixed(2)},${(wide * (0.6 + 0.35 * dice.next())).toFixed(2)},${wide.toFixed(2)}> translate <${(-60 + j * 2.1).toFixed(1)},${(-1.3 + 0.5 * dice.next()).toFixed(2)},${(46 + 7 * dice.next()).toFixed(1)}>}`,
    );
  }
  return parts.join('\n');
}

function smallThings(): string {
  const dice = makeDice(9);
  const parts: string[] = [];
  for (let i = 0; i < 70; i++) {
    const z = -1.4 + 9 * dice.next() ** 1.6;
    const x = (dice.next() - 0.5) * (2 + z + 2.5);
    let petals = '';
    for (let k = 0; k < 11; k++)
      petals += `sphere{0,1 scale <.0075,.0014,.0035> translate x*.0095 rotate <0,${(k * 32.7).toFixed(1)},8>}`;
    parts.push(
      `union{${petals} sphere{0,.005 scale <1,.6,1> pigment{rgb <.85,.60,.05>}} pigment{rgb .9} rotate <${(-25 * dice.next()).toFixed(0)},${(360 * dice.next()).toFixed(0)},0> translate <${x.toFixed(2)},${(0.09 + 0.06 * dice.next()).toFixed(3)},${z.toFixed(2)}>}`,
    );
  }
  for (let i = 0; i < 26; i++) {
    const x = (dice.next() < 0.5 ? -1 : 1) * (0.9 + 1.6 * dice.next());
    parts.push(
      `sphere{0,.036 scale <1,.9,1> translate <${x.toFixed(2)},.035,${(-0.6 + 7 * dice.next()).toFixed(2)}> pigment{bozo color_map{[0 rgb <.50,.09,.05>][.6 rgb <.58,.16,.06>][1 rgb <.60,.50,.14>]} scale .05} finish{specular .3 roughness .03}}`,
    );
  }
  return parts.join('\n');
}

function wires(skin: (t: string) => string): string {
  let parts = '';
  for (let k = 0; k < 3; k++)
    for (let t = 0; t < 40; t++) {
      const at = (u: number) => {
        const a = u / 40;
        return `<${(-16 + 32 * a).toFixed(3)},${(4.5 - k * 0.36 + 2 * a - 2.7 * a * (1 - a)).toFixed(4)},${(7 - k * 0.3 + 4 * a).toFixed(3)}>`;
      };
      parts += `cylinder{${at(t)},${at(t + 1)},${k === 2 ? 0.011 : 0.018}}sphere{${at(t)},${k === 2 ? 0.011 : 0.018}}\n`;
    }
  return `union{${parts} ${skin(plain('.025'))} no_shadow}`;
}

function sign(skin: (t: string) => string): string {
  const post = skin(
    'texture{pigment{wood turbulence .15 color_map{[0 rgb <.30,.25,.18>][1 rgb <.44,.38,.29>]} rotate x*89 scale .06} normal{wrinkles .4 scale <.02,.25,.02>} finish{diffuse .8}}',
  );
  const board = skin(
    'texture{pigment{wood turbulence .2 color_map{[0 rgb <.70,.67,.58>][1 rgb <.80,.77,.68>]} rotate y*88 scale .05} normal{wrinkles .3 scale <.2,.02,.02>} finish{diffuse .8}}',
  );
  const ink = skin(plain('<.07,.09,.06>'));
  return `union{superellipsoid{<.12,.12> scale <.045,.85,.045> translate y*.82 ${post}}
 prism{-.014,.014,6 <-.09,-.085>,<.50,-.085>,<.60,0>,<.50,.085>,<-.09,.085>,<-.09,-.085> rotate x*-90 translate <0,1.42,-.062> ${board}}
 text{ttf "${font}" "CIDER BARN" .004 0 ${ink} scale <.076,.076,1> translate <-.05,1.395,-.0792>}
 text{ttf "${font}" "tasting daily" .004 0 ${ink} scale <.045,.045,1> translate <.02,1.350,-.0792>}
 rotate <2,-14,-3> translate <-1.02,0,.75>}`;
}

export const orchardRow: Scene = {
  id: 'orchard-row',
  order: 2,
  title: 'Orchard row',
  caption: 'Between the rows in late September.',
  asked: 'Please take out the overhead wires and the old sign; the barn has moved.',
  things: [
    { id: 'wires', says: 'the overhead wires' },
    { id: 'sign', says: 'the signpost' },
  ],
  camera: { at: [0, 0.78, -3.2], lookAt: [0, 1.32, 4], angle: 50 },
  lens: {
    exposure: 2.1,
    balance: [1.02, 1, 0.97],
    vignette: 0.2,
    contrast: 0.16,
    grain: 0.016,
    seed: 21,
    focus: { distance: 4.6, farPx: 13 },
  },
  planes: [],
  lines: [],
  prepare(folder) {
    makeSky(folder, 5, 0.05, [-0.62, 0.62, -0.35]);
    const trees = [0, 1, 2].map((k) => treeMeshes(`Tree${k}`, 300 + k) + treeObject(`Tree${k}`));
    writeFileSync(join(folder, 'plants.inc'), turfMeshes(100) + trees.join(''));
    return {};
  },
  describe(pass) {
    const lit = pass.is === 'picture' ? outdoorLight + describeSky(0.5) : '';
    const track = (x: number) => 1 - 0.45 * Math.exp(-(((Math.abs(x - 0.1) - 0.75) / 0.32) ** 2));
    const turf = layTurf(8, -2.6, 24, (z) => 1.1 + (z + 3.2) * 0.62, 0.42, track);
    const parts = [lit, '#include "plants.inc"', meadow, turf, smallThings(), rows()];
    if (isCluttered(pass)) parts.push(wires(skinOf(pass, 'wires')), sign(skinOf(pass, 'sign')));
    return parts.join('\n');
  },
};
