import { squaredDistance } from '../../area';
import { boxOfSet, type Frame, type Layout, pixelBytes, usableCentres, wholePatches } from './frame';

/** So many kinds of surroundings are told apart at most. */
const mostKinds = 24;
/** Kinds nearer to each other than this, squared, are one. */
const leastApart = 60;
/** Patches that tell them apart: so many are looked at. */
const samples = 3000;
/** Patches are looked at so many levels above the finest that is looked at. */
const above = 2;
/** A row shows what it and so many rows above and below it show. */
const band = 3;
/** A kind belongs to a row when this share of what is seen there is of it. */
const leastShare = 0.03;
/** Nor is a kind that what is to go shows in these rows, unless so much of the rim, so near to the hole, shows it as well. */
const leastOfRim = { share: 0.03, px: 3 };
/** So few patches say nothing about a row. */
const fewest = 20;
/** Of the squared difference between a kind and the likest one of a row, beyond {@link alike}. */
const weight = 0.3;
const alike = 100;
/** In a cut, nothing is farther out of place than this. */
const mostOutOfPlace = 60;
/** Colour and texture features. */
const channels = 5;
/** What lies in another strip of the picture costs so much at most, where the picture lies in layers. */
const dearestStrip = 60;
/** It does from this share of the hole's longer side on, above or below. */
const farShare = 0.3;
/** A picture lies in layers where so large a share of what may be drawn from is out of place: costs so much. */
const layered = { share: 0.5, cost: 60 };
/** So many strips at most, and no more than there are numbers for kinds in strips. */
const mostStrips = 16;
const mostNumbers = 256;

/** What belongs where in a picture that lies in layers, as most do: sky above trees above meadow, a wall above the ground before it.
 *  Patches are sorted into kinds by their mean colour and texture; a kind that is unlike everything that is seen in a row, on either
 *  side of what is to be filled, is dear there. A ground that is alike all over costs nothing anywhere. The measure is ours.
 *
 *  @param levels  from the finest to the coarsest
 *  @param radius  of the patches that are looked at
 *  @param finest  the finest level that needs it
 *  @param base    the finest level that is looked at
 *  @param toGo    what is to go, where others of its kind stand in its rows: what is of its kind does not belong there then
 *  @returns the levels with {@link Layout}; without, where nothing can be seen
 */
export function withLayout(
  levels: readonly Frame[],
  radius: number,
  finest = 0,
  base = 0,
  toGo: Float32Array | null = null,
): readonly Frame[] {
  const from = Math.min(levels.length - 1, base + above);
  const seen = levels[from];
  const layout = layoutOf(seen, radius, toGo);
  if (!layout) return levels;
  return levels.map((frame, level) => {
    if (level < finest) return frame;
    return {
      ...frame,
      layout: level === from ? layout : resized(layout, seen, frame, 2 ** (from - level)),
    };
  });
}

/** How far a kind is out of place in a row, in 8-bit steps. */
export const outOfPlace = ({ table, count }: Layout, row: number, kind: number): number =>
  Math.min(mostOutOfPlace, Math.sqrt(table[row * count + kind] / weight));

function layoutOf(frame: Frame, radius: number, toGo: Float32Array | null): Layout | null {
  const { w, h } = frame;
  const usable = usableCentres(frame, radius);
  const places: number[] = [];
  for (let p = 0; p < w * h; p++) if (usable[p]) places.push(p);
  if (places.length < fewest) return null;
  const means = patchMeans(frame, radius);
  const centres = kindsOf(means, places);
  const kinds = centres.length / channels;
  const apart = new Float32Array(kinds * kinds);
  for (let a = 0; a < kinds; a++)
    for (let b = 0; b < kinds; b++)
      apart[a * kinds + b] = weight * Math.max(0, squaredDifference(centres, a, centres, b) - alike);
  // What is not drawn from has a kind as well: a pixel at its edge may still be. The last kind is of those with something unknown
  // near them, and costs nothing.
  const kind = new Uint8Array(w * h).fill(kinds);
  const whole = wholePatches(frame.known, w, h, radius, 1);
  for (let p = 0; p < w * h; p++) if (whole[p]) kind[p] = nearest(means, p, centres);
  const strange = toGo && kindsToGo(frame, toGo, centres, radius);
  const table = tableOf(frame, usable, kind, kinds, apart, strange);
  return inStrips({ kind, count: kinds + 1, table }, frame, usable);
}

/** Tells kinds apart by the strip of the picture in which they lie as well. Grass and leaves look alike when they are small, and what
 *  stands on a ground is seen smaller and less sharply the higher it stands: where a picture lies in layers, what comes from the same
 *  height is preferred. */
function inStrips({ kind, count, table }: Layout, frame: Frame, usable: Uint8Array): Layout {
  const { w, h, views } = frame;
  const strips = Math.min(mostStrips, Math.floor(mostNumbers / count));
  const tall = views ? views.stride : h;
  const stripOf = (y: number) => Math.min(strips - 1, Math.floor((Math.max(0, y) * strips) / tall));
  const box = boxOfSet(frame.hole, w);
  const far = farShare * Math.max(1, box.w, box.h);
  const members = new Float64Array(count);
  for (let p = 0; p < w * h; p++) if (usable[p]) members[kind[p]]++;
  const all = members.reduce((sum, n) => sum + n, 0);
  const out: Layout = {
    kind: kind.map((a, p) => stripOf(views ? views.y[p] : Math.floor(p / w)) * count + a),
    count: strips * count,
    table: new Float32Array(h * strips * count),
  };
  for (let y = 0; y < h; y++) {
    const costs = table.subarray(y * count, (y + 1) * count);
    const elsewhere = members.reduce((sum, n, a) => sum + (costs[a] >= layered.cost ? n : 0), 0);
    const dearest = dearestStrip * Math.min(1, elsewhere / (layered.share * all));
    for (let strip = 0; strip < strips; strip++) {
      const away = Math.max(0, (strip * tall) / strips - y, y - ((strip + 1) * tall) / strips);
      const more = dearest * Math.min(1, away / far);
      for (let a = 0; a < count; a++) out.table[(y * strips + strip) * count + a] = costs[a] + more;
    }
  }
  return out;
}

function tableOf(
  { w, h, hole }: Frame,
  usable: Uint8Array,
  kind: Uint8Array,
  kinds: number,
  apart: Float32Array,
  strange: Uint8Array | null,
): Float32Array {
  const table = new Float32Array(h * (kinds + 1));
  const inRow = new Int32Array(h * kinds);
  const isHoleRow = new Uint8Array(h);
  for (let y = 0, p = 0; y < h; y++)
    for (let x = 0; x < w; x++, p++) {
      if (usable[p]) inRow[y * kinds + kind[p]]++;
      if (hole[p]) isHoleRow[y] = 1;
    }
  for (let y = 0; y < h; y++) {
    if (!isHoleRow[y]) continue;
    const near = inBand(inRow, y, h, kinds);
    const all = near.reduce((sum, n) => sum + n, 0);
    if (all < fewest) continue;
    for (let a = 0; a < kinds; a++) {
      let least = Infinity;
      for (let b = 0; b < kinds; b++)
        if (near[b] >= leastShare * all && !strange?.[y * kinds + b])
          least = Math.min(least, apart[a * kinds + b]);
      if (least < Infinity) table[y * (kinds + 1) + a] = least;
    }
  }
  return table;
}

/** 1 for each row and kind that what is to go shows there and the rim hardly does: by colour, since that is all that is known of it.
 *  What is to go shows the kinds of its patches and of its pixels; the rim, which may be narrow, those of its pixels. */
function kindsToGo(
  { w, h, hole, known, img }: Frame,
  toGo: Float32Array,
  centres: Float32Array,
  radius: number,
): Uint8Array {
  const kinds = centres.length / channels;
  const near = squaredDistance(hole, w, h);
  const means = meansToGo(toGo, w, h, radius);
  const [inside, atRim] = [new Int32Array(h * kinds), new Int32Array(h * kinds)];
  for (let p = 0; p < w * h; p++) {
    const row = Math.floor(p / w) * kinds;
    if (toGo[3 * p] >= 0) {
      inside[row + nearestByColour(toGo, 3 * p, centres)]++;
      if (means[3 * p] >= 0) inside[row + nearestByColour(means, 3 * p, centres)]++;
    } else if (!hole[p] && known[p] && near[p] <= leastOfRim.px ** 2)
      atRim[row + nearestByColour(img, p * pixelBytes, centres)]++;
  }
  const out = new Uint8Array(h * kinds);
  for (let y = 0; y < h; y++) {
    const [its, rims] = [inBand(inside, y, h, kinds), inBand(atRim, y, h, kinds)];
    const [ofHole, ofRim] = [its, rims].map((of) => of.reduce((sum, n) => sum + n, 0));
    for (let a = 0; a < kinds; a++)
      if (its[a] > leastShare * ofHole && rims[a] < leastOfRim.share * ofRim) out[y * kinds + a] = 1;
  }
  return out;
}

/** Mean colours of the patches that lie in what is to go; −1 elsewhere. */
function meansToGo(toGo: Float32Array, w: number, h: number, radius: number): Float32Array {
  const isToGo = new Uint8Array(w * h);
  for (let p = 0; p < w * h; p++) if (toGo[3 * p] >= 0) isToGo[p] = 1;
  const out = new Float32Array(3 * w * h).fill(-1);
  const n = (2 * radius + 1) ** 2;
  wholePatches(isToGo, w, h, radius, 1).forEach((is, p) => {
    if (!is) return;
    const sum = [0, 0, 0];
    for (let dy = -radius; dy <= radius; dy++)
      for (let q = p + dy * w - radius; q <= p + dy * w + radius; q++)
        for (let c = 0; c < 3; c++) sum[c] += toGo[3 * q + c];
    for (let c = 0; c < 3; c++) out[3 * p + c] = sum[c] / n;
  });
  return out;
}

/** What is counted for each kind in a row and those near it. */
function inBand(counts: Int32Array, y: number, h: number, kinds: number): Int32Array {
  const out = new Int32Array(kinds);
  for (let v = Math.max(0, y - band); v <= Math.min(h - 1, y + band); v++)
    for (let a = 0; a < kinds; a++) out[a] += counts[v * kinds + a];
  return out;
}

function nearestByColour(of: ArrayLike<number>, i: number, centres: Float32Array): number {
  let best = 0;
  let least = Infinity;
  for (let a = 0, c = 0; c < centres.length; a++, c += channels) {
    const d =
      (of[i] - centres[c]) ** 2 + (of[i + 1] - centres[c + 1]) ** 2 + (of[i + 2] - centres[c + 2]) ** 2;
    if (d >= least) continue;
    least = d;
    best = a;
  }
  return best;
}

/** The same for another level. @param by  how many of its pixels, along a side, one pixel of the layout's level is */
function resized({ kind, table, count }: Layout, from: Frame, { w, h }: Frame, by: number): Layout {
  // What a coarser pixel shows best is in its midst.
  const at = (k: number, side: number) => Math.min(side - 1, Math.floor((k + (by < 1 ? 0.5 : 0)) / by));
  const out: Layout = { kind: new Uint8Array(w * h), table: new Float32Array(h * count), count };
  for (let y = 0; y < h; y++) {
    const row = at(y, from.h);
    out.table.set(table.subarray(row * count, (row + 1) * count), y * count);
    for (let x = 0; x < w; x++) out.kind[y * w + x] = kind[row * from.w + at(x, from.w)];
  }
  return out;
}

/** Mean colour and features of each pixel's patch; those beyond the frame do not count. */
function patchMeans({ w, h, img }: Frame, radius: number): Float32Array {
  const side = 2 * radius + 1;
  const rows = new Float32Array(w * channels);
  const out = new Float32Array(w * h * channels);
  const addRow = (y: number, sign: number) => {
    for (let x = 0; x < w; x++)
      for (let c = 0; c < channels; c++) rows[x * channels + c] += sign * img[(y * w + x) * pixelBytes + c];
  };
  for (let y = 0; y < h; y++) {
    addRow(y, 1);
    if (y >= side) addRow(y - side, -1);
    if (y < side - 1) continue;
    for (let c = 0; c < channels; c++) {
      let sum = 0;
      for (let x = 0; x < w; x++) {
        sum += rows[x * channels + c];
        if (x >= side) sum -= rows[(x - side) * channels + c];
        if (x >= side - 1) out[((y - radius) * w + x - radius) * channels + c] = sum / side ** 2;
      }
    }
  }
  return out;
}

function squaredDifference(a: Float32Array, i: number, b: Float32Array, j: number): number {
  let sum = 0;
  for (let c = 0; c < channels; c++) sum += (a[i * channels + c] - b[j * channels + c]) ** 2;
  return sum;
}

function nearest(means: Float32Array, p: number, centres: Float32Array): number {
  const [m0, m1, m2] = [means[p * channels], means[p * channels + 1], means[p * channels + 2]];
  const [m3, m4] = [means[p * channels + 3], means[p * channels + 4]];
  let best = 0;
  let least = Infinity;
  for (let a = 0, i = 0; i < centres.length; a++, i += channels) {
    const d =
      (m0 - centres[i]) ** 2 +
      (m1 - centres[i + 1]) ** 2 +
      (m2 - centres[i + 2]) ** 2 +
      (m3 - centres[i + 3]) ** 2 +
      (m4 - centres[i + 4]) ** 2;
    if (d >= least) continue;
    least = d;
    best = a;
  }
  return best;
}

/** Centres of what the patches show: each the farthest from those before it, then moved to the mean of what is nearest to it. */
function kindsOf(means: Float32Array, places: readonly number[]): Float32Array {
  const every = Math.max(1, places.length / samples);
  const sample = Array.from(
    { length: Math.floor(places.length / every) },
    (_, k) => places[Math.floor(k * every)],
  );
  const chosen = [sample[0]];
  const away = new Float32Array(sample.length).fill(Infinity);
  while (chosen.length < mostKinds) {
    let farthest = 0;
    sample.forEach((p, k) => {
      away[k] = Math.min(away[k], squaredDifference(means, p, means, chosen[chosen.length - 1]));
      if (away[k] > away[farthest]) farthest = k;
    });
    if (away[farthest] < leastApart) break;
    chosen.push(sample[farthest]);
  }
  const centres = new Float32Array(chosen.length * channels);
  chosen.forEach((p, a) => {
    centres.set(means.subarray(p * channels, (p + 1) * channels), a * channels);
  });
  for (let round = 0; round < 4; round++) {
    const sums = new Float64Array(centres.length);
    const members = new Float64Array(chosen.length);
    for (const p of sample) {
      const a = nearest(means, p, centres);
      members[a]++;
      for (let c = 0; c < channels; c++) sums[a * channels + c] += means[p * channels + c];
    }
    for (let k = 0; k < sums.length; k++) {
      const n = members[Math.floor(k / channels)];
      if (n > 0) centres[k] = sums[k] / n;
    }
  }
  return centres;
}
