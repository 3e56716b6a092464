/** Heals whose rim touches one of the known things of a demo photograph: how much tone smears in from it, against the known truth, and how
 *  much of that the stop lines that are found keep out. */
import { type Area, noMasks } from '../../src/core/area';
import { Evaluator } from '../../src/core/evaluate';
import type { StopLine } from '../../src/core/job';
import { stopsFor } from '../../src/core/methods';
import { intersect, type Raster, type Rect, unite } from '../../src/core/raster';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf, strokeShape } from '../../src/core/testing/jobs';
import { decodePicture } from '../../src/headless/node-codecs';
import { openDemo, read, thingMask } from '../marks/photos';
import { blur, makeGrid } from '../toolkit/grid';
import { type Dice, makeDice } from '../toolkit/random';

export const smearScenes: Record<string, readonly string[]> = {
  courtyard: ['cart', 'crates', 'hose', 'man'],
  'press-house': ['broom', 'bucket', 'cable', 'sign'],
  'harvest-day': ['banner', 'visitor'],
  'mill-pond': ['angler', 'drum', 'pole'],
  'orchard-row': ['sign', 'wires'],
  'studio-jug': ['stain', 'sticker', 'marks'],
};

/** Such heals to each thing, and to each scene where nothing is to be removed. */
const perThing = 5;
const plainOnes = 12;
/** A person tries so many sources, and keeps the best. */
const sourcesTried = 4;
/** Shares of the rim that lie on the thing. */
const onThing = { least: 0.08, most: 0.55 };
/** Sum of the differences of three channels from which on a pixel belongs to something that is not in the truth. */
const differs = 24;
/** Tone is what is left when detail of so many pixels is evened out. */
const toneSigma = 2.5;
const roomPx = 24;

/** What came of heals, tones in hundredths of full scale. */
export interface Smears {
  readonly count: number;
  /** Sums of how far tone lies from the truth without stop lines, and with such along all that lies on the thing. */
  readonly without: number;
  readonly best: number;
  readonly offered: Found;
  readonly asked: Found;
}

/** What came of those stop lines that are offered, or are found when asked for. */
interface Found {
  /** To how many heals there were some. */
  readonly count: number;
  /** Sum of how far tone lies from the truth with them. */
  readonly tone: number;
  /** Sum over those heals that became worse by them. */
  readonly harm: number;
}

interface Healing {
  readonly area: Area;
  /** Round its rim. */
  readonly box: Rect;
  readonly rim: readonly number[];
}

/** Heals in one scene, from sources that a person would choose. */
export async function measureSmears(scene: string): Promise<{ besideThings: Smears; elsewhere: Smears }> {
  const { photo } = await openDemo(scene);
  const truth = await decodePicture(read(scene, 'truth.jpg'));
  const { width, height } = photo;
  const isChanged = new Uint8Array(width * height).map((_, i) =>
    sum([0, 1, 2], (c) => Math.abs(photo.data[4 * i + c] - truth.data[4 * i + c])) > differs ? 1 : 0,
  );
  const evaluator = new Evaluator(photo, 'photo', { masks: noMasks, tries: () => undefined });
  const tell = { photo, truth, isChanged, evaluator, dice: makeDice(77) };
  const besideThings: Smears[] = [];
  for (const thing of smearScenes[scene]) {
    const mask = thingMask(scene, thing);
    const edge = edgeOf(mask, width, height);
    besideThings.push(
      ...measured(tell, perThing, mask, () => {
        const at = edge[tell.dice.below(edge.length)];
        return [at % width, Math.floor(at / width)];
      }),
    );
  }
  const elsewhere = measured(tell, plainOnes, null, () => [
    tell.dice.between(0, width),
    tell.dice.between(0, height),
  ]);
  return { besideThings: summed(besideThings), elsewhere: summed(elsewhere) };
}

export const summed = (list: readonly Smears[]): Smears => ({
  count: sum(list, (s) => s.count),
  without: sum(list, (s) => s.without),
  best: sum(list, (s) => s.best),
  offered: summedFound(list.map((s) => s.offered)),
  asked: summedFound(list.map((s) => s.asked)),
});

const summedFound = (list: readonly Found[]): Found => ({
  count: sum(list, (f) => f.count),
  tone: sum(list, (f) => f.tone),
  harm: sum(list, (f) => f.harm),
});

const sum = <T>(list: readonly T[], of: (t: T) => number) => list.reduce((total, t) => total + of(t), 0);

/** The share of what smears in that is kept out. */
export const keptOut = ({ without, best }: Smears, { tone }: Found): number =>
  (without - tone) / (without - best);

interface Telling {
  readonly photo: Raster;
  readonly truth: Raster;
  readonly isChanged: Uint8Array;
  readonly evaluator: Evaluator;
  readonly dice: Dice;
}

/** @param mask  the thing that the rim touches; null: the area touches none */
function measured(
  tell: Telling,
  count: number,
  mask: Uint8Array | null,
  place: () => readonly [number, number],
): Smears[] {
  const out: Smears[] = [];
  for (let tries = 0; out.length < count && tries < 60 * count; tries++) {
    const healing = healingAt(tell, place(), tries);
    if (!healing) continue;
    const { width } = tell.photo;
    const on = healing.rim.filter((i) => mask?.[i]);
    const changed = healing.rim.filter((i) => tell.isChanged[i]).length;
    const share = on.length / healing.rim.length;
    if (mask && (share < onThing.least || share > onThing.most)) continue;
    if (changed - on.length > 0.1 * share * healing.rim.length) continue;
    const ideal = on.map((i): StopLine => {
      const [x, y] = [(i % width) + 0.5, Math.floor(i / width) + 0.5];
      return {
        points: [
          [x, y],
          [x + 0.01, y],
        ],
        widthPx: 2,
      };
    });
    const best = bestSource(tell, healing, ideal);
    if (!best) continue;
    const without = mask ? toneError(tell, healing, best.shift, []) : best.error;
    const [offered, asked] = [false, true].map((isAsked): Found => {
      const stops = stopsOf(tell, healing, best.shift, isAsked);
      const tone = stops.length > 0 ? toneError(tell, healing, best.shift, stops) : without;
      return { count: stops.length > 0 ? 1 : 0, tone, harm: Math.max(0, tone - without) };
    });
    out.push({ count: 1, without, best: best.error, offered, asked });
  }
  return out;
}

function stopsOf(
  { photo, evaluator }: Telling,
  { area }: Healing,
  shift: { dx: number; dy: number },
  isAsked: boolean,
): StopLine[] {
  evaluator.setJob(jobOf(photo, [layerOf([])]));
  const mend = mendOf('heal', area, shift);
  return stopsFor(mend, evaluator.contextOf(mend), isAsked);
}

/** A dab, a stroke or a box in turn, near a place; null where it would not lie within the photo. */
function healingAt(
  { photo, evaluator, dice }: Telling,
  place: readonly [number, number],
  turn: number,
): Healing | null {
  const [x, y] = place.map((v) => v + dice.between(-30, 30));
  const area = areaOfShapes([
    [
      () => strokeShape([[x, y]], dice.between(15, 60), 0.7),
      () => {
        const [a, length] = [dice.between(0, 2 * Math.PI), dice.between(40, 200)];
        const end = [x + length * Math.cos(a), y + length * Math.sin(a)] as const;
        return strokeShape([[x, y], end], dice.between(12, 42), 0.7);
      },
      () => {
        const [w, h] = [Math.round(dice.between(60, 300)), Math.round(dice.between(60, 300))];
        return boxShape(Math.round(x - w / 2), Math.round(y - h / 2), w, h);
      },
    ][turn % 3](),
  ]);
  const reach = 280;
  const bounds = { x: 0, y: 0, w: photo.width, h: photo.height };
  const around = intersect(
    { x: Math.floor(x) - reach, y: Math.floor(y) - reach, w: 2 * reach, h: 2 * reach },
    bounds,
  );
  evaluator.setJob(jobOf(photo, [layerOf([])]));
  const coverage = evaluator.contextOf(mendOf('heal', area, { dx: 0, dy: 0 })).coverage(around);
  const { w, h } = around;
  const rim: number[] = [];
  let box: Rect = { x: 0, y: 0, w: 0, h: 0 };
  for (let v = 0; v < h; v++)
    for (let u = 0; u < w; u++) {
      const i = v * w + u;
      const [px, py] = [around.x + u, around.y + v];
      const isDeep = px >= roomPx && py >= roomPx && px < photo.width - roomPx && py < photo.height - roomPx;
      if (coverage[i] > 0 && !isDeep) return null;
      if (coverage[i] > 0 || u === 0 || v === 0 || u === w - 1 || v === h - 1) continue;
      if (![i - 1, i + 1, i - w, i + w].some((j) => coverage[j] > 0)) continue;
      rim.push(py * photo.width + px);
      box = unite(box, { x: px, y: py, w: 1, h: 1 });
    }
  return rim.length > 0 ? { area, box, rim } : null;
}

/** Of some shifts to where the photo is as it should be, the one that heals best were all known. */
function bestSource(tell: Telling, healing: Healing, ideal: readonly StopLine[]) {
  const { photo, isChanged, dice } = tell;
  const { x, y, w, h } = healing.box;
  const isClean = (dx: number, dy: number) => {
    if (x + dx < 0 || y + dy < 0 || x + w + dx > photo.width || y + h + dy > photo.height) return false;
    for (let v = y + dy; v < y + h + dy; v += 2)
      for (let u = x + dx; u < x + w + dx; u += 2) if (isChanged[v * photo.width + u]) return false;
    return true;
  };
  let best: { shift: { dx: number; dy: number }; error: number } | null = null;
  for (let tries = 0, tried = 0; tries < 60 && tried < sourcesTried; tries++) {
    const a = dice.between(0, 2 * Math.PI);
    const far = Math.max(w, h) * dice.between(0.9, 1.7) + 10;
    const shift = { dx: Math.round(far * Math.cos(a)), dy: Math.round(far * Math.sin(a)) };
    if (!isClean(shift.dx, shift.dy)) continue;
    tried++;
    const error = toneError(tell, healing, shift, ideal);
    if (!best || error < best.error) best = { shift, error };
  }
  return best;
}

/** Mean distance of tone from the truth where a heal covers fully, in hundredths of full scale. */
function toneError(
  { photo, truth, evaluator }: Telling,
  { area, box }: Healing,
  shift: { dx: number; dy: number },
  stops: readonly StopLine[],
): number {
  const mend = { ...mendOf('heal', area, shift), stops };
  evaluator.setJob(jobOf(photo, [layerOf([mend])]));
  const { data } = evaluator.picture(box);
  const coverage = evaluator.contextOf(mend).coverage(box);
  const off = [0, 1, 2].map((c) =>
    blur(
      makeGrid(box.w, box.h, (x, y, i) => {
        if (coverage[i] <= 0.9) return 0;
        const j = (box.y + y) * photo.width + box.x + x;
        return data[4 * i + c] - truth.data[4 * j + c] / 255;
      }),
      toneSigma,
    ),
  );
  const covered = [...coverage.keys()].filter((i) => coverage[i] > 0.9);
  return (100 * sum(covered, (i) => Math.hypot(...off.map((plane) => plane.data[i])))) / covered.length;
}

function edgeOf(mask: Uint8Array, w: number, h: number): number[] {
  const out: number[] = [];
  for (let y = 1; y < h - 1; y++)
    for (let x = 1; x < w - 1; x++) {
      const i = y * w + x;
      if (mask[i] && [i - 1, i + 1, i - w, i + w].some((j) => !mask[j])) out.push(i);
    }
  return out;
}
