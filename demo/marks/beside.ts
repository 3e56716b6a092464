/** What is found beside marked things of the demo photographs, their shadows and others of their kind, measured against what is known. */
import { type Area, noMasks, rasteriseArea, trimMask } from '../../src/core/area';
import { belongingsOf, itsLikeBeside, type MarkedArea, markedArea, seenOf } from '../../src/core/marking';
import { makeRandom } from '../../src/core/random';
import { decodePicture } from '../../src/headless/node-codecs';
import { drawFound, lightnessAt, openDemo, read, thingMask } from './photos';
import scribbles from './scribbles.json';
import solidThings from './solid-things.json';

/** What lies within some outlines. */
const areaWithin = (outlines: readonly (readonly (readonly number[])[])[], marginPx: number): Area => ({
  shapes: outlines.map((points) => ({
    kind: 'polygon',
    op: 'add',
    points: points.map(([x, y]) => [x, y] as const),
  })),
  marginPx,
  featherPx: 0,
});

/** A known thing as it is marked. @param own  of a photo of so many columns: 1 where it is */
function markedThing(own: Uint8Array, width: number, marginPx: number): MarkedArea {
  const { mask, x, y } = trimMask({ w: width, h: own.length / width, data: own.map((v) => 255 * v) });
  const shape = { kind: 'mask' as const, op: 'add' as const, maskId: 'm', x, y, w: mask.w, h: mask.h };
  return markedArea({ shapes: [shape], marginPx, featherPx: 0 }, () => mask);
}

/** From which difference of lightness on a shadow is seen. */
const leastShade = 5;

/** How much of what is offered as shadows of a thing is shadow, and how much of its shadow is offered; the thing itself counts as
 *  neither. */
export async function measureShadow(
  scene: string,
  thing: string,
): Promise<{ right: number; found: number; offers: number }> {
  const { photo, seen } = await openDemo(scene);
  const { width } = photo;
  const truth = await decodePicture(read(scene, 'truth.jpg'));
  const own = thingMask(scene, thing);
  const cast = thingMask(scene, `${thing}-cast`);
  const marked = (marginPx: number) => markedThing(own, width, marginPx);
  const offers = belongingsOf(seen, marked(6), marked(0)).filter(({ kind }) => kind === 'shadow');
  const offered = new Uint8Array(own.length);
  for (const offer of offers) drawFound(offer, offered, width);
  let [all, shade, both] = [0, 0, 0];
  own.forEach((isThing, i) => {
    if (isThing) return;
    const isShade = cast[i] && lightnessAt(truth, i) - lightnessAt(photo, i) > leastShade;
    if (offered[i]) all++;
    if (isShade) shade++;
    if (offered[i] && isShade) both++;
  });
  return { right: both / Math.max(1, all), found: both / shade, offers: offers.length };
}

/** The share of the shadows offered to the things that stand beside their like which lies on these: none of it is theirs. */
export async function measureShadowsOnOthers(): Promise<{ share: number; offers: number }> {
  let [all, wrong, offers] = [0, 0, 0];
  for (const [name, outline] of Object.entries(solidThings)) {
    const [scene] = name.split('/');
    const { photo, seen } = await openDemo(scene);
    const { width, height } = photo;
    const marked = (marginPx: number) => markedArea(areaWithin([outline], marginPx), noMasks);
    const shadows = belongingsOf(seen, marked(8), marked(0)).filter(({ kind }) => kind === 'shadow');
    const others = Object.entries(solidThings)
      .filter(([other]) => other !== name && other.startsWith(scene))
      .map(([, points]) => points);
    const theirs = rasteriseArea(areaWithin(others, 0), { x: 0, y: 0, w: width, h: height }, noMasks);
    const offered = new Uint8Array(width * height);
    for (const shadow of shadows) drawFound(shadow, offered, width);
    offers += shadows.length;
    offered.forEach((v, i) => {
      all += v;
      if (v && theirs[i] >= 0.5) wrong++;
    });
  }
  return { share: wrong / Math.max(1, all), offers };
}

/** Pairs of the things that stand beside their like and touch each other: the first is marked. */
const touching = [
  ['studio-jug/apple-left', 'studio-jug/apple-middle'],
  ['studio-jug/apple-middle', 'studio-jug/apple-left'],
  ['studio-jug/apple-middle', 'studio-jug/apple-right'],
  ['studio-jug/apple-right', 'studio-jug/apple-middle'],
  ['press-house/cask-on-top', 'press-house/cask-right'],
  ['press-house/cask-right', 'press-house/cask-on-top'],
] as const;

/** How much of each is found, and known to end there, when the one that it touches is marked. */
export async function measureItsLike(): Promise<number[]> {
  return Promise.all(
    touching.map(async ([name, other]) => {
      const { photo, seen } = await openDemo(name.split('/')[0]);
      const { width, height } = photo;
      const marked = areaWithin([solidThings[name]], 10);
      const whole = { x: 0, y: 0, w: width, h: height };
      const [own, its] = [marked, areaWithin([solidThings[other]], 0)].map((area) =>
        rasteriseArea(area, whole, noMasks),
      );
      const found = new Uint8Array(width * height);
      for (const one of itsLikeBeside(seen, markedArea(marked, noMasks)))
        if (one.ends) drawFound(one, found, width);
      let [all, hit] = [0, 0];
      its.forEach((v, i) => {
        if (v < 0.5 || own[i] >= 0.5) return;
        all++;
        hit += found[i];
      });
      return hit / all;
    }),
  );
}

const scenes = [...new Set(Object.keys(scribbles).map((name) => name.split('/')[0]))];

/** Known things, none of which has one of its like beside it. */
export const thingsAlone = [...Object.keys(scribbles), 'studio-jug/stain'];

/** Whether one of its like is found beside a known thing. */
export async function seemsToHaveItsLike(name: string): Promise<boolean> {
  const [scene, thing] = name.split('/');
  const { photo, seen } = await openDemo(scene);
  return itsLikeBeside(seen, markedThing(thingMask(scene, thing), photo.width, 6)).length > 0;
}

/** Of so many round areas laid by chance on each of the clean photos, how many are taken to have one of their like beside them that
 *  ends there: pieces of ground have none, and of the things that they cut none ends there. */
export async function chanceOfItsLike(each: number): Promise<{ wrong: number; of: number }> {
  let [wrong, of] = [0, 0];
  for (const scene of scenes) {
    const photo = await decodePicture(read(scene, 'truth.jpg'));
    const seen = seenOf(photo);
    const random = makeRandom(77);
    for (let k = 0; k < each; k++) {
      const [rx, ry] = [60 + 200 * random.next(), 60 + 200 * random.next()];
      const [cx, cy] = [
        rx + (photo.width - 2 * rx) * random.next(),
        ry + (photo.height - 2 * ry) * random.next(),
      ];
      const points = Array.from({ length: 20 }, (_, j) => [
        cx + rx * Math.cos(j * 0.1 * Math.PI),
        cy + ry * Math.sin(j * 0.1 * Math.PI),
      ]);
      const found = itsLikeBeside(seen, markedArea(areaWithin([points], 6), noMasks));
      of++;
      if (found.length > 0 && found.every(({ ends }) => ends)) wrong++;
    }
  }
  return { wrong, of };
}
