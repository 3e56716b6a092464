import { connected, squaredDistance } from '../area';
import { fitColours } from './grow/colour-model';
import { costAcrossEdges, linksOf, partedLabels, squaredBetween } from './grow/links';
import { minCut } from './grow/min-cut';
import { acrossOutline, difference, type Sight, shareInRows } from './sight';

/** A place on an area's rim is of something that touches it there when colours like its own are hardly seen on the rim farther off. The
 *  rim is about four pixels wide. */
const rimWidth = 4;
const fartherOff = 0.25;
const alikeColours = 14;
const hardly = 0.01;
/** So many pixels round it say the same, for the greater part. */
const together = 5;
const leastOfRim = 0.03;
const mostOfRim = 0.3;
const mostStrips = 3;

/** What it is cut out by: mixtures of so many colours, and what it costs to lie far from the rim, in widths of the area. */
const clusters = 5;
const mostPull = 14;
const farCost = { perWidth: 4.3, most: 3.75 };
const rounds = 3;
/** Log-likelihoods from which on a colour teaches. */
const leastSure = 0.5;

/** Something that touches an area. */
export interface TouchingPart {
  /** Of the sight. */
  readonly pixels: readonly number[];
  /** How much of what lies right round it, beyond the area, has no colours of its own, 0…1: a thing ends there, a ground goes on. */
  readonly ends: number;
  /** Mean difference across its outline, CIELAB. */
  readonly contrast: number;
  /** How much of all else in its rows has colours of its own, 0…1. */
  readonly alike: number;
}

/** Things of several colours that touch an area: where its rim shows what the rest of it does not, parted from the rest by colours and
 *  edges.
 *
 *  @param rim  pixels a little outside the area
 *  @returns what hangs together; grounds that go on as far as is looked are among them
 *  Source: Boykov & Jolly 2001, doi:10.1109/ICCV.2001.937505 (seeds and a cut); Rother, Kolmogorov & Blake 2004,
 *  doi:10.1145/1186562.1015720 (colours and cut in turn); where the seeds come from is ours.
 */
export function touchingParts(sight: Sight, rim: readonly number[]): TouchingPart[] {
  const { w, h } = sight.rect;
  return connected(contactOf(sight, rim), w, h)
    .filter((strip) => strip.length >= leastOfRim * rim.length && strip.length <= mostOfRim * rim.length)
    .sort((a, b) => b.length - a.length)
    .slice(0, mostStrips)
    .flatMap((strip) => partsAt(sight, rim, strip));
}

/** What touches the area along a strip of its rim. */
function partsAt(sight: Sight, rim: readonly number[], strip: readonly number[]): TouchingPart[] {
  const { rect, lab, inside, away } = sight;
  const { w, h } = rect;
  const contact = new Uint8Array(w * h);
  for (const i of strip) contact[i] = 1;
  const far = squaredDistance(contact, w, h).map(Math.sqrt);
  const isRest = new Uint8Array(w * h);
  const rest = rim.filter((i) => far[i] > rimWidth);
  if (rest.length === 0) return [];
  for (const i of rest) isRest[i] = 1;
  const model = (members: readonly number[]) => fitColours(lab, Int32Array.from(members), clusters);
  let [mine, others] = [model(strip), model(rest)];
  const links = linksOf(rect, null, costAcrossEdges({ ...rect, values: lab }));
  const width = Math.sqrt(inside.reduce((n, v) => n + v, 0));
  let labels: Uint8Array = contact;
  for (let round = 0; round < rounds; round++) {
    const pull = links.fromBand.map((fromBand, node) => {
      const i = links.nodes[node];
      if (contact[i]) return 1e6;
      if (inside[i] || away[i] < 1 || isRest[i]) return -1e6;
      const cost = Math.min(farCost.most, (farCost.perWidth * far[i]) / width);
      return fromBand + Math.max(-mostPull, Math.min(mostPull, others.cost(i) - mine.cost(i) - cost));
    });
    labels = partedLabels(links, minCut({ ...links, pull }), labels);
    const [its, theirs]: [number[], number[]] = [[], []];
    for (let i = 0; i < labels.length; i++) {
      if (inside[i]) continue;
      if (labels[i]) its.push(i);
      else if (isRest[i] || mine.cost(i) - others.cost(i) > leastSure) theirs.push(i);
    }
    [mine, others] = [model(its), model(theirs)];
  }
  const likelyMine = (i: number) => mine.cost(i) < others.cost(i);
  return connected(labels, w, h)
    .filter((part) => part.some((i) => contact[i]))
    .map((pixels) => {
      const across = acrossOutline(pixels, sight);
      const seen = across.flatMap(([i, off]) => (off === null ? [] : [[i, off] as const]));
      const ending = seen.filter(([, off]) => !likelyMine(off)).length;
      const differences = seen.reduce((s, [i, off]) => s + Math.sqrt(squaredBetween(lab, i, off)), 0);
      return {
        pixels,
        ends: ending / Math.max(1, across.length),
        contrast: differences / Math.max(1, seen.length),
        alike: shareInRows(sight, pixels, likelyMine),
      };
    });
}

/** 1 where the rim shows what it does not show elsewhere. */
function contactOf(sight: Sight, rim: readonly number[]): Uint8Array {
  const { rect, lab } = sight;
  const { w, h } = rect;
  const leastOff = (fartherOff * rim.length) / rimWidth;
  const off = (i: number, j: number) => Math.hypot((i % w) - (j % w), Math.floor(i / w) - Math.floor(j / w));
  const some = rim.filter((_, k) => k % 2 === 0);
  const isOwn = new Uint8Array(w * h);
  for (const i of rim) {
    const own = [lab[3 * i], lab[3 * i + 1], lab[3 * i + 2]];
    let [alike, count] = [0, 0];
    for (const j of some) {
      if (off(i, j) < leastOff) continue;
      count++;
      if (difference(sight, j, own) < alikeColours) alike++;
    }
    if (count > 0 && alike < hardly * count) isOwn[i] = 1;
  }
  const out = new Uint8Array(w * h);
  for (const i of rim) {
    let [own, count] = [0, 0];
    for (const j of rim) {
      if (off(i, j) > together) continue;
      own += isOwn[j];
      count++;
    }
    if (2 * own >= count) out[i] = 1;
  }
  return out;
}
