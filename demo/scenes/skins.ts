import type { Pass } from '../toolkit/scene';

/** A texture, or plain white while the mask of the thing it belongs to is rendered. */
export const skinOf =
  (pass: Pass, thing: string) =>
  (texture: string): string =>
    pass.is === 'mask' && pass.thing === thing
      ? 'texture{pigment{rgb 1} finish{emission 1 diffuse 0}}'
      : texture;

export const plain = (colour: string, finish = 'diffuse .8', normal = ''): string =>
  `texture{pigment{rgb ${colour}} ${normal ? `normal{${normal}}` : ''} finish{${finish}}}`;

/** Whether unwanted things stand in the scene in this pass. */
export const isCluttered = (pass: Pass): boolean => pass.is === 'mask' || pass.cluttered;

/** What a dressed figure wears. */
export interface Clothes {
  readonly trousers: string;
  readonly jacket: readonly [string, string];
  readonly skin: string;
  readonly hair: readonly [string, string];
  readonly hat?: string;
}

/** Renderer text of a figure whose meshes were declared under a prefix, still at the origin and without the closing brace. */
export function dressFigure(prefix: string, clothes: Clothes, skin: (t: string) => string): string {
  const cloth = (colour: string, scale: number) =>
    skin(plain(colour, 'diffuse .85', `bumps .14 scale ${scale}`));
  const [a, b] = clothes.jacket;
  const [dark, light] = clothes.hair;
  return `union{
 object{${prefix}Trousers ${cloth(clothes.trousers, 0.004)}}
 object{${prefix}Jacket ${skin(`texture{pigment{bozo color_map{[0 rgb ${a}][1 rgb ${b}]} scale .08} normal{bumps .14 scale .006} finish{diffuse .85}}`)}}
 object{${prefix}Head ${cloth(clothes.skin, 0.004)}}
 object{${prefix}Hair ${skin(`texture{pigment{wood color_map{[0 rgb ${dark}][1 rgb ${light}]} turbulence .3 scale .012} normal{wrinkles .8 scale <.004,.03,.004>} finish{specular .12 roughness .04}}`)}}
 ${clothes.hat ? `object{${prefix}Hat ${cloth(clothes.hat, 0.004)}}` : ''}
 object{${prefix}Hands ${skin(plain(clothes.skin))}}
 object{${prefix}Boots ${skin(plain('<.10,.065,.04>', 'diffuse .7 specular .15 roughness .05', 'wrinkles .3 scale .02'))}}`;
}
